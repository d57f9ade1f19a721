/** A crate together with what surrounds it: its game's profile and base pack. All checks and builds take this. */

import type { Profile } from '../profile/schema.ts';
import type { BasePack, FileRecord } from './basePack.ts';
import type { CrateContents } from './contents.ts';
import type { AssetRecord, CrateMaterial } from './manifest.ts';
import { own } from '../own.ts';
import type { CrateLock } from './lock.ts';

export interface CrateWorld {
  profile: Profile;
  base: BasePack;
  crate: CrateContents;
  /** Other crates that it is made with; not given where nobody asks about them. */
  required?: RequiredState;
}

/** What is known of the crates that one requires. What they hold is part of `base`. */
export interface RequiredState {
  lock: CrateLock;
  /** Names of those in the lock that are not on this machine. */
  missing: string[];
  /** What is wrong with the lock's file, in a sentence. */
  damage?: string;
}

/** Members of a list by a key, looked up once per list: lists are values that edits replace. */
function lookup<T extends object>(lists: WeakMap<readonly T[], Map<string, T>>, list: readonly T[], keyOf: (member: T) => string): Map<string, T> {
  let known = lists.get(list);
  // Lists that are still being filled are looked up anew.
  if (!known || list.length !== sizes.get(list)) {
    known = new Map();
    // The first of several of one name counts.
    for (const member of list) if (!known.has(keyOf(member))) known.set(keyOf(member), member);
    lists.set(list, known);
    sizes.set(list, list.length);
  }
  return known;
}
const sizes = new WeakMap<readonly object[], number>();
const materials = new WeakMap<readonly CrateMaterial[], Map<string, CrateMaterial>>();
const files = new WeakMap<readonly FileRecord[], Map<string, FileRecord>>();

/** A crate's own material wins over one of the same name in the base pack. */
export function findMaterial(
  world: Pick<CrateWorld, 'base'> & { crate: Pick<CrateContents, 'manifest'> },
  name: string,
): { material: CrateMaterial; origin: 'crate' | 'game' } | null {
  const own = lookup(materials, world.crate.manifest.materials, (m) => m.name).get(name);
  if (own) return { material: own, origin: 'crate' };
  const stock = lookup(materials, world.base.materials, (m) => m.name).get(name);
  return stock ? { material: stock, origin: 'game' } : null;
}

/** All materials of crate and game, the crate's first; one of the crate hides the game's of its name. */
export function allMaterials({ crate, base }: Pick<CrateWorld, 'base'> & { crate: Pick<CrateContents, 'manifest'> }): CrateMaterial[] {
  const own = new Set(crate.manifest.materials.map(({ name }) => name));
  return [...crate.manifest.materials, ...base.materials.filter(({ name }) => !own.has(name))];
}

export function findFile(world: CrateWorld, path: string): { path: string; bytes: number; sha256: string; origin: 'crate' | 'game' } | null {
  const own = lookup(files, world.crate.files, (file) => file.path).get(path);
  if (own) return { ...own, origin: 'crate' };
  const stock = lookup(files, world.base.files, (file) => file.path).get(path);
  return stock ? { ...stock, origin: 'game' } : null;
}

export function assetRecord(world: CrateWorld, path: string): AssetRecord | undefined {
  return own(world.crate.manifest.assets, path) ?? own(world.base.assets, path);
}
