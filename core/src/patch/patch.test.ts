import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode as decodeElsewhere } from '@ably/vcdiff-decoder';
import { describe, expect, it } from '@jest/globals';
import { applyPatch } from './applyPatch.ts';
import { adler32, CODE_TABLE, COPY } from './codeTable.ts';
import { makePatch } from './makePatch.ts';

let seed = 5;
const random = (below: number): number => {
  seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
  return (seed >>> 4) % Math.max(1, below);
};
const noise = (length: number): Uint8Array => Uint8Array.from({ length }, () => random(256));

/** An original and what became of it: pieces kept, moved, taken out, put in, filled. */
function pair(): [Uint8Array, Uint8Array] {
  const old = noise(random(6000));
  const pieces: number[] = [];
  for (let at = 0; at < old.length;) {
    const length = 1 + random(300);
    const what = random(10);
    if (what < 7) pieces.push(...old.subarray(at, at + length));
    else if (what === 7) pieces.push(...noise(random(40)));
    else if (what === 8) pieces.push(...new Array<number>(random(60)).fill(255));
    else pieces.push(...old.subarray(random(old.length), random(old.length)));
    at += length;
  }
  return [old, Uint8Array.from(pieces)];
}
const PAIRS = Array.from({ length: 200 }, pair);
const equal = (a: Uint8Array, b: Uint8Array): boolean => Buffer.from(a).equals(Buffer.from(b));

describe('a patch', () => {
  it('makes the new one of the original, for 200 pairs, and for empty ones', () => {
    for (const [old, next] of [...PAIRS, [noise(0), noise(40)], [noise(40), noise(0)], [noise(0), noise(0)]] as const)
      expect(equal(applyPatch(old, makePatch(old, next), 'x'), next)).toBe(true);
  });

  // Outside reference: the decoder of the registry package @ably/vcdiff-decoder.
  it('is read by a decoder of other people', () => {
    for (const [old, next] of PAIRS) if (next.length > 0) expect(equal(decodeElsewhere(makePatch(old, next), old), next)).toBe(true);
  });

  // Outside reference: xdelta3 of Debian, which npm test installs.
  it('is read by xdelta3, and we read its', () => {
    const folder = mkdtempSync(join(tmpdir(), 'violet-patch-'));
    const [old, next, patch, back] = ['old', 'next', 'patch', 'back'].map((name) => join(folder, name));
    const xdelta = (...given: string[]) => execFileSync('/usr/bin/xdelta3', ['-f', '-q', ...given]);
    try {
      for (const [one, other] of PAIRS) {
        writeFileSync(old, one);
        writeFileSync(next, other);
        writeFileSync(patch, makePatch(one, other));
        xdelta('-d', '-s', old, patch, back);
        expect(equal(readFileSync(back), other)).toBe(true);
        xdelta('-e', '-S', 'none', '-s', old, next, patch);
        expect(equal(applyPatch(one, readFileSync(patch), 'x'), other)).toBe(true);
      }
    } finally {
      rmSync(folder, { recursive: true });
    }
  }, 120_000);

  it('carries none of what the original has already', () => {
    const old = noise(100_000);
    const next = old.slice();
    for (let n = 0; n < 40; n++) next[random(next.length)] ^= 1 + random(255);
    const patch = makePatch(old, next);
    expect(patch.length).toBeLessThan(600);
    for (let at = 0; at + 16 <= patch.length; at++) expect(Buffer.from(old).includes(Buffer.from(patch.subarray(at, at + 16)))).toBe(false);
  });

  it('that is damaged, cut or of another original is refused, and never makes more than is allowed', () => {
    const [old, next] = PAIRS[3];
    const patch = makePatch(old, next);
    expect(() => applyPatch(old, patch.subarray(0, patch.length - 5), 'a.vcdiff')).toThrow(/^a\.vcdiff: .* \(byte \d+\)\.$/);
    expect(() => applyPatch(old.subarray(0, old.length - 1), patch, 'x')).toThrow(/it is of another original/);
    expect(() => applyPatch(old, noise(30), 'x')).toThrow('x: it is no patch in VCDIFF (byte 1).');
    expect(() => applyPatch(old, patch, 'x', 10)).toThrow(/at most 10 are taken/);
    for (let n = 0; n < 4000; n++) {
      const damaged = patch.slice();
      for (let k = 0; k <= random(4); k++) damaged[4 + random(damaged.length - 4)] = random(256);
      try {
        expect(applyPatch(old, damaged, 'x', 1 << 20).length).toBeLessThanOrEqual(1 << 20);
      } catch (error) {
        expect((error as { code?: string }).code).toBe('patch');
      }
    }
  });
});

describe('the code table', () => {
  // Outside reference: RFC 3284, section 5.6.
  it('is that of the standard', () => {
    expect(CODE_TABLE).toHaveLength(256);
    expect(CODE_TABLE[19][0]).toEqual({ type: COPY, size: 0, mode: 0 });
    expect(CODE_TABLE[162][0]).toEqual({ type: COPY, size: 18, mode: 8 });
    expect(CODE_TABLE[163].map(({ size }) => size)).toEqual([1, 4]);
    expect(CODE_TABLE[234].map(({ size, mode }) => [size, mode])).toEqual([
      [4, 0],
      [6, 5],
    ]);
    expect(CODE_TABLE[246].map(({ size, mode }) => [size, mode])).toEqual([
      [4, 0],
      [4, 8],
    ]);
    expect(CODE_TABLE[255].map(({ size, mode }) => [size, mode])).toEqual([
      [4, 8],
      [1, 0],
    ]);
  });
  // Outside reference: RFC 1950 gives the method; the value for "Wikipedia" is widely published, from memory.
  it('and Adler-32 too', () => expect(adler32(Buffer.from('Wikipedia'))).toBe(0x11e60398));
});
