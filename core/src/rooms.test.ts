/** The rooms of core and web: no folder imports, over however many others, what imports it. Files of a root folder are rooms of their own. */

import { expect, test } from '@jest/globals';
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, normalize } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');

/** Which folder imports which, with a file that does. */
function roomsOf(folder: string): Map<string, Map<string, string>> {
  const rooms = new Map<string, Map<string, string>>();
  const roomOf = (file: string) => (dirname(file) === '.' ? file : dirname(file));
  for (const file of readdirSync(folder, { recursive: true, encoding: 'utf8' })) {
    if (!/\.tsx?$/.test(file) || /\.test\.tsx?$|(^|\/)testing\//.test(file)) continue;
    for (const [, target] of readFileSync(join(folder, file), 'utf8').matchAll(/(?:from|import)\s*\(?\s*'(\.[^']+)'/g)) {
      const [from, to] = [roomOf(file), roomOf(normalize(join(dirname(file), target)))];
      if (from === to) continue;
      if (!rooms.has(from)) rooms.set(from, new Map());
      rooms.get(from)!.set(to, `${file} imports ${target}`);
    }
  }
  return rooms;
}

/** A way round, as the imports along it, or null. */
function circle(rooms: ReturnType<typeof roomsOf>): string[] | null {
  const done = new Set<string>();
  const walk = (room: string, trail: string[]): string[] | null => {
    const at = trail.indexOf(room);
    if (at >= 0) return [...trail.slice(at), room].slice(1).map((to, i) => rooms.get([...trail.slice(at), room][i])!.get(to)!);
    if (done.has(room)) return null;
    for (const next of rooms.get(room)?.keys() ?? []) {
      const found = walk(next, [...trail, room]);
      if (found) return found;
    }
    done.add(room);
    return null;
  };
  for (const room of rooms.keys()) {
    const found = walk(room, []);
    if (found) return found;
  }
  return null;
}

test.each(['core/src', 'web/src'])('no folder of %s imports in a circle', (folder) => {
  const rooms = roomsOf(join(root, folder));
  expect(rooms.size).toBeGreaterThan(15);
  expect(circle(rooms)).toBeNull();
});

test('a circle is found, however long', () => {
  const rooms = new Map([
    ['a', new Map([['b', 'a/1 imports b/1']])],
    ['b', new Map([['c', 'b/2 imports c/1']])],
    ['c', new Map([['a', 'c/1 imports a/2']])],
  ]);
  expect(circle(rooms)).toEqual(['a/1 imports b/1', 'b/2 imports c/1', 'c/1 imports a/2']);
});

/** The lower rooms, in order: each may import what stands before it. The higher ones come from ARCHITECTURE.md. */
test('document lies below profile, profile below solid, solid below map, map below check and stages', () => {
  const rooms = roomsOf(join(root, 'core/src'));
  const reaches = (from: string, to: string, seen = new Set<string>()): boolean =>
    [...(rooms.get(from)?.keys() ?? [])].some((next) => next === to || (!seen.has(next) && reaches(next, to, seen.add(next))));
  for (const [low, high] of [
    ['document', 'profile'],
    ['profile', 'solid'],
    ['solid', 'map'],
    ['crate', 'map'],
    ['map', 'link'],
    ['link', 'check'],
    ['check', 'stages'],
    ['stages', 'trial'],
  ])
    expect([low, high, reaches(low, high)]).toEqual([low, high, false]);
});
