import { askWorkshop } from '@violet-crate/host/workshopClient';
import { UsageError, type Command } from '../command.ts';
import { needToken, WORKSHOP_OPTIONS, workshopOf } from '../workshopOptions.ts';

interface ModView {
  name: string;
  visibility: string;
  organisation: string;
  current: string | null;
  deletedAt: string | null;
  versions: { version: string; shareCode: string; publishedAt: string; downloads: number; withdrawnAt?: string; withdrawnFor: string }[];
}

const ACTS = ['list', 'withdraw', 'rollback', 'list-publicly', 'hide', 'tested'] as const;

export const releaseCommand: Command = {
  summary: 'See and manage your releases on a workshop: withdraw one, give an older one out again, list or hide a mod.',
  usage: 'crate release list | withdraw NAME VERSION --reason TEXT | rollback NAME VERSION | list-publicly NAME | hide NAME | tested NAME VERSION',
  options: {
    ...WORKSHOP_OPTIONS,
    reason: { value: 'TEXT', summary: 'why a version is withdrawn; players who have it read that' },
    note: { value: 'TEXT', summary: 'what a tester has to say' },
    broken: { summary: 'the tested version does not work' },
  },
  arguments: [1, 3],
  async run([act, name, version], options) {
    if (!(ACTS as readonly string[]).includes(act)) throw new UsageError(`"${act}" is not known; use ${ACTS.join(', ')}.`);
    const ask = (method: 'GET' | 'POST', path: string, body?: object) =>
      askWorkshop(workshopOf(options), needToken(options), method, `/api/${path}`, body);
    if (act === 'list') {
      const mods = (await ask('GET', 'mine')) as ModView[];
      return { code: 0, result: { mods }, text: mods.flatMap(lines).join('\n') || 'You have not published anything yet.' };
    }
    if (!name) throw new UsageError(`crate release ${act} needs the name of a mod.`);
    if (!version && ['withdraw', 'rollback', 'tested'].includes(act)) throw new UsageError(`crate release ${act} needs a version.`);
    if (act === 'withdraw' && !options.reason) throw new UsageError('Say why with --reason.');
    const orders: Record<string, [path: string, body: object]> = {
      withdraw: ['withdraw', { version, reason: options.reason }],
      rollback: ['rollback', { version }],
      'list-publicly': ['visibility', { visibility: 'listed' }],
      hide: ['visibility', { visibility: 'private' }],
      tested: ['tested', { version, works: options.broken === undefined, note: options.note ?? '' }],
    };
    const [path, body] = orders[act];
    const mod = (await ask('POST', `mods/${encodeURIComponent(name)}/${path}`, body)) as ModView;
    return { code: 0, result: { ...mod }, text: lines(mod).join('\n') };
  },
};

const lines = ({ name, visibility, organisation, current, deletedAt, versions }: ModView): string[] => [
  `${name}, ${deletedAt ? 'deleted' : visibility}, by ${organisation}`,
  ...versions.map(
    (one) =>
      `  ${one.version.padEnd(10)}${one.shareCode}  ${one.publishedAt.slice(0, 10)}  ${one.downloads} downloads${one.version === current ? '  given out' : ''}${one.withdrawnAt ? `  withdrawn: ${one.withdrawnFor}` : ''}`,
  ),
];
