/**
 * What Node.js does several times faster than the same in JavaScript. In browsers there is no synchronous hash and no synchronous
 * inflate: there, and in an older Node.js, all of these are null, and whoever asks has the other way.
 */

interface Builtins {
  'node:crypto': { createHash(name: 'sha256'): { update(data: Uint8Array): { digest(form: 'hex'): string } } };
  'node:zlib': {
    crc32?(data: Uint8Array): number;
    inflateRawSync(data: Uint8Array, options: { maxOutputLength: number }): Uint8Array;
  };
}

// The one place that asks where it runs: all works without an answer.
// eslint-disable-next-line no-restricted-globals
const { process } = globalThis as { process?: { getBuiltinModule?<K extends keyof Builtins>(id: K): Builtins[K] | undefined } };

export const nativeCrypto = process?.getBuiltinModule?.('node:crypto') ?? null;
export const nativeZlib = process?.getBuiltinModule?.('node:zlib') ?? null;
