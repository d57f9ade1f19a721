import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import type { Finding } from '@violet-crate/core/finding';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { Profile } from '@violet-crate/core/profile/schema';
import { GameRun, localName } from './launchGame.ts';

const shipped = new URL('../../core/profiles/brinewick.json', import.meta.url);
const profile = loadProfile(readFileSync(shipped, 'utf8'), 'brinewick.json');
let game: string;

beforeEach(() => {
  game = mkdtempSync(join(tmpdir(), 'game-'));
  mkdirSync(join(game, 'mods'));
});
afterEach(() => rmSync(game, { recursive: true, force: true }));

/** A game whose program is these lines of JavaScript. */
function program(source: string): void {
  mkdirSync(join(game, 'bin'), { recursive: true });
  writeFileSync(join(game, 'bin/brinewick.mjs'), `#!/usr/bin/env node\n${source}\n`);
  chmodSync(join(game, 'bin/brinewick.mjs'), 0o755);
}

interface Told {
  run: GameRun;
  lines: string[];
  findings: Finding[];
  heard(line: string): Promise<void>;
  over: Promise<{ code: number | null; finding: Finding | null }>;
}

function launch(of: Profile = profile, map = 'hall'): Told {
  const lines: string[] = [];
  const findings: Finding[] = [];
  let end: (how: { code: number | null; finding: Finding | null }) => void;
  const over = new Promise<{ code: number | null; finding: Finding | null }>((resolve) => (end = resolve));
  const run = new GameRun(
    { profile: of, game, mod: localName('pier'), map },
    { line: (text, finding) => (lines.push(text), finding && findings.push(finding)), ended: (how) => end(how) },
  );
  const heard = async (line: string) => {
    for (let i = 0; i < 400 && !lines.includes(line); i++) await new Promise((resolve) => setTimeout(resolve, 10));
    expect(lines).toContain(line);
  };
  return { run, lines, findings, heard, over };
}

describe('starting a game', () => {
  it('hands over every argument as it is, and nothing of our own environment', async () => {
    process.env.VIOLET_CRATE_WORKSHOP_TOKEN = 'secret';
    program('console.log(JSON.stringify(process.argv.slice(2)), process.cwd(), process.env.VIOLET_CRATE_WORKSHOP_TOKEN)');
    const { over, lines } = launch(profile, 'a b; $(touch x) "\'');
    expect(await over).toEqual({ code: 0, finding: null });
    expect(lines).toEqual([`["--mod","pier_local","--map","a b; $(touch x) \\"'"] ${game} undefined`]);
    delete process.env.VIOLET_CRATE_WORKSHOP_TOKEN;
  });

  it('reads its log, tells it what is asked of it, and ends it when asked', async () => {
    program(`process.stdin.on('data', (text) => { console.log('told ' + String(text).trim()); if (String(text).includes('quit')) process.exit(0); });
      console.log('error: scripts/main.lua:3: oh'); console.error('on the other stream'); console.log('up');`);
    const told = launch();
    await told.heard('up');
    expect(existsSync(join(game, 'mods/.running'))).toBe(true);
    expect(told.run.say('reload')).toBe(true);
    await told.heard('told reload');
    expect(told.run.say('map', 'cellar')).toBe(true);
    await told.heard('told map cellar');
    await told.run.quit();
    expect(await told.over).toEqual({ code: 0, finding: null });
    expect(told.run.say('reload')).toBe(false);
    expect(told.lines).toContain('on the other stream');
    expect(told.findings).toMatchObject([{ place: { file: 'scripts/main.lua', line: 3 } }]);
    expect(existsSync(join(game, 'mods/.running'))).toBe(false);
  });

  it('says how a game ended that nobody asked to', async () => {
    program('process.exit(7)');
    expect((await launch().over).finding).toMatchObject({ code: 'game-crashed', message: 'Brinewick ended by itself with code 7.' });
    program('process.kill(process.pid, "SIGSEGV"); setInterval(() => {}, 1000)');
    expect((await launch().over).finding?.message).toBe('Brinewick ended by itself with the signal SIGSEGV.');
  });

  it('ends a game that does not listen', async () => {
    program("process.stdin.resume(); console.log('up'); setInterval(() => {}, 1000)");
    const told = launch();
    await told.heard('up');
    await told.run.quit();
    expect((await told.over).finding).toBeNull();
  });

  it('starts no second one, but forgets one whose process is gone', async () => {
    program("process.stdin.on('data', () => process.exit(0)); console.log('up')");
    const first = launch();
    await first.heard('up');
    expect(() => launch()).toThrow(/running already/);
    await first.run.quit();
    writeFileSync(join(game, 'mods/.running'), '999999999');
    const second = launch();
    await second.heard('up');
    await second.run.quit();
  });

  it('says what is missing: the program, its folder, or how it is started at all', () => {
    expect(() => launch()).toThrow(/program of Brinewick is missing/);
    program('');
    const elsewhere: Profile = { ...profile, launch: { ...profile.launch!, folder: '{game}/nowhere' } };
    expect(() => launch(elsewhere)).toThrow(/no folder .*nowhere/);
    expect(() => launch({ ...profile, launch: undefined })).toThrow(/does not say how the game is started/);
  });
});
