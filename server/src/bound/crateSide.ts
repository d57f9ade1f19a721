import { createHash } from 'node:crypto';
import { mapPath, writeDocuments } from '@violet-crate/core/crate/contents';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { serialiseMap } from '@violet-crate/core/document/serialise';
import { and, eq, sql } from 'drizzle-orm';
import type { BlobStore } from '@violet-crate/host/blobStore';
import type { CratesService } from '../crates/crates.service.ts';
import { inGroups, type Database } from '../database/database.ts';
import { boundFiles, boundGiving, files, trash } from '../database/schema.ts';

const encoder = new TextEncoder();
export const hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** The name of the map that a path is the file of; null for other files. */
export const mapName = (path: string): string | null => /^maps\/([^/]+)\.map\.json$/.exec(path)?.[1] ?? null;

const manifestBytes = (manifest: CrateManifest): Uint8Array => writeDocuments({ manifest, maps: {}, scripts: {} }).get('crate.json')!;

/** A bound crate as files: what it has now, and what it and its folder had when they were last equal. */
export class CrateSide {
  /** Texts of maps by crate and name while their revision is the same. */
  private readonly texts = new Map<string, { revision: number; text: string; sha256: string }>();

  constructor(
    private readonly database: Database,
    private readonly blobs: BlobStore,
    private readonly crates: CratesService,
  ) {}

  wasEqual(crateId: string): Map<string, string> {
    const rows = this.database.select().from(boundFiles).where(eq(boundFiles.crateId, crateId)).all();
    return new Map(rows.map(({ path, sha256 }) => [path, sha256]));
  }

  /**
   * Enters into what both had what a folder has since from here alone: a file that reads as it was being written there when the server was killed is
   * what the crate gave, whatever the crate has by now.
   */
  takeGiven(crateId: string, base: Map<string, string>, folder: ReadonlyMap<string, string>): void {
    for (const { path, sha256 } of this.database.select().from(boundGiving).where(eq(boundGiving.crateId, crateId)).all())
      if (folder.get(path) === sha256) base.set(path, sha256);
  }

  /** Both or neither: what comes into the crate and that both have it. */
  together(work: () => void): void {
    this.database.transaction(() => work());
  }

  /** Says what is about to be written into the folder; `remember` says that it lies there. */
  giving(crateId: string, paths: readonly (readonly [string, string])[]): void {
    this.database.transaction((tx) => {
      for (const rows of inGroups(paths.map(([path, sha256]) => ({ crateId, path, sha256 }))))
        tx.insert(boundGiving)
          .values(rows)
          .onConflictDoUpdate({ target: [boundGiving.crateId, boundGiving.path], set: { sha256: sql`excluded.sha256` } })
          .run();
    });
  }

  remember(crateId: string, paths: readonly (readonly [string, string | undefined])[]): void {
    if (paths.length === 0) return;
    this.database.transaction((tx) => {
      const equal: { crateId: string; path: string; sha256: string }[] = [];
      for (const [path, sha256] of paths) {
        const at = and(eq(boundFiles.crateId, crateId), eq(boundFiles.path, path));
        tx.delete(boundGiving)
          .where(and(eq(boundGiving.crateId, crateId), eq(boundGiving.path, path)))
          .run();
        if (sha256 === undefined) tx.delete(boundFiles).where(at).run();
        else {
          // The text of a map as both had it is needed to merge what comes later.
          if (mapName(path)) this.blobs.put(this.bytes(crateId, path));
          equal.push({ crateId, path, sha256 });
        }
      }
      for (const rows of inGroups(equal))
        tx.insert(boundFiles)
          .values(rows)
          .onConflictDoUpdate({ target: [boundFiles.crateId, boundFiles.path], set: { sha256: sql`excluded.sha256` } })
          .run();
    });
  }

  /** Paths of the crate that are not as they were when both sides were last equal. */
  changed(crateId: string): string[] {
    const [base, here] = [this.wasEqual(crateId), this.hashes(crateId)];
    return [...new Set([...base.keys(), ...here.keys()])].filter((path) => base.get(path) !== here.get(path));
  }

  hashes(crateId: string): Map<string, string> {
    const { manifest, maps, files: own } = this.crates.view(crateId);
    const hashes = new Map(own.map(({ path, sha256 }) => [path, sha256]));
    hashes.set('crate.json', hashOf(manifestBytes(manifest)));
    for (const name of maps) hashes.set(mapPath(name), this.mapText(crateId, name).sha256);
    return hashes;
  }

  hash(crateId: string, path: string): string | undefined {
    const name = mapName(path);
    const { manifest, maps, files: own } = this.crates.view(crateId);
    if (path === 'crate.json') return hashOf(manifestBytes(manifest));
    if (name) return maps.includes(name) ? this.mapText(crateId, name).sha256 : undefined;
    return own.find((file) => file.path === path)?.sha256;
  }

  bytes(crateId: string, path: string): Uint8Array {
    const name = mapName(path);
    if (path === 'crate.json') return manifestBytes(this.crates.view(crateId).manifest);
    return name ? encoder.encode(this.mapText(crateId, name).text) : this.crates.readFile(crateId, path);
  }

  private mapText(crateId: string, name: string): { text: string; sha256: string } {
    const key = `${crateId}/${name}`;
    const { map, revision } = this.crates.map(crateId, name);
    const known = this.texts.get(key);
    if (known?.revision === revision) return known;
    const text = serialiseMap(map);
    const fresh = { revision, text, sha256: hashOf(encoder.encode(text)) };
    this.texts.set(key, fresh);
    return fresh;
  }

  /** Files that go are kept as the library keeps what it removes. */
  keepRemoved(crateId: string, paths: readonly string[]): void {
    const rows = this.database
      .select()
      .from(files)
      .where(eq(files.crateId, crateId))
      .all()
      .filter(({ path }) => paths.includes(path));
    if (rows.length === 0) return;
    this.database
      .insert(trash)
      .values({
        id: `folder-${Date.now()}-${Math.random().toString(36).slice(2)}`,
        crateId,
        files: rows.map(({ path, bytes, sha256, findings }) => ({ path, bytes, sha256, findings })),
        records: {},
        materials: [],
        removedAt: new Date().toISOString(),
      })
      .run();
  }
}
