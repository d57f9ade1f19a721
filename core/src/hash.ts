import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { nativeCrypto } from './native.ts';

/** SHA-256 (FIPS 180-4) of bytes or of a text's UTF-8 bytes, as 64 lower-case hexadecimal digits. */
export function sha256Hex(data: Uint8Array | string): string {
  const bytes = typeof data === 'string' ? utf8ToBytes(data) : data;
  return nativeCrypto ? nativeCrypto.createHash('sha256').update(bytes).digest('hex') : sha256InScript(bytes);
}

/** Where the platform has none. */
export const sha256InScript = (bytes: Uint8Array): string => bytesToHex(sha256(bytes));

/**
 * JSON with object keys in code-unit order at every depth, so that equal values give equal text and thus
 * equal hashes. `undefined` members are dropped as JSON.stringify does.
 */
export function canonicalJson(value: unknown): string {
  return JSON.stringify(value, (_key, inner: unknown) => {
    if (inner === null || typeof inner !== 'object' || Array.isArray(inner)) return inner;
    const source = inner as Record<string, unknown>;
    return Object.fromEntries(
      Object.keys(source)
        .sort()
        .map((key) => [key, source[key]]),
    );
  });
}
