import type { GameMap } from '../../document/schema.ts';
import { own } from '../../own.ts';

/** Tags and layer of a member, as words by which it is found. */
export function layered({ layer, tags = [] }: { layer?: string; tags?: string[] }, map: GameMap): [string, string][] {
  const known = layer === undefined ? undefined : own(map.layers, layer);
  return [...tags.map((tag): [string, string] => ['tag', tag]), ...(known ? [['layer', known.name] as [string, string]] : [])];
}
