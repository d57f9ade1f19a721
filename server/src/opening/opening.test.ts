import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { sampleOf } from '@violet-crate/core/importing/samples';
import { writeWav } from '@violet-crate/core/asset/sound/writeWav';
import { readPng } from '@violet-crate/core/asset/texture/readPng';
import { commandWords, noScreen, systemOpener } from '@violet-crate/host/openWith';
import { startApplication, type TestApplication } from '../testing.ts';

let t: TestApplication;
let id: string;
const tools = mkdtempSync(join(tmpdir(), 'violet-open-'));
const display = process.env.DISPLAY;

/** A program that is given a file as its last argument. */
function program(name: string, lines: string): string {
  const file = join(tools, name);
  writeFileSync(file, `#!/bin/sh\n${lines}\n`);
  chmodSync(file, 0o755);
  return file;
}
const setPrograms = (programs: Record<string, string>) => t.send('put', '/api/programs', { programs });
const open = (path: string) => t.send('post', `/api/crates/${id}/opened`, { path });
const script = async () => (await t.get(`/api/crates/${id}/files/scripts/main.lua`)).text;
const list = async () =>
  (await t.get(`/api/crates/${id}/opened`)).body as { path: string; file: string; conflict: boolean; problem: string | null }[];
async function until(holds: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 200; i++) {
    if (await holds()) return;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`It did not come to hold: ${holds.toString()}`);
}

beforeAll(async () => {
  process.env.DISPLAY = ':7';
  t = await startApplication();
  id = await t.newCrate('opened');
  await t.send('put', `/api/crates/${id}/scripts/main.lua`, { source: '-- first\n' });
});
afterAll(async () => {
  await t.close();
  rmSync(tools, { recursive: true });
  if (display === undefined) delete process.env.DISPLAY;
  else process.env.DISPLAY = display;
});

describe('a source in a program of the machine', () => {
  it('each kind has a sample that its program can be tried with', async () => {
    await setPrograms({ script: program('notes', `cp "$1" ${tools}/seen`) });
    const { body, status } = await t.send('post', '/api/programs/script/try', {});
    expect([status, (body as { program: string }).program]).toEqual([200, 'notes']);
    await until(() => Promise.resolve(existsSync(join(tools, 'seen'))));
    expect(readFileSync(join(tools, 'seen'), 'utf8')).toContain('the right one');
    const png = sampleOf('texture');
    expect(readPng(png.bytes, png.name)).toMatchObject({ width: 64, height: 64 });
    expect((await t.send('post', '/api/programs/brush/try', {})).status).toBe(404);
    expect((await setPrograms({ brush: 'x' })).status).toBe(400);
  });

  it('that is missing, may not run or ends badly is told with what to do', async () => {
    const told = async (typed: string) => {
      await setPrograms({ script: typed });
      const { status, body } = await open('scripts/main.lua');
      return [status, (body as { detail: string }).detail];
    };
    expect(await told('/no/such/program')).toEqual([422, expect.stringMatching(/no program \/no\/such\/program/)]);
    const plain = join(tools, 'plain');
    writeFileSync(plain, 'x');
    expect(await told(plain)).toEqual([422, expect.stringMatching(/may be run/)]);
    expect(await told(program('bad', 'echo "cannot open display" >&2; exit 3'))).toEqual([
      422,
      expect.stringMatching(/error 3: cannot open display/),
    ]);
    expect(await told('""')).toEqual([422, expect.stringMatching(/names none/)]);
    expect(await list()).toEqual([]);
    expect((await open('scripts/none.lua')).status).toBe(404);
    expect((await open('../crates.sqlite')).status).toBe(404);
  });

  it('a script that is saved there comes back by itself, spaces in the program’s name and all', async () => {
    await setPrograms({ script: `"${program('my notes', 'printf "%s\\n" "-- by the program" > "$2"')}" --edit` });
    expect((await open('scripts/main.lua')).status).toBe(200);
    await until(async () => (await script()) === '-- by the program\n');
    const [{ file }] = await list();
    // Saved by putting another file in its place.
    writeFileSync(`${file}~`, '-- again\n');
    writeFileSync(file, '-- again\n');
    await until(async () => (await script()) === '-- again\n');
  });

  it('a program that warns long after it was opened goes on', async () => {
    await setPrograms({ script: program('late', 'sleep 2; echo warning >&2; echo "-- after the warning" > "$1"') });
    expect((await open('scripts/main.lua')).status).toBe(200);
    await until(async () => (await script()) === '-- after the warning\n');
  });

  it('what was changed on both sides is asked, and neither is lost', async () => {
    const [{ file }] = await list();
    await t.send('put', `/api/crates/${id}/scripts/main.lua`, { source: '-- typed in the crate\n' });
    writeFileSync(file, '-- saved by the program\n');
    await until(async () => (await list())[0].conflict);
    expect(await script()).toBe('-- typed in the crate\n');
    await t.send('post', `/api/crates/${id}/opened/settle`, { path: 'scripts/main.lua', take: 'program' });
    await until(async () => (await script()) === '-- saved by the program\n');
    await t.send('put', `/api/crates/${id}/scripts/main.lua`, { source: '-- here\n' });
    writeFileSync(file, '-- there\n');
    await until(async () => (await list())[0].conflict);
    await t.send('post', `/api/crates/${id}/opened/settle`, { path: 'scripts/main.lua', take: 'crate' });
    expect(readFileSync(file, 'utf8')).toBe('-- here\n');
    expect((await list())[0].conflict).toBe(false);
  });

  it('line ends of another system are taken as ours, and what is no text is told and not taken', async () => {
    const [{ file }] = await list();
    writeFileSync(file, '-- one\r\n-- two\r\n');
    await until(async () => (await script()) === '-- one\n-- two\n');
    writeFileSync(file, Buffer.from([0x2d, 0x2d, 0xff, 0xfe]));
    await until(async () => (await list())[0].problem !== null);
    expect([(await list())[0].problem, await script()]).toEqual([expect.stringMatching(/UTF-8/), '-- one\n-- two\n']);
    writeFileSync(file, '-- well\r\n');
    await until(async () => (await script()) === '-- well\n');
    expect((await list())[0]).toMatchObject({ problem: null, conflict: false });
  });

  it('an asset is made again from what was saved, with its settings; closing ends that', async () => {
    const first = sampleOf('sound');
    const { body } = await t.upload(`/api/crates/${id}/assets`, { 'ping.wav': first.bytes });
    await t.ended((body as { jobs: { id: string }[] }).jobs[0]);
    const [path] = Object.keys(((await t.get(`/api/crates/${id}`)).body as { manifest: { assets: object } }).manifest.assets);
    const record = async () =>
      (
        (await t.get(`/api/crates/${id}`)).body as {
          manifest: { assets: Record<string, { options: object; origin: { path: string; sha256: string } }> };
        }
      ).manifest.assets[path];
    const before = await record();
    const cut = join(tools, 'cut.wav');
    writeFileSync(cut, writeWav({ sampleRate: 44100, channels: [new Float32Array(9000).fill(0.25)] }));
    await setPrograms({ sound: program('cutter', `cp ${cut} "$1.new" && mv "$1.new" "$1"`) });
    expect((await open(path)).status).toBe(200);
    await until(async () => (await record()).origin.sha256 !== before.origin.sha256);
    const after = await record();
    expect([after.origin.path, after.options]).toEqual([before.origin.path, before.options]);

    const { file } = (await list()).find((one) => one.path === path)!;
    await t.send('delete', `/api/crates/${id}/opened?path=${encodeURIComponent(path)}`);
    expect((await list()).map((one) => one.path)).toEqual(['scripts/main.lua']);
    expect(existsSync(file)).toBe(false);
  });

  it('goes with its crate', async () => {
    const [{ file }] = await list();
    expect(existsSync(file)).toBe(true);
    await t.send('delete', `/api/crates/${id}`);
    await t.send('delete', `/api/crates/deleted/${id}`);
    expect((await t.get(`/api/crates/${id}/opened`)).status).toBe(404);
    expect(existsSync(file)).toBe(false);
  });
});

describe('commands and screens', () => {
  it('a path with spaces is one word where it is a file; otherwise quotes hold words together', () => {
    expect(commandWords('/opt/my paint/paint', (path) => path === '/opt/my paint/paint')).toEqual(['/opt/my paint/paint']);
    expect(commandWords(' "/opt/my paint/paint" --new  \'two words\' x', () => false)).toEqual(['/opt/my paint/paint', '--new', 'two words', 'x']);
  });

  it('a machine without a desktop, or one that is far away, is told', () => {
    expect(noScreen({}, 'linux')).toMatch(/no window can be opened/);
    expect(noScreen({ WAYLAND_DISPLAY: 'wayland-0' }, 'linux')).toBeNull();
    expect(noScreen({ SSH_CONNECTION: 'x' }, 'darwin')).toMatch(/another machine/);
    expect(noScreen({}, 'win32')).toBeNull();
    expect([systemOpener('linux'), systemOpener('darwin'), systemOpener('win32')]).toEqual(['xdg-open', 'open', 'explorer.exe']);
  });
});
