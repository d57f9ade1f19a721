/** The parts of a class, looked up once per profile. */

import type { MapObject } from '../document/schema.ts';
import { partById, type PartId } from '../part/parts.ts';
import type { Part } from '../part/part.ts';
import type { Profile } from './schema.ts';

const compiled = new WeakMap<Profile, ReadonlyMap<string, readonly Part[]>>();
const NONE: readonly Part[] = [];

/** Empty for a class that the catalogue does not have. */
export function partsOf(profile: Profile, classId: string): readonly Part[] {
  let known = compiled.get(profile);
  if (!known) {
    known = new Map(profile.classes.map(({ id, parts }) => [id, parts.map((part) => partById(part as PartId))]));
    compiled.set(profile, known);
  }
  return known.get(classId) ?? NONE;
}

/** Whether a class is made of a part, among others. */
export const hasPart = (profile: Profile, classId: string, part: PartId): boolean => partsOf(profile, classId).includes(partById(part));

/** The first value of a fact among the parts of a class. */
export function factOf<K extends keyof Part>(profile: Profile, classId: string, fact: K): Part[K] | undefined {
  for (const part of partsOf(profile, classId)) if (part[fact] !== undefined) return part[fact];
  return undefined;
}

/** Where a new object of a class is put: what stands wins over what hangs. */
export function placingOf(profile: Profile, classId: string): NonNullable<Part['placing']> {
  const wanted = partsOf(profile, classId).flatMap((part) => part.placing ?? []);
  return wanted.includes('floor') ? 'floor' : (wanted[0] ?? 'floor');
}

/** Whether an object's box stops players. */
export const collides = (profile: Profile, object: Pick<MapObject, 'class' | 'properties'>): boolean =>
  partsOf(profile, object.class).some((part) => part.collides?.(object.properties));

/** Whether physics moves an object. */
export const movesFreely = (profile: Profile, object: Pick<MapObject, 'class' | 'properties'>): boolean =>
  partsOf(profile, object.class).some((part) => part.movesFreely?.(object.properties));
