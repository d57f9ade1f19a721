/** Choosing members of a map by what they are rather than where they are. */

import { KINDS, type MemberKind } from '../../document/members.ts';
import type { GameMap, Solid } from '../../document/schema.ts';
import type { Profile } from '../../profile/schema.ts';
import { factsOf } from './members.ts';

export interface Found {
  kind: MemberKind;
  id: string;
  label: string;
  /** Which of its words matched. */
  because: string;
}

/** What has names comes before solids, which are many. */
const FOUND_FIRST = [...KINDS.filter((kind) => kind !== 'solids'), 'solids'] as const;

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
  for (const kind of FOUND_FIRST)
    for (const [id, member] of Object.entries(map[kind])) {
      if (found.length >= limit) return found;
      const because = match(factsOf(kind).found(id, member as never, { map, profile }));
      if (because !== null) found.push({ kind, id, label: factsOf(kind).label(id, member as never), because });
    }
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
