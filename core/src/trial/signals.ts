/** Signals of a running world: who listens to what, with which delay; and what was delivered when. */

import type { Signal } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import type { Item } from '../part/part.ts';

/** Signals that may be delivered within one step before the run calls it a loop. */
const SIGNAL_LIMIT = 1000;
/** Signals that may lie within each other; what lies deeper waits its turn, so that no chain runs out of stack. */
const DEEPEST = 100;
/** Deliveries that are kept for whoever shows them. */
const DELIVERY_LIMIT = 2000;

/** A signal on its way, as the timeline shows it. */
export interface Delivery {
  /** Id of the signal in the map. */
  signal: string;
  /** Seconds since the start: when it was sent, and when it arrives. */
  sent: number;
  arrives: number;
  /** Ids of objects; the receiver's is empty where a script is called. */
  from: string;
  event: string;
  to: string;
  /** The action, or the function. */
  does: string;
  /** Milliseconds that the function took; real time, and no part of the run. */
  took?: number;
}

/** What signals need of the world. */
export interface SignalWorld {
  readonly time: number;
  readonly findings: Finding[];
  print(kind: 'signal' | 'error', text: string): void;
  /** An event happens, whether or not anything listens. */
  happened(item: Item, event: string): void;
  /** A signal goes out, by its id. */
  sent(id: string): void;
  item(id: string): Item | undefined;
  act(item: Item, action: string, value: string | null): void;
  call(script: string, value: string | null, source: string): void;
  schedule(seconds: number, run: () => void): boolean;
}

export class Signals {
  /** By the id of their sender and its event, in the order of the map. */
  private readonly bySource = new Map<string, [string, Signal][]>();
  private deliveries: Delivery[] = [];
  private delivered = 0;
  private depth = 0;
  private readonly waiting: (() => void)[] = [];

  constructor(
    private readonly world: SignalWorld,
    private readonly map: string,
    signals: Readonly<Record<string, Signal>>,
  ) {
    this.replace(signals);
  }

  /** Takes other signals from now on; those under way arrive. */
  replace(signals: Readonly<Record<string, Signal>>): void {
    this.bySource.clear();
    for (const [id, signal] of Object.entries(signals)) {
      const key = `${signal.from}/${signal.event}`;
      const known = this.bySource.get(key);
      if (known) known.push([id, signal]);
      else this.bySource.set(key, [[id, signal]]);
    }
  }

  newStep(): void {
    this.delivered = 0;
  }

  /** Deliveries since the last time. */
  take(): Delivery[] {
    const taken = this.deliveries;
    this.deliveries = [];
    return taken;
  }

  /** Sends an event along all signals that listen to it. */
  emit(item: Item, event: string): void {
    const { world } = this;
    world.happened(item, event);
    for (const [id, signal] of this.bySource.get(`${item.id}/${event}`) ?? []) {
      const told = this.note(id, signal);
      if (!(signal.delay > 0)) this.deliver(item, event, signal, told);
      else world.schedule(signal.delay, () => this.deliver(item, event, signal, told));
    }
  }

  private deliver(item: Item, event: string, signal: Signal, told: Delivery | null): void {
    if (this.depth >= DEEPEST) return void this.waiting.push(() => this.deliver(item, event, signal, told));
    this.depth++;
    this.arrive(item, event, signal, told);
    this.depth--;
    if (this.depth === 0) for (let next = this.waiting.shift(); next; next = this.waiting.shift()) next();
  }

  private arrive(item: Item, event: string, signal: Signal, told: Delivery | null): void {
    const { world } = this;
    if (++this.delivered === SIGNAL_LIMIT) {
      world.print('error', 'Signals run in a circle; the rest of this step is dropped.');
      world.findings.push({
        code: 'signal-loop',
        severity: 'warning',
        stage: 'trial',
        message: `Signals from ${item.object.name} run in a circle.`,
        hint: 'Give one of them a delay, or break the circle.',
        place: { map: this.map, object: item.id },
      });
    }
    if (this.delivered >= SIGNAL_LIMIT) return;
    const { to, value = null } = signal;
    if ('script' in to) {
      world.print('signal', `${item.object.name}.${event} → ${to.script}()`);
      const from = performance.now();
      world.call(to.script, value, item.object.name);
      if (told) told.took = Math.round((performance.now() - from) * 1000) / 1000;
      return;
    }
    const target = world.item(to.object);
    if (!target) return;
    world.print('signal', `${item.object.name}.${event} → ${target.object.name}.${to.action}`);
    world.act(target, to.action, value);
  }

  private note(id: string, { from, event, to, delay }: Signal): Delivery | null {
    this.world.sent(id);
    if (this.deliveries.length >= DELIVERY_LIMIT) return null;
    const [target, does] = 'script' in to ? ['', to.script] : [to.object, to.action];
    const { time } = this.world;
    const told: Delivery = { signal: id, sent: time, arrives: time + Math.max(0, delay), from, event, to: target, does };
    this.deliveries.push(told);
    return told;
  }
}
