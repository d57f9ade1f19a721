import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Profile } from '@violet-crate/core/profile/schema';
import { depotFile } from '@violet-crate/core/setup/depot';
import { offersFor, type Offer } from '@violet-crate/core/setup/packUpdates';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { archiveUrl, fetchArchive, fetchDepotIndex, needSpace } from '@violet-crate/host/setup/depotClient';
import { PACKS_FOLDER, readFacts, readPacks } from '@violet-crate/host/setup/readFacts';
import { unpackWhole } from '@violet-crate/host/setup/unpack';
import { inInstall } from '@violet-crate/host/setup/places';
import { UsageError, type Command } from '../command.ts';
import { defaultGame, mayRun, profileById, PROGRAMS_OPTION } from '../folder.ts';

const LIMITS = { entries: 200_000, bytes: 2 ** 36 };

export const packsCommand: Command = {
  summary: 'List what a depot has for a game, put a pack or a tool into its install, or take one out.',
  usage: 'crate packs list|add|remove [ITEM] [--profile ID] [--game DIR] [--version V] [--depot URL]',
  options: {
    profile: { value: 'ID', summary: 'the game (brinewick)' },
    game: { value: 'DIR', summary: 'the game’s install' },
    version: { value: 'V', summary: 'which version is added; the newest that goes with the game without it' },
    ...PROGRAMS_OPTION,
    depot: { value: 'URL', summary: 'address of the depot (VIOLET_CRATE_DEPOT, or the stand-in of this machine)' },
  },
  arguments: [1, 2],
  async run([what, item], options, progress) {
    if (!['list', 'add', 'remove'].includes(what)) throw new UsageError(`"${what}" is not known; use list, add or remove.`);
    if (what !== 'list' && !item) throw new UsageError(`crate packs ${what} needs the id of a pack or a tool.`);
    const profile = profileById(options.profile ?? 'brinewick');
    const game = options.game ?? defaultGame(profile.id);
    const depot = options.depot ?? process.env.VIOLET_CRATE_DEPOT ?? `http://127.0.0.1:${process.env.VIOLET_CRATE_WORKSHOP_PORT ?? 4281}/depot`;
    if (what === 'remove') return remove(profile, game, item);
    const facts = await readFacts({ profile, folder: game }, { hash: false, ask: mayRun(profile, game, options) });
    const installed: Record<string, string> = Object.fromEntries([...readPacks({ profile, folder: game })].map(([id, pack]) => [id, pack.version]));
    for (const { id, version } of facts.tools) if (version) installed[id] = version;
    if (facts.version) installed[profile.id] = facts.version;
    const offers = offersFor((await fetchDepotIndex(depot)).items, profile.id, facts.version, installed);
    if (what === 'list') return { code: 0, result: { game, offers: offers.map(listed) }, text: offers.map(offerLine).join('\n') };
    const offer = offers.find((one) => one.item.id === item);
    const version = offer?.versions.find((one) => options.version === undefined || one.version === options.version);
    if (!offer || !version)
      throw new UnreadableInput('depot-unknown', `The depot has no ${item} ${options.version ?? ''} for this game.`.replace('  ', ' '));
    const tool = profile.install.tools.find(({ id }) => id === item);
    const target =
      offer.item.kind === 'game'
        ? game
        : offer.item.kind === 'pack'
          ? inInstall(game, `${profile.install.basePack}/${PACKS_FOLDER}/${item}`)
          : tool
            ? inInstall(game, tool.folder)
            : null;
    if (!target) throw new UnreadableInput('depot-kind', `${offer.item.title} is no part of an install; get it in the application.`);
    if (offer.item.kind === 'game' && existsSync(target))
      throw new UnreadableInput('game-there', `${target} is there already.`, {}, 'Give another folder with --game.');
    needSpace(existsSync(game) ? game : '.', version.bytes + version.unpacked, offer.item.title);
    const temporary = mkdtempSync(join(tmpdir(), 'violet-packs-'));
    try {
      const file = join(temporary, depotFile(item, version.version));
      await fetchArchive({
        url: archiveUrl(depot, item, version.version),
        file,
        version,
        onProgress: (bytes) => progress(`${bytes} of ${version.bytes} bytes`),
      });
      const { files } = await unpackWhole(file, target, { ...LIMITS, bytes: version.unpacked });
      return {
        code: 0,
        result: { item, version: version.version, folder: target, files },
        text: `Put ${offer.item.title} ${version.version} into ${target} (${files} files).`,
      };
    } finally {
      rmSync(temporary, { recursive: true, force: true });
    }
  },
};

const listed = ({ item, versions, installed, update }: Offer) => ({
  id: item.id,
  kind: item.kind,
  title: item.title,
  versions: versions.map((one) => one.version),
  installed,
  update,
});

const offerLine = ({ item, versions, installed, update }: Offer): string =>
  `${item.id.padEnd(14)} ${item.kind.padEnd(10)} ${versions.map((one) => one.version).join(', ')}${installed ? `  (${installed} is there${update ? `, ${update} is newer` : ''})` : ''}  ${item.brings}`;

function remove(profile: Profile, game: string, item: string) {
  const tool = profile.install.tools.find(({ id }) => id === item);
  const folder = tool
    ? inInstall(game, tool.folder)
    : readPacks({ profile, folder: game }).has(item)
      ? inInstall(game, `${profile.install.basePack}/${PACKS_FOLDER}/${item}`)
      : null;
  if (!folder || !existsSync(folder)) throw new UnreadableInput('pack-unknown', `${item} is no pack or tool of the game in ${game}.`);
  rmSync(folder, { recursive: true });
  return { code: 0 as const, result: { item, folder }, text: `Removed ${folder}.` };
}
