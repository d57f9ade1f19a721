/** What is odd in scripts that can be read: names that nothing has, calls that cannot be meant so. Found as one types. */

import type { Finding, Severity } from '../finding.ts';
import type { Profile } from '../profile/schema.ts';
import { nearest } from './nearest.ts';
import { readScript } from './check.ts';
import { LUA_GLOBALS } from './globals.ts';
import type { LuaCall, LuaOutline } from './parse.ts';

export interface Advice {
  code: string;
  severity: Severity;
  message: string;
  hint: string;
  line: number;
  /** Offsets into the source. */
  from: number;
  to: number;
}

/** What a script is read against. */
export interface AdviceContext {
  profile: Profile;
  scripts: Readonly<Record<string, string>>;
  /** Names of the objects of all maps. */
  objects: ReadonlySet<string>;
  /** Paths of scripts that run for single objects. */
  ofObjects?: ReadonlySet<string>;
}

/** Functions of the game whose first argument is the name of an object. */
const OF_OBJECTS = new Set(['fire', 'get', 'set']);

/** Names that any script of a crate sets or defines. */
export function globalsSet(scripts: Readonly<Record<string, string>>): Set<string> {
  const set = new Set<string>();
  for (const [path, source] of Object.entries(scripts))
    for (const { name, role, local } of readScript(path, source).outline?.names ?? []) if (local === null && role === 'write') set.add(name);
  return set;
}

/** @param known names that are set anywhere: `globalsSet` of all scripts */
export function adviseScript({ profile, objects }: AdviceContext, outline: LuaOutline, known: ReadonlySet<string>): Advice[] {
  const api = new Map(profile.scripts.api.map((entry) => [entry.name, entry]));
  const advice: Advice[] = [];
  const at = (place: { line: number; from: number; to: number }, code: string, severity: Severity, message: string, hint: string) =>
    advice.push({ code, severity, message, hint, line: place.line, from: place.from, to: place.to });
  const told = new Set<string>();
  for (const use of outline.names) {
    const { name, role, local } = use;
    if (local !== null || role !== 'read' || known.has(name) || api.has(name) || LUA_GLOBALS.has(name) || told.has(name)) continue;
    told.add(name);
    const near = nearest(name, [...known, ...api.keys(), ...LUA_GLOBALS]);
    at(use, 'script-global', 'warning', `Nothing ever sets ${name}; it is always nil.`, near ? `Did you mean ${near}?` : 'Set it, or take it away.');
  }
  for (const call of outline.calls) {
    const entry = api.get(call.name);
    if (entry) argumentsOf(call, entry.signature, at);
    const [object] = call.literals;
    if (OF_OBJECTS.has(call.name) && typeof object === 'string' && !objects.has(object)) {
      const near = nearest(object, [...objects]);
      at(
        call,
        'script-object',
        'warning',
        `${call.name}: no object is called "${object}".`,
        near ? `Did you mean "${near}"?` : 'Place it in a map, or correct the name.',
      );
    }
    if (call.within === call.name && call.always)
      at(
        call,
        'script-recursion',
        'warning',
        `${call.name} always calls itself again, and never ends.`,
        'Return before it where it should stop, or call it later with after().',
      );
  }
  return advice;
}

function argumentsOf(
  call: LuaCall,
  signature: string,
  at: (place: LuaCall, code: string, severity: Severity, message: string, hint: string) => void,
): void {
  const inner = /\(([^)]*)\)/.exec(signature)?.[1].trim() ?? '';
  const most = inner === '' ? 0 : inner.split(',').length;
  // What the last argument is may be left out; the first never.
  const least = most === 0 ? 0 : Math.max(1, most - 1);
  const { count, name } = call;
  if (inner.includes('...') || count === null || (count <= most && count >= least)) return;
  at(
    call,
    'script-arguments',
    'warning',
    `${name} takes ${least === most ? most : `${least} or ${most}`} ${most === 1 ? 'argument' : 'arguments'}, not ${count}.`,
    signature,
  );
}

/** The same for all scripts of a crate, as findings. */
export function scriptAdvice(context: AdviceContext): Finding[] {
  const known = globalsSet(context.scripts);
  return Object.entries(context.scripts).flatMap(([file, source]) => {
    const { outline } = readScript(file, source);
    const all = context.ofObjects?.has(file) ? new Set([...known, 'self']) : known;
    return (outline ? adviseScript(context, outline, all) : []).map(({ code, severity, message, hint, line, from }): Finding => {
      const column = from - source.lastIndexOf('\n', from - 1);
      return { code, severity, stage: 'scripts', message, hint, place: { file, line, column } };
    });
  });
}
