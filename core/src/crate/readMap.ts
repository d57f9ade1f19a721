/** Reading map files: whole ones strictly, damaged ones as far as they can be read. */

import type { TSchema } from '@sinclair/typebox';
import { Value } from '@sinclair/typebox/value';
import { readDocument } from '../document/readDocument.ts';
import type { Finding } from '../finding.ts';
import { UnreadableInput } from '../unreadable.ts';
import { cycleProblem, prefabCycle, prefabsOf, refuseCycles } from '../document/prefabGraph.ts';
import { COLLECTION_TABLE, COLLECTIONS, completeMap, MapSchema, MapSettingsSchema, type Collection, type GameMap } from '../document/schema.ts';

/** The map of a file that is whole. Throws `UnreadableInput` with the line or the member that is wrong. */
export const readMap = (text: string, file: string): GameMap => refuseCycles(completeMap(readDocument(text, MapSchema, file)), file);

/**
 * What can be read of a damaged map, on top of `blank`, and a finding for every member that cannot, with
 * line and column. Throws `UnreadableInput` only where nothing of a map is left to read.
 */
export function recoverMap(text: string, file: string, blank: GameMap): { map: GameMap; findings: Finding[] } {
  try {
    return { map: readMap(text, file), findings: [] };
  } catch (error) {
    if (!(error instanceof UnreadableInput)) throw error;
  }
  const scan = parsedMembers(text) ?? scanMembers(text);
  const map: GameMap = structuredClone(blank);
  const findings: Finding[] = [];
  const lineOf = lineFinder(text);
  const lost = (offset: number, what: string, why: string) => {
    const line = lineOf(offset);
    const column = columnOf(text, offset);
    findings.push({
      code: 'map-damaged',
      severity: 'warning',
      stage: 'map',
      message: `${file}, line ${line}, column ${column}: ${what} could not be read and was left out: ${why}`,
      hint: 'Put the member right in the file, or draw it anew. An import keeps the damaged file among the crate’s sources.',
      place: { file, line, column },
    });
  };
  let read = 0;
  for (const { path, value, offset, error } of scan) {
    const [collection, id] = path;
    if (path.length === 1) {
      if (collection === 'settings' && value !== undefined && Value.Check(MapSettingsSchema, value)) {
        map.settings = value;
        read++;
      } else if (collection === 'settings') lost(offset, 'the map’s settings', error ?? 'they are not of the expected form.');
      else if (error) lost(offset, `"${collection}"`, error);
      continue;
    }
    const { schema } = COLLECTION_TABLE[collection as Collection];
    const what = `${collection.replace(/s$/, '')} ${id}`;
    const problem = error ?? firstProblem(schema, value);
    if (problem) lost(offset, what, problem);
    else {
      (map[collection as Collection] as Record<string, unknown>)[id] = value;
      read++;
    }
  }
  // A prefab that holds itself loses those copies: all else of it is whole.
  for (let cycle = prefabCycle(Object.keys(map.prefabs), prefabsOf(map)); cycle; cycle = prefabCycle(Object.keys(map.prefabs), prefabsOf(map))) {
    const [holder, held] = cycle;
    const prefab = map.prefabs[holder];
    lost(Math.max(0, text.indexOf(`"${holder}"`)), `copies of ${held} within prefab ${holder}`, cycleProblem(map)!);
    prefab.copies = Object.fromEntries(Object.entries(prefab.copies).filter(([, copy]) => copy.prefab !== held));
  }
  if (read === 0)
    throw new UnreadableInput(
      'map-unreadable',
      `${file}: nothing of a map can be read in it.`,
      { file, line: 1, column: 1 },
      'Restore an earlier revision of the map.',
    );
  if (findings.length === 0) lost(0, 'part of the file', 'its form is broken; what could be read is complete as far as can be told.');
  return { map, findings };
}

function firstProblem(schema: TSchema, value: unknown): string | null {
  const first = Value.Errors(schema, value).First();
  return first ? `${first.path || 'it'}: ${first.message}.` : null;
}

interface Scanned {
  path: string[];
  value?: unknown;
  offset: number;
  error?: string;
}

/** Members of a text that is JSON after all, though not of the form of a map; null where it is not. */
function parsedMembers(text: string): Scanned[] | null {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return null;
  }
  if (typeof value !== 'object' || value === null) return null;
  const found: Scanned[] = [];
  for (const [name, member] of Object.entries(value)) {
    const at = Math.max(0, text.search(new RegExp(`"${name.replace(/[^a-z]/gi, '.')}"\\s*:`)));
    if (name === 'settings') found.push({ path: [name], value: member, offset: at });
    else if ((COLLECTIONS as readonly string[]).includes(name)) {
      // Members stand in the file in the order in which they are read, so each is looked for behind the one before.
      let from = at;
      for (const [id, inner] of Object.entries((member ?? {}) as object)) {
        from = Math.max(from, text.indexOf(`${JSON.stringify(id)}:`, from));
        found.push({ path: [name, id], value: inner, offset: from });
      }
    }
  }
  return found;
}

/**
 * Finds members without needing the whole to be JSON: every `"id": …` in a collection is cut out up to where
 * its brackets close, or up to the next member where they never do.
 */
function scanMembers(text: string): Scanned[] {
  const found: Scanned[] = [];
  const names = COLLECTIONS.join('|');
  const head = `"(${names}|settings)"[ \\t]*:[ \\t\\r\\n]*\\{`;
  // Heads stand first on their lines; those of prefabs' own members stand further in. A file in one line has them anywhere.
  const lined = [...text.matchAll(new RegExp(`(?<=(?:^|\\n)[ \\t]*)${head}`, 'g'))];
  const depth = (at: number) => at - text.lastIndexOf('\n', at);
  const least = Math.min(...lined.map(({ index }) => depth(index)));
  const heads = lined.length > 1 ? lined.filter(({ index }) => depth(index) === least) : [...text.matchAll(new RegExp(head, 'g'))];
  const next = memberFinder(text);
  heads.forEach((section, i) => {
    const start = section.index + section[0].length - 1;
    const limit = heads[i + 1]?.index ?? text.length;
    if (section[1] === 'settings') {
      found.push({ path: ['settings'], offset: start, ...cutValue(text, start, limit, next) });
      return;
    }
    let at = start + 1;
    while (at < limit) {
      const key = /[\s,]*"((?:[^"\\\n]|\\.)*)"\s*:\s*/y;
      key.lastIndex = at;
      const match = key.exec(text);
      if (!match) {
        const end = /[\s,]*(\}|$)/y;
        end.lastIndex = at;
        if (end.test(text) || end.lastIndex >= limit) break;
        const member = next(at, limit);
        if (member < 0) {
          found.push({ path: [section[1]], offset: at, error: 'what follows here is not a member.' });
          break;
        }
        found.push({ path: [section[1]], offset: at, error: 'there is something between its members that does not belong there.' });
        at = member;
        continue;
      }
      const from = key.lastIndex;
      const cut = cutValue(text, from, limit, next);
      found.push({ path: [section[1], match[1]], offset: from, value: cut.value, error: cut.error });
      at = cut.end;
    }
  });
  return found;
}

/** A value from `from`: to its closing bracket, or broken off where the next member begins on a line of its own. */
function cutValue(text: string, from: number, limit: number, nextMember: NextMember): { value?: unknown; error?: string; end: number } {
  let depth = 0;
  let quoted = false;
  const next = nextMember(from, limit);
  const stop = next < 0 ? limit : next;
  for (let i = from; i < limit; i++) {
    const c = text[i];
    if (quoted) {
      if (c === '\\') i++;
      else if (c === '"' || c === '\n') quoted = c !== '"' && c !== '\n';
      continue;
    }
    if (c === '"') quoted = true;
    else if (c === '{' || c === '[') depth++;
    else if (c === '}' || c === ']') {
      depth--;
      if (depth > 0) continue;
      const raw = text.slice(from, i + 1);
      try {
        return { value: JSON.parse(raw), end: i + 1 };
      } catch (error) {
        return { error: sentence(error), end: Math.max(i + 1, i + 1 <= stop ? i + 1 : stop) };
      }
    }
    if (i >= stop && depth > 0) break;
  }
  return { error: 'it breaks off before its brackets close.', end: stop };
}

/** Where the next member begins on a line of its own, from an offset on and before a limit, or -1. */
type NextMember = (from: number, limit: number) => number;

/** The text is looked through once: damaged files ask thousands of times. */
function memberFinder(text: string): NextMember {
  const starts = [...text.matchAll(/\n[ \t]*"[a-z][a-z0-9_]*"[ \t]*:[ \t]*\{/g)].map(({ index }) => index);
  return (from, limit) => {
    const at = starts[firstFrom(starts, from)];
    return at !== undefined && at < limit ? at : -1;
  };
}

/** One-based lines by offset. */
function lineFinder(text: string): (offset: number) => number {
  const ends: number[] = [];
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) ends.push(at);
  return (offset) => firstFrom(ends, offset) + 1;
}

/** Index of the first of some rising numbers that is not below a value. */
function firstFrom(rising: readonly number[], value: number): number {
  let [low, high] = [0, rising.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (rising[middle] < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

const sentence = (error: unknown): string => {
  const position = /position (\d+)/.exec(String(error))?.[1];
  return `it is no valid JSON${position === undefined ? '' : ` (${position} characters into it)`}.`;
};
const columnOf = (text: string, offset: number): number => offset - text.lastIndexOf('\n', offset - 1);
