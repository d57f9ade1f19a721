/** Crates and games as folders on disk. */

import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { basename, dirname, join, resolve, sep } from 'node:path';
import type { BasePack } from '@violet-crate/core/crate/basePack';
import { LOCK_FILE, readLock, type CrateLock } from '@violet-crate/core/crate/lock';
import { readRequired, readStockFile } from '@violet-crate/host/requiredCrates';
import { isBesideCrate, readCrate } from '@violet-crate/core/crate/contents';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { Finding } from '@violet-crate/core/finding';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { loadProfile } from '@violet-crate/core/profile/load';
import { canonicalJson } from '@violet-crate/core/hash';
import { commandsOf } from '@violet-crate/core/setup/programs';
import { resolveCommands } from '@violet-crate/host/setup/commands';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { StageCache } from '@violet-crate/core/stages/contract/stage';
import { stageCache } from '@violet-crate/host/files';
import { readTree } from '@violet-crate/host/folderTree';
import { gameVersion, readStock } from '@violet-crate/host/setup/readFacts';
import { own } from '@violet-crate/core/own';
import { inInstall } from '@violet-crate/host/setup/places';
import { fileURLToPath } from 'node:url';

/** All files of a crate's folder, without results. */
export const readCrateTree = (folder: string): FileTree => readTree(folder, { skip: isBesideCrate });

/** Where the application keeps what it has; games and profiles of the user among it. */
const dataFolder = (): string => process.env.VIOLET_CRATE_DATA ?? 'data';
export const gamesFolder = (): string => resolve(process.env.VIOLET_CRATE_GAMES ?? join(dataFolder(), 'games'));

/** Folder of the profiles that ship. */
const shippedFolder = (): string => dirname(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')));

/** Whether a profile's commands may be run: those of the demo's own games, or such as the user says with --programs that they have read. */
export function mayRun(profile: Profile, game: string, options: { programs?: string }): boolean {
  const file = join(shippedFolder(), `${profile.id}.json`);
  const shipped = existsSync(file) && canonicalJson(loadProfile(readFileSync(file, 'utf8'), file)) === canonicalJson(profile);
  // Where there is no game there is nothing of its to run.
  const ours = shipped && (!existsSync(game) || resolve(game).startsWith(gamesFolder() + sep));
  return ours || options.programs === 'allow' || commandsOf(profile).length === 0;
}

/** @throws UnreadableInput with every command as it would run, where they may not be run */
export function needMayRun(profile: Profile, game: string, options: { programs?: string }): void {
  if (mayRun(profile, game, options)) return;
  const commands = resolveCommands({ profile, folder: resolve(game) }).commands.map(commandWords);
  throw new UnreadableInput(
    'programs-unread',
    `The profile of ${profile.title} runs programs that did not ship: ${commands.join('; ')}. Read them, then say --programs allow.`,
  );
}

/** A command with all that decides what it does, in one line. */
export const commandWords = ({ line, folder, environment }: { line: string[]; folder: string; environment: Record<string, string> }): string =>
  [...Object.entries(environment).map(([name, value]) => `${name}=${value}`), ...line].join(' ') + ` (in ${folder})`;

/** The option by which the commands of a profile are allowed. */
export const PROGRAMS_OPTION = { programs: { value: 'allow', summary: 'run the programs of a profile that did not ship, which you have read' } };

/** Profiles that ship, and those that the user added. */
export function allProfiles(): Profile[] {
  const own = join(dataFolder(), 'profiles');
  const read = (folder: string) =>
    existsSync(folder)
      ? readdirSync(folder)
          .filter((name) => name.endsWith('.json'))
          .sort()
          .map((name) => join(folder, name))
      : [];
  const found = read(shippedFolder()).map((file) => loadProfile(readFileSync(file, 'utf8'), basename(file)));
  for (const file of read(own)) {
    try {
      const profile = loadProfile(readFileSync(file, 'utf8'), file);
      if (!found.some(({ id }) => id === profile.id)) found.push(profile);
    } catch (error) {
      // A damaged profile stands in nobody's way; "crate profile check" says what is wrong with it.
      if (!(error instanceof UnreadableInput)) throw error;
    }
  }
  return found;
}

export function profileById(id: string): Profile {
  if (!/^[a-z][a-z0-9_]*$/.test(id)) throw new UnreadableInput('profile-unknown', `"${id}" is not the name of a profile.`);
  const profiles = allProfiles();
  const found = profiles.find((profile) => profile.id === id);
  if (!found)
    throw new UnreadableInput('profile-unknown', `There is no profile "${id}".`, {}, `Profiles: ${profiles.map((one) => one.id).join(', ')}.`);
  return found;
}

/** The stock of the game's install; none where no game lies there. */
export const basePackOf = (profile: Profile, game: string): BasePack => readStock({ profile, folder: game });

/** Where the game of a profile lies unless told otherwise. */
export const defaultGame = (profileId: string): string =>
  process.env.VIOLET_CRATE_GAME ?? join(process.env.VIOLET_CRATE_DATA ?? 'data', 'games', profileId);

/** Where crates lie on this machine that others are made with. */
export const requiredRoot = (): string => join(process.env.VIOLET_CRATE_DATA ?? 'data', 'required');

/** What a crate's folder says of the versions that it is made with; a damaged file is told, and counts as none. */
function lockIn(tree: FileTree): { lock: CrateLock; damage?: string } {
  const bytes = tree.get(LOCK_FILE);
  try {
    return { lock: bytes ? readLock(new TextDecoder().decode(bytes)) : { format: 1, crates: {} } };
  } catch (error) {
    if (!(error instanceof UnreadableInput)) throw error;
    return { lock: { format: 1, crates: {} }, damage: error.message };
  }
}

export interface OpenCrate {
  folder: string;
  /** The install that it is made with, and that one's version; an empty text where no game lies there. */
  game: string;
  gameVersion: string;
  tree: FileTree;
  world: CrateWorld;
  /** Reads a file of the crate, or of the game's base pack. */
  readFile(path: string): Promise<Uint8Array>;
  /** What of its maps could not be read; empty unless `recover` was asked for. */
  damage: Finding[];
}

/** Opens a crate's folder. Damaged maps are errors, or with `recover` are read as far as they go. */
export function openCrate(folder: string, game?: string, recover = false): OpenCrate {
  const tree = readCrateTree(folder);
  const damage: Finding[] = [];
  const crate = readCrate(tree, recover ? damage : undefined);
  const profile = profileById(crate.manifest.profile);
  const install = game ?? defaultGame(profile.id);
  const { lock, damage: lockDamage } = lockIn(tree);
  const stock = inInstall(install, profile.install.basePack);
  const readFile = (path: string) => Promise.resolve(tree.get(path) ?? readStockFile(stock, requiredRoot(), lock, path));
  const version = gameVersion({ profile, folder: install }) ?? '';
  const { base, required } = readRequired(requiredRoot(), lock, basePackOf(profile, install));
  const world = { profile, base, crate, required: { ...required, ...(lockDamage === undefined ? {} : { damage: lockDamage }) } };
  return { folder, game: install, gameVersion: version, tree, damage, readFile, world };
}

/** The maps that a command works on. @throws UnreadableInput where there are none, or the main one is missing */
export function needMaps({ crate }: CrateWorld, main = false): void {
  const names = Object.keys(crate.maps);
  const { mainMap } = crate.manifest;
  if (names.length === 0)
    throw new UnreadableInput(
      'crate-no-map',
      'The crate has no maps.',
      { file: 'maps' },
      'Make one in the application, or copy its file into maps/.',
    );
  if (main && !own(crate.maps, mainMap))
    throw new UnreadableInput(
      'crate-main-map',
      `The crate has no map "${mainMap}", which crate.json names as its main one. Maps: ${names.join(', ')}.`,
      { file: 'crate.json' },
    );
}

/** Stage results under `build/cache/` of the crate. */
export const folderCache = (folder: string): StageCache => stageCache(join(folder, 'build', 'cache'));
