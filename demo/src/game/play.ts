/** A stand-in game at play, without a picture: twenty steps a second, objects, signals, scripts. */

import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { LuaFactory, type LuaEngine } from 'wasmoon';
import type { GameData, GameObject, LoadedMap, Signal } from './mod.ts';
import { Talk } from './talk.ts';
import { heightOn, Refusal } from './readers.ts';

export const STEPS_PER_SECOND = 20;
/** Lua instructions of one call after which it is stopped. */
const BUDGET = 5_000_000;

interface Live extends GameObject {
  id: string;
  raised: number;
  heading: number;
}

export class Play {
  private readonly objects = new Map<string, Live>();
  private readonly waiting: { at: number; run: () => void }[] = [];
  private engine: LuaEngine | null = null;
  private feet: [number, number, number];
  private fall = 0;
  private time = 0;
  won = false;
  private readonly memory = new Map<string, number | boolean>();
  private talk: Talk | null = null;

  constructor(
    private readonly game: GameData,
    private readonly map: LoadedMap,
    private readonly folder: string,
    private readonly print: (line: string) => void,
  ) {
    for (const [id, object] of Object.entries(map.objects))
      this.objects.set(object.name, { ...object, id, properties: { ...object.properties }, raised: 0, heading: 0 });
    const start = [...this.objects.values()].find((object) => this.parts(object).includes('start'))!;
    this.feet = [...start.position];
  }

  async begin(): Promise<void> {
    if (!(await this.loadScripts())) throw new Refusal('scripts: have errors, so that the map would not work');
    this.call(this.game.startup);
  }

  /** Loads all scripts into a new engine; what they had remembered is gone. */
  async loadScripts(): Promise<boolean> {
    const engine = await new LuaFactory().createEngine({ injectObjects: false });
    const bridge = {
      say: (text: string) => this.print(`says: ${text}`),
      fire: (name: string, action: string, value: string | null) => this.act(this.objects.get(name), action, value ?? null),
      get: (name: string, property: string) => this.value(name, property),
      set: (name: string, property: string, value: unknown) => {
        const object = this.objects.get(name);
        if (object) object.properties[property] = value;
      },
      win: (text: string) => this.win(text),
      recall: (name: string) => this.memory.get(name) ?? false,
      remember: (name: string, value: number | boolean) => void this.memory.set(name, value),
      after: (seconds: number, id: number) => this.later(seconds, () => this.run('violet_resume', id)),
    };
    engine.global.set('bridge', bridge);
    engine.doStringSync(`
      local host, pending, next_id, sethook = bridge, {}, 0, debug.sethook
      bridge, io, os, require, package, dofile, loadfile, debug = nil
      function say(...) local t = table.pack(...) for i = 1, t.n do t[i] = tostring(t[i]) end host.say(table.concat(t, " ")) end
      print = say
      function fire(name, action, value) host.fire(tostring(name), tostring(action), value ~= nil and tostring(value) or nil) end
      function get(name, property) local v = host.get(tostring(name), tostring(property)) return v end
      function set(name, property, value) host.set(tostring(name), tostring(property), value) end
      function win(text) host.win(text and tostring(text) or "") end
      function recall(name) return host.recall(tostring(name)) end
      function remember(name, value) if value == nil then value = true end host.remember(tostring(name), value) end
      function after(seconds, fn) next_id = next_id + 1 pending[next_id] = fn host.after(tonumber(seconds) or 0, next_id) end
      function violet_resume(id) local fn = pending[id] pending[id] = nil if fn then fn() end end
      function violet_call(name, ...)
        local fn = _G[name]
        if type(fn) ~= "function" then return "no function " .. name end
        sethook(function() error("stopped: it took too long", 2) end, "", ${BUDGET})
        local ok, message = pcall(fn, ...)
        sethook()
        if not ok then return tostring(message) end
      end
      local own = {}
      function violet_attach(source, name, object)
        local env = setmetatable({ self = {
          name = object,
          get = function(_, property) return get(object, property) end,
          set = function(_, property, value) set(object, property, value) end,
          fire = function(_, action, value) fire(object, action, value) end,
        } }, { __index = _G })
        local fn, message = load(source, "@" .. name, "t", env)
        if not fn then return message end
        local ok, wrong = pcall(fn)
        if not ok then return tostring(wrong) end
        own[object] = env
      end
      function violet_event(object, event)
        local fn = own[object] and rawget(own[object], "on_" .. event)
        if type(fn) ~= "function" then return end
        local ok, message = pcall(fn)
        if not ok then return tostring(message) end
      end
      function violet_load(source, name)
        local fn, message = load(source, "@" .. name, "t")
        if not fn then return message end
        local ok, wrong = pcall(fn)
        if not ok then return tostring(wrong) end
      end`);
    let fine = true;
    const owned = [...this.objects.values()].flatMap(({ name, script }) => (script ? [{ name, script }] : []));
    const single = new Set(owned.map(({ script }) => script));
    const read = (path: string): string => readFileSync(join(this.folder, path), 'utf8');
    const enter = (entry: string, ...values: string[]) => {
      const problem = (engine.global.get(entry) as (...given: string[]) => string | undefined)(...values);
      if (!problem) return;
      this.print(`error: ${problem}`);
      fine = false;
    };
    for (const path of [...this.map.scripts].sort()) if (!single.has(path)) enter('violet_load', read(path), path);
    for (const { name, script } of owned) enter('violet_attach', read(script), script, name);
    if (!fine && this.engine) {
      engine.global.close();
      return false;
    }
    this.engine?.global.close();
    this.engine = engine;
    return fine;
  }

  step(): void {
    const dt = 1 / STEPS_PER_SECOND;
    this.time += dt;
    for (const due of this.waiting.filter(({ at }) => at <= this.time)) {
      this.waiting.splice(this.waiting.indexOf(due), 1);
      due.run();
    }
    for (const object of this.objects.values()) this.move(object, dt);
    // The player falls until something is below its feet.
    const { gravity } = this.game.player;
    this.fall -= gravity * dt;
    const next: [number, number, number] = [this.feet[0], this.feet[1], this.feet[2] + this.fall * dt];
    if (this.standsIn(next)) this.fall = 0;
    else this.feet = next;
  }

  /** What was typed: `use NAME`, `state NAME`. */
  tell(words: string[]): void {
    if (words[0] === 'answer') return this.talk ? this.talk.answer(Number(words[1])) : this.print('warning: nobody talks');
    const object = this.objects.get(words[1] ?? '');
    if (words[0] === 'where') return this.print(`player: ${this.feet.map((v) => Math.round(v)).join(' ')}`);
    if (!object) return this.print(`warning: there is no object ${words[1] ?? ''}`);
    if (words[0] === 'state') return this.print(`state: ${object.name} ${JSON.stringify({ ...object.properties, raised: object.raised })}`);
    const event = this.game.classes.get(object.class)?.useEvent;
    if (!event) return this.print(`warning: ${object.name} cannot be used`);
    this.print(`used: ${object.name}`);
    if (typeof object.properties.talk === 'string' && object.properties.talk !== '') this.hold(object.properties.talk);
    this.emit(object, event);
  }

  private hold(name: string): void {
    this.talk = new Talk(this.folder, name, {
      memory: this.memory,
      print: this.print,
      call: (fn) => this.call(fn),
      textsOf: (contest) => this.game.contests.get(contest) ?? [],
    });
  }

  private parts({ class: of }: GameObject): string[] {
    return this.game.classes.get(of)?.parts ?? [];
  }

  private move(object: Live, dt: number): void {
    if (object.heading === 0) return;
    const travel = (object.properties.travel as number[] | undefined) ?? [0, 0, 0];
    const length = Math.hypot(...travel) || 1;
    object.raised = Math.min(1, Math.max(0, object.raised + (object.heading * Number(object.properties.speed ?? 1) * dt) / length));
    if (object.raised > 0 && object.raised < 1) return;
    const event = object.heading > 0 ? 'raised' : 'lowered';
    object.heading = 0;
    this.emit(object, event);
  }

  private standsIn([x, y, z]: [number, number, number]): boolean {
    if (this.map.grounds.some((ground) => z <= (heightOn(ground, x, y) ?? -Infinity))) return true;
    return this.map.solids.some(({ planes }) => planes.every(([nx, ny, nz, d]) => nx * x + ny * y + nz * z <= d));
  }

  private emit(object: Live, event: string): void {
    if (object.script) this.run('violet_event', object.name, event);
    for (const signal of Object.values(this.map.signals)) {
      if (signal.from !== object.id || signal.event !== event) continue;
      if (signal.delay) this.later(signal.delay, () => this.deliver(object, signal));
      else this.deliver(object, signal);
    }
  }

  private deliver(from: Live, { event, to, value = null as never }: Signal): void {
    if ('script' in to) {
      this.print(`signal: ${from.name}.${event} -> ${to.script}()`);
      return this.call(to.script, value, from.name);
    }
    const target = [...this.objects.values()].find(({ id }) => id === to.object);
    this.print(`signal: ${from.name}.${event} -> ${target?.name}.${to.action}`);
    this.act(target, to.action, value);
  }

  private act(object: Live | undefined, action: string, value: string | null): void {
    if (!object) return this.print('warning: a script fires an object that is not there');
    if (action === 'open' || action === 'close') object.properties.open = action === 'open';
    else if (action === 'pass') {
      if (object.properties.open !== false) this.emit(object, 'passed');
    } else if (action === 'raise') object.heading = 1;
    else if (action === 'lower') object.heading = -1;
    else if (action === 'light' || action === 'douse') object.properties.lit = action === 'light';
    else if (action === 'complete') {
      this.emit(object, 'completed');
      this.win(value ?? String(object.properties.text ?? ''));
    }
  }

  private value(name: string, property: string): unknown {
    const object = this.objects.get(name);
    if (property === 'raised') return object?.raised;
    const value = object?.properties[property];
    return Array.isArray(value) ? undefined : value;
  }

  private win(text: string): void {
    if (this.won) return;
    this.won = true;
    this.print(`won: ${text}`);
  }

  private later(seconds: number, run: () => void): void {
    this.waiting.push({ at: this.time + Math.max(0, seconds), run });
  }

  private call(name: string, ...values: (string | null)[]): void {
    this.run('violet_call', name, ...values.map((value) => value ?? undefined));
  }

  private run(entry: string, ...values: unknown[]): void {
    try {
      const problem = (this.engine?.global.get(entry) as (...given: unknown[]) => string | undefined)(...values);
      if (problem) this.print(`error: ${problem}`);
    } catch (error) {
      this.print(`error: ${(error as Error).message}`);
    }
  }
}
