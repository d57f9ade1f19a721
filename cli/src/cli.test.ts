import { mkdtempSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { main } from './main.ts';

const folder = mkdtempSync(join(tmpdir(), 'violet-cli-'));
let out: string;
let err: string;

beforeEach(() => {
  out = err = '';
  jest.spyOn(process.stdout, 'write').mockImplementation((text) => ((out += String(text)), true));
  jest.spyOn(process.stderr, 'write').mockImplementation((text) => ((err += String(text)), true));
});
afterEach(() => void jest.restoreAllMocks());

const json = () => JSON.parse(out) as Record<string, unknown> & { error?: { message: string; code: string; line?: number; byte?: number } };

describe('the command line', () => {
  it('helps: overview, each command, and what to do instead', async () => {
    expect(await main(['--help'])).toBe(0);
    expect(out).toContain('publish');
    out = '';
    expect(await main(['convert', '--help'])).toBe(0);
    expect(out).toContain('--pivot VALUE');
    expect(await main(['explode'])).toBe(2);
    expect(err).toContain('There is no command "explode"');
    err = '';
    expect(await main(['build'])).toBe(2);
    expect(err).toContain('Usage: crate build DIR');
    err = '';
    expect(await main(['check', folder, '--nonsense'])).toBe(2);
    expect(err.trim().split('\n')).toHaveLength(1);
  });

  it('makes a crate by the profile’s rules, and never over something else', async () => {
    const dir = join(folder, 'lantern');
    expect(await main(['new', 'lantern', '--profile', 'brinewick', '--dir', dir, '--json'])).toBe(0);
    expect(json()).toMatchObject({ command: 'new', ok: true, files: ['crate.json', 'maps/lantern.map.json', 'scripts/main.lua'] });
    out = '';
    expect(await main(['new', 'lantern', '--profile', 'brinewick', '--dir', dir])).toBe(2);
    expect(err).toContain('not empty');
    expect(await main(['new', 'Big Name', '--profile', 'brinewick', '--dir', join(folder, 'x')])).toBe(2);
    expect(await main(['new', 'x', '--profile', 'nowhere', '--dir', join(folder, 'y')])).toBe(2);
  });

  // Without a game, every stock material is missing: check says so and exits with 1.
  it('check exits with 1 where there are blockers', async () => {
    const dir = join(folder, 'checked');
    await main(['new', 'checked', '--profile', 'brinewick', '--dir', dir]);
    out = '';
    expect(await main(['check', dir, '--game', join(folder, 'no-game'), '--json'])).toBe(1);
    expect((json().findings as { code: string }[]).map((f) => f.code)).toContain('link-missing');
    out = '';
    expect(await main(['build', dir, '--game', join(folder, 'no-game'), '--json'])).toBe(1);
  });

  it.each([
    ['broken.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 7\n', /broken\.obj:4/],
    ['broken.png', 'nonsense', /not a PNG/],
    ['broken.glb', 'glTF', /byte 4/],
    ['broken.txt', 'hello', /not a kind of file/],
  ])('unreadable input exits with 2 and one sentence: %s', async (name, content, message) => {
    const file = join(folder, name);
    writeFileSync(file, content);
    expect(await main(['convert', file, '--profile', 'brinewick', '--out', join(folder, 'out'), '--json'])).toBe(2);
    expect(json().ok).toBe(false);
    expect(json().error!.message).toMatch(message);
    expect(
      err
        .trim()
        .split('\n')
        .filter((line) => !line.startsWith('Converting')),
    ).toHaveLength(1);
  });

  it('a damaged document names its line', async () => {
    const dir = join(folder, 'damaged');
    await main(['new', 'damaged', '--profile', 'brinewick', '--dir', dir]);
    const map = join(dir, 'maps/damaged.map.json');
    writeFileSync(map, readFileSync(map, 'utf8').replace('"bands": {', '"bands": {{'));
    out = '';
    // A check reads what can be read; a build wants the whole.
    expect(await main(['check', dir, '--json'])).toBe(1);
    const { findings } = JSON.parse(out) as { findings: { code: string; severity: string; place: { line: number } }[] };
    expect(findings.find((f) => f.code === 'map-damaged')).toMatchObject({ severity: 'blocker', place: { line: 5 } });
    out = '';
    expect(await main(['build', dir, '--json'])).toBe(2);
    expect(json().error!.line).toBe(5);
  });

  it('a foreign archive is not published', async () => {
    const file = join(folder, 'evil.zip');
    writeFileSync(file, writeZip(new Map([['../evil', new Uint8Array(3)]])));
    expect(await main(['publish', file, '--workshop', 'http://127.0.0.1:1', '--token', 't', '--json'])).toBe(2);
    expect(json().error!.code).toBe('zip-path');
  });
});

describe('what a command writes', () => {
  it('is never over what it reads, nor over a crate’s own files, unless that is said', async () => {
    const dir = join(folder, 'guarded');
    await main(['new', 'guarded', '--profile', 'brinewick', '--dir', dir]);
    const manifest = join(dir, 'crate.json');
    const before = readFileSync(manifest, 'utf8');
    const [old, next] = [join(folder, 'old.bin'), join(folder, 'next.bin')];
    writeFileSync(old, 'one');
    writeFileSync(next, 'two');
    symlinkSync(old, join(folder, 'link.bin'));
    for (const words of [
      ['records', dir, 'export', '--table', 'people', '--out', manifest],
      ['export', dir, '--to', join(dir, 'maps/guarded.map.json')],
      ['pack', dir, '--out', manifest],
      ['patch', 'make', old, next, '--out', old],
      ['patch', 'make', old, next, '--out', join(folder, 'link.bin')],
    ]) {
      err = '';
      expect([words.join(' '), await main(words)]).toEqual([words.join(' '), 2]);
      expect([words.join(' '), /would be written over|has to end in/.test(err)]).toEqual([words.join(' '), true]);
    }
    expect([readFileSync(manifest, 'utf8'), readFileSync(old, 'utf8')]).toEqual([before, 'one']);
    const patch = join(folder, 'a.vcdiff');
    expect(await main(['patch', 'make', old, next, '--out', patch])).toBe(0);
    expect(await main(['patch', 'make', old, next, '--out', old, '--force'])).toBe(0);
  });

  it.each([['profile', 'check'], ['profile', 'try'], ['verify'], ['publish'], ['bank', 'inspect'], ['patch', 'make']])(
    'what is no regular file is not read: %s %s',
    async (...words) => {
      const given = [...words, '/dev/zero', ...(words[0] === 'patch' ? ['/dev/zero', '--out', join(folder, 'x')] : [])];
      const options =
        words[0] === 'bank' ? ['--layout', 'x'] : words[1] === 'try' ? ['--game', folder] : words[0] === 'publish' ? ['--token', 'x'] : [];
      expect(await main([...given, ...options])).toBe(2);
      expect(err).toMatch(/no regular file|There is no file/);
    },
  );
});
