/** Where a name of scripts is defined and used, for going there and for renaming. */

import { readScript } from './check.ts';
import type { LuaName } from './parse.ts';

export interface Occurrence {
  path: string;
  from: number;
  to: number;
  line: number;
  role: LuaName['role'];
}

export interface NameInfo {
  name: string;
  /** A local variable of one file, or a global of all. */
  scope: 'local' | 'global';
  /** Where it is declared, or first defined; null where that is nowhere. */
  definition: Occurrence | null;
  occurrences: Occurrence[];
}

/** What is at a place of a script, or null where no name is. */
export function nameAt(scripts: Readonly<Record<string, string>>, path: string, offset: number): NameInfo | null {
  const names = readScript(path, scripts[path] ?? '').outline?.names ?? [];
  const use = names.find(({ from, to }) => from <= offset && offset <= to);
  if (!use) return null;
  if (use.local === null) return globalName(scripts, use.name);
  const occurrences = names.filter(({ local, name }) => local === use.local && name === use.name).map((one) => occurrence(path, one));
  return { name: use.name, scope: 'local', definition: occurrences.find(({ role }) => role === 'declare') ?? null, occurrences };
}

/** A global name in all scripts. */
export function globalName(scripts: Readonly<Record<string, string>>, name: string): NameInfo {
  const occurrences = Object.entries(scripts).flatMap(([path, source]) =>
    (readScript(path, source).outline?.names ?? []).filter((one) => one.local === null && one.name === name).map((one) => occurrence(path, one)),
  );
  return { name, scope: 'global', definition: occurrences.find(({ role }) => role === 'write') ?? null, occurrences };
}

const occurrence = (path: string, { from, to, line, role }: LuaName): Occurrence => ({ path, from, to, line, role });

/** A text with another name at places of it. */
export function replaceAt(source: string, places: readonly Pick<Occurrence, 'from' | 'to'>[], name: string): string {
  let text = '';
  let at = 0;
  for (const { from, to } of [...places].sort((a, b) => a.from - b.from)) {
    text += source.slice(at, from) + name;
    at = to;
  }
  return text + source.slice(at);
}

const WORDS = new Set('and break do else elseif end false for function goto if in local nil not or repeat return then true until while'.split(' '));

/** What is wrong with a name for a variable or function, or null. */
export function luaNameProblem(name: string): string | null {
  if (!/^[A-Za-z_][A-Za-z0-9_]{0,63}$/.test(name))
    return 'Names begin with a letter or underline; letters, digits and underlines follow, at most 64.';
  return WORDS.has(name) ? `"${name}" is a word of Lua.` : null;
}
