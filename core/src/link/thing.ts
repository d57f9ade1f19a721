/** Everything that can be linked, under one kind of address. */

import { assetKindOf, isAssetKind, isFileKind } from '../crate/assetKind.ts';
import { findFile, findMaterial, type CrateWorld } from '../crate/world.ts';
import { recordsPath } from '../table/document.ts';
import { effectPath } from '../effect/document.ts';
import { talkPath } from '../talk/document.ts';
import { own } from '../own.ts';

/** In the order in which lists show them, with what one is called. */
export const LINK_KINDS = {
  map: 'map',
  prefab: 'prefab',
  surface: 'ground layer',
  path: 'path',
  icon: 'icon',
  material: 'material',
  texture: 'texture',
  model: 'model',
  sound: 'sound',
  subtitle: 'subtitle',
  script: 'script',
  function: 'function',
  table: 'table',
  talk: 'conversation',
  effect: 'effect',
  pack: 'pack',
  crate: 'crate',
  game: 'game',
} as const satisfies Record<string, string>;

export type LinkKind = keyof typeof LINK_KINDS;

/** `KIND:NAME`: the path of a file, the name of a material or function, `MAP/ID` for what lies within a map. */
export const thingId = (kind: LinkKind, name: string): string => `${kind}:${name}`;

export function splitId(id: string): [kind: LinkKind, name: string] {
  const colon = id.indexOf(':');
  return [id.slice(0, colon) as LinkKind, id.slice(colon + 1)];
}

/** The id of what orders about links call by its path, or by `material:NAME`. */
export const thingOfEntry = (entry: string): string => (entry.startsWith('material:') ? entry : thingId(assetKindOf(entry) ?? 'texture', entry));

/** How orders about links call a thing; null for what is no file and no material. */
export function entryOfThing(id: string): string | null {
  const [kind, name] = splitId(id);
  return kind === 'material' ? id : isAssetKind(kind) && kind !== 'effect' ? name : null;
}

export interface Thing {
  id: string;
  kind: LinkKind;
  /** As people know it: prefabs, paths and ground layers by their name. */
  name: string;
  origin: 'crate' | 'game' | 'missing';
  /** Of its file; 0 for what has none. */
  bytes: number;
  sha256?: string;
}

/** Looks a thing up. @param functions where each global function is defined */
export function thingOf(world: CrateWorld, functions: ReadonlyMap<string, string>, id: string): Thing {
  const [kind, name] = splitId(id);
  const thing = (origin: Thing['origin'], more: Partial<Thing> = {}): Thing => ({ id, kind, name, origin, bytes: 0, ...more });
  const { crate, profile, base } = world;
  if (isAssetKind(kind) && isFileKind(kind)) {
    const file = findFile(world, name);
    return file ? thing(file.origin, { bytes: file.bytes, sha256: file.sha256 }) : thing('missing');
  }
  const [mapName, ...rest] = name.split('/');
  const map = own(crate.maps, mapName);
  switch (kind) {
    case 'material': {
      const found = findMaterial(world, name);
      return thing(found?.origin ?? 'missing');
    }
    case 'script': {
      const source = own(crate.scripts, name);
      return source === undefined ? thing('missing') : thing('crate', { bytes: new TextEncoder().encode(source).length });
    }
    case 'table':
    case 'talk':
    case 'effect': {
      const text = own(crate.data, kind === 'table' ? recordsPath(name) : kind === 'talk' ? talkPath(name) : effectPath(name));
      if (text !== undefined) return thing('crate', { bytes: new TextEncoder().encode(text).length });
      // A table that the game has and the crate has no rows of is empty, not missing.
      return thing(kind === 'table' && profile.tables?.some(({ id: known }) => known === name) ? 'game' : 'missing');
    }
    case 'function':
      return thing(functions.has(name) ? 'crate' : profile.scripts.api.some((one) => one.name === name) ? 'game' : 'missing');
    case 'map':
      return thing(map ? 'crate' : 'missing');
    case 'prefab': {
      const made = map && own(map.prefabs, rest[0]);
      const stock = own(profile.prefabs ?? {}, rest[0] ?? '');
      return made ? thing('crate', { name: made.name }) : stock ? thing('game', { name: stock.name }) : thing('missing', { name: rest[0] });
    }
    case 'surface': {
      const surface = map && own(map.terrains, rest[0])?.surfaces.find((one) => one.id === rest[1]);
      return surface ? thing('crate', { name: surface.label }) : thing('missing');
    }
    case 'path': {
      const path = map && own(map.paths, rest[0]);
      return path ? thing('crate', { name: path.name }) : thing('missing', { name: rest[0] });
    }
    case 'icon':
      return thing('game');
    case 'game':
      return thing('game', { name: `${profile.title}${base.version ? ` ${base.version}` : ''}` });
    case 'crate':
      // Other crates are there as the game's things are: they do not travel with this one.
      return thing(name === crate.manifest.name ? 'crate' : Object.hasOwn(crate.manifest.requires ?? {}, name) ? 'game' : 'missing');
    default:
      return thing('crate');
  }
}
