import { fingerprint } from '@violet-crate/core/release/signature';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { inInstall } from '@violet-crate/host/setup/places';
import {
  clashes,
  enableMod,
  goBack,
  installMod,
  listMods,
  modOrder,
  removeMod,
  updateOf,
  verifyMod,
  type InstalledMod,
} from '@violet-crate/host/mods';
import { UsageError, type Command } from '../command.ts';
import { defaultGame, profileById } from '../folder.ts';
import { askingForSigner, SIGNERS_OPTION, signersOf, tokenOf, WORKSHOP_OPTIONS } from '../workshopOptions.ts';

const ACTS = ['list', 'update', 'verify', 'remove', 'enable', 'disable', 'back'] as const;

export const modsCommand: Command = {
  summary: 'See the mods of a game, and update, verify, remove, enable or disable them, or go back to the version before.',
  usage: 'crate mods list|update|verify|remove|enable|disable|back [NAME] [--profile ID] [--game DIR]',
  options: {
    profile: { value: 'ID', summary: 'the game (brinewick)' },
    game: { value: 'DIR', summary: 'the game’s install' },
    ...WORKSHOP_OPTIONS,
    ...SIGNERS_OPTION,
    anyway: { summary: 'also where other mods need it' },
  },
  arguments: [1, 2],
  async run([act, name], options, progress) {
    if (!(ACTS as readonly string[]).includes(act)) throw new UsageError(`"${act}" is not known; use ${ACTS.join(', ')}.`);
    if (!name && ['remove', 'enable', 'disable', 'back'].includes(act)) throw new UsageError(`crate mods ${act} needs the name of a mod.`);
    const profile = profileById(options.profile ?? 'brinewick');
    const game = options.game ?? defaultGame(profile.id);
    const mods = inInstall(game, profile.install.mods);
    const anyway = options.anyway !== undefined;
    const installed = () => listMods(mods, game).filter((mod) => !name || mod.name === name);
    if (name && installed().length === 0)
      throw new UnreadableInput('mod-missing', `No mod ${name} is installed in ${mods}.`, {}, 'Look with "crate mods list".');
    if (act === 'verify') {
      const checked = installed().map((mod) => ({ name: mod.name, version: mod.manifest.version, problem: verifyMod(mods, mod.name, game) }));
      return {
        code: checked.some(({ problem }) => problem) ? 1 : 0,
        result: { mods: checked },
        text: checked.map((one) => `${one.name} ${one.version}: ${one.problem ?? 'every file is as it was published'}`).join('\n'),
      };
    }
    if (act === 'update') {
      const done = [];
      for (const mod of installed()) {
        progress(`Asking for ${mod.name}`);
        const update = await updateOf(mod, mod.from ? tokenOf(options, mod.from.workshop) : null, 'command-line');
        if (!update || !mod.from) continue;
        const { workshop } = mod.from;
        const given = { workshop, token: tokenOf(options, workshop), shareCode: update.shareCode, signers: signersOf(options) };
        const made = await askingForSigner(() => installMod(mods, profile.id, given, game));
        done.push(...made.map((one) => ({ name: one.name, version: one.version, fetched: one.fetched })));
      }
      return {
        code: 0,
        result: { updated: done },
        text:
          done.map((one) => `${one.name} is ${one.version} now, ${one.fetched} bytes fetched`).join('\n') ||
          'All are as the workshop gives them out.',
      };
    }
    if (act === 'remove') removeMod(mods, name, anyway, game);
    if (act === 'enable' || act === 'disable') enableMod(mods, name, act === 'enable', anyway);
    if (act === 'back') goBack(mods, name, game);
    const list = listMods(mods, game);
    const conflicts = clashes(list, modOrder(mods));
    return {
      code: 0,
      result: { mods: list.map(viewOf), conflicts },
      text:
        [
          ...list.map(line),
          ...conflicts.map(({ path, mods: both }) => `${path} is brought by ${both.join(' and ')}; that of ${both[0]} counts`),
        ].join('\n') || 'No mods are installed.',
    };
  },
};

const viewOf = ({ name, manifest, enabled, bytes, from, before, signer }: InstalledMod) => ({
  name,
  title: manifest.title,
  version: manifest.version,
  enabled,
  bytes,
  before,
  local: manifest.local === true,
  shareCode: from?.shareCode ?? null,
  signed: signer === null ? null : signer === false ? false : fingerprint(signer),
});

const line = (mod: InstalledMod): string => {
  const { name, version, enabled, local, shareCode, before } = viewOf(mod);
  const notes = [enabled ? '' : 'disabled', local ? 'copy of a crate under work' : '', shareCode ?? '', before ? `before: ${before}` : ''].filter(
    Boolean,
  );
  return `${name} ${version}  ${notes.join(', ')}`;
};
