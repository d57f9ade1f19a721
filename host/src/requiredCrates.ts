/** Crates that others are made with, as they lie on this machine: each version once, by the hash of its package, never changed. */

import { existsSync, mkdirSync, readFileSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { BasePackSchema, type BasePack } from '@violet-crate/core/crate/basePack';
import { splitRequired, withRequired, type CrateLock, type LockedCrate } from '@violet-crate/core/crate/lock';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import type { RequiredState } from '@violet-crate/core/crate/world';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { planInstall } from '@violet-crate/core/release/dependencies';
import { installRelease } from '@violet-crate/core/release/install';
import { RELEASE_FILE, ReleaseManifestSchema } from '@violet-crate/core/release/manifest';
import { openRelease } from '@violet-crate/core/release/pack';
import { packOfRelease } from '@violet-crate/core/release/packOfRelease';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { writeTree, writeWhole } from './files.ts';
import { readInside } from './inside.ts';
import { readTree } from './folderTree.ts';
import { askMod } from './mods.ts';
import { modsFolder } from './modsFolder.ts';
import { fetchRelease } from './workshopClient.ts';

/** Beside the files of a release: what of it others may use. Written last, so that a folder with it is whole. */
const PACK = 'pack.json';

export interface Workshop {
  workshop: string;
  token: string | null;
}

const folderOf = (root: string, name: string, { sha256 }: LockedCrate): string => join(root, name, sha256);
const filesOf = (folder: string): string => join(folder, 'files');

function packIn(folder: string): BasePack | null {
  try {
    return readDocument(readFileSync(join(folder, PACK), 'utf8'), BasePackSchema, PACK);
  } catch {
    // Not there, or not whole: it is fetched again then.
    return null;
  }
}

/** Stock of the game with what a lock's crates hold, as far as they are on this machine. @param root folder of all required crates */
export function readRequired(root: string, lock: CrateLock, base: BasePack): { base: BasePack; required: RequiredState } {
  const packs = new Map<string, BasePack>();
  const missing: string[] = [];
  for (const [name, locked] of Object.entries(lock.crates)) {
    const pack = packIn(folderOf(root, name, locked));
    if (pack) packs.set(name, pack);
    else missing.push(name);
  }
  return { base: withRequired(base, packs), required: { lock, missing } };
}

/** Folder of a stock file, of the game or of a required crate, and its path there. @param stock folder of the game's base pack */
export function stockPlace(stock: string, root: string, lock: CrateLock, path: string): [folder: string, path: string] {
  const required = splitRequired(path);
  if (!required || !Object.hasOwn(lock.crates, required.name)) return [stock, path];
  return [filesOf(folderOf(root, required.name, lock.crates[required.name])), required.path];
}

/** @throws UnreadableInput where it is not there, or a link is on its way */
export function readStockFile(stock: string, root: string, lock: CrateLock, path: string): Uint8Array {
  const bytes = readInside(...stockPlace(stock, root, lock, path));
  if (!bytes) throw new UnreadableInput('stock-missing', `The game has no ${path}.`, { file: path }, 'Repair the game under Set-up.');
  return bytes;
}

/** What would be locked now: the newest versions that suit everybody. @throws UnreadableInput where none do, with who asks for what */
export async function resolveRequired(
  manifest: Pick<CrateManifest, 'name' | 'version' | 'requires'>,
  { workshop, token }: Workshop,
): Promise<Record<string, { version: string; shareCode: string }>> {
  const { install, problems } = await planInstall(
    { name: manifest.name, version: manifest.version, shareCode: '', requires: manifest.requires },
    [],
    async (name) => (await askMod(workshop, token, name))?.versions ?? [],
  );
  if (problems.length > 0) throw new UnreadableInput('required-none', problems.join(' '), { file: 'crate.json' }, 'Nothing was changed.');
  return Object.fromEntries(
    install.filter(({ name }) => name !== manifest.name).map(({ name, version, shareCode }) => [name, { version, shareCode }]),
  );
}

/** Fetches a version unless it is here already. @param expected hash that a lock states: another package is refused */
export async function fetchRequired(
  root: string,
  name: string,
  wanted: { version: string; shareCode: string; sha256?: string },
  { workshop, token }: Workshop,
): Promise<LockedCrate> {
  const { version, shareCode, sha256 } = wanted;
  if (sha256 && packIn(folderOf(root, name, { version, shareCode, sha256 }))) return { version, shareCode, sha256 };
  const { release, zip } = await fetchRelease(workshop, shareCode, undefined, token);
  if (sha256 && release.sha256 !== sha256)
    throw new UnreadableInput(
      'required-hash',
      `The workshop gives out another package for ${name} ${version} than the one that the crate is made with.`,
      { file: 'crate.lock.json' },
      'Ask its author; or look for versions anew, which locks what is given out now.',
    );
  const { manifest, tree } = openRelease(zip, `the package of ${name}`);
  if (manifest.name !== name || manifest.version !== version)
    throw new UnreadableInput(
      'required-other',
      `Share code ${shareCode} holds ${manifest.name} ${manifest.version}, not ${name} ${version}.`,
      { file: 'crate.lock.json' },
      'Look for versions anew.',
    );
  const pack = packOfRelease(manifest, tree);
  const locked = { version, shareCode, sha256: release.sha256 };
  const target = folderOf(root, name, locked);
  const fresh = `${target}.new`;
  rmSync(fresh, { recursive: true, force: true });
  mkdirSync(fresh, { recursive: true });
  writeTree(filesOf(fresh), tree);
  writeWhole(join(fresh, PACK), Buffer.from(JSON.stringify(pack)));
  rmSync(target, { recursive: true, force: true });
  renameSync(fresh, target);
  return locked;
}

/** Puts the required crates into a game's mods folder where it lacks them, so that a crate can be tried there. Answers their names. */
export function placeRequired(root: string, lock: CrateLock, mods: string): string[] {
  return Object.entries(lock.crates).flatMap(([name, locked]) => {
    const files = filesOf(folderOf(root, name, locked));
    if (existsSync(join(mods, name)) || !existsSync(files)) return [];
    const manifest = readDocument(readFileSync(join(files, RELEASE_FILE), 'utf8'), ReleaseManifestSchema, RELEASE_FILE);
    installRelease(modsFolder(mods), manifest, readTree(files, { hidden: true }));
    return [name];
  });
}
