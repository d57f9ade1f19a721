/**
 * Runs game scripts in real Lua 5.4, compiled to WebAssembly (`wasmoon`), shut off from the machine: no
 * files, processes, modules or debug library; instructions and memory are bounded; text goes to the console only.
 *
 * Not bounded here: C functions of Lua that run long by themselves. Whoever runs scripts that are not his own does
 * it in a worker and ends that from outside (`trial/watchdog.ts`).
 */

import { LuaFactory, type LuaEngine } from 'wasmoon';
import { CHUNK, PRELUDE } from './prelude.ts';

/** Where a script is: file, line, and the function's name where Lua knows one. */
export interface ScriptPlace {
  file: string;
  line: number;
  name: string;
}

/** What scripts can ask of the running map. Values are numbers, strings, booleans or null. */
export interface ScriptHost {
  say(text: string): void;
  /** What is remembered under a name: whether a flag is on, or a value. */
  recall?(name: string): boolean | number;
  remember?(name: string, value: unknown): void;
  fire(name: string, action: string, value: string | null): void;
  get(name: string, property: string): unknown;
  set(name: string, property: string, value: unknown): void;
  win(text: string): void;
  /** Answers false where too much is waiting already. */
  after(seconds: number, call: () => void): boolean;
  /** An error in a script, with file and line where Lua gives them, and who called what failed, from within outwards. */
  error(message: string, callers?: readonly string[]): void;
  /** A log point's line ran, and what its expression was worth there. */
  log?(file: string, line: number, expression: string, value: string): void;
  /** What is about to run, or has been running for a while. */
  at?(place: ScriptPlace): void;
}

/** Lua instructions that scripts may take within one step before they are stopped. */
export const INSTRUCTION_BUDGET = 5_000_000;
/** Bytes that Lua may hold. */
export const SCRIPT_MEMORY = 64 << 20;
/** Calls that may lie within each other, by signals that scripts send. */
const MOST_DEEP = 40;
/** Characters that one call may make, and elements that one may move. */
const MOST_TEXT = 16 << 20;

interface Entries {
  run_chunk(source: string, name: string): boolean;
  reload(source: string, name: string, gone: string): string | undefined;
  evaluate(source: string): string | undefined;
  call(name: string, value: string | undefined, source: string | undefined): boolean;
  resume(id: number): void;
  has(name: string): boolean;
  new_step(): void;
  worth(expression: string): string;
  measure(on: boolean): void;
  measured(): string;
  log_point(file: string, line: number, expression: string): boolean;
  clear_points(): void;
  memory(): string;
  attach(source: string, name: string, object: string): boolean | undefined;
  detach(object: string): void;
  object_event(object: string, event: string, value: string | undefined): void;
}

/** How often a line or a function of a script ran. */
export interface Ran {
  file: string;
  /** Of a function, the line that it begins in. */
  line: number;
  count: number;
  /** Seconds within it, with all that it called; for functions. */
  seconds: number;
}

/** An expression that is told each time a line runs. */
export interface LogPoint {
  file: string;
  line: number;
  expression: string;
}

/** What became of the values that scripts had set, when a file was loaded anew. */
export interface Reloaded {
  /** Whether the file ran to its end. */
  ok: boolean;
  /** Names of values that were kept, and of those that could not be. */
  kept: string[];
  anew: string[];
}

/**
 * An engine that runs the same script the same way every time: Lua seeds the order of its tables with the time of day, so
 * the clock stands still while it is made (`math.random` is seeded by the prelude).
 */
async function sameEveryTime(factory: LuaFactory, options: Parameters<LuaFactory['createEngine']>[0]): Promise<LuaEngine> {
  await factory.getLuaModule();
  const { now } = Date;
  Date.now = () => 0;
  try {
    return await factory.createEngine(options);
  } finally {
    Date.now = now;
  }
}

export class ScriptRuntime {
  private constructor(
    private readonly engine: LuaEngine,
    private readonly entries: Entries,
    private readonly host: ScriptHost,
  ) {}

  /** @param wasmUri where a browser finds Lua's WebAssembly file; Node.js finds it by itself */
  static async start(host: ScriptHost, wasmUri?: string): Promise<ScriptRuntime> {
    const engine = await sameEveryTime(new LuaFactory(wasmUri), {
      openStandardLibs: true,
      enableProxy: false,
      injectObjects: false,
      traceAllocations: true,
    });
    let runtime: ScriptRuntime | null = null;
    const bridge = {
      say: (text: string) => void host.say(text),
      fire: (name: string, action: string, value: string | null) => void host.fire(name, action, value ?? null),
      get: (name: string, property: string) => host.get(name, property) ?? undefined,
      set: (name: string, property: string, value: unknown) => void host.set(name, property, value),
      win: (text: string) => void host.win(text),
      recall: (name: string) => host.recall?.(name) ?? false,
      remember: (name: string, value: unknown) => void host.remember?.(name, value),
      error: (message: string, callers?: string) => void host.error(message, callers ? callers.split('\n') : []),
      // Pending calls stay on Lua's side under numbers, so that no function crosses the border.
      after: (seconds: number, id: number) => host.after(seconds, () => runtime?.enter(() => runtime!.entries.resume(id))),
      log: (file: string, line: number, expression: string, value: string) => void host.log?.(file, line, expression, value),
      at: (file: string, line: number, name: string) => void host.at?.({ file, line, name }),
    };
    engine.global.set('violet_host', bridge);
    const entries = (await engine.doString(
      `local h = violet_host; violet_host = nil; return load([====[${PRELUDE}]====], "=${CHUNK}")(h, ${INSTRUCTION_BUDGET}, ${MOST_DEEP}, ${MOST_TEXT})`,
    )) as Entries;
    engine.global.setMemoryMax(SCRIPT_MEMORY);
    runtime = new ScriptRuntime(engine, entries, host);
    return runtime;
  }

  /** Runs a file's top level. Errors go to the host; false says that there was one. */
  load(path: string, source: string): boolean {
    return this.enter(() => this.entries.run_chunk(source, path)) ?? false;
  }

  /**
   * Runs the new text of a file that was loaded before. Functions are the new ones; values that the file sets anew get back
   * what they were, where they are of the same type.
   *
   * @param gone functions that the file no longer has
   * @returns null where it cannot be read: the old code runs on, and the host was told why
   */
  reload(path: string, source: string, gone: readonly string[]): Reloaded | null {
    const told = this.enter(() => this.entries.reload(source, path, gone.join(' ')));
    if (!told) return null;
    const [state, kept, anew] = told.split(';').map((part) => part.split(' ').filter(Boolean));
    return { ok: state.length === 0, kept, anew };
  }

  /**
   * Runs what was typed while the game runs.
   *
   * @returns values of an expression as people read them, empty for statements; null where it failed, which the host was told
   */
  evaluate(text: string): string | null {
    return this.enter(() => this.entries.evaluate(text)) ?? null;
  }

  has(name: string): boolean {
    return this.enter(() => this.entries.has(name)) ?? false;
  }

  /** Calls a global function with a signal's value and the name of the object that sent it. */
  call(name: string, value: string | null = null, source: string | null = null): boolean {
    // This binding takes undefined, not null, for nil.
    return this.enter(() => this.entries.call(name, value ?? undefined, source ?? undefined)) ?? false;
  }

  /** Begins a step of the simulation: what scripts may do is counted anew. */
  newStep(): void {
    this.enter(() => this.entries.new_step());
  }

  /** What an expression is worth now, without a word in the console. */
  worth(expression: string): string {
    return this.enter(() => this.entries.worth(expression)) ?? '?';
  }

  /** Counts lines and calls from now on, or no longer. Scripts do the same either way, more slowly. */
  measure(on: boolean): void {
    this.enter(() => this.entries.measure(on));
  }

  /** Lines and functions that ran since the last time. */
  measured(): { lines: Ran[]; calls: Ran[] } {
    const lines: Ran[] = [];
    const calls: Ran[] = [];
    for (const row of (this.enter(() => this.entries.measured()) ?? '').split('\n')) {
      const [kind, file, line, count, seconds] = row.split('\t');
      if (file !== undefined) (kind === 'L' ? lines : calls).push({ file, line: Number(line), count: Number(count), seconds: Number(seconds) });
    }
    return { lines, calls };
  }

  /** Tells expressions from now on when their lines run, in place of all before. Answers those that cannot be read. */
  logAt(points: readonly LogPoint[]): LogPoint[] {
    this.enter(() => this.entries.clear_points());
    return points.filter(({ file, line, expression }) => !this.enter(() => this.entries.log_point(file, line, expression)));
  }

  /** Runs a file for one object, or anew for it: values of its own are kept where they still are. False where it failed. */
  attach(path: string, source: string, object: string): boolean {
    return this.enter(() => this.entries.attach(source, path, object)) ?? false;
  }

  detach(object: string): void {
    this.enter(() => this.entries.detach(object));
  }

  /** An event of an object happens: its own script's `on_EVENT` is called, where there is one. */
  objectEvent(object: string, event: string): void {
    this.enter(() => this.entries.object_event(object, event, undefined));
  }

  /** All that scripts remember, as text: the same where they would do the same. */
  memory(): string {
    return this.enter(() => this.entries.memory()) ?? '';
  }

  stop(): void {
    this.engine.global.close();
  }

  /** Into Lua and back. What Lua's own frame could not catch, such as the end of its memory, is an error of the script. */
  private enter<T>(into: () => T): T | null {
    try {
      return into();
    } catch (error) {
      const message = error instanceof Error ? error.message : String(error);
      this.host.error(/not enough memory/.test(message) ? `stopped: scripts took more than ${SCRIPT_MEMORY >> 20} MB of memory` : message);
      return null;
    }
  }
}
