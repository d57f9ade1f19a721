import { existsSync, statSync } from 'node:fs';
import { basename, isAbsolute, resolve } from 'node:path';
import { Inject, Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { ImportPlan } from '@violet-crate/core/importing/importPlan';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { FOLDER_LIMITS, listFolder, readTree, type FolderLimits } from '@violet-crate/host/folderTree';
import { watch as watchFolder, type FSWatcher } from 'chokidar';
import { eq } from 'drizzle-orm';
import { ImportsService } from '../assets/imports.service.ts';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { watches } from '../database/schema.ts';
import { Problem } from '../http/problem.ts';
import { JobsService, type Job } from '../jobs/jobs.service.ts';
import { Notices } from '../notices/notices.ts';

export interface WatchView {
  folder: string;
  automatic: boolean;
  /** Assets whose source has changed on disk. */
  stale: { asset: string; file: string }[];
  /** Files that no asset was made of yet. */
  fresh: string[];
  /** Why the folder cannot be read, if it cannot. */
  problem: string | null;
}

/** What a folder of sources may hold: its files are read whole after every change. */
const LIMITS: FolderLimits = { ...FOLDER_LIMITS, bytes: 1 << 30, depth: 16 };

/** Changes come in bursts: an exporter writes a file in pieces. */
const SETTLE_MS = 400;

/** Folders whose files are a crate's sources: changes are noticed, and taken over at once where that is wished. */
@Injectable()
export class WatchService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly watchers = new Map<string, FSWatcher>();
  private readonly states = new Map<string, Pick<WatchView, 'stale' | 'fresh' | 'problem'>>();
  private readonly timers = new Map<string, NodeJS.Timeout>();

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly imports: ImportsService,
    private readonly jobs: JobsService,
    private readonly crates: CratesService,
    private readonly notices: Notices,
  ) {}

  onApplicationBootstrap(): void {
    // First of all: a folder that changes now must not begin another job.
    this.crates.beforeRemoval.unshift((crateId) => this.forget(crateId));
    this.jobs.events.subscribe((job) => {
      if (job.kind === 'convert' && job.state === 'done' && job.crateId) this.look(job.crateId, false);
    });
    for (const { crateId, folder } of this.database.select().from(watches).all()) this.follow(crateId, folder);
  }

  async onApplicationShutdown(): Promise<void> {
    for (const timer of this.timers.values()) clearTimeout(timer);
    await Promise.all([...this.watchers.values()].map((watcher) => watcher.close()));
  }

  view(crateId: string): WatchView | null {
    const row = this.row(crateId);
    return row ? { folder: row.folder, automatic: row.automatic, ...(this.states.get(crateId) ?? { stale: [], fresh: [], problem: null }) } : null;
  }

  async set(crateId: string, folder: string, automatic: boolean): Promise<WatchView> {
    if (!isAbsolute(folder)) throw new Problem(422, 'watch-folder', 'Give the whole path of the folder, from the root of the disk.');
    const path = resolve(folder);
    if (!existsSync(path) || !statSync(path).isDirectory()) throw new Problem(422, 'watch-folder', `There is no folder ${path} on this machine.`);
    await this.forget(crateId);
    this.database.insert(watches).values({ crateId, folder: path, automatic }).run();
    this.follow(crateId, path);
    this.look(crateId, true);
    return this.view(crateId)!;
  }

  async forget(crateId: string): Promise<void> {
    clearTimeout(this.timers.get(crateId));
    await this.watchers.get(crateId)?.close();
    this.watchers.delete(crateId);
    this.states.delete(crateId);
    this.database.delete(watches).where(eq(watches.crateId, crateId)).run();
  }

  /** Takes over what changed; with `fresh`, also files that are new. */
  take(crateId: string, fresh: boolean): Job | null {
    const found = this.find(crateId);
    if (!found) throw new Problem(422, 'watch-folder', 'No folder is watched, or it cannot be read.');
    const { plan, tree } = found;
    const units = plan.units.filter((unit) => !unit.unchanged && (fresh || unit.replaces));
    if (units.length === 0) return null;
    // Files that go along with a model are given whole; the plan leaves out what did not change.
    const wanted = new Set(units.flatMap((unit) => [unit.file, ...(unit.companions?.keys() ?? [])]));
    return this.imports.import(crateId, new Map([...tree].filter(([path]) => wanted.has(path))));
  }

  private row(crateId: string) {
    return this.database.select().from(watches).where(eq(watches.crateId, crateId)).get();
  }

  /** Begins to watch. Whatever is wrong with the folder becomes the watch's own problem, and nobody else's. */
  private follow(crateId: string, folder: string): void {
    try {
      // Looked through first: a watcher asks the system for a slot per folder, and has no limits of its own.
      if (existsSync(folder)) listFolder(folder, { limits: LIMITS });
    } catch (error) {
      this.states.set(crateId, { stale: [], fresh: [], problem: reasonOf(error) });
      return;
    }
    const watcher = watchFolder(folder, {
      ignoreInitial: true,
      followSymlinks: false,
      depth: LIMITS.depth,
      ignored: (path, stats) => basename(path).startsWith('.') || (stats !== undefined && !stats.isFile() && !stats.isDirectory()),
    });
    const settle = () => {
      clearTimeout(this.timers.get(crateId));
      this.timers.set(
        crateId,
        setTimeout(() => this.look(crateId, true), SETTLE_MS),
      );
    };
    // What changes before the watcher is ready raises no event, so it is looked for then.
    watcher.on('all', settle).on('ready', settle);
    watcher.on('error', (error) => {
      this.states.set(crateId, { stale: [], fresh: [], problem: `The folder cannot be watched: ${reasonOf(error)}` });
      this.notices.changed.next({ crateId });
    });
    this.watchers.set(crateId, watcher);
  }

  private find(crateId: string): { plan: ImportPlan; tree: FileTree; leftOut: string[] } | null {
    const row = this.row(crateId);
    if (!row || !existsSync(row.folder)) return null;
    const leftOut: string[] = [];
    const files = readTree(row.folder, { limits: LIMITS, leftOut: (path, reason) => leftOut.push(`${path}: ${reason}`) });
    // The folder's own name stands in front, as it does when the folder is dropped into the page.
    const tree = new Map([...files].map(([path, bytes]) => [`${basename(row.folder)}/${path}`, bytes]));
    return { plan: this.imports.plan(crateId, tree), tree, leftOut };
  }

  /** @param mayTake false after an import, so that a source which cannot be converted is not tried for ever */
  private look(crateId: string, mayTake: boolean): void {
    try {
      const row = this.row(crateId);
      if (!row) return;
      const found = this.find(crateId);
      const units = found?.plan.units ?? [];
      this.states.set(crateId, {
        stale: units.flatMap((unit) => (unit.replaces && !unit.unchanged ? [{ asset: unit.replaces, file: unit.file }] : [])),
        fresh: units.filter((unit) => !unit.replaces).map((unit) => unit.file),
        problem: found ? leftOutProblem(found.leftOut) : `The folder ${row.folder} is gone.`,
      });
      if (mayTake && row.automatic && this.states.get(crateId)!.stale.length > 0) this.take(crateId, false);
    } catch (error) {
      this.states.set(crateId, { stale: [], fresh: [], problem: reasonOf(error) });
    }
    this.notices.changed.next({ crateId });
  }
}

/** A reason that a user can read: raw errors of the file system say which call failed, which nobody wants to know. */
function reasonOf(error: unknown): string {
  if (error instanceof UnreadableInput) return error.hint ? `${error.message} ${error.hint}` : error.message;
  const code = (error as NodeJS.ErrnoException).code ?? '';
  const at = (error as NodeJS.ErrnoException).path;
  return `${at ? `${at}: ` : ''}${REASONS[code] ?? `it cannot be read${code ? ` (${code})` : ''}.`}`;
}

const REASONS: Record<string, string> = {
  ENOSPC: 'the system watches too many folders already; choose a smaller one.',
  EMFILE: 'too many files are open; choose a smaller folder.',
  EACCES: 'it may not be read. Change its permissions.',
  ELOOP: 'it is a link that leads round in a circle.',
};

function leftOutProblem(leftOut: string[]): string | null {
  if (leftOut.length === 0) return null;
  return `Left out: ${leftOut.slice(0, 3).join('; ')}${leftOut.length > 3 ? `; and ${leftOut.length - 3} more` : ''}.`;
}
