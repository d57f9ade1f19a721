/** What helps while typing Lua: how a word could go on, what a name means, what is odd, which lines can be folded. */

import type { Completion, CompletionContext, CompletionResult } from '@codemirror/autocomplete';
import { foldService } from '@codemirror/language';
import type { Diagnostic } from '@codemirror/lint';
import type { EditorState } from '@codemirror/state';
import { adviseScript, globalsSet } from '@violet-crate/core/script/advice';
import { readScript } from '@violet-crate/core/script/check';
import { nameAt } from '@violet-crate/core/script/names';
import type { Profile } from '@violet-crate/core/profile/schema';
import { luaDiagnostics } from './luaLint.ts';

/** What a script is read against. */
export interface ScriptSurroundings {
  profile: Profile;
  scripts: Readonly<Record<string, string>>;
  /** Objects of the map by name, with the actions and properties of their class. */
  objects: ReadonlyMap<string, { actions: readonly string[]; properties: readonly string[] }>;
  /** Paths of scripts that run for single objects. */
  ofObjects?: ReadonlySet<string>;
}

const KEYWORDS = 'and break do else elseif end false for function goto if in local nil not or repeat return then true until while'.split(' ');

/** What could stand where somebody types; null where nothing of ours does. */
export function luaCompletions(path: string, { profile, scripts, objects }: ScriptSurroundings, context: CompletionContext): CompletionResult | null {
  const quoted = context.matchBefore(/\b(?:fire|get|set)\(\s*(?:["'][\w]*["']\s*,\s*)?["'][\w]*/);
  if (quoted) {
    const [, callee, first, part] = /(\w+)\(\s*(?:["'](\w*)["']\s*,\s*)?["'](\w*)$/.exec(quoted.text)!;
    const object = first === undefined ? null : objects.get(first);
    const options = first === undefined ? [...objects.keys()] : ((callee === 'fire' ? object?.actions : object?.properties) ?? []);
    return {
      from: context.pos - part.length,
      options: options.map((label): Completion => ({ label, type: first === undefined ? 'constant' : 'property' })),
    };
  }
  const word = context.matchBefore(/[A-Za-z_]\w*/);
  if (!word && !context.explicit) return null;
  const options: Completion[] = [
    ...profile.scripts.api.map(({ name, signature, description }) => ({
      label: name,
      type: 'function',
      detail: signature.slice(name.length),
      info: description,
    })),
    ...KEYWORDS.map((label) => ({ label, type: 'keyword' })),
  ];
  const own = new Set<string>();
  for (const [file, source] of Object.entries(scripts))
    for (const { name, parameters } of readScript(file, source).outline?.functions ?? [])
      if (name && !own.has(name)) {
        own.add(name);
        options.push({ label: name, type: 'function', detail: `(${parameters.join(', ')})`, info: file });
      }
  const text = context.state.doc.toString();
  const outline = readScript(path, text).outline ?? readScript(path, scripts[path] ?? '').outline;
  for (const { name, role } of outline?.names ?? [])
    if (role !== 'read' && !own.has(name)) {
      own.add(name);
      options.push({ label: name, type: 'variable' });
    }
  return { from: word?.from ?? context.pos, options, validFor: /^\w*$/ };
}

/** What is to be said of the name at a place: its signature, and where it comes from. */
export function luaHover(
  path: string,
  { profile, scripts }: ScriptSurroundings,
  offset: number,
): { from: number; to: number; lines: string[] } | null {
  const info = nameAt(scripts, path, offset);
  const here = info?.occurrences.find((one) => one.path === path && one.from <= offset && offset <= one.to);
  if (!info || !here) return null;
  const api = info.scope === 'global' ? profile.scripts.api.find(({ name }) => name === info.name) : undefined;
  if (api) return { from: here.from, to: here.to, lines: [api.signature, api.description] };
  const { definition } = info;
  const made =
    definition &&
    readScript(definition.path, scripts[definition.path]).outline?.functions.find((f) => f.name === info.name && f.line === definition.line);
  const lines = [made ? `${info.name}(${made.parameters.join(', ')})` : `${info.scope} ${info.name}`];
  if (definition) lines.push(`${definition.path}:${definition.line}, ${info.occurrences.length} ${info.occurrences.length === 1 ? 'use' : 'uses'}`);
  return { from: here.from, to: here.to, lines };
}

/** The first syntax error, or what is odd in a text that can be read. */
export function luaFindings(path: string, { profile, scripts, objects, ofObjects }: ScriptSurroundings, source: string): Diagnostic[] {
  const errors = luaDiagnostics(source);
  if (errors.length > 0) return errors;
  const { outline } = readScript(path, source);
  if (!outline) return [];
  const all = { ...scripts, [path]: source };
  const known = globalsSet(all);
  if (ofObjects?.has(path)) known.add('self');
  return adviseScript({ profile, scripts: all, objects: new Set(objects.keys()) }, outline, known).map(
    ({ from, to, severity, message, hint, code }): Diagnostic => ({
      from,
      to: Math.min(to, source.length),
      severity: severity === 'note' ? 'info' : 'warning',
      message: `${message} ${hint}`,
      source: code,
    }),
  );
}

/** Lines that are set in below a line can be folded under it. */
export const foldByIndent = foldService.of((state: EditorState, from: number) => {
  const line = state.doc.lineAt(from);
  const own = indentOf(line.text);
  if (own === null) return null;
  let end = line.to;
  for (let n = line.number + 1; n <= state.doc.lines; n++) {
    const next = state.doc.line(n);
    const indent = indentOf(next.text);
    if (indent === null) continue;
    if (indent <= own) break;
    end = next.to;
  }
  return end > line.to ? { from: line.to, to: end } : null;
});

/** Columns before the first letter; null on an empty line. */
const indentOf = (text: string): number | null => {
  const at = text.search(/\S/);
  return at < 0 ? null : at;
};
