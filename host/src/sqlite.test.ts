import { mkdirSync, mkdtempSync, readdirSync, readFileSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import SQLite from 'better-sqlite3';
import { keepCopy, keepDailyCopy, listCopies } from './copies.ts';
import { lockData } from './dataLock.ts';
import { diskFull } from './diskFull.ts';
import { openSqlite } from './sqlite.ts';
import { StartProblem } from './startProblem.ts';

const folder = () => mkdtempSync(join(tmpdir(), 'violet-sqlite-'));

/** Migrations as drizzle-kit writes them: a table each. */
function migrations(count: number): string {
  const at = folder();
  mkdirSync(join(at, 'meta'));
  const entries = Array.from({ length: count }, (_, i) => ({ idx: i, version: '6', when: 1000 + i, tag: `000${i}_t`, breakpoints: true }));
  writeFileSync(join(at, 'meta/_journal.json'), JSON.stringify({ version: '7', dialect: 'sqlite', entries }));
  for (const { tag, idx } of entries) writeFileSync(join(at, `${tag}.sql`), `CREATE TABLE t${idx} (a text);`);
  return at;
}

function filled(): { file: string; at: string } {
  const at = folder();
  const file = join(at, 'x.sqlite');
  const { $client } = openSqlite(file, {}, migrations(1));
  for (let i = 0; i < 2000; i++) $client.prepare('INSERT INTO t0 VALUES (?)').run('x'.repeat(100) + i);
  $client.close();
  return { file, at };
}

describe('opening a database', () => {
  it('keeps a copy before a migration, and none where there is nothing to do', () => {
    const { file } = filled();
    openSqlite(file, {}, migrations(1)).$client.close();
    expect(listCopies(file)).toEqual([]);
    const opened = openSqlite(file, {}, migrations(2));
    expect(opened.$client.prepare('SELECT count(*) AS n FROM t1').get()).toEqual({ n: 0 });
    opened.$client.close();
    const [copy] = listCopies(file);
    const old = new SQLite(copy, { readonly: true });
    expect(old.prepare('SELECT count(*) AS n FROM t0').get()).toEqual({ n: 2000 });
    expect(old.prepare("SELECT name FROM sqlite_master WHERE name = 't1'").get()).toBeUndefined();
    old.close();
  });

  it.each([
    ['empty', (file: string) => truncateSync(file, 0), /is empty/],
    ['cut off', (file: string) => truncateSync(file, 100_000), /is damaged/],
    ['another kind of file', (file: string) => writeFileSync(file, 'text '.repeat(1000)), /no SQLite file/],
    ['changed within', (file: string) => writeFileSync(file, readFileSync(file).fill(0x55, 40_000, 90_000)), /is damaged/],
  ])('that is %s ends in a sentence with what to do', (_, damage, message) => {
    const { file } = filled();
    damage(file);
    const open = () => openSqlite(file, {}, migrations(1));
    expect(open).toThrow(StartProblem);
    expect(open).toThrow(message);
    expect(open).toThrow(/npm run restore/);
  });

  it('of a newer version, or in a folder that is none, says so', () => {
    const { file, at } = filled();
    openSqlite(file, {}, migrations(3)).$client.close();
    expect(() => openSqlite(file, {}, migrations(2))).toThrow(/newer version/);
    expect(() => openSqlite(join(at, 'none/x.sqlite'), {}, migrations(1))).toThrow(/directory does not exist|cannot be written/);
  });
});

describe('copies', () => {
  it('one a day, seven of them, and those before migrations by themselves', () => {
    const { file, at } = filled();
    const client = new SQLite(file);
    const days = (n: number) => new Date(Date.UTC(2026, 0, n, 9));
    for (let day = 1; day <= 9; day++) for (let again = 0; again < 2; again++) keepDailyCopy(client, file, days(day));
    keepCopy(client, file, 'migration', days(1));
    client.close();
    const names = readdirSync(join(at, 'copies'));
    expect(names.filter((name) => name.includes('daily')).map((name) => name.slice(0, 10))).toEqual(
      Array.from({ length: 7 }, (_, i) => `2026-01-0${i + 3}`),
    );
    expect(names.filter((name) => name.includes('migration'))).toHaveLength(1);
    expect(listCopies(join(at, 'other.sqlite'))).toEqual([]);
  });
});

describe('one program at a time', () => {
  it('the second is told who holds the folder; what a dead one left behind means nothing', () => {
    const at = folder();
    writeFileSync(join(at, 'server.lock.json'), JSON.stringify({ pid: process.pid, port: 1, since: '2026-01-01T00:00:00' }));
    const first = lockData(at, 'server');
    first.tell(4280);
    expect(() => lockData(at, 'server')).toThrow(new RegExp(`in use by process ${process.pid} \\(port 4280, since `));
    lockData(at, 'workshop').release();
    first.release();
    lockData(at, 'server').release();
  });
});

describe('a full disk', () => {
  it('is recognised through whatever wraps it, and nothing else is', () => {
    const full = Object.assign(new Error('database or disk is full'), { code: 'SQLITE_FULL' });
    // More than any disk has.
    const told = diskFull(new Error('query failed', { cause: full }), '/', 2 ** 60);
    expect(told).toMatchObject({
      code: 'disk-full',
      message: expect.stringMatching(/^The disk is full: [\d,]+ MB are needed in \/, \d+ MB are free\.$/),
    });
    // Where there is room, it is something else that is used up, and the place is the one where it happened.
    const quota = Object.assign(new Error(), { code: 'EDQUOT', path: '/tmp/a/b' });
    expect(diskFull(quota, '/', 1)!.message).toMatch(/^The disk of \/tmp\/a takes no more files/);
    expect(diskFull(Object.assign(new Error(), { code: 'ENOSPC', syscall: 'watch' }), '/', 1)).toBeNull();
    expect(diskFull(told, '/', 1)).toBe(told);
    expect(diskFull(Object.assign(new Error(), { code: 'ENOSPC' }), '/none/at/all', 1)).not.toBeNull();
    expect(diskFull(Object.assign(new Error(), { code: 'ENOENT' }), '/', 1)).toBeNull();
    // An I/O error counts only where the disk has no room indeed.
    expect(diskFull(Object.assign(new Error(), { code: 'SQLITE_IOERR_WRITE' }), '/', 1)).toBeNull();
  });
});
