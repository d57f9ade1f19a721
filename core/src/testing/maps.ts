/** Maps for tests: what the templates make, changed by edits, and what is found in them. */

import { checkCrate } from '../check/checkCrate.ts';
import { applyEdit, type Change } from '../document/edit.ts';
import type { GameMap, MapObject, Solid } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import type { Vec3 } from '../math/vec3.ts';
import { newObject } from '../profile/newObject.ts';
import { block } from '../solid/primitives.ts';
import { testProfile, testWorld } from './world.ts';

export const profile = testProfile();
export const hall = (): GameMap => testWorld().crate.maps.hall;
export const blank = (): GameMap => testWorld('blank').crate.maps.hall;
export const withChanges = (map: GameMap, ...changes: Change[]): GameMap => applyEdit(map, { name: 'test', changes });
export const cube = (at: Vec3, size = 16) => block({ min: at, max: [at[0] + size, at[1] + size, at[2] + size] }, 'brick');
export const solid = (id: string, to: Solid): Change => ({ of: 'solids', id, to });
export const made = (classId: string, name: string, at: Vec3, properties = {}): MapObject => {
  const one = newObject(profile, classId, name, at);
  return { ...one, properties: { ...one.properties, ...properties } };
};
export const object = (id: string, classId: string, name: string, at: Vec3, properties = {}): Change => ({
  of: 'objects',
  id,
  to: made(classId, name, at, properties),
});
export const findingsOf = (map: GameMap): Finding[] => {
  const world = testWorld();
  return checkCrate({ ...world, crate: { ...world.crate, maps: { hall: map } } }).findings;
};
export const codesOf = (map: GameMap) => findingsOf(map).map((f) => f.code);

/** The map after the fix of the first finding of that code. */
export function mended(map: GameMap, code: string): GameMap {
  const fix = findingsOf(map).find((f) => f.code === code)?.fix;
  if (fix?.kind !== 'edit') throw new Error(`no edit mends ${code}`);
  return applyEdit(map, fix.edit);
}
