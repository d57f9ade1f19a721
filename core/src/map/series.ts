/** Series: objects of a class that carry consecutive ordinals, 0 being the first one used. */

import { freeName } from '../crate/naming.ts';
import type { Vec3 } from '../math/vec3.ts';
import { classOf, type Profile } from '../profile/schema.ts';
import { freshId, type Change, type MapEdit } from '../document/edit.ts';
import type { GameMap, MapObject, PropertyValue } from '../document/schema.ts';

export interface SeriesMember {
  id: string;
  name: string;
  ordinal: number;
}

/** Members in order of their ordinals, equal ones by name. Empty where the class has no series. */
export function seriesOf(map: GameMap, profile: Profile, classId: string): SeriesMember[] {
  const property = classOf(profile, classId)?.series;
  if (!property) return [];
  return Object.entries(map.objects)
    .filter(([, object]) => object.class === classId)
    .map(([id, object]) => ({ id, name: object.name, ordinal: Number(object.properties[property] ?? 0) }))
    .sort((a, b) => a.ordinal - b.ordinal || (a.name < b.name ? -1 : 1));
}

export interface SeriesProblems {
  gaps: number[];
  duplicates: { ordinal: number; members: SeriesMember[] }[];
}

export function seriesProblems(members: readonly SeriesMember[]): SeriesProblems {
  const byOrdinal = new Map<number, SeriesMember[]>();
  for (const member of members) byOrdinal.set(member.ordinal, [...(byOrdinal.get(member.ordinal) ?? []), member]);
  const highest = Math.max(-1, ...members.map((m) => m.ordinal));
  const gaps: number[] = [];
  for (let n = 0; n <= Math.min(highest, 10000) && gaps.length < 100; n++) if (!byOrdinal.has(n)) gaps.push(n);
  return { gaps, duplicates: [...byOrdinal].filter(([, list]) => list.length > 1).map(([ordinal, list]) => ({ ordinal, members: list })) };
}

/** An object with another ordinal: its name and every text in it that ends in the old one follow. */
function withOrdinal(object: MapObject, property: string, ordinal: number): MapObject {
  const old = Number(object.properties[property] ?? 0);
  const follow = (text: string): string =>
    text.replace(/^([a-z][a-z0-9_]*_)(\d+)$/, (whole, stem: string, n: string) => (Number(n) === old ? `${stem}${ordinal}` : whole));
  const properties: Record<string, PropertyValue> = {};
  for (const [key, value] of Object.entries(object.properties)) properties[key] = typeof value === 'string' ? follow(value) : value;
  return { ...object, name: follow(object.name), properties: { ...properties, [property]: ordinal } };
}

/** Gives the members, in the order given, the ordinals from 0 on. Names stay unique. */
export function renumber(map: GameMap, profile: Profile, classId: string, order: readonly string[]): MapEdit | null {
  const property = classOf(profile, classId)?.series;
  if (!property) return null;
  const inOrder = new Set(order);
  const names = new Set(
    Object.entries(map.objects)
      .filter(([id]) => !inOrder.has(id))
      .map(([, o]) => o.name),
  );
  const changes: Change[] = [];
  order.forEach((id, ordinal) => {
    const object = map.objects[id];
    const next = withOrdinal(object, property, ordinal);
    const name = freeName(next.name, names);
    names.add(name);
    if (name !== object.name || Number(object.properties[property]) !== ordinal) changes.push({ of: 'objects', id, to: { ...next, name } });
  });
  return changes.length > 0 ? { name: `renumber ${classId}`, changes } : null;
}

/** Adds the next member after the last one: the last one's properties and turn, at `position` or one step further the same way. */
export function addNext(map: GameMap, profile: Profile, classId: string, position?: Vec3): { edit: MapEdit; id: string } | null {
  const property = classOf(profile, classId)?.series;
  const members = seriesOf(map, profile, classId);
  const last = members[members.length - 1];
  if (!property || !last) return null;
  const object = map.objects[last.id];
  const before = members.length > 1 ? map.objects[members[members.length - 2].id].position : null;
  const step: Vec3 = before ? (object.position.map((v, i) => v - before[i]) as Vec3) : [profile.grid.default * 4, 0, 0];
  const id = freshId(map.objects, 'o');
  const next = withOrdinal(object, property, last.ordinal + 1);
  const stem = /_\d+$/.test(next.name) ? next.name : `${next.name}_${last.ordinal + 1}`;
  const to: MapObject = {
    ...next,
    name: freeName(
      stem,
      Object.values(map.objects).map((o) => o.name),
    ),
    position: position ?? (object.position.map((v, i) => v + step[i]) as Vec3),
  };
  return { edit: { name: `add ${to.name}`, changes: [{ of: 'objects', id, to }] }, id };
}
