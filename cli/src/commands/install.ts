import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { installRelease } from '@violet-crate/core/release/install';
import { openRelease } from '@violet-crate/core/release/pack';
import { fetchRelease } from '@violet-crate/host/workshopClient';
import type { Command } from '../command.ts';
import { modsFolder } from '@violet-crate/host/modsFolder';
import { profileById } from '../folder.ts';

/** Which game an install says that it is; null where its file cannot be read. */
function gameOf(versionFile: string): string | null {
  try {
    const { game } = JSON.parse(readFileSync(versionFile, 'utf8')) as { game?: unknown };
    return typeof game === 'string' ? game : null;
  } catch {
    return null;
  }
}

export const installCommand: Command = {
  summary: 'Install a published mod into a game, verified by hash.',
  usage: 'crate install SHARECODE --workshop URL --game DIR',
  options: {
    workshop: { value: 'URL', summary: 'address of the workshop', required: true },
    game: { value: 'DIR', summary: 'the game’s install', required: true },
  },
  arguments: [1, 1],
  async run([code], options) {
    const game = options.game!;
    const { release, zip } = await fetchRelease(options.workshop!, code);
    const { manifest, tree } = openRelease(zip, `the package of ${code}`);
    const profile = profileById(manifest.profile);
    const versionFile = join(game, profile.install.versionFile);
    if (!existsSync(versionFile))
      throw new UnreadableInput('game-missing', `There is no ${profile.title} in ${game}: ${profile.install.versionFile} is missing.`);
    const found = gameOf(versionFile);
    if (found !== profile.id)
      throw new UnreadableInput(
        'game-other',
        `${release.title} is for ${profile.title}, but ${game} holds ${found ? `"${found}"` : 'something else'}.`,
      );
    const mods = join(game, profile.install.mods);
    const verified = installRelease(modsFolder(mods), manifest, tree);
    return {
      code: 0,
      result: { name: manifest.name, version: manifest.version, folder: join(mods, manifest.name), verified },
      text: `Installed ${manifest.title} ${manifest.version} into ${join(mods, manifest.name)}; ${verified} files verified.`,
    };
  },
};
