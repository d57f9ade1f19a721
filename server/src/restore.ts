/** Brings back a copy of the database: `npm run restore` lists them, `npm run restore -- FILE` takes one. */

import { copyFileSync, existsSync, renameSync, rmSync } from 'node:fs';
import { basename, dirname, isAbsolute, join } from 'node:path';
import { copiesFolder, listCopies } from '@violet-crate/host/copies';
import { lockData } from '@violet-crate/host/dataLock';
import { StartProblem, startOrExplain } from '@violet-crate/host/startProblem';
import SQLite from 'better-sqlite3';
import { readConfig } from './config.ts';

await startOrExplain(() => {
  const { data, database } = readConfig();
  const [wanted] = process.argv.slice(2);
  const copies = listCopies(database);
  if (!wanted) {
    console.log(
      copies.length === 0
        ? `There are no copies in ${copiesFolder(database)} yet. One is kept on every day that Violet Crate runs.`
        : `Copies, newest last:\n${copies.map((path) => `  ${basename(path)}`).join('\n')}\nBring one back with: npm run restore -- NAME`,
    );
    return Promise.resolve();
  }
  const copy = isAbsolute(wanted) ? wanted : join(copiesFolder(database), basename(wanted));
  checkCopy(copy);
  // Nobody may write while files are exchanged.
  const lock = lockData(data, 'server');
  const aside = join(dirname(database), `replaced-${new Date().toISOString().slice(0, 19).replaceAll(':', '-')}.sqlite`);
  const fresh = `${database}.restored`;
  copyFileSync(copy, fresh);
  if (existsSync(database)) renameSync(database, aside);
  // Journals belong to the file that was replaced, and would be played into the new one.
  for (const ending of ['-wal', '-shm']) if (existsSync(database + ending)) renameSync(database + ending, aside + ending);
  renameSync(fresh, database);
  rmSync(fresh, { force: true });
  lock.release();
  console.log(`Brought back ${basename(copy)}. What was there before lies in ${aside}; remove it when you no longer need it.`);
  return Promise.resolve();
});

function checkCopy(file: string): void {
  if (!existsSync(file)) throw new StartProblem(`There is no copy ${file}. "npm run restore" lists those that are there.`);
  let state: unknown;
  try {
    const copy = new SQLite(file, { readonly: true });
    state = copy.pragma('quick_check(1)', { simple: true });
    copy.close();
  } catch (error) {
    state = (error as Error).message;
  }
  if (state !== 'ok') throw new StartProblem(`The copy ${file} is damaged: ${String(state)}. Choose another one.`);
}
