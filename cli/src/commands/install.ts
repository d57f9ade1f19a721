import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { installMod } from '@violet-crate/host/mods';
import { askRelease } from '@violet-crate/host/workshopClient';
import { inInstall } from '@violet-crate/host/setup/places';
import type { Command } from '../command.ts';
import { profileById } from '../folder.ts';
import { askingForSigner, SIGNERS_OPTION, signersOf, tokenOf, WORKSHOP_OPTIONS, workshopOf } from '../workshopOptions.ts';
import { readText } from '../readInput.ts';

/** Which game an install says that it is; null where its file cannot be read. */
function gameOf(versionFile: string): string | null {
  try {
    const { game } = JSON.parse(readText(versionFile)) as { game?: unknown };
    return typeof game === 'string' ? game : null;
  } catch {
    return null;
  }
}

export const installCommand: Command = {
  summary: 'Install a published mod and what it needs into a game, verified by hash.',
  usage: 'crate install SHARECODE [--workshop URL] --game DIR',
  options: {
    ...WORKSHOP_OPTIONS,
    ...SIGNERS_OPTION,
    game: { value: 'DIR', summary: 'the game’s install', required: true },
  },
  arguments: [1, 1],
  async run([code], options) {
    const game = options.game!;
    const [workshop, token] = [workshopOf(options), tokenOf(options)];
    const { title, profile: id } = await askRelease(workshop, code, undefined, token);
    const profile = profileById(id);
    const versionFile = join(game, profile.install.versionFile);
    if (!existsSync(versionFile))
      throw new UnreadableInput('game-missing', `There is no ${profile.title} in ${game}: ${profile.install.versionFile} is missing.`);
    const found = gameOf(versionFile);
    if (found !== profile.id)
      throw new UnreadableInput('game-other', `${title} is for ${profile.title}, but ${game} holds ${found ? `"${found}"` : 'something else'}.`);
    const given = { workshop, token, shareCode: code, signers: signersOf(options) };
    const installed = await askingForSigner(() => installMod(inInstall(game, profile.install.mods), profile.id, given, game));
    const { name, version, folder, verified } = installed.at(-1)!;
    return {
      code: 0,
      result: { name, version, folder, verified, installed },
      text: installed.map((one) => `Installed ${one.title} ${one.version} into ${one.folder}; ${one.verified} files verified.`).join('\n'),
    };
  },
};
