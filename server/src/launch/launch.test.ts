import { chmodSync, existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { startApplication, type TestApplication } from '../testing.ts';
import type { LaunchView } from './launch.service.ts';

let t: TestApplication;
let id: string;
let game: string;

const view = async (): Promise<LaunchView> => ((await t.get(`/api/crates/${id}/launch`)).body as { launch: LaunchView }).launch;
/** Looks until the run is as wanted. */
async function until(wanted: (view: LaunchView) => boolean): Promise<LaunchView> {
  for (let tries = 0; tries < 300; tries++) {
    const now = await view();
    if (now && wanted(now)) return now;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`the game did not get there: ${JSON.stringify(await view())}`);
}
const start = () => t.send('post', `/api/crates/${id}/launch`, { map: 'hall' });

beforeAll(async () => {
  t = await startApplication();
  game = join(t.config.games, 'brinewick');
  id = await t.newCrate('hall');
});
afterAll(() => t.close());

describe('launching in the game', () => {
  it('is refused without a build, with what to do', async () => {
    expect((await start()).body).toMatchObject({ code: 'build-missing', detail: 'Map hall is not built yet. Build it first.' });
    await t.build(id, 'hall');
  });

  it('puts a marked copy into the mods, starts the game, shows its log, and ends it', async () => {
    expect((await start()).status).toBe(201);
    const ready = await until(({ lines }) => lines.includes('ready'));
    expect(ready.lines[0]).toBe('game: 2.4.1');
    expect(ready.lines.some((line) => line.startsWith('loaded: hall: '))).toBe(true);
    const release = JSON.parse(readFileSync(join(game, 'mods/hall_local/release.json'), 'utf8')) as { local: boolean; thumbnail?: string };
    expect(release).toMatchObject({ name: 'hall', local: true });
    expect((await start()).body).toMatchObject({ code: 'game-running' });
    expect((await t.send('post', `/api/crates/${id}/launch/quit`)).body).toMatchObject({ running: false, findings: [] });
    expect(existsSync(join(game, 'mods/.running'))).toBe(false);
    expect((await t.send('post', `/api/crates/${id}/launch/quit`)).body).toMatchObject({ code: 'game-over' });
  });

  it('loads changed scripts into the running game, and tells an error of theirs with its line', async () => {
    await start();
    await until(({ lines }) => lines.includes('ready'));
    await t.send('put', `/api/crates/${id}/scripts/main.lua`, { source: 'function startup()\n  nothing()\nend\nlocal x = nil + 1\n' });
    expect((await t.send('post', `/api/crates/${id}/launch/say`, { command: 'map', map: 'hall\nquit' })).body).toMatchObject({ code: 'map-unknown' });
    await t.send('post', `/api/crates/${id}/launch/say`, { command: 'reload' });
    const told = await until(({ findings }) => findings.length > 0);
    expect(told.findings.at(-1)).toMatchObject({ code: 'game-log', severity: 'blocker', place: { file: 'scripts/main.lua', line: 4 } });
    await t.send('post', `/api/crates/${id}/launch/quit`);
  });

  it('says what the game refuses: another version', async () => {
    const version = readFileSync(join(game, 'version.json'), 'utf8');
    writeFileSync(join(game, 'version.json'), version.replace('2.4.1', '3.0.0'));
    await start();
    const over = await until(({ running }) => !running);
    expect(over.findings.map(({ message }) => message)).toEqual(
      expect.arrayContaining(['The game says: made for 2.4.1, this is 3.0.0.', 'Brinewick ended by itself with code 3.']),
    );
    writeFileSync(join(game, 'version.json'), version);
  });

  it('says when its program may not be run, or is missing', async () => {
    const program = join(game, 'bin/brinewick.mjs');
    chmodSync(program, 0o644);
    await start();
    const refused = await until(({ running }) => !running);
    expect(refused.findings.at(-1)).toMatchObject({ code: 'game-program', hint: 'Make the file executable.' });
    rmSync(program);
    expect((await start()).body).toMatchObject({ code: 'game-program', detail: expect.stringContaining('is missing') });
  });
});
