/** What it means for a crate that its game is another than when somebody last looked. */

import { linkMap } from '../link/report.ts';
import type { CrateWorld } from '../crate/world.ts';
import type { Profile } from '../profile/schema.ts';
import { versionProblem } from '../profile/versionRule.ts';

/** What a crate knows of its game: the install's version, and the stock files that it uses by hash. */
export interface SeenGame {
  folder: string;
  version: string;
  stock: Record<string, string>;
}

/** The stock files that the maps of a crate use, by hash. */
export function stockInUse(world: CrateWorld): Record<string, string> {
  const hashes = new Map(world.base.files.map((file) => [file.path, file.sha256]));
  const used: Record<string, string> = {};
  for (const name of Object.keys(world.crate.maps))
    for (const link of linkMap(world, name).links) {
      const hash = link.origin === 'game' ? hashes.get(link.name) : undefined;
      if (hash) used[link.name] = hash;
    }
  return used;
}

export interface GameChange {
  /** One sentence of all that has changed. */
  message: string;
  /** Stock files in use that are other ones now, and those that are gone. */
  changed: string[];
  gone: string[];
}

/**
 * @param tools versions of the tools in the install as it is now, by id
 * @param stock hashes of all stock files as they are now
 * @returns null where nothing that matters to the crate is different
 */
export function gameChange(
  profile: Profile,
  before: SeenGame,
  now: { folder: string; version: string; tools: Record<string, string | null>; stock: ReadonlyMap<string, string> },
): GameChange | null {
  const [changed, gone]: [string[], string[]] = [[], []];
  for (const [path, hash] of Object.entries(before.stock)) {
    const present = now.stock.get(path);
    if (present === undefined) gone.push(path);
    else if (present !== hash) changed.push(path);
  }
  const parts: string[] = [];
  if (now.folder !== before.folder) parts.push(`it lies in ${now.folder} now`);
  if (now.version !== before.version) {
    parts.push(`the game is ${now.version} now, and was ${before.version}`);
    for (const tool of profile.install.tools) {
      const version = now.tools[tool.id];
      if (version && versionProblem(tool.rule ?? 'release', version, now.version)) parts.push(`${tool.title} ${version} no longer matches`);
    }
  }
  const files = (count: number) => `${count} ${count === 1 ? 'file' : 'files'}`;
  if (changed.length > 0) parts.push(`the base pack changed in ${files(changed.length)} that this crate uses`);
  if (gone.length > 0) parts.push(`${files(gone.length)} that this crate uses ${gone.length === 1 ? 'is' : 'are'} gone from it`);
  if (parts.length === 0) return null;
  const sentence = parts.join('; ');
  return { message: `${sentence[0].toUpperCase()}${sentence.slice(1)}.`, changed, gone };
}
