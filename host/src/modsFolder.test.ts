import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import { mendMods, modsFolder } from './modsFolder.ts';

const mods = () => mkdtempSync(join(tmpdir(), 'violet-mods-'));
const version = (n: number) => new Map([['version.txt', new TextEncoder().encode(String(n))]]);
const held = (at: string) => readFileSync(join(at, 'quay/version.txt'), 'utf8');
/** A mod as an installation that was killed leaves it, at each of its moments. */
function leave(at: string, entries: Record<string, number>) {
  for (const [name, n] of Object.entries(entries)) {
    mkdirSync(join(at, name), { recursive: true });
    writeFileSync(join(at, name, 'version.txt'), String(n));
  }
}

describe('a mods folder', () => {
  const seen = (at: string) => readdirSync(at).filter((name) => name !== '.before');

  it('gets a mod, and a newer one instead of it; the older one is kept out of the game’s sight', () => {
    const at = mods();
    for (const n of [1, 2]) {
      modsFolder(at).place('quay', version(n), () => {});
      expect(held(at)).toBe(String(n));
    }
    expect(readdirSync(at)).toEqual(['.before', 'quay']);
    expect(readFileSync(join(at, '.before/quay/version.txt'), 'utf8')).toBe('1');
  });

  it('keeps what it has where the newer one is not as it should be', () => {
    const at = mods();
    modsFolder(at).place('quay', version(1), () => {});
    const refuse = () => {
      throw new Error('not as it should be');
    };
    expect(() => modsFolder(at).place('quay', version(2), refuse)).toThrow(/not as it should be/);
    expect(held(at)).toBe('1');
    expect(readdirSync(at)).toEqual(['quay']);
  });

  it.each([
    ['while the new one was written', { quay: 1, '.quay.new': 2 }, '1'],
    ['after the old one was set aside', { '.quay.old': 1, '.quay.new': 2 }, '1'],
    ['after the new one was in place', { quay: 2, '.quay.old': 1 }, '2'],
    ['while the first one was written', { '.quay.new': 1 }, null],
  ])('is mended when an installation was killed %s', (_, entries, wanted) => {
    const at = mods();
    leave(at, entries as Record<string, number>);
    mendMods(at);
    expect(seen(at)).toEqual(wanted === null ? [] : ['quay']);
    if (wanted !== null) expect(held(at)).toBe(wanted);
  });

  it('notes that were half written and marks of a trial write are cleared away', () => {
    const at = mods();
    leave(at, { quay: 1 });
    for (const name of ['.installed.json.12.part', '.probe-77', '.installed.json']) writeFileSync(join(at, name), '{}');
    mendMods(at);
    expect(readdirSync(at)).toEqual(['.installed.json', 'quay']);
  });

  it('what others keep there is not touched, and a folder that is not there is none to mend', () => {
    const at = mods();
    leave(at, { '.config': 1, other: 1 });
    mendMods(at);
    expect(readdirSync(at)).toEqual(['.config', 'other']);
    mendMods(join(at, 'none'));
    expect(existsSync(join(at, 'none'))).toBe(false);
  });
});
