import { createPrivateKey } from 'node:crypto';
import { mkdtempSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import { fingerprint } from '@violet-crate/core/release/signature';
import { authorKey, importKey, verifySignature } from './authorKey.ts';

const hex = (text: string) => Buffer.from(text, 'hex');
const file = () => join(mkdtempSync(join(tmpdir(), 'violet-key-')), 'folder', 'author.key');

// Outside reference: RFC 8032, section 7.1, tests 1, 2, 3 and SHA(abc).
const VECTORS = [
  {
    secret: '9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60',
    key: 'd75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a',
    message: '',
    signature: 'e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e065224901555fb8821590a33bacc61e39701cf9b46bd25bf5f0595bbe24655141438e7a100b',
  },
  {
    secret: '4ccd089b28ff96da9db6c346ec114e0f5b8a319f35aba624da8cf6ed4fb8a6fb',
    key: '3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c',
    message: '72',
    signature: '92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00d291612bb0c00',
  },
  {
    secret: 'c5aa8df43f9f837bedb7442f31dcb7b166d38535076f094b85ce3a2e0b4458f7',
    key: 'fc51cd8e6218a1a38da47ed00230f0580816ed13ba3303ac5deb911548908025',
    message: 'af82',
    signature: '6291d657deec24024827e69c3abe01a30ce548a284743a445e3680d7db5ac3ac18ff9b538d16f290ae67f760984dc6594a7c15e9716ed28dc027beceea1ec40a',
  },
  {
    secret: '833fe62409237b9d62ec77587520911e9a759cec1d19755b7da901b96dca3d42',
    key: 'ec172b93ad5e563bf4932c70e1245034c35467ef2efd4d64ebf819683467e2bf',
    message: 'ddaf35a193617abacc417349ae20413112e6fa4e89a97ea20a9eeee64b55d39a2192992a274fc1a836ba3c23a3feebbd454d4423643ce80e2a9ac94fa54ca49f',
    signature: 'dc2a4459e7369633a52b1bf277839a00201009a3efbf3ecb69bea2186c26b58909351fc9ac90b3ecfdfbc7c66431e0303dca179c138ac17ad9bef1177331a704',
  },
];

/** PKCS #8 around a seed (RFC 8410, section 7). */
const pem = (secret: string) =>
  createPrivateKey({ key: Buffer.concat([hex('302e020100300506032b657004220420'), hex(secret)]), format: 'der', type: 'pkcs8' }).export({
    type: 'pkcs8',
    format: 'pem',
  }) as string;

describe('signatures', () => {
  it.each(VECTORS)('RFC 8032: $key', ({ secret, key, message, signature }) => {
    const made = importKey(file(), pem(secret));
    expect(made.publicKey).toBe(hex(key).toString('base64'));
    const signed = made.sign(hex(message));
    expect(signed.signature).toBe(hex(signature).toString('base64'));
    expect(verifySignature(signed, hex(message))).toBe(true);
    expect(verifySignature(signed, hex(`${message}00`))).toBe(false);
    const other = VECTORS.find((vector) => vector.key !== key)!;
    expect(verifySignature({ ...signed, key: hex(other.key).toString('base64') }, hex(message))).toBe(false);
    expect(verifySignature({ ...signed, key: 'nonsense' }, hex(message))).toBe(false);
  });
});

describe('the key of this machine', () => {
  it('is made once, for its owner alone, and taken elsewhere', () => {
    const at = file();
    const key = authorKey(at);
    expect(statSync(at).mode & 0o777).toBe(0o600);
    expect(authorKey(at).publicKey).toBe(key.publicKey);
    const elsewhere = importKey(file(), key.pem);
    expect(elsewhere.publicKey).toBe(key.publicKey);
    expect(fingerprint(key.publicKey)).toMatch(/^[0-9a-f]{4}( [0-9a-f]{4}){3}$/);
  });

  it('a file that holds something else is told and left as it is', () => {
    const at = join(mkdtempSync(join(tmpdir(), 'violet-key-')), 'author.key');
    writeFileSync(at, 'not a key');
    expect(() => authorKey(at)).toThrow(/holds no Ed25519 key/);
  });
});

describe('strict verification', () => {
  const P = 2n ** 255n - 19n;
  const D = (-121665n * inverse(121666n)) % P;
  function power(base: bigint, exponent: bigint): bigint {
    let [out, square] = [1n, ((base % P) + P) % P];
    for (let e = exponent; e > 0n; e >>= 1n) {
      if (e & 1n) out = (out * square) % P;
      square = (square * square) % P;
    }
    return out;
  }
  function inverse(x: bigint): bigint {
    return power(x, P - 2n);
  }
  /** The point with a y, by RFC 8032, 5.1.3; null where there is none. */
  function pointAt(y: bigint): [bigint, bigint] | null {
    const u = (((y * y - 1n) % P) + P) % P;
    const v = (((D * y * y + 1n) % P) + P) % P;
    const square = (u * inverse(v)) % P;
    let x = power(square, (P + 3n) / 8n);
    if ((x * x - square) % P !== 0n) x = (x * power(2n, (P - 1n) / 4n)) % P;
    return (x * x - square) % P === 0n ? [x, y] : null;
  }
  /** Twice a point (RFC 8032, 5.1.4, in affine form). */
  function double([x, y]: [bigint, bigint]): [bigint, bigint] {
    const t = (D * x * x * y * y) % P;
    const mod = (value: bigint) => ((value % P) + P) % P;
    return [mod(2n * x * y * inverse(mod(1n + t))), mod((y * y + x * x) * inverse(mod(1n - t)))];
  }
  const bytes = (y: bigint, sign = 0) => {
    const out = Buffer.alloc(32);
    for (let i = 0; i < 32; i++) out[i] = Number((y >> BigInt(8 * i)) & 255n);
    out[31] |= sign << 7;
    return out;
  };
  const SMALL = [0n, 1n, P - 1n, 2707385501144840649318225287225658788936804267575313519463743609750303402022n];

  it('a key of small order, which would verify any document, verifies none', () => {
    for (const y of [...SMALL, P - SMALL[3]]) {
      // It is one: eight times it is the neutral element.
      const point = pointAt(y);
      expect(point).not.toBeNull();
      expect(double(double(double(point!)))).toEqual([0n, 1n]);
      for (const sign of [0, 1])
        for (const r of SMALL) {
          const signature = Buffer.concat([bytes(r), Buffer.alloc(32)]).toString('base64');
          expect(verifySignature({ format: 1, algorithm: 'Ed25519', key: bytes(y, sign).toString('base64'), signature }, hex('72'))).toBe(false);
        }
    }
    // Written in a second way: y and y + p are the same point.
    for (const y of [0n, 1n])
      expect(
        verifySignature(
          { format: 1, algorithm: 'Ed25519', key: bytes(y + P).toString('base64'), signature: Buffer.alloc(64).toString('base64') },
          hex(''),
        ),
      ).toBe(false);
  });

  it('a signature has one form: S above the order of the group is none', () => {
    const { key, message, signature } = VECTORS[1];
    const L = 2n ** 252n + 27742317777372353535851937790883648493n;
    const [r, s] = [hex(signature).subarray(0, 32), BigInt(`0x${Buffer.from(hex(signature).subarray(32)).reverse().toString('hex')}`)];
    const with_ = (value: bigint) => ({
      format: 1 as const,
      algorithm: 'Ed25519' as const,
      key: hex(key).toString('base64'),
      signature: Buffer.concat([r, bytes(value)]).toString('base64'),
    });
    expect(verifySignature(with_(s), hex(message))).toBe(true);
    expect(verifySignature(with_(s + L), hex(message))).toBe(false);
  });
});
