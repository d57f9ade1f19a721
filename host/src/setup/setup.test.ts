/** Finding a game, looking at it, preparing it, and running its programs: real files and real processes. */

import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, realpathSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { beforeEach, describe, expect, it } from '@jest/globals';
import { sha256Hex } from '@violet-crate/core/hash';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { Program } from '@violet-crate/core/profile/toolchain';
import { findGames, gameIn } from './findGames.ts';
import { placed, placesOf, within } from './places.ts';
import { doStep, readSetting, stepStates, writeSetting } from './preparation.ts';
import { readFacts, readStock } from './readFacts.ts';
import { askVersion, runProgram } from './runProgram.ts';

const brinewick = loadProfile(
  readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'),
  'brinewick.json',
);

let root: string;
let profile: Profile;
beforeEach(() => {
  root = realpathSync(mkdtempSync(join(tmpdir(), 'violet-setup-')));
  profile = structuredClone(brinewick);
});

const write = (path: string, text: string): string => {
  const file = join(root, path);
  mkdirSync(join(file, '..'), { recursive: true });
  writeFileSync(file, text);
  return file;
};
const game = (folder: string, version: string, id = profile.id) => {
  write(`${folder}/version.json`, JSON.stringify({ game: id, version }));
  return join(root, folder);
};

describe('a game is found', () => {
  it('in the games folder, by variables, in usual folders and by lists, each install once, the newest of ours first', () => {
    const own = [game('games/b', '2.4.1'), game('games/a', '2.10.0')];
    game('games/other', '1.0.0', 'skarrow');
    const variable = game('by variable', '2.3.0');
    const listed = game('library/brinewick', '2.2.0');
    profile.install.find = {
      environment: ['BRINE_TEST', 'NOT_SET'],
      folders: [
        { path: `{env:BRINE_TEST}` },
        { path: '{env:NOT_SET}/x' },
        { system: process.platform === 'win32' ? 'linux' : 'win32', path: own[0] },
      ],
      libraries: [
        { file: join(root, 'libraries.txt'), below: 'brinewick' },
        { file: join(root, 'libraries.json'), below: 'brinewick' },
      ],
    };
    write('libraries.txt', `# folders with games\n\n${join(root, 'library')}\nrelative/path\n`);
    write('libraries.json', JSON.stringify([join(root, 'library'), 7]));
    const found = findGames(profile, placesOf(join(root, 'games'), { BRINE_TEST: variable }), [join(root, 'gone')]);
    expect(found.map(({ folder, version }) => [folder, version])).toEqual([
      [own[1], '2.10.0'],
      [own[0], '2.4.1'],
      [variable, '2.3.0'],
      [listed, '2.2.0'],
      [join(root, 'gone'), null],
    ]);
    expect(found[2].how).toBe('by the variable BRINE_TEST');
    expect(found[4].how).toContain('gone');
    expect(new Set(found.map(({ id }) => id)).size).toBe(5);
  });

  it('by its markers where its version file is damaged, and never in the place of another', () => {
    profile.install.find = { markers: ['bin/brine', 'profile.json'] };
    const folder = game('x', '1.0.0');
    write('x/version.json', '{ damaged');
    expect(gameIn(profile, folder)).toBeNull();
    write('x/bin/brine', '');
    write('x/profile.json', '');
    expect(gameIn(profile, folder)).toEqual({ version: null });
    game('x', '1.0.0', 'skarrow');
    expect(gameIn(profile, folder)).toBeNull();
  });

  it('paths of profiles stay within their folder and their placeholders', () => {
    const places = placesOf('/games', {});
    expect(placed('{games}/a/{game}', places, { game: 'b' })).toBe('/games/a/b');
    expect(placed('{env:UNSET_BY_ALL}/a', places)).toBeNull();
    expect([within('/out', 'a/b'), within('/out', '../out2/a'), within('/out', '/etc')]).toEqual(['/out/a/b', null, '/out/etc']);
  });
});

const ALL = { hash: true, ask: true };

describe('what is seen of an install', () => {
  it('is what lies on disk, contents compared only where that is wanted', async () => {
    const folder = game('g', '2.4.1');
    const file = write('g/base/textures/a.ktx2', 'content');
    write(
      'g/base/pack.json',
      JSON.stringify({
        format: 1,
        title: 'Base',
        version: '2.4.1',
        materials: [],
        assets: {},
        files: [{ path: 'textures/a.ktx2', bytes: 7, sha256: sha256Hex(new TextEncoder().encode('content')) }],
      }),
    );
    write('g/tools/texpress/tool.json', JSON.stringify({ version: '2.4.0' }));
    const facts = await readFacts({ profile, folder }, ALL);
    expect(facts.base).toMatchObject({ files: 1, wrong: [], hashed: true, restorable: false });
    expect(facts.tools.find(({ id }) => id === 'texpress')!.version).toBe('2.4.0');
    expect(facts.mods.exists).toBe(false);
    writeFileSync(file, 'CONTENT');
    utimesSync(file, new Date(), new Date(Date.now() - 60_000));
    expect((await readFacts({ profile, folder }, { ...ALL, hash: false })).base.wrong).toEqual([]);
    expect((await readFacts({ profile, folder }, ALL)).base.wrong).toEqual(['textures/a.ktx2']);
  });

  it('runs no tool that nobody allowed, to ask for its version', async () => {
    const folder = game('g', '2.4.1');
    const mark = join(root, 'ran');
    profile.install.tools[0].version = {
      program: process.execPath,
      arguments: ['-e', `require('fs').writeFileSync(${JSON.stringify(mark)}, ''); console.log('kit 2.4.0')`],
      line: 'kit {version}',
    };
    const seen = async (ask: boolean) => (await readFacts({ profile, folder }, { hash: false, ask })).tools[0].version;
    expect([await seen(false), existsSync(mark)]).toEqual([null, false]);
    expect([await seen(true), existsSync(mark)]).toEqual(['2.4.0', true]);
  });

  it('optional packs are stock too, below the base pack, whose names come first', () => {
    const folder = game('g', '2.4.1');
    const pack = (title: string, materials: object[], files: object[] = []) =>
      JSON.stringify({ format: 1, title, version: '1.0.0', materials, assets: {}, files });
    const colour = { type: 'lit', colour: '#808080', unitsPerRepeat: 64 };
    write('g/base/pack.json', pack('Base', [{ name: 'brick', ...colour }]));
    const record = { path: 'textures/rope.ktx2', bytes: 3, sha256: 'a'.repeat(64) };
    write(
      'g/base/packs/ropes/pack.json',
      pack(
        'Ropes',
        [
          { name: 'brick', ...colour, colour: '#ffffff' },
          { name: 'rope', ...colour, texture: record.path },
        ],
        [record],
      ),
    );
    write('g/base/packs/broken/pack.json', '{');
    const stock = readStock({ profile, folder });
    expect(stock.materials).toEqual([
      { name: 'brick', ...colour },
      { name: 'rope', ...colour, texture: 'packs/ropes/textures/rope.ktx2' },
    ]);
    expect(stock.files.map(({ path }) => path)).toEqual(['packs/ropes/textures/rope.ktx2']);
  });
});

describe('settings of a game', () => {
  it('are changed in their place, and all else stays as it is', () => {
    const ini = write('options.ini', '; by hand\r\nvolume = 8\nmods=no\nlast = 1');
    expect(readSetting(dirname(ini), basename(ini), 'mods')).toBe('no');
    writeSetting(dirname(ini), basename(ini), 'mods', 'yes');
    writeSetting(dirname(ini), basename(ini), 'fresh', '1');
    expect(readFileSync(ini, 'utf8')).toBe('; by hand\r\nvolume = 8\nmods = yes\nlast = 1\nfresh = 1\n');
    const json = write('options.json', '{"mods": false, "volume": 8}');
    writeSetting(dirname(json), basename(json), 'mods', 'true');
    expect(JSON.parse(readFileSync(json, 'utf8'))).toEqual({ mods: true, volume: 8 });
    expect(readSetting(dirname(json), basename(json), 'mods')).toBe('true');
    const damaged = write('damaged.json', '{"mods":');
    expect(() => writeSetting(dirname(damaged), basename(damaged), 'mods', 'true')).toThrow(/no JSON any more, so nothing was changed/);
    expect(readFileSync(damaged, 'utf8')).toBe('{"mods":');
  });

  it('tick the steps that look at them', async () => {
    const folder = game('g', '2.4.1');
    profile.preparation = [
      { id: 'made', title: 'Made', why: 'w', how: 'h', done: { when: 'file', path: '{game}/made.txt' }, offer: { do: 'write' }, concerns: ['trial'] },
      { id: 'told', title: 'Told', why: 'w', how: 'By hand.', done: { when: 'hand' }, concerns: [] },
    ];
    const states = (records: string[]) => stepStates({ profile, folder }, placesOf(root), new Set(records)).map(({ done }) => done);
    expect(states([])).toEqual([false, false]);
    await doStep({ profile, folder }, placesOf(root), 'made');
    expect(states(['told'])).toEqual([true, true]);
    await expect(doStep({ profile, folder }, placesOf(root), 'told')).rejects.toThrow(/is done by hand: By hand/);
  });
});

const program = (code: string, change: Partial<Program> = {}): Program => ({
  id: 'maker',
  title: 'Maker',
  at: 'build',
  program: process.execPath,
  arguments: ['-e', code, '{in}', '{out}'],
  seconds: 20,
  memory: 2048,
  outputs: [],
  log: [
    { line: 'error: {file}:{line}: {message}', severity: 'blocker' },
    { line: 'warning: {message}', severity: 'warning' },
  ],
  progress: 'at {percent}%',
  ...change,
});
const run = (one: Program, more: Partial<Parameters<typeof runProgram>[0]> = {}) =>
  runProgram({ program: one, values: { in: root }, stage: 'build', ...more });

describe('a program of a game', () => {
  it('gets its arguments as they are, no shell and none of our environment; its log becomes findings and progress', async () => {
    process.env.VIOLET_CRATE_SECRET = 'x';
    const seen: number[] = [];
    const { outputs, findings, lines } = await run(
      program(
        `const [, , out] = process.argv; require('fs').writeFileSync(process.argv[2] + '/a.json', '{}');
         console.log('at 50%'); console.log('warning: small'); console.log(process.env.VIOLET_CRATE_SECRET, process.env.MODE, process.cwd())`,
        { outputs: [{ path: 'a.json', maxBytes: 10, starts: '{' }], environment: { MODE: '$HOME;{in}' } },
      ),
      { onProgress: (fraction) => seen.push(fraction) },
    );
    delete process.env.VIOLET_CRATE_SECRET;
    expect([...outputs.keys()]).toEqual(['a.json']);
    expect(findings).toEqual([expect.objectContaining({ code: 'program-maker', severity: 'warning', message: 'Maker: small.' })]);
    expect(lines.at(-1)).toBe(`undefined $HOME;${root} ${root}`);
    expect(seen).toEqual([0.5]);
  });

  it.each<[string, string, Partial<Program>, RegExp]>([
    ['is missing', '', { program: '/nowhere/maker' }, /Maker is missing/],
    ['cannot be started', '', { program: 'no-such-program-anywhere' }, /cannot be started: there is no such program/],
    ['fails', 'console.log("cannot read that"); process.exit(3)', {}, /ended with code 3: cannot read that/],
    ['hangs', 'setInterval(() => {}, 1000)', { seconds: 0.4 }, /took longer than the 0.4 seconds/],
    ['floods its log', 'for (;;) require("fs").writeSync(1, "x".repeat(1 << 20))', {}, /wrote more than 64 MB of log/],
    ['leaves out its output', '', { outputs: [{ path: 'a', maxBytes: 1 }] }, /did not write a/],
    ['writes too much', 'require("fs").writeFileSync(process.argv[2] + "/a", "xx")', { outputs: [{ path: 'a', maxBytes: 1 }] }, /2 bytes, of 1/],
    [
      'writes something else',
      'require("fs").writeFileSync(process.argv[2] + "/a", "xx")',
      { outputs: [{ path: 'a', maxBytes: 9, starts: 'PNG' }] },
      /does not begin as it should/,
    ],
    [
      'leads elsewhere',
      'require("fs").symlinkSync("/etc/passwd", process.argv[2] + "/a")',
      { outputs: [{ path: 'a', maxBytes: 1 << 20 }] },
      /no regular file/,
    ],
    ['takes too much memory', 'const all = []; setInterval(() => all.push(Buffer.alloc(32 << 20, 1)), 20)', { memory: 200 }, /MiB of memory, of 200/],
  ])('that %s ends in a sentence', async (_, code, change, reason) => {
    await expect(run(program(code, change))).rejects.toThrow(reason);
  });

  it('ends with all that it started', async () => {
    const mark = join(root, 'alive');
    const child = `setInterval(() => require('fs').writeFileSync(${JSON.stringify(mark)}, String(Date.now())), 30)`;
    // It ends once its child is alive, however long that takes.
    await run(
      program(
        `require('child_process').spawn(process.execPath, ['-e', ${JSON.stringify(child)}], { stdio: 'inherit' }); setInterval(() => require('fs').existsSync(${JSON.stringify(mark)}) && process.exit(0), 20)`,
      ),
    );
    const last = readFileSync(mark, 'utf8');
    await new Promise((done) => setTimeout(done, 300));
    expect(readFileSync(mark, 'utf8')).toBe(last);
  });

  it('is cancelled, and found out when it writes into the game', async () => {
    const abort = new AbortController();
    setTimeout(() => abort.abort(), 200);
    await expect(run(program('setInterval(() => {}, 1000)'), { signal: abort.signal })).rejects.toThrow(/was cancelled/);
    const folder = game('g', '2.4.1');
    const { findings } = await run(program(`require('fs').writeFileSync(process.argv[1] + '/g/mine.txt', 'x')`), {
      values: { in: root, game: folder },
    });
    expect(findings[0].message).toBe('Maker changed files of the game: mine.txt.');
  });

  it('that says its error with file and line is no failure besides', async () => {
    const { findings } = await run(
      program('console.log("error: map.json:12: no start"); process.exit(1)', { outputs: [{ path: 'stamp.json', maxBytes: 9 }] }),
    );
    expect(findings).toEqual([expect.objectContaining({ severity: 'blocker', message: 'Maker: no start.', place: { file: 'map.json', line: 12 } })]);
  });

  it('says its version once, and again when it is another one', async () => {
    const tool = write('tool.mjs', 'console.log("maker 1.2.3"); console.log(process.pid)');
    const command = { program: process.execPath, arguments: [tool, '--version'], line: 'maker {version}' };
    expect(await askVersion(command, root)).toEqual({ version: '1.2.3', problem: null });
    writeFileSync(tool, 'console.log("maker 1.2.4 ")');
    expect((await askVersion(command, root)).version).toBe('1.2.4 ');
    writeFileSync(tool, 'setInterval(() => {}, 1000)');
    expect((await askVersion({ ...command, seconds: 0.3 }, root)).problem).toMatch(/took longer than the 0.3 seconds/);
    chmodSync(tool, 0o644);
    expect((await askVersion({ ...command, program: tool }, root)).problem).toMatch(/may not be run/);
    rmSync(tool);
  });
});
