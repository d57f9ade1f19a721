/** One program at a time over one data folder. */

import { lstatSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import SQLite from 'better-sqlite3';
import { diskFull } from './diskFull.ts';
import { StartProblem } from './startProblem.ts';

interface Holder {
  pid: number;
  port: number | null;
  since: string;
}

export interface DataLock {
  /** Says on which port the holder answers, for whoever comes second. */
  tell(port: number): void;
  release(): void;
}

/**
 * Takes a data folder for this process, until it ends in whatever way. Who holds it stands in `NAME.lock.json`; the
 * lock itself is the operating system's, on `NAME.lock`: it is gone with its process, so that a file left behind by
 * a killed one, or a number that another process has by now, means nothing.
 *
 * @throws StartProblem naming the process that has it
 */
export function lockData(folder: string, name: string): DataLock {
  const about = join(folder, `${name}.lock.json`);
  // In a folder that somebody else has filled they may lead anywhere, and would be written there.
  for (const file of [about, ...['', '-journal', '-wal', '-shm'].map((ending) => join(folder, `${name}.lock${ending}`))])
    if (lstatSync(file, { throwIfNoEntry: false })?.isSymbolicLink()) throw new StartProblem(`${file} is a link. Remove it.`);
  let lock: SQLite.Database;
  try {
    lock = new SQLite(join(folder, `${name}.lock`), { timeout: 0 });
    lock.pragma('locking_mode = EXCLUSIVE');
    lock.exec('BEGIN EXCLUSIVE');
  } catch (error) {
    const code = (error as { code?: string }).code ?? '';
    const full = diskFull(error, folder, 1 << 20);
    if (full) throw new StartProblem(`${full.message} Make room on that disk, and start again.`);
    if (!code.startsWith('SQLITE_BUSY'))
      throw new StartProblem(`The folder ${folder} cannot be written (${code}). Make it writable for you, or set VIOLET_CRATE_DATA to another one.`);
    throw new StartProblem(`${folder} is in use by ${describe(about)}. End it, or set VIOLET_CRATE_DATA to another folder.`);
  }
  const since = new Date().toISOString();
  const tell = (port: number | null) => {
    try {
      writeFileSync(about, JSON.stringify({ pid: process.pid, port, since } satisfies Holder));
    } catch {
      // On a full disk nobody can be told who holds it; the lock holds all the same.
    }
  };
  tell(null);
  return {
    tell,
    release() {
      rmSync(about, { force: true });
      lock.close();
    },
  };
}

function describe(about: string): string {
  try {
    const { pid, port, since } = JSON.parse(readFileSync(about, 'utf8')) as Holder;
    return `process ${pid} (${port === null ? 'starting' : `port ${port}`}, since ${since.slice(0, 16).replace('T', ' ')})`;
  } catch {
    return 'another process';
  }
}
