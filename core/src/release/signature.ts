/** `release.sig`: the author's signature of a package's `release.json`, which names every other file by its hash. */

import { Type, type Static } from '@sinclair/typebox';
import type { FileTree } from '../crate/fileTree.ts';
import { readDocument } from '../document/readDocument.ts';
import { RELEASE_FILE } from './manifest.ts';

export const SIGNATURE_FILE = 'release.sig';

const Base64 = (bytes: number) => Type.String({ pattern: `^[A-Za-z0-9+/]{${Math.ceil((bytes * 4) / 3)}}=*$` });

export const SignatureSchema = Type.Object(
  {
    format: Type.Literal(1),
    algorithm: Type.Literal('Ed25519', { description: 'RFC 8032.' }),
    key: Type.Unsafe<string>({ ...Base64(32), description: 'The author’s public key, 32 bytes.' }),
    signature: Type.Unsafe<string>({ ...Base64(64), description: 'Over the bytes of release.json.' }),
  },
  { additionalProperties: false },
);

export type Signature = Static<typeof SignatureSchema>;

/** Whoever has a key signs with it: the core knows no cryptography of its own. */
export type Sign = (bytes: Uint8Array) => Signature;
export type Verify = (signature: Signature, bytes: Uint8Array) => boolean;

/** @returns the public key that a package is signed with; null where it is not signed; `false` where the signature is not of these bytes */
export function signerOf(tree: FileTree, verify: Verify): string | null | false {
  const file = tree.get(SIGNATURE_FILE);
  if (!file) return null;
  const signature = readDocument(new TextDecoder().decode(file), SignatureSchema, SIGNATURE_FILE);
  return verify(signature, tree.get(RELEASE_FILE) ?? new Uint8Array()) && signature.key;
}

/** Short enough to be read to somebody: the first 16 digits of a key, in fours. */
export const fingerprint = (key: string): string =>
  Array.from(atob(key).slice(0, 8), (char) => char.charCodeAt(0).toString(16).padStart(2, '0'))
    .join('')
    .replace(/(.{4})(?!$)/g, '$1 ');
