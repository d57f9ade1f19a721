import { randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { depotFile, type DepotIndex, type DepotItem, type DepotVersion } from '@violet-crate/core/setup/depot';
import { offersFor, type Offer } from '@violet-crate/core/setup/packUpdates';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { readTree } from '@violet-crate/host/folderTree';
import { archiveUrl, fetchArchive, fetchDepotIndex, needSpace } from '@violet-crate/host/setup/depotClient';
import { gameVersion, PACKS_FOLDER, readPacks, type GameInstall } from '@violet-crate/host/setup/readFacts';
import { unpackWhole } from '@violet-crate/host/setup/unpack';
import { inInstall } from '@violet-crate/host/setup/places';
import { asc, eq, inArray } from 'drizzle-orm';
import { CONFIG, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { HeldRows } from '../database/heldRows.ts';
import { downloads, type DownloadState } from '../database/schema.ts';
import { GamesService } from '../games/games.service.ts';
import { ProfilesService } from '../games/profiles.service.ts';
import { notFound, Problem } from '../http/problem.ts';
import { Notices } from '../notices/notices.ts';
import { SettingsService } from '../settings/settings.service.ts';

export type Download = typeof downloads.$inferSelect;

export interface DownloadView extends Download {
  /** Bytes that are there and right. */
  done: number;
  /** Bytes a second, over the last seconds; 0 while it rests. */
  speed: number;
  /** Seconds that are left at that speed, or null. */
  secondsLeft: number | null;
}

/** Downloads at a time. */
const AT_ONCE = 2;
/** Milliseconds between two words to pages, and over which speed is taken. */
const TELL_EVERY = 250;
const SPEED_OVER = 4000;
const UNPACK_LIMITS = { entries: 200_000, bytes: 2 ** 36 };
const BUSY: DownloadState[] = ['waiting', 'running', 'unpacking'];

interface Running {
  abort: AbortController;
  /** Bytes that were there at a time, oldest first. */
  seen: { at: number; bytes: number }[];
  ended: Promise<void>;
}

/** What is fetched from the depot: two downloads at a time, which can be paused, and go on after a restart behind their last good block. */
@Injectable()
export class DepotService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly running = new Map<string, Running>();
  private readonly folder: string;
  private readonly held: HeldRows<Download>;
  private readonly logger = new Logger('depot');
  private told = 0;
  private closing = false;

  constructor(
    @Inject(CONFIG) private readonly config: Config,
    @Inject(DATABASE) private readonly database: Database,
    @Inject(GamesService) private readonly games: GamesService,
    @Inject(ProfilesService) private readonly profiles: ProfilesService,
    @Inject(CratesService) private readonly crates: CratesService,
    @Inject(SettingsService) private readonly settings: SettingsService,
    @Inject(Notices) private readonly notices: Notices,
  ) {
    this.folder = join(config.data, 'downloads');
    this.held = new HeldRows(({ id, ...row }) => database.update(downloads).set(row).where(eq(downloads.id, id)).run(), config.data);
  }

  onApplicationBootstrap(): void {
    this.database.update(downloads).set({ state: 'waiting' }).where(inArray(downloads.state, BUSY)).run();
    this.pump();
  }

  async onApplicationShutdown(): Promise<void> {
    this.closing = true;
    for (const { abort } of this.running.values()) abort.abort();
    await Promise.all([...this.running.values()].map(({ ended }) => ended));
  }

  /** What the depot has for a game, with what is there already. */
  async offers(game: GameInstall): Promise<Offer[]> {
    const index = await this.index();
    return offersFor(index.items, game.profile.id, gameVersion(game), await this.installed(game, index.items));
  }

  /** Profiles that the depot has, each with the version of it that is here. */
  async profileItems(): Promise<{ item: DepotItem; installed: string | null }[]> {
    const here = new Map(this.profiles.list().map((profile) => [profile.id, profile.version ?? '']));
    return (await this.index()).items.filter(({ kind }) => kind === 'profile').map((item) => ({ item, installed: here.get(item.id) ?? null }));
  }

  /** Adds a profile, or puts another version of it in its place; crates stay with the version that they were made with. */
  async takeProfile(id: string, wanted: string): Promise<void> {
    const { item, version } = this.find(await this.index(), id, wanted);
    if (item.kind !== 'profile') throw new Problem(422, 'depot-kind', `${item.title} is no profile.`);
    const temporary = mkdtempSync(join(tmpdir(), 'violet-depot-'));
    try {
      const file = join(temporary, 'archive.zip');
      const { signal } = new AbortController();
      await fetchArchive({ url: archiveUrl(this.settings.shown().depotUrl, id, wanted), file, version, signal });
      const profile = (await unpackedTree(file, UNPACK_LIMITS, signal)).get('profile.json');
      if (!profile) throw new UnreadableInput('depot-profile', 'The archive has no profile.json.', { file: item.title }, 'Tell the depot.');
      const text = new TextDecoder().decode(profile);
      const { id: own } = this.profiles.read(text, `${id}/profile.json`);
      if (own !== id)
        throw new UnreadableInput(
          'depot-profile',
          `The depot calls it "${id}", but it calls itself "${own}".`,
          { file: item.title },
          'Tell the depot.',
        );
      const before = this.profiles.list().find((one) => one.id === id);
      if (before) this.crates.stayWith(before);
      this.profiles.save(text, `${id}/profile.json`);
      this.games.changed();
    } finally {
      rmSync(temporary, { recursive: true, force: true });
    }
  }

  list(): DownloadView[] {
    return this.rows().map((row) => this.view(row));
  }

  /** Begins to fetch a version into an install. @throws Problem where there is too little room, before anything is fetched */
  async start(game: GameInstall, item: string, version: string): Promise<DownloadView> {
    const found = this.find(await this.index(), item, version);
    const same = this.rows().find((row) => row.item === item && row.state !== 'done' && row.state !== 'failed');
    if (same) throw new Problem(409, 'download-running', `${same.title} is being fetched already.`);
    if (found.item.kind === 'profile') throw new Problem(422, 'depot-kind', `${found.item.title} is a profile: add it under Profiles.`);
    if (found.item.kind === 'tool' && !game.profile.install.tools.some(({ id }) => id === item))
      throw new Problem(422, 'tool-unknown', `The profile of ${game.profile.title} knows no tool "${item}".`);
    mkdirSync(this.folder, { recursive: true });
    needSpace(this.folder, found.version.bytes, `the archive of ${found.item.title}`);
    needSpace(
      this.config.games,
      found.version.bytes + found.version.unpacked,
      `${found.item.title}, which takes ${mib(found.version.unpacked)} once it is unpacked`,
    );
    this.database.delete(downloads).where(eq(downloads.item, item)).run();
    const row: Download = {
      id: randomUUID(),
      profile: game.profile.id,
      item,
      version,
      title: `${found.item.title} ${version}`,
      install: game.folder,
      bytes: found.version.bytes,
      state: 'waiting',
      problem: null,
      createdAt: new Date().toISOString(),
    };
    this.database.insert(downloads).values(row).run();
    this.pump();
    return this.view(this.row(row.id));
  }

  /** Sets a download aside; what is there of it stays. */
  async pause(id: string): Promise<DownloadView> {
    const row = this.row(id);
    if (row.state === 'waiting' || row.state === 'running') {
      this.change(id, { state: 'paused', problem: null });
      await this.stop(id);
    }
    return this.view(this.row(id));
  }

  resume(id: string): DownloadView {
    const row = this.row(id);
    if (row.state === 'paused' || row.state === 'failed') {
      this.change(id, { state: 'waiting', problem: null });
      this.pump();
    }
    return this.view(this.row(id));
  }

  /** Gives a download up, with what is there of it. */
  async forget(id: string): Promise<void> {
    const row = this.row(id);
    this.database.delete(downloads).where(eq(downloads.id, id)).run();
    this.held.forget(id);
    await this.stop(id);
    rmSync(this.file(row), { force: true });
    this.tell(true);
  }

  /** Removes an optional pack, or a tool, from an install. */
  remove(game: GameInstall, item: string): void {
    const tool = game.profile.install.tools.find(({ id }) => id === item);
    const folder = tool ? inInstall(game.folder, tool.folder) : readPacks(game).has(item) ? this.packFolder(game, item) : null;
    if (!folder || !existsSync(folder)) throw notFound(`pack or tool ${item} in this install`);
    rmSync(folder, { recursive: true, force: true });
    this.database.delete(downloads).where(eq(downloads.item, item)).run();
    this.games.changed();
  }

  /** Versions of what lies in an install, by id of the item. */
  private async installed(game: GameInstall, items: readonly DepotItem[]): Promise<Record<string, string>> {
    const { tools, version } = await this.games.facts(game, false);
    const own: Record<string, string> = {};
    if (version) own[game.profile.id] = version;
    for (const tool of tools) if (tool.version) own[tool.id] = tool.version;
    for (const [id, pack] of readPacks(game)) own[id] = pack.version;
    const examples = new Set(items.filter(({ kind }) => kind === 'crate').map(({ id }) => id));
    for (const { manifest } of this.crates.manifests()) if (examples.has(manifest.name)) own[manifest.name] ??= manifest.version;
    for (const row of this.database.select().from(downloads).where(eq(downloads.state, 'done')).all())
      if (existsSync(this.communityFolder(row.item))) own[row.item] ??= row.version;
    return own;
  }

  private async index(): Promise<DepotIndex> {
    return fetchDepotIndex(this.settings.shown().depotUrl);
  }

  private find(index: DepotIndex, id: string, version: string): { item: DepotItem; version: DepotVersion } {
    const item = index.items.find((one) => one.id === id);
    const found = item?.versions.find((one) => one.version === version);
    if (!item || !found) throw new Problem(404, 'depot-unknown', `The depot has no ${id} ${version} any more.`);
    return { item, version: found };
  }

  private pump(): void {
    if (this.closing) return;
    for (const row of this.rows().filter(({ state }) => state === 'waiting')) {
      if (this.running.size >= AT_ONCE) break;
      if (this.running.has(row.id)) continue;
      const running: Running = { abort: new AbortController(), seen: [], ended: Promise.resolve() };
      this.running.set(row.id, running);
      running.ended = this.work(row, running).finally(() => {
        this.running.delete(row.id);
        this.tell(true);
        this.pump();
      });
    }
    this.tell(true);
  }

  private async work(row: Download, { abort, seen }: Running): Promise<void> {
    const { signal } = abort;
    try {
      this.change(row.id, { state: 'running', problem: null });
      const { item, version } = this.find(await this.index(), row.item, row.version);
      const file = this.file(row);
      await fetchArchive({
        url: archiveUrl(this.settings.shown().depotUrl, row.item, row.version),
        file,
        version,
        signal,
        onProgress: (bytes) => {
          const at = Date.now();
          seen.push({ at, bytes });
          while (seen.length > 2 && at - seen[0].at > SPEED_OVER) seen.shift();
          this.tell(false);
        },
      });
      if (signal.aborted) return;
      this.change(row.id, { state: 'unpacking' });
      this.tell(true);
      await this.put(row, item, version, file, signal);
      rmSync(file, { force: true });
      this.change(row.id, { state: 'done' });
      this.games.changed();
    } catch (error) {
      // Paused, given up, or the server ends: what is there stays, and its row says what is to become of it.
      if (signal.aborted) return;
      if (!(error instanceof UnreadableInput || error instanceof Problem)) this.logger.error(error instanceof Error ? error.stack : String(error));
      const problem =
        error instanceof UnreadableInput
          ? `${error.message}${error.hint ? ` ${error.hint}` : ''}`
          : error instanceof Problem
            ? error.message
            : 'It stopped unexpectedly; the server’s log says why. Try again.';
      this.change(row.id, { state: 'failed', problem });
    }
  }

  /** Puts a fetched archive where it belongs, whole or not at all. */
  private async put(row: Download, item: DepotItem, version: DepotVersion, file: string, signal: AbortSignal): Promise<void> {
    const limits = { ...UNPACK_LIMITS, bytes: Math.min(UNPACK_LIMITS.bytes, version.unpacked) };
    if (item.kind === 'game') {
      // Versions live side by side; the first has the plain name.
      const plain = join(this.config.games, item.id);
      const target = existsSync(plain) ? join(this.config.games, `${item.id}-${row.version}`) : plain;
      if (existsSync(target)) throw new Problem(409, 'game-there', `${target} is there already. Repair that one, or move it away.`);
      await unpackWhole(file, target, limits, signal);
      return;
    }
    const game = this.games.install(row.profile, row.install);
    if (item.kind === 'pack') return void (await unpackWhole(file, this.packFolder(game, item.id), limits, signal));
    if (item.kind === 'community') return void (await unpackWhole(file, this.communityFolder(item.id), limits, signal));
    const tool = game.profile.install.tools.find(({ id }) => id === item.id);
    if (item.kind === 'tool' && tool) return void (await unpackWhole(file, inInstall(game.folder, tool.folder), limits, signal));
    // Whoever has changed the example keeps it: another version comes to lie beside it.
    this.crates.importTree(await unpackedTree(file, limits, signal), row.version);
  }

  /** Folder of a community's pack that was fetched. */
  communityFolder(id: string): string {
    return join(this.config.data, 'community', id);
  }

  private packFolder({ profile, folder }: GameInstall, id: string): string {
    return inInstall(folder, `${profile.install.basePack}/${PACKS_FOLDER}/${id}`);
  }

  private file({ item, version }: Download): string {
    return join(this.folder, depotFile(item, version));
  }

  private async stop(id: string): Promise<void> {
    const running = this.running.get(id);
    running?.abort.abort();
    await running?.ended;
  }

  /** Oldest first. */
  private rows(): Download[] {
    const rows = this.database.select().from(downloads).orderBy(asc(downloads.createdAt)).all();
    return rows.map((row) => this.held.get(row.id) ?? row);
  }

  private row(id: string): Download {
    const row = this.held.get(id) ?? this.database.select().from(downloads).where(eq(downloads.id, id)).get();
    if (!row) throw notFound('such download');
    return row;
  }

  private change(id: string, change: Partial<Download>): void {
    this.held.keep({ ...this.row(id), ...change });
    this.tell(true);
  }

  private view(row: Download): DownloadView {
    const seen = this.running.get(row.id)?.seen ?? [];
    const last = seen.at(-1);
    const span = last ? (last.at - seen[0].at) / 1000 : 0;
    const speed = last && span > 0 ? (last.bytes - seen[0].bytes) / span : 0;
    const resting = row.state === 'paused' || row.state === 'failed' || row.state === 'waiting';
    const done = row.state === 'done' || row.state === 'unpacking' ? row.bytes : (last?.bytes ?? (resting ? this.goodOf(row) : 0));
    return { ...row, done, speed: Math.round(speed), secondsLeft: speed > 0 ? Math.ceil((row.bytes - done) / speed) : null };
  }

  /** Length of what is there; it is compared block by block when the download goes on. */
  private goodOf(row: Download): number {
    const file = this.file(row);
    return existsSync(file) ? Math.min(row.bytes, statSync(file).size) : 0;
  }

  private tell(now: boolean): void {
    if (!now && Date.now() - this.told < TELL_EVERY) return;
    this.told = Date.now();
    this.notices.downloads.next(this.list());
  }
}

/** What an archive holds, read into memory. */
async function unpackedTree(file: string, limits: typeof UNPACK_LIMITS, signal: AbortSignal): Promise<FileTree> {
  const folder = mkdtempSync(join(tmpdir(), 'violet-depot-'));
  try {
    await unpackWhole(file, join(folder, 'it'), limits, signal);
    return readTree(join(folder, 'it'));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const mib = (bytes: number): string => `${Math.ceil(bytes / (1 << 20)).toLocaleString('en')} MiB`;
