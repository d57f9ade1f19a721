import { mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import { stageCache, writeTree, writeWhole } from './files.ts';
import { readTree } from './folderTree.ts';

const folder = () => mkdtempSync(join(tmpdir(), 'violet-host-'));

describe('files on disk', () => {
  it('are written whole, in folders that are made, and leave nothing beside them', () => {
    const at = folder();
    writeWhole(join(at, 'a/b/c.bin'), Uint8Array.of(1, 2));
    writeWhole(join(at, 'a/b/c.bin'), Uint8Array.of(3));
    expect(readdirSync(join(at, 'a/b'))).toEqual(['c.bin']);
    expect([...readFileSync(join(at, 'a/b/c.bin'))]).toEqual([3]);
  });

  it('a folder that cannot be written to loses nothing', () => {
    const at = folder();
    writeFileSync(join(at, 'taken'), 'x');
    expect(() => writeWhole(join(at, 'taken/file'), Uint8Array.of(1))).toThrow();
    expect(readFileSync(join(at, 'taken'), 'utf8')).toBe('x');
  });

  it('trees come back as they were, without hidden files and skipped folders', () => {
    const at = folder();
    const tree = new Map([
      ['b.txt', Uint8Array.of(1)],
      ['a/deep/c.txt', Uint8Array.of(2, 3)],
    ]);
    writeTree(at, tree);
    mkdirSync(join(at, 'build'));
    writeFileSync(join(at, 'build/result'), 'x');
    writeFileSync(join(at, '.hidden'), 'x');
    expect(readTree(at, { skip: (path) => path === 'build' })).toEqual(new Map([...tree].sort()));
    expect(() => readTree(join(at, 'none'))).toThrow(/There is no folder/);
  });

  it('a result that was damaged on the disk counts as not there', async () => {
    const at = folder();
    const cache = stageCache(at);
    await cache.put('abcdef', Uint8Array.of(7, 8, 9));
    const file = join(at, 'ab/abcdef');
    for (const damaged of [readFileSync(file).fill(1, 0, 1), readFileSync(file).subarray(0, -1), Buffer.alloc(0)]) {
      writeFileSync(file, damaged);
      expect(await cache.get('abcdef')).toBeNull();
    }
  });

  it('stage results are found under their key', async () => {
    const cache = stageCache(folder());
    expect(await cache.get('abcdef')).toBeNull();
    await cache.put('abcdef', Uint8Array.of(7));
    const value = await cache.get('abcdef');
    expect(value).toEqual(Uint8Array.of(7));
    expect(value!.byteOffset).toBe(0);
  });
});
