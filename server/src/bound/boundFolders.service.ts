import { existsSync, mkdirSync, readdirSync, realpathSync, statSync } from 'node:fs';
import { dirname, isAbsolute, join, relative, resolve, sep } from 'node:path';
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { isBesideCrate, mapPath } from '@violet-crate/core/crate/contents';
import { caseClashes, equalPlan, vanishedAtOnce, type EqualPlan } from '@violet-crate/core/crate/keepEqual';
import { CrateManifestSchema, type CrateManifest } from '@violet-crate/core/crate/manifest';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { lockData, type DataLock } from '@violet-crate/host/dataLock';
import { diskFull } from '@violet-crate/host/diskFull';
import type { Finding } from '@violet-crate/core/finding';
import { listFolder, readTree } from '@violet-crate/host/folderTree';
import { readInside, writeInside } from '@violet-crate/host/inside';
import { StartProblem } from '@violet-crate/host/startProblem';
import { watch as watchFolder, type FSWatcher } from 'chokidar';
import { eq } from 'drizzle-orm';
import { BlobStore } from '@violet-crate/host/blobStore';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { boundFiles, boundFolders } from '../database/schema.ts';
import { notFound, Problem } from '../http/problem.ts';
import { Notices } from '../notices/notices.ts';
import { CrateSide } from './crateSide.ts';
import { Equaliser } from './equaliser.ts';
import type { FolderView, Settling } from './folderView.ts';

/** Milliseconds: changes come in bursts; a file that is being written is tried again so often. */
const BURST = 60;
const HALF_WRITTEN = 400;
const TRIES = 4;
/** Milliseconds between two looks at names, lengths and times of all files: watchers miss what happens in a folder that is only just made. */
const BEAT = 3000;
/** Folder of our own in a bound folder: it holds the lock. */
const OWN = '.violet-crate';
/** What may lie in an otherwise empty folder: ours, version control's, and what systems leave. Other hidden files are somebody's home. */
const OF_VERSIONS = /^(\.violet-crate|\.git(ignore|attributes)?|\.DS_Store)$/;

interface Bound {
  folder: string;
  watcher: FSWatcher | null;
  lock: DataLock | null;
  timer: NodeJS.Timeout | undefined;
  beat: NodeJS.Timeout | undefined;
  /** Names, lengths and times of all files at the last beat. */
  seen: string;
  /** Paths that changed since the last look; null for all of them. */
  changed: Set<string> | null;
  /** Whether something of the crate was written since the last look, whatever it was. */
  written: boolean;
  work: Promise<void>;
  view: FolderView;
  /** Attempts at files that could not be read. */
  tries: Map<string, number>;
}

/** Crates that live in folders: what changes on one side comes to the other, map by map and member by member. */
@Injectable()
export class BoundFoldersService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly bound = new Map<string, Bound>();
  private readonly side: CrateSide;
  private readonly equaliser: Equaliser;
  private readonly logger = new Logger('folders');
  private closing = false;

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(BlobStore) blobs: BlobStore,
    @Inject(CratesService) private readonly crates: CratesService,
    @Inject(Notices) private readonly notices: Notices,
  ) {
    this.side = new CrateSide(database, blobs, crates);
    this.equaliser = new Equaliser(this.side, blobs, crates, notices);
  }

  onApplicationBootstrap(): void {
    this.crates.beforeRemoval.unshift((crateId) => this.letGo(crateId));
    this.notices.edited.subscribe(({ crateId, map, tab }) => tab !== 'folder' && this.changed(crateId, [mapPath(map)]));
    this.notices.written.subscribe(({ crateId }) => {
      const bound = this.bound.get(crateId);
      if (bound) bound.written = true;
      this.changed(crateId, []);
    });
    for (const { crateId, folder } of this.database.select().from(boundFolders).all()) this.follow(crateId, folder);
  }

  async onApplicationShutdown(): Promise<void> {
    this.closing = true;
    await Promise.all([...this.bound.keys()].map((crateId) => this.letGo(crateId)));
  }

  view(crateId: string): FolderView | null {
    return this.bound.get(crateId)?.view ?? null;
  }

  /** The crate that lives in a folder, or null. */
  crateIn(folder: string): string | null {
    return this.database.select().from(boundFolders).where(eq(boundFolders.folder, folder)).get()?.crateId ?? null;
  }

  /**
   * Binds a crate to a folder: an empty or a new one is filled; one that holds this crate already is compared with it.
   *
   * @throws Problem where something else lies there, or another crate lives in it
   */
  async bind(crateId: string, given: string): Promise<FolderView> {
    const { name } = this.crates.view(crateId).manifest;
    if (!isAbsolute(given)) throw new Problem(422, 'folder', 'Give the whole path of the folder, from the root of the disk.');
    try {
      mkdirSync(resolve(given), { recursive: true });
    } catch (error) {
      throw new Problem(422, 'folder', `${resolve(given)} cannot be made: ${reasonOf(error, dirname(resolve(given)))}`);
    }
    const folder = realpathSync(resolve(given));
    for (const other of this.database.select().from(boundFolders).all()) {
      if (other.crateId === crateId) continue;
      const inside = (a: string, b: string) => a === b || a.startsWith(b + sep);
      if (inside(folder, other.folder) || inside(other.folder, folder))
        throw new Problem(409, 'folder-taken', `Another crate lives in ${other.folder} already. Choose a folder of its own.`);
    }
    const entries = readdirSync(folder).filter((entry) => !OF_VERSIONS.test(entry) && !isBesideCrate(entry));
    if (entries.length > 0) {
      const manifest = readManifest(folder);
      if (!manifest) throw new Problem(409, 'folder-other', `${folder} holds other things and no crate. Choose an empty folder, or the crate’s own.`);
      if (manifest.name !== name) throw new Problem(409, 'folder-other', `${folder} holds the crate "${manifest.name}", not "${name}".`);
    }
    await this.unbind(crateId);
    this.database.insert(boundFolders).values({ crateId, folder, boundAt: new Date().toISOString() }).run();
    this.follow(crateId, folder);
    const bound = this.bound.get(crateId)!;
    await bound.work;
    return bound.view;
  }

  /** Takes the crate that lies in a folder, under version control or not, and keeps both equal from then on. */
  async open(given: string): Promise<{ id: string; damage: Finding[] }> {
    if (!isAbsolute(given) || !existsSync(join(given, 'crate.json')))
      throw new Problem(422, 'folder-no-crate', `${given} holds no crate: there is no crate.json in it. Choose a crate's own folder.`);
    const folder = realpathSync(resolve(given));
    const there = this.crateIn(folder);
    if (there) throw new Problem(409, 'folder-taken', 'The crate in this folder is open already; it is among the crates.');
    const { id, damage } = this.crates.importTree(readTree(folder, { skip: isBesideCrate }));
    await this.bind(id, folder);
    return { id, damage };
  }

  /** Lets crate and folder go their own ways; nothing on either side is touched. */
  async unbind(crateId: string): Promise<void> {
    await this.letGo(crateId);
    this.database.delete(boundFolders).where(eq(boundFolders.crateId, crateId)).run();
    this.database.delete(boundFiles).where(eq(boundFiles.crateId, crateId)).run();
    this.notices.folders.next({ crateId });
  }

  /** Looks at the whole folder now; resolves when both sides are as equal as they can be made. */
  async look(crateId: string): Promise<FolderView> {
    const bound = this.needBound(crateId);
    if (!bound.watcher) this.begin(crateId, bound);
    bound.changed = null;
    await this.run(crateId);
    return bound.view;
  }

  /** Settles a conflict; the other side's version of a file is kept among the crate's sources or its history. */
  async settle(crateId: string, { path, side, members = {} }: Settling): Promise<FolderView> {
    const bound = this.needBound(crateId);
    const conflict = bound.view.conflicts.find((one) => one.path === path);
    if (!conflict) throw notFound(`conflict about ${path} any more`);
    bound.work = bound.work.then(() => this.equaliser.carryOut(crateId, bound, conflict, side, members)).catch((error) => this.fail(bound, error));
    await bound.work;
    return this.look(crateId);
  }

  /** Carries on although many files vanished at once. */
  async confirmVanished(crateId: string): Promise<FolderView> {
    const bound = this.needBound(crateId);
    bound.work = bound.work.then(() => this.compare(crateId, bound, undefined, true)).catch((error) => this.fail(bound, error));
    await bound.work;
    return bound.view;
  }

  private needBound(crateId: string): Bound {
    const bound = this.bound.get(crateId);
    if (!bound) throw new Problem(409, 'folder-none', 'The crate lives in no folder. Bind it to one first.');
    return bound;
  }

  private follow(crateId: string, folder: string): void {
    const view: FolderView = { folder, problem: null, vanished: false, refused: [], conflicts: [], equalAt: null, looking: true };
    const bound: Bound = {
      folder,
      watcher: null,
      lock: null,
      timer: undefined,
      beat: undefined,
      seen: '',
      changed: null,
      written: false,
      work: Promise.resolve(),
      view,
      tries: new Map(),
    };
    this.bound.set(crateId, bound);
    this.begin(crateId, bound);
    if (!bound.view.problem) void this.run(crateId);
  }

  /** Takes the folder for this server and begins to watch it. What stands in the way becomes the view's problem. */
  private begin(crateId: string, bound: Bound): void {
    try {
      if (!existsSync(bound.folder))
        throw new UnreadableInput(
          'folder-gone',
          `The folder ${bound.folder} is gone. Nothing was removed from the crate; put it back, or bind the crate to another.`,
        );
      const own = join(bound.folder, OWN);
      // The lock is nobody's version.
      if (readInside(bound.folder, `${OWN}/.gitignore`) === null) writeInside(bound.folder, [[`${OWN}/.gitignore`, new TextEncoder().encode('*\n')]]);
      bound.lock ??= lockData(own, 'folder');
      bound.view = { ...bound.view, problem: null, vanished: false };
    } catch (error) {
      this.fail(bound, error);
      return;
    }
    const watcher = watchFolder(bound.folder, {
      ignoreInitial: true,
      followSymlinks: false,
      ignored: (path) => {
        const parts = relative(bound.folder, path).split(sep);
        return parts.some((part) => part.startsWith('.') && part !== '' && part !== '..') || isBesideCrate(parts.join('/'));
      },
    });
    watcher.on('all', (event, path) => {
      if (event === 'addDir' || event === 'unlinkDir') return;
      const own = relative(bound.folder, path).split(sep).join('/');
      this.changed(crateId, own === '' ? null : [own]);
    });
    // What changes before the watcher is ready raises no event.
    watcher.on('ready', () => this.changed(crateId, null));
    watcher.on('error', (error) => this.fail(bound, error));
    bound.watcher = watcher;
    bound.beat = setInterval(() => {
      try {
        const seen = listFolder(bound.folder, { skip: isBesideCrate })
          .map(({ path, bytes }) => `${path} ${bytes} ${statSync(join(bound.folder, path)).mtimeMs}`)
          .join('\n');
        if (bound.seen !== seen) this.changed(crateId, null);
        bound.seen = seen;
      } catch {
        // The folder is gone or on the move; the look says so.
        this.changed(crateId, null);
      }
    }, BEAT).unref();
  }

  private async letGo(crateId: string): Promise<void> {
    const bound = this.bound.get(crateId);
    if (!bound) return;
    this.bound.delete(crateId);
    clearTimeout(bound.timer);
    clearInterval(bound.beat);
    await bound.watcher?.close();
    await bound.work;
    bound.lock?.release();
  }

  /** Notes what changed, and looks at it when the burst is over. */
  private changed(crateId: string, paths: string[] | null, wait = BURST): void {
    const bound = this.bound.get(crateId);
    if (!bound || this.closing) return;
    if (paths === null) bound.changed = null;
    else if (bound.changed) for (const path of paths) bound.changed.add(path);
    clearTimeout(bound.timer);
    bound.timer = setTimeout(() => void this.run(crateId), wait);
  }

  private run(crateId: string): Promise<void> {
    const bound = this.bound.get(crateId);
    if (!bound) return Promise.resolve();
    clearTimeout(bound.timer);
    bound.work = bound.work
      .then(() => {
        const only = bound.changed ?? undefined;
        if (only && bound.written) for (const path of this.side.changed(crateId)) only.add(path);
        bound.changed = new Set();
        bound.written = false;
        return this.compare(crateId, bound, only);
      })
      .catch((error) => this.fail(bound, error))
      .finally(() => this.notices.folders.next({ crateId }));
    return bound.work;
  }

  private fail(bound: Bound, error: unknown): void {
    if (!(error instanceof UnreadableInput || error instanceof StartProblem || error instanceof Problem) && !(error as NodeJS.ErrnoException).code)
      this.logger.error(error instanceof Error ? error.stack : String(error));
    // A look that failed has not seen everything.
    bound.changed = null;
    bound.view = { ...bound.view, problem: reasonOf(error, bound.folder), vanished: false, looking: false };
  }

  /** Compares crate and folder and makes them equal, as far as neither has anything to lose by it. */
  private async compare(crateId: string, bound: Bound, only?: ReadonlySet<string>, evenIfVanished = false): Promise<void> {
    if (!existsSync(join(bound.folder, OWN)))
      throw new UnreadableInput(
        'folder-gone',
        `The folder ${bound.folder} is gone. Nothing was removed from the crate; put it back, or bind the crate to another.`,
      );
    const base = this.side.wasEqual(crateId);
    const here = this.side.hashes(crateId);
    const { hashes: there, links } = await this.equaliser.folderHashes(bound.folder, only);
    this.side.takeGiven(crateId, base, there);
    const plan = withoutLinks(equalPlan(base, here, there, only), links);
    if (base.size > 0 && !evenIfVanished && vanishedAtOnce(plan.dropFromCrate.length, here.size)) {
      bound.changed = null;
      bound.view = {
        ...bound.view,
        problem: `${plan.dropFromCrate.length} of ${here.size} files vanished from the folder at once, so nothing was removed from the crate. Put them back, or say that you meant it.`,
        vanished: true,
      };
      return;
    }
    const clashes = caseClashes(plan.give.concat([...there.keys()]));
    const blocked = new Set(clashes.flatMap((pair) => pair));
    const refused = new Map(bound.view.refused.filter(({ path }) => only && !only.has(path)).map((one) => [one.path, one.reason]));
    for (const [a, b] of clashes) refused.set(b, `Its name differs from ${a} in capital letters only, which some disks cannot tell apart.`);
    for (const link of links) refused.set(link, 'It is a link, which may lead out of the folder. Put the file or folder itself in its place.');
    const conflicts = bound.view.conflicts.filter(({ path }) => only && !only.has(path));
    this.equaliser.takeFiles(crateId, bound, plan, refused, conflicts);
    for (const path of plan.clash) this.equaliser.mergePath(crateId, bound, path, refused, conflicts);
    this.equaliser.give(crateId, bound, plan, here, blocked);
    this.side.remember(
      crateId,
      plan.remember.map((path) => [path, here.get(path)]),
    );
    // A file that could not be read may still be being written.
    const again = [...refused.keys()].filter((path) => {
      const tries = (bound.tries.get(path) ?? 0) + 1;
      bound.tries.set(path, tries);
      return tries <= TRIES && !blocked.has(path);
    });
    for (const path of bound.tries.keys()) if (!refused.has(path)) bound.tries.delete(path);
    if (again.length > 0) this.changed(crateId, again, HALF_WRITTEN);
    const whole = refused.size === 0 && conflicts.length === 0;
    bound.view = {
      folder: bound.folder,
      problem: null,
      vanished: false,
      refused: [...refused].map(([path, reason]) => ({ path, reason })),
      conflicts,
      equalAt: whole ? new Date().toISOString() : bound.view.equalAt,
      looking: false,
    };
  }
}

/** What is a link in the folder, or behind one, is neither there nor gone: nothing is done about it until it is a file again. */
function withoutLinks(plan: EqualPlan, links: ReadonlySet<string>): EqualPlan {
  if (links.size === 0) return plan;
  const behind = (path: string) => path.split('/').some((_, i, names) => links.has(names.slice(0, i + 1).join('/')));
  return Object.fromEntries(
    Object.entries(plan).map(([what, paths]: [string, string[]]) => [what, paths.filter((path) => !behind(path))]),
  ) as unknown as EqualPlan;
}

function readManifest(folder: string): CrateManifest | null {
  try {
    return readDocument(new TextDecoder().decode(readInside(folder, 'crate.json') ?? undefined), CrateManifestSchema, 'crate.json');
  } catch {
    return null;
  }
}

const REASONS: Record<string, string> = {
  EACCES: 'it may not be written. Change its permissions, and look again.',
  EPERM: 'it may not be written. Change its permissions, and look again.',
  EROFS: 'its disk can only be read. Nothing is lost: it is written when that changes.',
  ENOENT: 'it is gone.',
  ENOTDIR: 'a file is in the way.',
  EEXIST: 'a file is in the way.',
  ENOSPC: 'the system watches as many files as it may already. Raise its limit (fs.inotify.max_user_watches), or close other programs.',
};

function reasonOf(error: unknown, folder: string): string {
  if (error instanceof UnreadableInput) return error.hint ? `${error.message} ${error.hint}` : error.message;
  if (error instanceof Problem) return error.message;
  if (error instanceof StartProblem) return `Another program keeps this folder equal already: ${error.message.split('. ')[0]}.`;
  const full = diskFull(error, folder, 1);
  if (full) return full.message;
  const { code = '', path } = error as NodeJS.ErrnoException;
  return `${path ? `${path}: ` : ''}${REASONS[code] ?? 'it cannot be kept equal; the server’s log says why.'}`;
}
