/** Looks for a game on this machine, in the places that its profile names. */

import { existsSync, readdirSync, readFileSync, realpathSync, statSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { isAbsolute, join } from 'node:path';
import type { Profile } from '@violet-crate/core/profile/schema';
import { newestFirst } from '@violet-crate/core/profile/versionRule';
import { readInside } from '../inside.ts';
import { placed, type Places } from './places.ts';

export interface FoundGame {
  /** Stable for a folder: crates name their install by it. */
  id: string;
  folder: string;
  version: string | null;
  /** How it was found, in words: "in the games folder", "by its variable QUAY_HOME", "chosen by you". */
  how: string;
}

/** Bytes and lines of a file that lists folders. */
const LIST_BYTES = 1 << 20;
const LIST_LINES = 1000;

export const installId = (folder: string): string => createHash('sha256').update(folder).digest('hex').slice(0, 10);

/** Whose game lies in a folder, and in which version; null where none of this profile does. */
export function gameIn(profile: Profile, folder: string): { version: string | null } | null {
  const markers = profile.install.find?.markers;
  try {
    const about = JSON.parse(new TextDecoder().decode(readInside(folder, profile.install.versionFile, LIST_BYTES) ?? undefined)) as {
      game?: unknown;
      version?: unknown;
    };
    if (about.game === profile.id) return { version: typeof about.version === 'string' ? about.version : null };
    if (about.game !== undefined) return null;
  } catch {
    // Damaged or not there: its markers still tell which game it is.
  }
  return markers?.length && markers.every((path) => existsSync(join(folder, path))) ? { version: null } : null;
}

/** All installs of a profile's game, each once: first those of the application's own folder, the newest of them first. */
export function findGames(profile: Profile, places: Places, chosen: readonly string[] = []): FoundGame[] {
  const found = new Map<string, FoundGame>();
  const look = (folder: string | null, how: string, keep = false) => {
    if (!folder || !isAbsolute(folder) || !statSync(folder, { throwIfNoEntry: false })?.isDirectory()) {
      // A chosen folder that is gone stays in sight, so that somebody can say where it went.
      if (folder && keep && !found.has(folder)) found.set(folder, { id: installId(folder), folder, version: null, how: 'chosen by you, and gone' });
      return;
    }
    const game = gameIn(profile, folder);
    const real = realpathSync(folder);
    if ((!game && !keep) || found.has(real)) return;
    found.set(real, { id: installId(real), folder: real, version: game?.version ?? null, how });
  };
  const { folders = [], environment = [], libraries = [] } = profile.install.find ?? {};
  const ownFolders = subfolders(places.games).map((name) => join(places.games, name));
  for (const folder of ownFolders) look(folder, 'in the games folder');
  const first = [...found.values()].sort((a, b) => newestFirst(a.version ?? '0', b.version ?? '0'));
  found.clear();
  for (const game of first) found.set(game.folder, game);
  for (const name of environment) look(places.env[name] ?? null, `by the variable ${name}`);
  for (const { system, path } of folders) if (!system || system === process.platform) look(placed(path, places), 'in its usual folder');
  for (const { file, below } of libraries) {
    const list = placed(file, places);
    if (list) for (const folder of listedFolders(list)) look(below ? join(folder, below) : folder, `by the list ${list}`);
  }
  for (const folder of chosen) look(folder, 'chosen by you', true);
  return [...found.values()];
}

function subfolders(folder: string): string[] {
  try {
    return readdirSync(folder, { withFileTypes: true })
      .filter((entry) => !entry.isFile() && !entry.name.startsWith('.'))
      .map(({ name }) => name)
      .sort();
  } catch {
    return [];
  }
}

/** Folders that a file lists: one a line, # before a remark, or a list of texts in JSON. */
function listedFolders(file: string): string[] {
  const stats = statSync(file, { throwIfNoEntry: false });
  if (!stats?.isFile() || stats.size > LIST_BYTES) return [];
  const text = readFileSync(file, 'utf8');
  if (text.trimStart().startsWith('[')) {
    try {
      const list: unknown = JSON.parse(text);
      return Array.isArray(list) ? list.filter((entry) => typeof entry === 'string').slice(0, LIST_LINES) : [];
    } catch {
      return [];
    }
  }
  return text
    .split('\n', LIST_LINES)
    .map((line) => line.trim())
    .filter((line) => line !== '' && !line.startsWith('#'));
}
