/** Files on disk, written whole or not at all, and folders as trees. */

import { spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { closeSync, existsSync, fstatSync, fsyncSync, mkdirSync, openSync, readFileSync, renameSync, rmSync, statSync, writeSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { crc32 } from 'node:zlib';
import type { StageCache } from '@violet-crate/core/stages/contract/stage';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { diskFull } from './diskFull.ts';

/** Ending of files that are being written; whatever still has it after the writer is gone was never finished. */
export const PART = '.part';

/**
 * Writes a file whole or not at all: a neighbour is written, synced and measured, then renamed over it.
 *
 * @throws UnreadableInput `disk-full` where there is no room; then nothing is left behind
 */
export const writeWhole = (file: string, bytes: Uint8Array): void => writeAllWhole([[file, bytes]]);

export const writeTree = (folder: string, tree: FileTree): void =>
  writeAllWhole([...tree].map(([path, bytes]) => [join(folder, ...path.split('/')), bytes] as const));

/**
 * Writes files, each whole or not at all, and waits for the disk once for all of them. No file gets its name before all
 * are on the disk.
 *
 * @throws UnreadableInput `disk-full` where there is no room; then nothing is left behind
 */
export function writeAllWhole(files: readonly (readonly [file: string, bytes: Uint8Array])[]): void {
  const ending = `.${randomBytes(6).toString('hex')}${PART}`;
  const begun: string[] = [];
  let last: (typeof files)[number] = files[0];
  try {
    const folders = new Set<string>();
    for (last of files) {
      const [file, bytes] = last;
      const folder = dirname(file);
      if (!folders.has(folder)) mkdirSync(folder, { recursive: true });
      folders.add(folder);
      const handle = openSync(file + ending, 'w');
      begun.push(file);
      try {
        // A disk that fills up takes a part of what it is given and says so by the count alone.
        for (let at = 0; at < bytes.length;) at += writeSync(handle, bytes, at);
        if (files.length < MANY) fsyncSync(handle);
        const { size } = fstatSync(handle);
        if (size !== bytes.length) throw new Error(`${file}${ending} has ${size} bytes instead of ${bytes.length}.`);
      } finally {
        closeSync(handle);
      }
    }
    if (files.length >= MANY) syncAll(begun.map((file) => file + ending));
    for (const file of begun) renameSync(file + ending, file);
  } catch (error) {
    for (const file of begun)
      try {
        rmSync(file + ending, { force: true });
      } catch {
        // The folder itself cannot be used; the first error says more.
      }
    throw diskFull(error, dirname(last[0]), last[1].length) ?? error;
  }
}

/** Files from which on the whole file system is synced once, instead of each file. */
const MANY = 16;

function syncAll(files: readonly string[]): void {
  // Node.js cannot ask for syncfs(2), which takes a third of the time that a sync of each file takes.
  const devices = new Map(files.map((file) => [statSync(file).dev, file]));
  if (process.platform === 'linux' && [...devices.values()].every((file) => spawnSync('sync', ['-f', file], { stdio: 'ignore' }).status === 0))
    return;
  for (const file of files) {
    const handle = openSync(file, 'r+');
    fsyncSync(handle);
    closeSync(handle);
  }
}

/**
 * Results of build stages by key, under a folder. Behind each stands its CRC-32: one that was damaged on the disk counts
 * as not there and is made anew, instead of failing every build until somebody clears the cache.
 */
export function stageCache(folder: string): StageCache {
  const fileOf = (key: string) => join(folder, key.slice(0, 2), key);
  return {
    get: (key) => Promise.resolve(existsSync(fileOf(key)) ? checked(readFileSync(fileOf(key))) : null),
    // What is kept only saves time: a full disk must not end a build for it.
    put: (key, value) => {
      const sealed = new Uint8Array(value.length + 4);
      sealed.set(value);
      new DataView(sealed.buffer).setUint32(value.length, crc32(value));
      try {
        writeWhole(fileOf(key), sealed);
      } catch (error) {
        if (!diskFull(error, folder, value.length)) throw error;
      }
      return Promise.resolve();
    },
  };
}

function checked(sealed: Uint8Array): Uint8Array | null {
  if (sealed.length < 4) return null;
  // A copy of its own: decoders lay arrays of wider numbers over it, which have to begin where they may.
  const value = new Uint8Array(sealed.subarray(0, -4));
  return crc32(value) === new DataView(sealed.buffer, sealed.byteOffset).getUint32(value.length) ? value : null;
}

/** Whether a file is there with just so many bytes. */
export const hasLength = (file: string, bytes: number): boolean => statSync(file, { throwIfNoEntry: false })?.size === bytes;
