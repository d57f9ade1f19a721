/** Choosing members of a map by what they are rather than where they are. */

import { classOf, type Profile } from '../profile/schema.ts';
import type { GameMap, Solid } from '../document/schema.ts';
import { own } from '../own.ts';

export interface Found {
  kind: 'solids' | 'objects' | 'copies' | 'paths';
  id: string;
  label: string;
  /** Which of its words matched. */
  because: string;
}

/**
 * Members whose name, class, property, material, tag, layer or id has every word of `query`. `key:word` looks only there:
 * `class:lamp`, `material:brick`, `tag:door`, `layer:roof`, `reach:120`.
 */
export function findInMap(map: GameMap, profile: Profile, query: string, limit = 500): Found[] {
  const words = query.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return [];
  const found: Found[] = [];
  const match = (entries: [key: string, text: string][]): string | null => {
    let because = '';
    for (const word of words) {
      const [, key, text] = /^(?:([a-z_]+):)?(.*)$/.exec(word)!;
      const hit = entries.find(([k, v]) => (key === undefined || k === key) && v.toLowerCase().includes(text));
      if (!hit) return null;
      because ||= `${hit[0]} ${hit[1]}`;
    }
    return because;
  };
  const add = (kind: Found['kind'], id: string, label: string, entries: [string, string][]) => {
    const because = found.length < limit ? match(entries) : null;
    if (because !== null) found.push({ kind, id, label, because });
  };
  const common = (member: { layer?: string; tags?: string[] }): [string, string][] => [
    ...(member.tags ?? []).map((tag): [string, string] => ['tag', tag]),
    ...(member.layer && map.layers[member.layer] ? [['layer', map.layers[member.layer].name] as [string, string]] : []),
  ];
  for (const [id, object] of Object.entries(map.objects)) {
    add('objects', id, object.name, [
      ['name', object.name],
      ['class', object.class],
      ['class', classOf(profile, object.class)?.label ?? ''],
      ...common(object),
      ...Object.entries(object.properties).map(([key, value]): [string, string] => [key, String(value)]),
    ]);
  }
  for (const [id, copy] of Object.entries(map.copies))
    add('copies', id, copy.name, [
      ['name', copy.name],
      ['prefab', own(map.prefabs, copy.prefab)?.name ?? copy.prefab],
    ]);
  for (const [id, path] of Object.entries(map.paths))
    add('paths', id, path.name, [
      ['name', path.name],
      ['class', 'path'],
    ]);
  for (const [id, solid] of Object.entries(map.solids))
    add('solids', id, solid.label ?? id, [
      ['id', id],
      ['name', solid.label ?? ''],
      ...[...new Set(solid.faces.map((f) => f.material))].map((m): [string, string] => ['material', m]),
      ...common(solid),
    ]);
  return found;
}

export const solidsWithMaterial = (map: GameMap, material: string): string[] =>
  Object.keys(map.solids).filter((id) => map.solids[id].faces.some((face) => face.material === material));

export const inLayer = <T extends { layer?: string }>(members: Record<string, T>, layer: string): string[] =>
  Object.keys(members).filter((id) => members[id].layer === layer);

/** Every face that has `from` gets `to`; null where none has. */
export function replacedMaterial(solid: Solid, from: string, to: string): Solid | null {
  if (!solid.faces.some((face) => face.material === from)) return null;
  return { ...solid, faces: solid.faces.map((face) => (face.material === from ? { ...face, material: to } : face)) };
}
