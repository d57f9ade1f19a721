/** Zstandard, as KTX 2.0 uses it for what is not Basis Universal. */

import * as zstd from '@bokuweb/zstd-wasm';
import { KHR_SUPERCOMPRESSION_NONE, KHR_SUPERCOMPRESSION_ZSTD } from 'ktx-parse';

/** Beyond this level blocks of texels gain nothing worth the time. */
const LEVEL = 9;

let started: Promise<void> | null = null;
const start = (): Promise<void> => (started ??= zstd.init());

export async function compressed(bytes: Uint8Array): Promise<Uint8Array<ArrayBuffer>> {
  await start();
  return zstd.compress(bytes, LEVEL) as Uint8Array<ArrayBuffer>;
}

/** @param length bytes that have to come out. @throws Error where they do not, or the scheme is another */
export async function expanded(bytes: Uint8Array, scheme: number, length: number): Promise<Uint8Array> {
  if (scheme !== KHR_SUPERCOMPRESSION_NONE && scheme !== KHR_SUPERCOMPRESSION_ZSTD)
    throw new Error('it is compressed in a way that is not read here');
  await start();
  const raw = scheme === KHR_SUPERCOMPRESSION_ZSTD ? zstd.decompress(bytes) : bytes;
  if (raw.length < length) throw new Error('it holds fewer pixels than it says');
  return raw;
}
