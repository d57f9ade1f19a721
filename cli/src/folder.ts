/** Crates and games as folders on disk. */

import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readdirSync, readFileSync, renameSync, statSync, writeSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { BasePackSchema, EMPTY_PACK, type BasePack } from '@violet-crate/core/crate/basePack';
import { readCrate, type FileTree } from '@violet-crate/core/crate/contents';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { readDocument } from '@violet-crate/core/document';
import { UnreadableInput } from '@violet-crate/core/finding';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { StageCache } from '@violet-crate/core/build/stage';
import { fileURLToPath } from 'node:url';

/** Folders of a crate that hold results, not sources. */
const RESULTS = new Set(['build', 'node_modules']);

export function readTree(folder: string, prefix = '', tree: FileTree = new Map()): FileTree {
  if (!existsSync(folder)) throw new UnreadableInput('folder-missing', `There is no folder ${folder}.`);
  for (const name of readdirSync(folder).sort()) {
    if (name.startsWith('.') || (prefix === '' && RESULTS.has(name))) continue;
    const file = join(folder, name);
    const path = prefix ? `${prefix}/${name}` : name;
    if (statSync(file).isDirectory()) readTree(file, path, tree);
    else tree.set(path, readFileSync(file));
  }
  return tree;
}

/** Writes whole or not at all: to a neighbour file first, then renamed. */
export function writeWhole(file: string, bytes: Uint8Array): void {
  mkdirSync(dirname(file), { recursive: true });
  const part = `${file}.part`;
  const handle = openSync(part, 'w');
  writeSync(handle, bytes);
  fsyncSync(handle);
  closeSync(handle);
  renameSync(part, file);
}

export function writeTree(folder: string, tree: FileTree): void {
  for (const [path, bytes] of tree) writeWhole(join(folder, path), bytes);
}

export function profileById(id: string): Profile {
  if (!/^[a-z][a-z0-9_]*$/.test(id)) throw new UnreadableInput('profile-unknown', `"${id}" is not the name of a profile.`);
  const file = fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')).replace(/brinewick(?=\.json$)/, id);
  if (!existsSync(file)) throw new UnreadableInput('profile-unknown', `There is no profile "${id}".`, {}, 'Profiles: brinewick, skarrow.');
  return loadProfile(readFileSync(file, 'utf8'), `${id}.json`);
}

/** The base pack of the game's install; an empty one where no game lies there. */
export function basePackOf(profile: Profile, game: string): BasePack {
  const file = join(game, profile.install.basePack, 'pack.json');
  return existsSync(file) ? readDocument(readFileSync(file, 'utf8'), BasePackSchema, file) : EMPTY_PACK;
}

/** Where the game of a profile lies unless told otherwise. */
export const defaultGame = (profileId: string): string =>
  process.env.VIOLET_CRATE_GAME ?? join(process.env.VIOLET_CRATE_DATA ?? 'data', 'games', profileId);

export interface OpenCrate {
  folder: string;
  tree: FileTree;
  world: CrateWorld;
}

export function openCrate(folder: string, game?: string): OpenCrate {
  const tree = readTree(folder);
  const crate = readCrate(tree);
  const profile = profileById(crate.manifest.profile);
  return { folder, tree, world: { profile, base: basePackOf(profile, game ?? defaultGame(profile.id)), crate } };
}

/** Stage results under `build/cache/` of the crate. */
export function folderCache(folder: string): StageCache {
  const fileOf = (key: string) => join(folder, 'build', 'cache', key);
  return {
    get: (key) => Promise.resolve(existsSync(fileOf(key)) ? new Uint8Array(readFileSync(fileOf(key))) : null),
    put: (key, value) => Promise.resolve(writeWhole(fileOf(key), value)),
  };
}
