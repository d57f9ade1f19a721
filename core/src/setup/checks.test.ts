import { describe, expect, it } from '@jest/globals';
import { testWorld } from '../testing/world.ts';
import { checkInstall } from './checks.ts';
import type { InstallFacts } from './facts.ts';
import { gameChange } from './gameChange.ts';
import { setupReport } from './report.ts';
import { commandsOf } from './programs.ts';

const { profile } = testWorld();
const good = (): InstallFacts => ({
  folder: '/games/brinewick',
  version: '2.4.1',
  tools: profile.install.tools.map(({ id }) => ({ id, version: '2.4.0', problem: null, restorable: true })),
  base: { files: 40, version: '2.4.1', wrong: [], hashed: true, restorable: true },
  mods: { path: '/games/brinewick/mods', exists: true, writable: true },
  freeBytes: 1e12,
  machine: { system: 'linux', memory: 8000, cores: 4, foldsCase: false, now: Date.UTC(2026, 5, 1), installedAt: Date.UTC(2026, 4, 1) },
});
const failing = (change: (facts: InstallFacts) => void) => {
  const facts = good();
  change(facts);
  return checkInstall(profile, facts).filter(({ ok }) => !ok);
};

describe('the checks of an install', () => {
  it('find nothing wrong where all is as it should be', () => {
    const checks = checkInstall(profile, good());
    expect(checks.filter(({ ok }) => !ok)).toEqual([]);
    expect(checks.map(({ id }) => id)).toEqual(
      expect.arrayContaining(['game', 'tool-mapkit', 'version-mapkit', 'base', 'mods', 'space', 'system', 'memory', 'cores', 'path']),
    );
  });

  it.each<[string, (facts: InstallFacts) => void, string, string, RegExp]>([
    ['no game', (f) => (f.version = null), 'game', 'blocker', /version.json is missing/],
    ['a tool of another release', (f) => (f.tools[0].version = '2.5.0'), 'version-mapkit', 'blocker', /tool is 2.5.0, the game 2.4.1/],
    [
      'a tool that does not answer',
      (f) => Object.assign(f.tools[0], { version: null, problem: 'It took longer than 5 seconds.' }),
      'tool-mapkit',
      'blocker',
      /longer than 5/,
    ],
    ['changed stock', (f) => (f.base.wrong = ['a', 'b', 'c', 'd']), 'base', 'blocker', /4 of 40 files are missing or changed: a, b, c …/],
    ['no stock', (f) => (f.base.version = null), 'base', 'blocker', /pack.json is missing/],
    ['stock of another release', (f) => (f.base.version = '2.3.9'), 'base', 'warning', /The pack is 2.3.9, the game 2.4.1/],
    ['no mods folder', (f) => (f.mods.exists = false), 'mods', 'blocker', /does not exist/],
    ['a mods folder that cannot be written', (f) => (f.mods.writable = false), 'mods', 'blocker', /cannot be written/],
    ['a full disk', (f) => (f.freeBytes = 1 << 20), 'space', 'warning', /1 MiB free, 256 MiB wanted/],
    ['little memory', (f) => (f.machine.memory = 900), 'memory', 'warning', /900 MiB, 2,048 MiB wanted/],
    ['one core', (f) => (f.machine.cores = 1), 'cores', 'warning', /1, 2 wanted/],
    ['a disk that folds case', (f) => (f.machine.foldsCase = true), 'case', 'note', /Door.png and door.png/],
    [
      'a clock that is behind',
      (f) => (f.machine.now = Date.UTC(1980, 0, 1)),
      'clock',
      'warning',
      /says 1980-01-01, but the game was installed on 2026-05-01/,
    ],
    ['a path that is too long', (f) => (f.folder = `/${'x'.repeat(300)}`), 'path', 'blocker', /301 characters; the game’s tools take 200/],
    ['letters that tools cannot read', (f) => (f.folder = '/Spiele/Brünwick'), 'path', 'blocker', /letters in/],
  ])('%s', (_, change, id, severity, detail) => {
    const [check, ...more] = failing(change);
    expect([check.id, check.severity, more]).toEqual([id, severity, []]);
    expect(check.detail).toMatch(detail);
    expect(check.hint).toBeTruthy();
  });

  it('go into a report that names no folder of the user', () => {
    const facts = good();
    facts.folder = '/home/ada/games/brinewick';
    facts.mods.path = '/home/ada/games/brinewick/mods';
    const text = setupReport(profile, facts, checkInstall(profile, facts), [
      ['/home/ada/games/brinewick', '[game]'],
      ['/home/ada', '~'],
    ]);
    expect(text).not.toContain('ada');
    expect(text).toContain('ok     Mods folder writable: [game]/mods');
    expect(text).toContain('linux, 4 cores, 8000 MiB of memory');
  });
});

describe('a game that is another one than before', () => {
  const before = { folder: '/g', version: '2.4.1', stock: { 'textures/brick.ktx2': 'a', 'textures/rope.ktx2': 'b', 'models/crank.glb': 'c' } };
  const stock = new Map(Object.entries(before.stock));

  it('is told with what it means for the crate', () => {
    const changed = new Map([...stock, ['textures/brick.ktx2', 'z'] as const]);
    changed.delete('models/crank.glb');
    const change = gameChange(profile, before, { folder: '/g', version: '2.5.0', tools: { mapkit: '2.4.0', texpress: '2.4.0' }, stock: changed })!;
    expect(change.message).toBe(
      'The game is 2.5.0 now, and was 2.4.1; Map kit 2.4.0 no longer matches; the base pack changed in 1 file that this crate uses; 1 file that this crate uses is gone from it.',
    );
    expect([change.changed, change.gone]).toEqual([['textures/brick.ktx2'], ['models/crank.glb']]);
  });

  it('is no other where nothing is that matters', () => {
    expect(
      gameChange(profile, before, { folder: '/g', version: '2.4.1', tools: {}, stock: new Map([...stock, ['textures/new.ktx2', 'n']]) }),
    ).toBeNull();
    expect(gameChange(profile, before, { folder: '/h', version: '2.4.1', tools: {}, stock })!.message).toBe('It lies in /h now.');
  });
});

describe('the programs of a profile', () => {
  it('are all told, with folder and variables', () => {
    const commands = commandsOf(profile);
    expect(commands.map(({ line }) => line[0])).toEqual(expect.arrayContaining(['{game}/bin/brinewick.mjs', 'node']));
    const other = structuredClone(profile);
    other.programs![1].environment = { BRINEWICK_MODE: 'quiet' };
    other.programs![1].folder = '{game}/tools';
    expect(commandsOf(other).filter(({ environment }) => environment.BRINEWICK_MODE === 'quiet')).toMatchObject([{ folder: '{game}/tools' }]);
  });
});
