import { existsSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { keepDailyCopy, listCopies, NEEDS } from '@violet-crate/host/copies';
import { PART, writeWhole } from '@violet-crate/host/files';
import SQLite from 'better-sqlite3';
import { CONFIG, type Config } from '../config.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { Problem } from '../http/problem.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { neededBlobs } from './neededBlobs.ts';

/** What can be cleared away without losing anything that is shown or can be gone back to. */
export const CLEARABLE = ['parts', 'unused', 'cache', 'copies'] as const;
export type Clearable = (typeof CLEARABLE)[number];
export type Space = Record<Clearable, { files: number; bytes: number }>;

interface Found {
  path: string;
  bytes: number;
}

const HOUR = 3_600_000;

/** What lies in the data folder that nobody needs any more, and the copies of the database that need it still. */
@Injectable()
export class SpaceService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('space');
  private timer: NodeJS.Timeout | undefined;

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) private readonly config: Config,
    private readonly jobs: JobsService,
  ) {}

  /** Nothing runs yet, so whatever is half written or unnamed was left by a process that is gone. */
  onApplicationBootstrap(): void {
    const tidy = () => {
      try {
        keepDailyCopy(this.database.$client, this.config.database);
      } catch (error) {
        this.logger.warn(`The daily copy of the database could not be kept: ${String(error)}`);
      }
    };
    tidy();
    try {
      this.clear(['parts', 'unused']);
    } catch (error) {
      this.logger.warn(`What is not needed could not be cleared away: ${String(error)}`);
    }
    this.timer = setInterval(tidy, HOUR).unref();
  }

  onApplicationShutdown(): void {
    clearInterval(this.timer);
  }

  /** Files and bytes that clearing each would free. */
  look(): Space {
    const found = this.find();
    return Object.fromEntries(
      CLEARABLE.map((what) => [what, { files: found[what].length, bytes: found[what].reduce((sum, file) => sum + file.bytes, 0) }]),
    ) as Space;
  }

  /** Clears away; answers what is left to clear. Work under way may have stored what no row names yet, so it has to end first. */
  clear(what: readonly Clearable[]): Space {
    if (this.jobs.busy) throw new Problem(409, 'jobs-running', 'Work is under way. Wait until it is done, or cancel it, and free space then.');
    const found = this.find();
    for (const kind of what) for (const { path } of found[kind]) rmSync(path, { force: true });
    return this.look();
  }

  private find(): Record<Clearable, Found[]> {
    const { blobs, cache, data } = this.config;
    const needed = neededBlobs(this.database.$client);
    const copies = listCopies(this.config.database);
    const neededByCopies = new Set(copies.flatMap((path) => [...neededByCopy(path)]));
    const stored = filesBelow(blobs);
    const whole = stored.filter(({ path }) => !path.endsWith(PART));
    const unnamed = whole.filter(({ path }) => !needed.has(basename(path)));
    const cached = filesBelow(cache);
    return {
      parts: [...stored, ...cached, ...filesBelow(join(data, 'copies'))].filter(({ path }) => path.endsWith(PART)),
      unused: unnamed.filter(({ path }) => !neededByCopies.has(basename(path))),
      cache: cached.filter(({ path }) => !path.endsWith(PART)),
      copies: [...copies.flatMap(withNeeds), ...unnamed.filter(({ path }) => neededByCopies.has(basename(path)))],
    };
  }
}

const withNeeds = (copy: string): Found[] => [copy, copy + NEEDS].flatMap((path) => (existsSync(path) ? [{ path, bytes: statSync(path).size }] : []));

/**
 * What a copy of the database would need if it were brought back; one that cannot be read needs nothing. Copies never
 * change, so each is read once and the list is kept beside it.
 */
function neededByCopy(path: string): Set<string> {
  try {
    if (existsSync(path + NEEDS)) return new Set(readFileSync(path + NEEDS, 'utf8').split('\n'));
    const copy = new SQLite(path, { readonly: true });
    try {
      const needed = neededBlobs(copy);
      writeWhole(path + NEEDS, new TextEncoder().encode([...needed].join('\n')));
      return needed;
    } finally {
      copy.close();
    }
  } catch {
    return new Set();
  }
}

function filesBelow(folder: string): Found[] {
  if (!existsSync(folder)) return [];
  return readdirSync(folder, { withFileTypes: true, recursive: true }).flatMap((entry) => {
    const path = join(entry.parentPath, entry.name);
    const stats = entry.isFile() ? statSync(path, { throwIfNoEntry: false }) : undefined;
    return stats ? [{ path, bytes: stats.size }] : [];
  });
}
