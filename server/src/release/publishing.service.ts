import { randomUUID } from 'node:crypto';
import { Inject, Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { openRelease } from '@violet-crate/core/release/pack';
import { drawView } from '@violet-crate/host/drawView';
import type { CrateContents } from '@violet-crate/core/crate/contents';
import { changesBetween, draftNotes, isUnchanged, nextVersion, type Changes } from '@violet-crate/core/release/notes';
import { grownSince, type Grown } from '@violet-crate/core/link/grown';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { BlobStore } from '@violet-crate/host/blobStore';
import { askWorkshop, publishRelease } from '@violet-crate/host/workshopClient';
import { desc, eq } from 'drizzle-orm';
import { CONFIG, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { HeldRows } from '../database/heldRows.ts';
import { packages, releases, uploads } from '../database/schema.ts';
import { notFound, Problem } from '../http/problem.ts';
import { Notices } from '../notices/notices.ts';
import { SettingsService } from '../settings/settings.service.ts';

export type Upload = typeof uploads.$inferSelect;
export type PackageRow = typeof packages.$inferSelect;

/** An upload with how far it has come, which only this process knows. */
export type UploadView = Upload & { sent: number };

/** Packages on their way to the workshop, and what the workshop says of a crate's releases. */
@Injectable()
export class PublishingService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly running = new Map<string, { stop: AbortController; sent: number; done: Promise<void> }>();
  private readonly rows: HeldRows<Upload>;

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) config: Config,
    private readonly blobs: BlobStore,
    private readonly crates: CratesService,
    private readonly settings: SettingsService,
    private readonly notices: Notices,
  ) {
    this.rows = new HeldRows((row) => this.database.update(uploads).set(row).where(eq(uploads.id, row.id)).run(), config.data);
  }

  /** What a stopped or killed server left under way goes on where it ended. */
  onApplicationBootstrap(): void {
    for (const { id } of this.database.select().from(uploads).where(eq(uploads.state, 'running')).all()) this.send(id);
  }

  async onApplicationShutdown(): Promise<void> {
    const open = [...this.running.values()];
    this.running.clear();
    for (const { stop } of open) stop.abort();
    await Promise.all(open.map(({ done }) => done));
  }

  /** Sends a package; what is under way for the same one is gone on with. */
  start(crateId: string, given: { packageId: string; notes: string; visibility: 'private' | 'code' }): UploadView {
    const made = this.package(given.packageId);
    if (made.crateId !== crateId) throw notFound('such package of this crate');
    const under = this.list(crateId).find(
      (one) => one.packageId === made.id && (one.state === 'running' || one.state === 'stopped' || one.state === 'failed'),
    );
    if (under) return this.resume(under.id, given);
    const row: Upload = {
      id: randomUUID(),
      crateId,
      workshop: this.settings.workshop().workshop,
      bytes: made.bytes,
      begun: null,
      state: 'running',
      problem: null,
      createdAt: new Date().toISOString(),
      ...given,
    };
    this.database.insert(uploads).values(row).run();
    this.send(row.id);
    return this.view(row);
  }

  resume(id: string, given: { notes?: string; visibility?: 'private' | 'code' } = {}): UploadView {
    const row = this.get(id);
    if (!this.running.has(id) && row.state !== 'done') {
      this.keep({ ...row, ...given, state: 'running', problem: null });
      this.send(id);
    }
    return this.view(this.get(id));
  }

  async stop(id: string): Promise<UploadView> {
    const running = this.running.get(id);
    if (running) {
      this.running.delete(id);
      running.stop.abort();
      await running.done;
    }
    const row = this.get(id);
    if (row.state === 'running' || row.state === 'failed') this.keep({ ...row, state: 'stopped' });
    return this.view(this.get(id));
  }

  list(crateId: string): UploadView[] {
    return this.database
      .select()
      .from(uploads)
      .where(eq(uploads.crateId, crateId))
      .orderBy(desc(uploads.createdAt))
      .limit(20)
      .all()
      .map((row) => this.view(this.rows.get(row.id) ?? row));
  }

  /** What the workshop has of a crate; null where it has nothing of it that we may see. */
  async mod(crateId: string): Promise<unknown> {
    const { name } = this.crates.view(crateId).manifest;
    try {
      return await this.ask('GET', `/api/mods/${name}`);
    } catch (error) {
      if (error instanceof UnreadableInput && error.code === 'workshop-refused' && error.message.includes('There is no mod')) return null;
      throw error;
    }
  }

  /** @returns the path that opens the workshop's site signed in */
  async entrance(): Promise<string> {
    if (!this.settings.workshop().token)
      throw new Problem(
        409,
        'not-signed-in',
        'Nobody is signed in at the workshop here. Enter a token of the workshop under Publish, in "Address, token and key".',
      );
    return ((await this.ask('POST', '/api/entrance')) as { path: string }).path;
  }

  act(crateId: string, what: string, body: object): Promise<unknown> {
    return this.ask('POST', `/api/mods/${this.crates.view(crateId).manifest.name}/${what}`, body);
  }

  ask(method: 'GET' | 'POST' | 'PATCH' | 'DELETE', path: string, body?: object): Promise<unknown> {
    const { workshop, token } = this.settings.workshop();
    return askWorkshop(workshop, token, method, path, body);
  }

  /** What is different since the last package that was published, and which version that makes. */
  changes(crateId: string): { since: string | null; notes: string; version: string; why: string; unchanged: boolean; changes: Changes | null } {
    const now = this.crates.contents(crateId);
    const before = this.lastReleased(crateId);
    const was = before && this.contentsOf(before);
    if (!was)
      return {
        since: before?.manifest.version ?? null,
        notes: 'First release.',
        version: now.manifest.version,
        why: '',
        unchanged: false,
        changes: null,
      };
    const changes = changesBetween(was, now);
    const latest = this.database.select().from(packages).where(eq(packages.crateId, crateId)).orderBy(desc(packages.createdAt)).get();
    const bytes = latest && latest.id !== before.id ? { before: before.bytes, after: latest.bytes } : undefined;
    return {
      since: before.manifest.version,
      notes: draftNotes(changes, bytes),
      ...nextVersion(before.manifest.version, changes),
      unchanged: isUnchanged(changes),
      changes,
    };
  }

  /** Two packages side by side. */
  compare(
    crateId: string,
    from: string,
    to: string,
  ): { files: Grown[]; changes: Changes | null; before: CrateContents['maps'] | null; after: CrateContents['maps'] | null } {
    const [old, fresh] = [this.package(from), this.package(to)];
    if (old.crateId !== crateId || fresh.crateId !== crateId) throw notFound('such package of this crate');
    const [was, is] = [this.contentsOf(old), this.contentsOf(fresh)];
    return {
      files: grownSince(old.manifest.files, fresh.manifest.files),
      changes: was && is ? changesBetween(was, is) : null,
      before: was?.maps ?? null,
      after: is?.maps ?? null,
    };
  }

  package(id: string): PackageRow {
    const row = this.database.select().from(packages).where(eq(packages.id, id)).get();
    if (!row) throw notFound('such package');
    return row;
  }

  /** The main map of a package from a camera. */
  async seenFrom(packageId: string, eye: Vec3, direction: Vec3): Promise<Uint8Array> {
    const row = this.package(packageId);
    const crate = this.contentsOf(row);
    const map = row.manifest.mainMap;
    const glb = openRelease(this.blobs.read(row.sha256), 'the package').tree.get(`maps/${map}/map.glb`);
    if (!crate || !glb || Math.hypot(...direction) === 0)
      throw notFound('view of this package: it was made by an earlier version, or it looks nowhere');
    const { profile, base } = this.crates.world(row.crateId);
    return drawView({ glb, world: { profile, base, crate }, map, eye, direction, width: 640, height: 360 });
  }

  private contentsOf({ contents }: PackageRow): CrateContents | null {
    return contents && this.blobs.has(contents) ? (JSON.parse(new TextDecoder().decode(this.blobs.read(contents))) as CrateContents) : null;
  }

  private lastReleased(crateId: string): PackageRow | undefined {
    return this.database
      .select({ made: packages })
      .from(releases)
      .innerJoin(packages, eq(packages.id, releases.packageId))
      .where(eq(releases.crateId, crateId))
      .orderBy(desc(releases.publishedAt))
      .get()?.made;
  }

  private view = (row: Upload): UploadView => ({ ...row, sent: row.state === 'done' ? row.bytes : (this.running.get(row.id)?.sent ?? 0) });

  private get(id: string): Upload {
    const row = this.rows.get(id) ?? this.database.select().from(uploads).where(eq(uploads.id, id)).get();
    if (!row) throw notFound('such upload');
    return row;
  }

  private keep(row: Upload): void {
    this.rows.keep(row);
    this.notices.uploads.next({ crateId: row.crateId });
  }

  private send(id: string): void {
    const row = this.get(id);
    const stop = new AbortController();
    const state = { stop, sent: 0, done: Promise.resolve() };
    state.done = this.carry(row, stop.signal, (sent) => {
      state.sent = sent;
      this.notices.uploads.next({ crateId: row.crateId });
    }).then(
      () => this.keep({ ...this.get(id), state: 'done', problem: null }),
      (error: unknown) => {
        // Stopped by hand, or with the server: then it goes on at the next start.
        if (!this.running.has(id)) return;
        const problem =
          error instanceof UnreadableInput
            ? [error.message, error.hint].filter(Boolean).join(' ')
            : error instanceof Problem
              ? error.message
              : 'The upload met a fault of ours.';
        if (!(error instanceof UnreadableInput) && !(error instanceof Problem)) console.error(error);
        this.keep({ ...this.get(id), state: 'failed', problem });
      },
    );
    this.running.set(id, state);
    void state.done.finally(() => this.running.get(id) === state && this.running.delete(id));
  }

  private async carry(row: Upload, signal: AbortSignal, onProgress: (sent: number) => void): Promise<void> {
    const made = this.package(row.packageId);
    if (!this.blobs.has(made.sha256)) throw new Problem(410, 'package-gone', 'The package was cleared away. Make it again.');
    // An upload goes on at the workshop where it began, and with what was entered for that one.
    const release = await publishRelease(row.workshop, this.settings.tokenFor(row.workshop) ?? '', this.blobs.read(made.sha256), {
      notes: row.notes,
      visibility: row.visibility,
      begun: row.begun ?? undefined,
      onBegin: (begun) => this.keep({ ...this.get(row.id), begun }),
      onProgress,
      signal,
    });
    const entry = {
      shareCode: release.shareCode,
      crateId: row.crateId,
      packageId: made.id,
      version: release.version,
      workshop: row.workshop,
      publishedAt: release.publishedAt,
    };
    this.database.insert(releases).values(entry).onConflictDoUpdate({ target: releases.shareCode, set: entry }).run();
  }
}
