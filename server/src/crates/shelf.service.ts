import { Inject, Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import { BlobStore } from '@violet-crate/host/blobStore';
import { CRATE_PICTURE } from '@violet-crate/core/crate/contents';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { nameProblem } from '@violet-crate/core/crate/naming';
import { asc, desc, eq, isNotNull, sql } from 'drizzle-orm';
import { BuildsService } from '../builds/builds.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { builds, crates, files, packages, releases } from '../database/schema.ts';
import { notFound, Problem } from '../http/problem.ts';
import { Notices } from '../notices/notices.ts';
import { CratesService } from './crates.service.ts';

/** How far a crate has come, as it lies on the shelf: nothing of it is opened for that. */
export interface ShelfStages {
  /** Files of it with something wrong. */
  findings: number;
  build: 'none' | 'fresh' | 'stale' | 'stopped';
  release: 'none' | 'packed' | 'published';
}

export interface ShelfEntry {
  id: string;
  manifest: CrateManifest;
  updatedAt: string;
  /** Address of what it looks like: its own picture, or that of its last build. */
  picture: string | null;
  bytes: number;
  archived: boolean;
  /** When it was deleted; it can be had back for a while. */
  deletedAt: string | null;
  stages: ShelfStages;
  /** Files whose stored content is missing or damaged. */
  damaged: number;
}

/** Milliseconds for which a deleted crate can be had back. */
const KEPT = 30 * 86_400_000;

/** The crates as they lie on the shelf: looked over, copied, renamed, put away, deleted and had back. */
@Injectable()
export class ShelfService implements OnApplicationBootstrap {
  /** Whether a crate's last build is fresh, while crate and build are the same. */
  private readonly known = new Map<string, { stamp: string; fresh: boolean }>();

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly crates: CratesService,
    private readonly builds: BuildsService,
    private readonly blobs: BlobStore,
    notices: Notices,
  ) {
    // A build is up to date for the game that it was made for.
    notices.games.subscribe(() => this.known.clear());
  }

  /** What was deleted long ago goes for good. */
  onApplicationBootstrap(): void {
    const before = new Date(Date.now() - KEPT).toISOString();
    for (const { id, deletedAt } of this.database.select().from(crates).where(isNotNull(crates.deletedAt)).all())
      if (deletedAt! < before)
        this.crates.erase(id).catch((error: unknown) => new Logger('shelf').warn(`${id} could not be cleared away: ${String(error)}`));
  }

  list(): ShelfEntry[] {
    const own = new Set(
      this.database
        .select({ id: files.crateId })
        .from(files)
        .where(eq(files.path, CRATE_PICTURE))
        .all()
        .map(({ id }) => id),
    );
    const sizes = new Map(
      this.database
        .select({
          id: files.crateId,
          bytes: sql<number>`sum(${files.bytes})`,
          wrong: sql<number>`sum(case when ${files.findings} = '[]' then 0 else 1 end)`,
        })
        .from(files)
        .groupBy(files.crateId)
        .all()
        .map((row) => [row.id, row]),
    );
    const damaged = this.damaged();
    const built = new Map(
      this.database
        .select()
        .from(builds)
        .orderBy(asc(builds.createdAt))
        .all()
        .map((row) => [row.crateId, row]),
    );
    const packed = new Map(
      this.database
        .select({ crateId: packages.crateId, id: packages.id })
        .from(packages)
        .orderBy(asc(packages.createdAt))
        .all()
        .map((row) => [row.crateId, row.id]),
    );
    const published = new Set(
      this.database
        .select({ id: releases.packageId })
        .from(releases)
        .orderBy(desc(releases.publishedAt))
        .all()
        .map(({ id }) => id),
    );
    return this.database
      .select()
      .from(crates)
      .orderBy(asc(crates.name))
      .all()
      .map(({ id, manifest, updatedAt, archivedAt, deletedAt }) => {
        const build = built.get(id);
        const pack = packed.get(id);
        return {
          id,
          manifest,
          updatedAt,
          picture: deletedAt
            ? null
            : own.has(id)
              ? `/api/crates/${id}/files/${CRATE_PICTURE}`
              : build?.picture
                ? `/api/crates/${id}/builds/${build.id}/picture`
                : null,
          bytes: sizes.get(id)?.bytes ?? 0,
          archived: archivedAt !== null,
          deletedAt,
          damaged: damaged.get(id) ?? 0,
          stages: {
            findings: sizes.get(id)?.wrong ?? 0,
            build: !build || deletedAt ? 'none' : !build.ok ? 'stopped' : this.isFresh(id, updatedAt, build) ? 'fresh' : 'stale',
            release: !pack ? 'none' : published.has(pack) ? 'published' : 'packed',
          },
        };
      });
  }

  /** A crate under another name, with all that it holds but its builds and its history. */
  copy(id: string, name: string, title: string): string {
    this.needName(id, name);
    const tree = this.crates.exportTree(id);
    const manifest = { ...this.crates.view(id).manifest, name, title };
    tree.set('crate.json', new TextEncoder().encode(JSON.stringify(manifest)));
    return this.crates.importTree(tree).id;
  }

  rename(id: string, name: string, title: string): void {
    if (this.crates.view(id).manifest.name !== name) this.needName(id, name);
    this.crates.updateManifest(id, { name, title });
    this.database.update(crates).set({ name }).where(eq(crates.id, id)).run();
  }

  archive(id: string, archived: boolean): void {
    this.database
      .update(crates)
      .set({ archivedAt: archived ? new Date().toISOString() : null })
      .where(eq(crates.id, id))
      .run();
  }

  /** Deletes a crate; it can be had back for thirty days, and its name is free at once. */
  async remove(id: string): Promise<void> {
    this.crates.expect(id);
    for (const letGo of this.crates.beforeRemoval) await letGo(id);
    this.database
      .update(crates)
      .set({ deletedAt: new Date().toISOString(), name: `${id}/deleted` })
      .where(eq(crates.id, id))
      .run();
  }

  /** Has a deleted crate back, under a free name where its own was taken meanwhile. */
  restore(id: string): string {
    const row = this.database.select().from(crates).where(eq(crates.id, id)).get();
    if (!row?.deletedAt) throw notFound('deleted crate with this address');
    const taken = new Set(this.crates.names());
    let { name } = row.manifest;
    for (let n = 2; taken.has(name); n++) name = `${row.manifest.name}_${n}`;
    this.database
      .update(crates)
      .set({ deletedAt: null, name, manifest: { ...row.manifest, name } })
      .where(eq(crates.id, id))
      .run();
    return name;
  }

  private needName(id: string, name: string): void {
    const problem = nameProblem(this.crates.game(id).profile, 'crate', name, this.crates.names());
    if (problem) throw new Problem(422, 'crate-name', problem);
  }

  /** How many files of each crate are known to be damaged, by length or by having been read. */
  private damaged(): Map<string, number> {
    const found = new Map<string, number>();
    for (const { id, sha256, bytes } of this.database.select({ id: files.crateId, sha256: files.sha256, bytes: files.bytes }).from(files).all())
      if (this.blobs.look(sha256, bytes)) found.set(id, (found.get(id) ?? 0) + 1);
    return found;
  }

  private isFresh(id: string, updatedAt: string, build: typeof builds.$inferSelect): boolean {
    const stamp = `${updatedAt} ${build.id}`;
    const known = this.known.get(id);
    if (known?.stamp === stamp) return known.fresh;
    const fresh = this.builds.inputHash(id, build.map) === build.inputHash && this.crates.damagedFiles(id).length === 0;
    this.known.set(id, { stamp, fresh });
    return fresh;
  }
}
