import { describe, expect, it } from '@jest/globals';
import { canonicalJson, sha256Hex, sha256InScript } from './hash.ts';

describe('hashes', () => {
  // Outside reference: FIPS 180-4, example for SHA-256 of "abc".
  it('SHA-256 of abc', () => {
    expect(sha256InScript(new TextEncoder().encode('abc'))).toBe(sha256Hex('abc'));
    expect(sha256Hex('abc')).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
  });

  it('canonical JSON does not depend on the order of keys', () => {
    expect(canonicalJson({ b: 1, a: { d: [1, { z: 0, y: 1 }], c: null } })).toBe(canonicalJson({ a: { c: null, d: [1, { y: 1, z: 0 }] }, b: 1 }));
    expect(canonicalJson([1, 2])).not.toBe(canonicalJson([2, 1]));
  });
});
