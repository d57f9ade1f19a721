/** Looks at an install and at the machine: what `core/src/setup/checks.ts` judges. */

import { accessSync, constants, existsSync, readdirSync, rmSync, statfsSync, statSync, writeFileSync } from 'node:fs';
import { cpus, totalmem } from 'node:os';
import { join } from 'node:path';
import { BasePackSchema, EMPTY_PACK, joinPacks, type BasePack } from '@violet-crate/core/crate/basePack';
import { readDocument } from '@violet-crate/core/document/readDocument';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { System } from '@violet-crate/core/profile/toolchain';
import type { InstallFacts, ToolFacts } from '@violet-crate/core/setup/facts';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { readInside } from '../inside.ts';
import { hashFiles } from './hashFiles.ts';
import { askVersion } from './runProgram.ts';

export interface GameInstall {
  profile: Profile;
  folder: string;
}

/** Bytes of a file that says something of an install, and of a list of its stock. */
const ABOUT_BYTES = 1 << 20;
const PACK_BYTES = 256 << 20;

const textInside = (folder: string, path: string, most: number): string | null => {
  const bytes = readInside(folder, path, most);
  return bytes && new TextDecoder().decode(bytes);
};

const readJson = (folder: string, path: string): Record<string, unknown> | null => {
  try {
    const value: unknown = JSON.parse(textInside(folder, path, ABOUT_BYTES) ?? '');
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : null;
  } catch {
    return null;
  }
};

export const gameVersion = ({ profile, folder }: GameInstall): string | null => {
  const about = readJson(folder, profile.install.versionFile);
  // A version file that names another game is that one's.
  if (!about || (about.game !== undefined && about.game !== profile.id)) return null;
  return typeof about.version === 'string' ? about.version : null;
};

/** The stock assets of an install; none where its list is missing or damaged. */
export function readBasePack({ profile, folder }: GameInstall): BasePack {
  try {
    const text = textInside(folder, `${profile.install.basePack}/pack.json`, PACK_BYTES);
    return text === null ? EMPTY_PACK : readDocument(text, BasePackSchema, 'pack.json');
  } catch (error) {
    if (error instanceof UnreadableInput) return EMPTY_PACK;
    throw error;
  }
}

/** Folder of the optional packs within the base pack. */
export const PACKS_FOLDER = 'packs';

/** Optional packs of an install by id. What cannot be read counts as not there. */
export function readPacks({ profile, folder }: GameInstall): Map<string, BasePack> {
  const root = join(folder, profile.install.basePack, PACKS_FOLDER);
  const packs = new Map<string, BasePack>();
  for (const id of existsSync(root) ? readdirSync(root).sort() : []) {
    if (!/^[a-z][a-z0-9_]*$/.test(id)) continue;
    try {
      const text = textInside(folder, `${profile.install.basePack}/${PACKS_FOLDER}/${id}/pack.json`, PACK_BYTES);
      if (text !== null) packs.set(id, readDocument(text, BasePackSchema, `${id}/pack.json`));
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
    }
  }
  return packs;
}

/** All stock of an install: its base pack with the optional packs, whose files lie below it. Names of the base pack come first. */
export function readStock(game: GameInstall): BasePack {
  const base = readBasePack(game);
  return joinPacks(base, new Map([...readPacks(game)].map(([id, pack]) => [`${PACKS_FOLDER}/${id}`, pack])));
}

export interface FactsOptions {
  /** Whether contents are compared too, which reads every file once; without it lengths only. */
  hash: boolean;
  /** Whether tools may be run to ask for their version: only those of a profile whose commands are allowed. */
  ask: boolean;
}

export async function readFacts(game: GameInstall, { hash, ask }: FactsOptions): Promise<InstallFacts> {
  const { profile, folder } = game;
  const { install } = profile;
  const pack = readBasePack(game);
  const files = pack.files.map((file) => join(folder, install.basePack, file.path));
  const lengths = files.map((file) => statSync(file, { throwIfNoEntry: false })?.size ?? -1);
  const hashes = hash ? await hashFiles(files) : [];
  const wrong = pack.files.filter((file, i) => lengths[i] !== file.bytes || (hash && hashes[i]?.sha256 !== file.sha256));
  const space = statfsSync(existsSync(folder) ? folder : '.');
  return {
    folder,
    version: gameVersion(game),
    tools: await Promise.all(install.tools.map((tool) => toolFacts(game, tool, ask))),
    base: {
      files: pack.files.length,
      version: pack === EMPTY_PACK ? null : pack.version,
      wrong: wrong.map(({ path }) => path),
      hashed: hash,
      restorable: existsSync(join(folder, install.redist, `${install.basePack}.zip`)),
    },
    mods: modsFacts(join(folder, install.mods)),
    freeBytes: space.bavail * space.bsize,
    machine: {
      system: process.platform as System,
      memory: Math.round(totalmem() / (1 << 20)),
      cores: cpus().length,
      foldsCase: foldsCase(folder, install.versionFile),
      now: Date.now(),
      installedAt: statSync(join(folder, install.versionFile), { throwIfNoEntry: false })?.mtimeMs ?? null,
    },
  };
}

async function toolFacts({ profile, folder }: GameInstall, tool: Profile['install']['tools'][number], ask: boolean): Promise<ToolFacts> {
  const restorable = existsSync(join(folder, profile.install.redist, `${tool.id}.zip`));
  const own = readJson(folder, `${tool.folder}/tool.json`)?.version;
  const stated = typeof own === 'string' ? own : null;
  if (!tool.version) return { id: tool.id, version: stated, problem: null, restorable };
  if (!ask) return { id: tool.id, version: stated, problem: 'It says its version when it is run, which you have not allowed yet.', restorable };
  const { version, problem } = await askVersion(tool.version, folder);
  return { id: tool.id, version, problem, restorable };
}

function modsFacts(path: string): InstallFacts['mods'] {
  if (!existsSync(path)) return { path, exists: false, writable: false };
  try {
    // Root may write anywhere, so ask the disk itself and not only the permission bits.
    accessSync(path, constants.W_OK);
    const probe = join(path, `.probe-${process.pid}`);
    writeFileSync(probe, '');
    rmSync(probe);
    return { path, exists: true, writable: true };
  } catch {
    return { path, exists: true, writable: false };
  }
}

/** Whether a file that is there is found under its name in other letters too. */
function foldsCase(folder: string, file: string): boolean {
  const other = file.toUpperCase() === file ? file.toLowerCase() : file.toUpperCase();
  return other !== file && existsSync(join(folder, file)) && existsSync(join(folder, other));
}
