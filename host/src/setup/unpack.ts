/** Unpacks an archive of any size into a folder: streamed, within limits, whole or not at all. */

import { createWriteStream, existsSync, mkdirSync, renameSync, rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import yauzl from 'yauzl';
import { diskFull } from '../diskFull.ts';
import { within } from './places.ts';

export interface UnpackLimits {
  entries: number;
  bytes: number;
}

/** Kinds of a file in the upper half of its attributes: a regular one, a folder; all else is refused. */
const KIND = 0o170000;
const REGULAR = 0o100000;
const FOLDER = 0o040000;

const refuse = (code: string, message: string) => new UnreadableInput(code, message, {}, 'Nothing was unpacked. Do not trust this archive.');

/**
 * @param target is written beside itself first and then put into its place; what was there before is given back by `undo`
 * @throws UnreadableInput where an entry would lie elsewhere, is no regular file or larger than it says; then `target` is as it was
 */
export async function unpackWhole(
  file: string,
  target: string,
  limits: UnpackLimits,
  signal?: AbortSignal,
): Promise<{ files: number; bytes: number }> {
  const fresh = `${target}.new`;
  const aside = `${target}.old`;
  mendUnpacked(target);
  rmSync(fresh, { recursive: true, force: true });
  try {
    const done = await unpackInto(file, fresh, limits, signal);
    if (existsSync(target)) renameSync(target, aside);
    renameSync(fresh, target);
    rmSync(aside, { recursive: true, force: true });
    return done;
  } catch (error) {
    rmSync(fresh, { recursive: true, force: true });
    mendUnpacked(target);
    throw diskFull(error, dirname(target), limits.bytes) ?? error;
  }
}

/** Brings back what was set aside when unpacking was killed, and clears away what was half written. */
export function mendUnpacked(target: string): void {
  const aside = `${target}.old`;
  if (existsSync(aside) && !existsSync(target)) renameSync(aside, target);
  rmSync(aside, { recursive: true, force: true });
  rmSync(`${target}.new`, { recursive: true, force: true });
}

/** Unpacks into a folder that is there or not; files of the same path are replaced one by one. */
export async function unpackInto(
  file: string,
  folder: string,
  limits: UnpackLimits,
  signal?: AbortSignal,
): Promise<{ files: number; bytes: number }> {
  let zip: yauzl.ZipFile;
  try {
    zip = await yauzl.openPromise(file, {
      lazyEntries: true,
      autoClose: false,
      decodeStrings: true,
      validateEntrySizes: true,
      strictFileNames: true,
    });
  } catch (error) {
    throw refuse('zip-invalid', `${file} is no ZIP archive that can be read${reasonOf(error)}.`);
  }
  try {
    if (zip.entryCount > limits.entries)
      throw refuse('zip-too-large', `The archive has ${zip.entryCount} entries; at most ${limits.entries} are taken.`);
    mkdirSync(folder, { recursive: true });
    const seen = new Set<string>();
    let [files, bytes, stated] = [0, 0, 0];
    for await (const entry of zip.eachEntry()) {
      const kind = (entry.externalFileAttributes >>> 16) & KIND;
      if (kind !== 0 && kind !== REGULAR && kind !== FOLDER)
        throw refuse('zip-entry', `"${entry.fileName}" is neither a file nor a folder, but a link or a device.`);
      const path = within(folder, entry.fileName);
      if (!path || path === folder) throw refuse('zip-path', `"${entry.fileName}" would be written outside the folder.`);
      if (entry.fileName.endsWith('/')) {
        mkdirSync(path, { recursive: true });
        continue;
      }
      if (seen.has(path)) throw refuse('zip-entry', `"${entry.fileName}" is there twice.`);
      seen.add(path);
      stated += entry.uncompressedSize;
      if (stated > limits.bytes) throw refuse('zip-too-large', `The archive unpacks to more than ${limits.bytes} bytes.`);
      mkdirSync(dirname(path), { recursive: true });
      const runs = ((entry.externalFileAttributes >>> 16) & 0o111) !== 0;
      const source = await zip.openReadStreamPromise(entry);
      const counted = new Transform({
        transform(chunk: Buffer, _encoding, done) {
          bytes += chunk.length;
          done(bytes > limits.bytes ? refuse('zip-too-large', `The archive unpacks to more than ${limits.bytes} bytes.`) : null, chunk);
        },
      });
      await pipeline(source, counted, createWriteStream(path, { mode: runs ? 0o755 : 0o644 }), { signal });
      files++;
    }
    return { files, bytes };
  } catch (error) {
    if (error instanceof UnreadableInput || diskFull(error, folder, 1) || signal?.aborted) throw error;
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'EISDIR' || code === 'ENOTDIR' || code === 'EEXIST')
      throw refuse('zip-entry', 'The archive has a path that is a file and a folder.');
    throw refuse('zip-invalid', `The archive cannot be unpacked${reasonOf(error)}.`);
  } finally {
    zip.close();
  }
}

/** What the reader says of an archive, as a part of a sentence; its own words are for programmers. */
function reasonOf(error: unknown): string {
  const text = error instanceof Error ? error.message : '';
  if (/relative path|absolute path|invalid characters/.test(text)) return ': an entry would be written outside the folder';
  if (/too many bytes|not enough bytes|size/.test(text)) return ': an entry is not as long as it says';
  if (/end of central directory|signature/.test(text)) return ': its directory is missing or damaged';
  return '';
}
