/** The author's key of this machine, and signatures with it: Ed25519 (RFC 8032) by Node's crypto. */

import { createPrivateKey, createPublicKey, generateKeyPairSync, sign, verify, type KeyObject } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, readFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';
import type { Sign, Verify } from '@violet-crate/core/release/signature';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { writeWhole } from './files.ts';

export interface AuthorKey {
  /** Base64 of the 32 bytes of the public key. */
  publicKey: string;
  sign: Sign;
  /** PKCS #8 as PEM, for taking it to another machine. */
  pem: string;
}

/** Where the command line keeps it, beside the server's in its data folder. */
export const defaultKeyFile = (): string =>
  process.env.VIOLET_CRATE_KEY ?? join(process.env.VIOLET_CRATE_DATA ?? join(homedir(), '.violet-crate'), 'author.key');

const pemOf = (key: KeyObject): string => key.export({ type: 'pkcs8', format: 'pem' }) as string;

/** Opens the key, or makes one on first use; only its owner may read the file. @throws UnreadableInput where the file holds no such key */
export function authorKey(file: string): AuthorKey {
  if (!existsSync(file)) {
    mkdirSync(dirname(file), { recursive: true });
    saveKey(file, pemOf(generateKeyPairSync('ed25519').privateKey));
  }
  return keyOf(readFileSync(file, 'utf8'), file);
}

/** Takes a key from another machine in the place of the one here. */
export function importKey(file: string, pem: string): AuthorKey {
  const key = keyOf(pem, 'The key');
  mkdirSync(dirname(file), { recursive: true });
  saveKey(file, key.pem);
  return key;
}

function saveKey(file: string, pem: string): void {
  writeWhole(file, Buffer.from(pem));
  chmodSync(file, 0o600);
}

function keyOf(pem: string, file: string): AuthorKey {
  let key: KeyObject;
  try {
    key = createPrivateKey(pem);
    if (key.asymmetricKeyType !== 'ed25519') throw new Error('of another kind');
  } catch {
    throw new UnreadableInput(
      'author-key',
      `${file} holds no Ed25519 key.`,
      { file },
      'Bring the right file back, or move it away: a new key is made then.',
    );
  }
  const { x } = createPublicKey(key).export({ format: 'jwk' });
  const publicKey = Buffer.from(x!, 'base64url').toString('base64');
  return {
    publicKey,
    pem: pemOf(key),
    sign: (bytes) => ({ format: 1, algorithm: 'Ed25519', key: publicKey, signature: sign(null, bytes, key).toString('base64') }),
  };
}

/** The prime of Curve25519 and the order of its base point (RFC 8032, 5.1). */
const P = 2n ** 255n - 19n;
const L = 2n ** 252n + 27742317777372353535851937790883648493n;

/** The y of the eight points of small order: 1, -1, 0, and two of order eight; with either sign of x (checked in authorKey.test.ts). */
const SMALL_ORDER_Y = new Set([
  0n,
  1n,
  P - 1n,
  2707385501144840649318225287225658788936804267575313519463743609750303402022n,
  P - 2707385501144840649318225287225658788936804267575313519463743609750303402022n,
]);

const littleEndian = (bytes: Uint8Array): bigint => BigInt(`0x${Buffer.from(bytes).reverse().toString('hex')}`);

/** The y of a point as it is written, where it is written in the one way that there is, and not of small order; null otherwise. */
function properY(point: Uint8Array): bigint | null {
  const y = littleEndian(point) & (2n ** 255n - 1n);
  return y < P && !SMALL_ORDER_Y.has(y) ? y : null;
}

/**
 * Ed25519 as RFC 8032, 5.1.7, has it, without cofactor, and stricter than it: the key and R are points written canonically and of no
 * small order (with such a key one signature would hold for every document), and S is below the group's order (else there would be
 * several signatures of one document). ZIP 215 would accept both kinds of point.
 */
export const verifySignature: Verify = ({ key, signature }, bytes) => {
  try {
    const [point, both] = [Buffer.from(key, 'base64'), Buffer.from(signature, 'base64')];
    if (point.length !== 32 || both.length !== 64) return false;
    if (properY(point) === null || properY(both.subarray(0, 32)) === null || littleEndian(both.subarray(32)) >= L) return false;
    const publicKey = createPublicKey({ key: { kty: 'OKP', crv: 'Ed25519', x: Buffer.from(key, 'base64').toString('base64url') }, format: 'jwk' });
    return verify(null, bytes, publicKey, Buffer.from(signature, 'base64'));
  } catch {
    return false;
  }
};
