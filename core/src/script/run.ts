/**
 * Runs game scripts in real Lua 5.4, compiled to WebAssembly (`wasmoon`), shut off from the machine: no
 * files, processes, modules or debug library; an instruction budget per call; text goes to the console only.
 */

import { LuaFactory, type LuaEngine } from 'wasmoon';

/** What scripts can ask of the running map. Values are numbers, strings, booleans or null. */
export interface ScriptHost {
  say(text: string): void;
  fire(name: string, action: string, value: string | null): void;
  get(name: string, property: string): unknown;
  set(name: string, property: string, value: unknown): void;
  win(text: string): void;
  after(seconds: number, call: () => void): void;
  /** An error in a script, with file and line where Lua gives them. */
  error(message: string): void;
}

/** Lua instructions that one call may take before it is stopped. */
export const INSTRUCTION_BUDGET = 5_000_000;

// Pending `after` callbacks stay on Lua's side under numbers, so that no function crosses the border.
// The budget is a count hook; it is set around every entry and the debug library is gone afterwards.
const PRELUDE = `
local host, budget = ...
local sethook, traceback = debug.sethook, debug.traceback
local pending, next_id = {}, 0
local function text(v) if v == nil then return nil end return tostring(v) end
function say(...)
  local parts = table.pack(...)
  for i = 1, parts.n do parts[i] = tostring(parts[i]) end
  host.say(table.concat(parts, " "))
end
print = say
function fire(name, action, value) host.fire(tostring(name), tostring(action), text(value)) end
function get(name, property)
  -- A local, so that a missing value is one nil and not no value at all.
  local value = host.get(tostring(name), tostring(property))
  return value
end
function set(name, property, value) host.set(tostring(name), tostring(property), value) end
function win(t) host.win(text(t) or "") end
function after(seconds, fn)
  if type(fn) ~= "function" then error("after: the second argument has to be a function", 2) end
  next_id = next_id + 1
  pending[next_id] = fn
  host.after(tonumber(seconds) or 0, next_id)
end
io, os, require, package, dofile, loadfile, debug, collectgarbage = nil
string.dump = nil
local function guarded(fn, ...)
  sethook(function() sethook() error("stopped: the call took too long (an endless loop?)", 0) end, "", budget)
  local ok, message = pcall(fn, ...)
  sethook()
  if not ok then host.error(tostring(message)) end
  return ok
end
local real_load = load
local function run_chunk(source, name)
  local fn, message = real_load(source, "@" .. name, "t")
  if not fn then host.error(message) return false end
  return guarded(fn)
end
load = function(chunk, name, mode, ...) return real_load(chunk, name, "t", ...) end
local function call(name, value, source)
  local fn = _G[name]
  if type(fn) ~= "function" then host.error("no function " .. name) return false end
  return guarded(fn, value, source)
end
local function resume(id)
  local fn = pending[id]
  pending[id] = nil
  if fn then guarded(fn) end
end
return { run_chunk = run_chunk, call = call, resume = resume, has = function(name) return type(_G[name]) == "function" end }
`;

interface Entries {
  run_chunk(source: string, name: string): boolean;
  call(name: string, value: string | undefined, source: string | undefined): boolean;
  resume(id: number): void;
  has(name: string): boolean;
}

export class ScriptRuntime {
  private constructor(
    private readonly engine: LuaEngine,
    private readonly entries: Entries,
  ) {}

  /** @param wasmUri where a browser finds Lua's WebAssembly file; Node.js finds it by itself */
  static async start(host: ScriptHost, wasmUri?: string): Promise<ScriptRuntime> {
    const engine = await new LuaFactory(wasmUri).createEngine({ openStandardLibs: true, enableProxy: false, injectObjects: false });
    let resume: (id: number) => void = () => {};
    const bridge = {
      say: (text: string) => void host.say(text),
      fire: (name: string, action: string, value: string | null) => void host.fire(name, action, value ?? null),
      get: (name: string, property: string) => host.get(name, property) ?? undefined,
      set: (name: string, property: string, value: unknown) => void host.set(name, property, value),
      win: (text: string) => void host.win(text),
      error: (message: string) => void host.error(message),
      after: (seconds: number, id: number) => void host.after(seconds, () => resume(id)),
    };
    engine.global.set('violet_host', bridge);
    const entries = (await engine.doString(
      `local h = violet_host; violet_host = nil; return (function(...) ${PRELUDE} end)(h, ${INSTRUCTION_BUDGET})`,
    )) as Entries;
    resume = (id) => entries.resume(id);
    return new ScriptRuntime(engine, entries);
  }

  /** Runs a file's top level. Errors go to the host; false says that there was one. */
  load(path: string, source: string): boolean {
    return this.entries.run_chunk(source, path);
  }

  has(name: string): boolean {
    return this.entries.has(name);
  }

  /** Calls a global function with a signal's value and the name of the object that sent it. */
  call(name: string, value: string | null = null, source: string | null = null): boolean {
    // This binding takes undefined, not null, for nil.
    return this.entries.call(name, value ?? undefined, source ?? undefined);
  }

  stop(): void {
    this.engine.global.close();
  }
}
