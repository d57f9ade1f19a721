/** Signals of a run in time: one lane for each object and function, and what went from one to another. */

import type { Delivery } from '@violet-crate/core/trial/signals';

export interface Lane {
  key: string;
  /** What stands beside it. */
  name: string;
  /** Id of its object; empty for a function. */
  object: string;
}

export interface Arrow {
  /** Numbers of lanes. */
  from: number;
  to: number;
  delivery: Delivery;
}

export interface Timeline {
  lanes: Lane[];
  arrows: Arrow[];
  /** Seconds that it reaches to. */
  end: number;
}

/** Signals that are drawn; earlier ones of a long run are left out. */
const DRAWN = 400;

/** Lanes come in the order in which they first have a part in something. */
export function timelineOf(deliveries: readonly Delivery[], nameOf: (id: string) => string): Timeline {
  const lanes: Lane[] = [];
  const numbers = new Map<string, number>();
  const lane = (key: string, name: string, object: string): number => {
    const known = numbers.get(key);
    if (known !== undefined) return known;
    numbers.set(key, lanes.length);
    return lanes.push({ key, name, object }) - 1;
  };
  const arrows = deliveries.slice(-DRAWN).map((delivery): Arrow => {
    const from = lane(delivery.from, nameOf(delivery.from), delivery.from);
    const to = delivery.to ? lane(delivery.to, nameOf(delivery.to), delivery.to) : lane(`script/${delivery.does}`, `${delivery.does}()`, '');
    return { from, to, delivery };
  });
  return { lanes, arrows, end: arrows.reduce((end, { delivery }) => Math.max(end, delivery.arrives), 0) };
}

export function deliveryText({ from, event, to, does }: Delivery, nameOf: (id: string) => string): string {
  return `${nameOf(from)}.${event} → ${to ? `${nameOf(to)}.${does}` : `${does}()`}`;
}

/** The first signal that went another way than in the run before, as a sentence, or null where all were the same so far. */
export function firstDifference(before: readonly Delivery[], now: readonly Delivery[], nameOf: (id: string) => string): string | null {
  for (let i = 0; i < Math.min(before.length, now.length); i++) {
    const [then, here] = [deliveryText(before[i], nameOf), deliveryText(now[i], nameOf)];
    if (then !== here)
      return `Differs from the run before at ${now[i].sent.toFixed(1)} s: ${here}, where it was ${then} at ${before[i].sent.toFixed(1)} s.`;
  }
  return null;
}
