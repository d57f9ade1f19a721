/** The scripts of a running world: loading, loading anew, lines that are typed, and what scripts may ask of the world. */

import type { PropertyValue } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { own } from '../own.ts';
import type { Item } from '../part/part.ts';
import type { Place } from '../place.ts';
import { globalFunctions, readScript } from '../script/check.ts';
import { ScriptRuntime, type LogPoint, type ScriptHost, type ScriptPlace } from '../script/run.ts';
import { LuaSyntaxError } from '../script/lexer.ts';
import { parseLua } from '../script/parse.ts';
import type { Coverage } from './coverage.ts';
import type { ConsoleLine } from './console.ts';
import { reloadWords } from './reloadWords.ts';

/** Findings of scripts that are told; a script that fails in every step would fill any list. */
const SCRIPT_FINDINGS = 100;
/** Characters of a line that is typed into the run. */
const TYPED_LIMIT = 10_000;

/** What scripts need of the world. */
export interface ScriptWorld {
  readonly findings: Finding[];
  print(kind: ConsoleLine['kind'], text: string): void;
  named(name: string): Item | undefined;
  value(item: Item, property: string): PropertyValue | null;
  act(item: Item, action: string, value: string | null): void;
  win(text: string): void;
  recall(name: string): boolean | number;
  remember(name: string, value: boolean | number): void;
  /** Runs something later; false where so much waits already that it is dropped. */
  schedule(seconds: number, run: () => void): boolean;
}

/** Whoever looks after a running world from outside. */
export interface TrialWatcher {
  /** Lua is there, and another script is about to be loaded. */
  loading?(): void;
  /** What of the scripts is about to run. */
  at?(place: ScriptPlace): void;
  /** Told what the run comes by. */
  coverage?: Coverage;
  /** Whether scripts are measured for it from their first line on. */
  measured?: boolean;
}

export class TrialScripts {
  private runtime: ScriptRuntime | null = null;
  /** Texts as they run now. */
  private readonly sources: Record<string, string>;
  /** Scripts that run for one object, by its name. */
  private readonly ofObject = new Map<string, string>();
  /** Findings by their words, so that each is told once. */
  private readonly told = new Set<string>();

  constructor(
    private readonly world: ScriptWorld,
    private readonly watcher: TrialWatcher,
    sources: Readonly<Record<string, string>>,
  ) {
    this.sources = { ...sources };
  }

  /** Loads files in the order of their names, then those of single objects. */
  async load(paths: readonly string[], objects: Iterable<Item>, wasmUri?: string): Promise<void> {
    this.runtime = await ScriptRuntime.start(this.host(), wasmUri);
    if (this.watcher.measured) this.runtime.measure(true);
    const ofObjects = [...objects].filter(({ object }) => object.script);
    const single = new Set(ofObjects.map(({ object }) => object.script));
    for (const path of [...paths].sort()) {
      if (single.has(path)) continue;
      const source = own(this.sources, path);
      this.enter();
      if (source !== undefined) this.runtime.load(path, source);
    }
    for (const { object } of ofObjects) this.attach(object.name, object.script);
  }

  /** From now on an object has this script of its own, or none. */
  attach(name: string, path: string | undefined): void {
    if (this.ofObject.get(name) === path) return;
    this.enter();
    if (path === undefined) {
      this.ofObject.delete(name);
      return this.runtime?.detach(name);
    }
    this.ofObject.set(name, path);
    const source = own(this.sources, path);
    if (source === undefined) this.problem(`${name}: there is no script ${path}`);
    else this.runtime?.attach(path, source, name);
  }

  /** An event of an object, for a script of its own. */
  happened(name: string, event: string): void {
    if (this.ofObject.has(name)) this.runtime?.objectEvent(name, event);
  }

  /** Calls the function with which the game starts, where there is one. */
  startUp(name: string): void {
    this.enter();
    if (this.runtime?.has(name)) this.runtime.call(name);
  }

  /** Begins a step of the simulation. */
  newStep(): void {
    this.runtime?.newStep();
  }

  call(name: string, value: string | null, source: string): void {
    this.runtime?.call(name, value, source);
  }

  /** Takes changed files into the running world; what it cannot read leaves the old code running. */
  reload(scripts: Readonly<Record<string, string>>): void {
    const { runtime, world } = this;
    if (!runtime) return;
    for (const [path, source] of Object.entries(scripts)) {
      const before = own(this.sources, path);
      if (before === source) continue;
      const next = readScript(path, source);
      if (!next.outline) {
        world.print('error', `${next.findings[0].message} The code from before runs on.`);
        continue;
      }
      const mine = [...this.ofObject].filter(([, of]) => of === path).map(([name]) => name);
      if (mine.length > 0) {
        this.enter();
        this.sources[path] = source;
        for (const name of mine) runtime.attach(path, source, name);
        world.print('system', `${path} is loaded anew for ${mine.join(', ')}.`);
        continue;
      }
      const named = new Set(next.outline.functions.map(({ name }) => name));
      const gone = before === undefined ? [] : globalFunctions({ [path]: before }).filter((name) => !named.has(name));
      this.enter();
      const told = runtime.reload(path, source, gone);
      if (!told) continue;
      this.sources[path] = source;
      world.print('system', reloadWords(path, source, told, gone));
    }
  }

  /** Runs a line of Lua in the running world, and prints what it answers. */
  evaluate(text: string): void {
    const { world } = this;
    world.print('system', `> ${text}`);
    if (text.length > TYPED_LIMIT) return world.print('error', `What is typed may have ${TYPED_LIMIT} characters.`);
    this.enter();
    const answer = this.runtime?.evaluate(text);
    if (answer) world.print('say', answer);
  }

  /** What an expression is worth now, without a word in the console. */
  worth(expression: string): string {
    return this.runtime?.worth(expression) ?? '?';
  }

  /** All that scripts remember, as text. */
  memory(): string {
    return this.runtime?.memory() ?? '';
  }

  /** Tells expressions from now on when their lines run, in place of those before. */
  logAt(points: readonly LogPoint[]): void {
    const readable = points.filter((point) => {
      const wrong = problemOf(point.expression);
      if (wrong) this.world.print('error', `Log point at ${point.file}:${point.line}: ${wrong}.`);
      return !wrong;
    });
    this.runtime?.logAt(readable);
  }

  /** Counts lines and calls from now on, or no longer. */
  measure(on: boolean): void {
    this.runtime?.measure(on);
  }

  /** Notes what scripts have run since the last time. */
  measured(): void {
    if (this.runtime) this.watcher.coverage?.ran(this.runtime.measured());
  }

  stop(): void {
    this.measured();
    this.runtime?.stop();
    this.runtime = null;
  }

  /** What is wrong with what a script asked for. */
  problem(text: string): void {
    this.world.print('error', text);
    this.tell(`Script: ${text}.`);
  }

  private enter(): void {
    this.watcher.loading?.();
    this.runtime?.newStep();
  }

  private host(): ScriptHost {
    const { world } = this;
    return {
      say: (text) => world.print('say', text),
      error: (message, callers = []) => {
        world.print('error', message);
        for (const caller of callers) world.print('error', `  called by ${caller}`);
        const at = /(scripts\/[^:]+):(\d+):/.exec(message);
        this.tell(`Script error: ${message}`, at ? { file: at[1], line: Number(at[2]) } : undefined);
      },
      at: (place) => this.watcher.at?.(place),
      log: (file, line, expression, value) => world.print('log', `${file}:${line}: ${expression} = ${value}`),
      fire: (name, action, value) => {
        const target = world.named(name);
        if (!target) return this.problem(`fire: no object is called "${name}"`);
        world.act(target, action, value);
      },
      get: (name, property) => {
        const item = world.named(name);
        if (item) return world.value(item, property);
        this.problem(`get: no object is called "${name}"`);
        return null;
      },
      set: (name, property, value) => {
        const item = world.named(name);
        if (!item) return this.problem(`set: no object is called "${name}"`);
        if (typeof value !== 'number' && typeof value !== 'string' && typeof value !== 'boolean')
          return this.problem(`set: ${property} has to be a number, text or boolean`);
        item.properties[property] = value;
      },
      win: (text) => world.win(text),
      recall: (name) => world.recall(name),
      remember: (name, value) => {
        if (typeof value !== 'boolean' && typeof value !== 'number') return this.problem(`remember: ${name} has to be true, false or a number`);
        world.remember(name, value);
      },
      after: (seconds, call) => world.schedule(seconds, call),
    };
  }

  private tell(message: string, place?: Place): void {
    if (this.told.has(message) || this.told.size >= SCRIPT_FINDINGS) return;
    this.told.add(message);
    this.world.findings.push({ code: 'script-error', severity: 'warning', stage: 'trial', message, place });
  }
}

/** What is wrong with an expression, or null. */
export function problemOf(expression: string): string | null {
  if (expression.length > TYPED_LIMIT) return `an expression may have ${TYPED_LIMIT} characters`;
  try {
    parseLua(`return ${expression}`);
    return expression.trim() === '' ? 'there is no expression' : null;
  } catch (error) {
    if (error instanceof LuaSyntaxError) return error.message;
    throw error;
  }
}
