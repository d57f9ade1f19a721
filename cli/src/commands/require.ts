import { LinkGraph } from '@violet-crate/core/link/graph';
import { changedByRequired } from '@violet-crate/core/link/required';
import { LOCK_FILE, writeLock, type LockedCrate } from '@violet-crate/core/crate/lock';
import { own } from '@violet-crate/core/own';
import { fetchRequired, readRequired, resolveRequired } from '@violet-crate/host/requiredCrates';
import { UsageError, type Command } from '../command.ts';
import { basePackOf, openCrate, requiredRoot } from '../folder.ts';
import { tokenOf, WORKSHOP_OPTIONS, workshopOf } from '../workshopOptions.ts';
import { writeInside } from '@violet-crate/host/inside';

export const requireCommand: Command = {
  summary: 'Choose versions of the crates that one requires, see what newer ones would change, or fetch those that are locked.',
  usage: 'crate require DIR [--look] [--fetch]',
  options: {
    look: { summary: 'only say what newer versions there are and what they would change' },
    fetch: { summary: `only fetch what ${LOCK_FILE} names and this machine lacks` },
    ...WORKSHOP_OPTIONS,
    game: { value: 'DIR', summary: 'the game’s install' },
  },
  arguments: [1, 1],
  async run([dir], options, progress) {
    if (options.look !== undefined && options.fetch !== undefined) throw new UsageError('Either --look or --fetch, not both.');
    const { world, game } = openCrate(dir, options.game);
    const { lock } = world.required!;
    const workshop = { workshop: workshopOf(options), token: tokenOf(options) };
    const take = (name: string, wanted: Parameters<typeof fetchRequired>[2]) => {
      progress(`Fetching ${name} ${wanted.version}`);
      return fetchRequired(requiredRoot(), name, wanted, workshop);
    };
    if (options.fetch !== undefined) {
      const { missing } = world.required!;
      for (const name of missing) await take(name, lock.crates[name]);
      return { code: 0, result: { fetched: missing }, text: missing.length > 0 ? `Fetched: ${missing.join(', ')}.` : 'All of it is here.' };
    }
    const crates: Record<string, LockedCrate> = {};
    for (const [name, found] of Object.entries(await resolveRequired(world.crate.manifest, workshop))) {
      const known = own(lock.crates, name);
      crates[name] = await take(name, known?.version === found.version ? known : found);
    }
    const next = readRequired(requiredRoot(), { format: 1, crates }, basePackOf(world.profile, game));
    const means = changedByRequired(world, new LinkGraph(world), next.base);
    const lines = Object.entries(crates).map(([name, { version }]) => {
      const was = own(lock.crates, name)?.version;
      return `${name} ${version}${was === version ? '' : was ? `, was ${was}` : ', new'}`;
    });
    if (options.look === undefined) writeInside(dir, [[LOCK_FILE, new TextEncoder().encode(writeLock({ format: 1, crates }))]]);
    return {
      code: 0,
      result: { crates, means, written: options.look === undefined },
      text: [...lines, ...means].join('\n') || 'The crate requires no others.',
    };
  },
};
