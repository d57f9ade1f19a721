/** SHA-256 of files at the speed of the disk, remembered while a file is the same by length and times. */

import { createHash } from 'node:crypto';
import { closeSync, constants, fstatSync, openSync, readSync } from 'node:fs';
import { open, stat } from 'node:fs/promises';

const CHUNK = 1 << 20;
/** Files that are read beside each other: one is read while another is hashed. */
const AT_ONCE = 3;
const REMEMBERED = 200_000;

const known = new Map<string, { stamp: string; sha256: string }>();

/** Null where a file cannot be read. */
export async function hashFile(file: string): Promise<{ bytes: number; sha256: string } | null> {
  try {
    const { size, mtimeMs, ctimeMs, ino } = await stat(file);
    const stamp = `${size} ${mtimeMs} ${ctimeMs} ${ino}`;
    const before = known.get(file);
    if (before?.stamp === stamp) return { bytes: size, sha256: before.sha256 };
    const handle = await open(file, 'r');
    try {
      const hash = createHash('sha256');
      const buffer = Buffer.allocUnsafe(Math.min(CHUNK, Math.max(1, size)));
      for (;;) {
        const { bytesRead } = await handle.read(buffer, 0, buffer.length, null);
        if (bytesRead === 0) break;
        hash.update(buffer.subarray(0, bytesRead));
      }
      const sha256 = hash.digest('hex');
      remember(file, stamp, mtimeMs, sha256);
      return { bytes: size, sha256 };
    } finally {
      await handle.close();
    }
  } catch {
    return null;
  }
}

/** The same at once, for a few files: null where it is no regular file, or cannot be read. */
export function hashFileNow(file: string): string | null {
  let handle: number;
  try {
    handle = openSync(file, constants.O_RDONLY | constants.O_NONBLOCK);
  } catch {
    return null;
  }
  try {
    const stats = fstatSync(handle);
    if (!stats.isFile()) return null;
    const stamp = `${stats.size} ${stats.mtimeMs} ${stats.ctimeMs} ${stats.ino}`;
    const before = known.get(file);
    if (before?.stamp === stamp) return before.sha256;
    const hash = createHash('sha256');
    const buffer = Buffer.allocUnsafe(Math.min(CHUNK, Math.max(1, stats.size)));
    for (let read = readSync(handle, buffer); read > 0; read = readSync(handle, buffer)) hash.update(buffer.subarray(0, read));
    const sha256 = hash.digest('hex');
    remember(file, stamp, stats.mtimeMs, sha256);
    return sha256;
  } finally {
    closeSync(handle);
  }
}

function remember(file: string, stamp: string, mtimeMs: number, sha256: string): void {
  if (known.size >= REMEMBERED) known.clear();
  // A file that was written within this very moment may be written again without a new time.
  if (Date.now() - mtimeMs > 2000) known.set(file, { stamp, sha256 });
}

/** In the order of `files`. */
export async function hashFiles(files: readonly string[]): Promise<({ bytes: number; sha256: string } | null)[]> {
  const out = new Array<{ bytes: number; sha256: string } | null>(files.length).fill(null);
  let next = 0;
  const work = async () => {
    for (let i = next++; i < files.length; i = next++) out[i] = await hashFile(files[i]);
  };
  await Promise.all(Array.from({ length: AT_ONCE }, work));
  return out;
}
