import { mkdirSync, mkdtempSync, readFileSync, realpathSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { beforeEach, describe, expect, it } from '@jest/globals';
import { isFileInside, linkOn, readInside, removeInside, writeInside } from './inside.ts';

const text = (bytes: Uint8Array | null) => bytes && Buffer.from(bytes).toString();
const encode = (from: string) => new TextEncoder().encode(from);

let root: string;
let outside: string;
beforeEach(() => {
  root = realpathSync(mkdtempSync(join(tmpdir(), 'violet-inside-')));
  outside = realpathSync(mkdtempSync(join(tmpdir(), 'violet-outside-')));
  writeFileSync(join(outside, 'key'), 'secret');
  mkdirSync(join(root, 'a/b'), { recursive: true });
  writeFileSync(join(root, 'a/b/c.txt'), 'here');
});

describe('files below a folder', () => {
  it('are read, written and removed', () => {
    expect(text(readInside(root, 'a/b/c.txt'))).toBe('here');
    expect(readInside(root, 'a/b/d.txt')).toBeNull();
    expect(readInside(root, 'a/no/d.txt')).toBeNull();
    expect(readInside(root, 'a/b/c.txt/d')).toBeNull();
    expect(readInside(root, 'a/b')).toBeNull();
    writeInside(root, [
      ['x/y/z.txt', encode('new')],
      ['a/b/c.txt', encode('other')],
    ]);
    expect([readFileSync(join(root, 'x/y/z.txt'), 'utf8'), readFileSync(join(root, 'a/b/c.txt'), 'utf8')]).toEqual(['new', 'other']);
    removeInside(root, 'x/y/z.txt');
    expect(isFileInside(root, 'x/y/z.txt')).toBe(false);
    expect(() => readInside(root, 'a/b/c.txt', 4)).toThrow(/has 5 bytes; at most 4/);
  });

  it('are not reached through a link, of a file or of a folder, nor by a path that leaves', () => {
    symlinkSync(outside, join(root, 'out'));
    symlinkSync(join(outside, 'key'), join(root, 'a/key'));
    for (const path of ['out/key', 'a/key']) {
      expect(() => readInside(root, path)).toThrow(/through a link/);
      expect(() =>
        writeInside(root, [
          ['fine.txt', encode('1')],
          [path, encode('changed')],
        ]),
      ).toThrow(/through a link/);
      expect(isFileInside(root, path)).toBe(false);
    }
    // All or none: what was fine is not there either.
    expect(isFileInside(root, 'fine.txt')).toBe(false);
    expect(() => removeInside(root, 'out/key')).toThrow(/through a link/);
    removeInside(root, 'a/key');
    expect(linkOn(root, 'out/key')).toBe('out');
    expect(linkOn(root, 'a/b/c.txt')).toBeNull();
    for (const path of ['../x', '/etc/passwd', 'a/../../x', '', '.', 'a/\0']) expect(() => readInside(root, path)).toThrow(/not a path within/);
    expect(readFileSync(join(outside, 'key'), 'utf8')).toBe('secret');
  });

  it('stay inside while somebody exchanges a folder on the way for a link, again and again', async () => {
    const swapping = new Worker(
      `const { mkdirSync, symlinkSync, rmSync } = require('fs'); const { workerData: [root, outside], parentPort } = require('worker_threads');
       parentPort.postMessage('begun');
       const at = root + '/a/b'; const attempt = (work) => { try { work(); } catch {} };
       for (;;) { attempt(() => { rmSync(at, { recursive: true, force: true }); symlinkSync(outside, at); }); attempt(() => { rmSync(at, { recursive: true, force: true }); mkdirSync(at); }); }`,
      { eval: true, workerData: [root, outside] },
    );
    await new Promise((begun) => swapping.once('message', begun));
    let [read, refused] = [0, 0];
    for (let i = 0; i < 3000; i++) {
      try {
        const found = text(readInside(root, 'a/b/key'));
        expect(found).not.toBe('secret');
        writeInside(root, [['a/b/key2', encode('x')]]);
        read++;
      } catch (error) {
        expect((error as Error).message).toMatch(/through a link|ENOENT|EEXIST|ENOTDIR/);
        refused++;
      }
    }
    await swapping.terminate();
    expect(isFileInside(outside, 'key2')).toBe(false);
    expect(read).toBeGreaterThan(0);
    expect(refused).toBeGreaterThan(0);
    rmSync(root, { recursive: true, force: true });
  });
});
