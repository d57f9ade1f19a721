/** A crate together with what surrounds it: its game's profile and base pack. All checks and builds take this. */

import type { Profile } from '../profile/schema.ts';
import type { BasePack } from './basePack.ts';
import type { CrateContents } from './contents.ts';
import type { AssetRecord, CrateMaterial } from './manifest.ts';
import { own } from '../own.ts';

export interface CrateWorld {
  profile: Profile;
  base: BasePack;
  crate: CrateContents;
}

/** A crate's own material wins over one of the same name in the base pack. */
export function findMaterial(
  world: Pick<CrateWorld, 'base'> & { crate: Pick<CrateContents, 'manifest'> },
  name: string,
): { material: CrateMaterial; origin: 'crate' | 'game' } | null {
  const own = world.crate.manifest.materials.find((m) => m.name === name);
  if (own) return { material: own, origin: 'crate' };
  const stock = world.base.materials.find((m) => m.name === name);
  return stock ? { material: stock, origin: 'game' } : null;
}

export function findFile(world: CrateWorld, path: string): { path: string; bytes: number; sha256: string; origin: 'crate' | 'game' } | null {
  const own = world.crate.files.find((file) => file.path === path);
  if (own) return { ...own, origin: 'crate' };
  const stock = world.base.files.find((file) => file.path === path);
  return stock ? { ...stock, origin: 'game' } : null;
}

export function assetRecord(world: CrateWorld, path: string): AssetRecord | undefined {
  return own(world.crate.manifest.assets, path) ?? own(world.base.assets, path);
}
