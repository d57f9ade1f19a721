import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { openPack, type PackEntry } from '@violet-crate/core/importing/assetPack';
import { previewPath } from '@violet-crate/core/crate/contents';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { Clash } from '@violet-crate/core/importing/importPlan';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { and, desc, eq } from 'drizzle-orm';
import { ImportsService } from '../assets/imports.service.ts';
import { BlobStore } from '@violet-crate/host/blobStore';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { packs } from '../database/schema.ts';
import { notFound, Problem } from '../http/problem.ts';
import type { Job } from '../jobs/jobs.service.ts';
import { own } from '@violet-crate/core/own';

type StoredEntry = PackEntry & { sha256: string };
export type PackView = Omit<typeof packs.$inferSelect, 'crateId'>;

/** A file of a pack whose name is taken in the crate. */
export interface PackClash {
  file: string;
  /** The asset that has the name. */
  asset: string;
  /** Under which name it would come in if renamed. */
  renamed: string;
}

/** Shared packs of assets, looked into before anything is taken from them. */
@Injectable()
export class PacksService {
  /** Converted looks into packs by content, for the life of the process: they can be made again. */
  private readonly looks = new Map<string, Promise<{ preview: string; model: string | null }>>();

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(BlobStore) private readonly blobs: BlobStore,
    private readonly crates: CratesService,
    private readonly imports: ImportsService,
  ) {}

  list(crateId: string): PackView[] {
    return this.database.select().from(packs).where(eq(packs.crateId, crateId)).orderBy(desc(packs.openedAt)).all();
  }

  async open(crateId: string, given: FileTree): Promise<PackView> {
    const { files, broken } = await this.imports.unpack(given);
    if (broken.length > 0) throw new Problem(422, 'pack', broken[0].reason);
    const name = [...given.keys()][0].split('/')[0];
    const tree = withoutCommonFolder(files);
    const { about, described, entries } = openPack(tree, name);
    if (!entries.some((entry) => entry.kind !== null)) throw new Problem(422, 'pack', `${name} holds nothing that can be imported.`);
    const row = {
      id: randomUUID(),
      crateId,
      about,
      described,
      entries: entries.map((entry): StoredEntry => ({ ...entry, sha256: this.blobs.put(tree.get(entry.path)!) })),
      openedAt: new Date().toISOString(),
    };
    this.crates.view(crateId);
    this.database.insert(packs).values(row).run();
    return row;
  }

  close(crateId: string, id: string): void {
    this.get(crateId, id);
    this.database.delete(packs).where(eq(packs.id, id)).run();
  }

  get(crateId: string, id: string): PackView {
    const row = this.database
      .select()
      .from(packs)
      .where(and(eq(packs.id, id), eq(packs.crateId, crateId)))
      .get();
    if (!row) throw notFound('such pack');
    return row;
  }

  /** Hash of a PNG that shows one file of a pack, and of the GLB if it is a model. */
  async look(crateId: string, id: string, path: string): Promise<{ preview: string; model: string | null }> {
    const pack = this.get(crateId, id);
    const entry = pack.entries.find((e) => e.path === path);
    if (!entry?.kind || entry.kind === 'script') throw notFound(`picture of ${path}`);
    const key = `${crateId}/${entry.sha256}/${path}`;
    let look = this.looks.get(key);
    if (!look) {
      look = this.make(crateId, pack, path);
      this.looks.set(key, look);
      look.catch(() => this.looks.delete(key));
    }
    const made = await look;
    if (this.blobs.has(made.preview) && (made.model === null || this.blobs.has(made.model))) return made;
    // Cleared away to free space: nothing but this look needs it.
    this.looks.delete(key);
    return this.look(crateId, id, path);
  }

  clashes(crateId: string, id: string, paths: readonly string[]): PackClash[] {
    const { manifest } = this.crates.view(crateId);
    const pack = this.get(crateId, id);
    const plan = (clash: Clash) =>
      this.imports.plan(crateId, this.tree(pack, paths), { clashes: Object.fromEntries(paths.map((path) => [this.origin(pack, path), clash])) })
        .units;
    const renamed = plan('rename');
    return plan('replace').flatMap((unit) => {
      if (!unit.replaces || own(manifest.assets, unit.replaces)?.origin?.path === unit.file) return [];
      return [
        {
          file: unit.file.slice(pack.about.title.length + 1),
          asset: unit.replaces,
          renamed: renamed.find((other) => other.file === unit.file)?.name ?? unit.name,
        },
      ];
    });
  }

  import(crateId: string, id: string, paths: readonly string[], clashes: Record<string, Clash>): Job {
    const pack = this.get(crateId, id);
    return this.imports.import(crateId, this.tree(pack, paths), {
      clashes: Object.fromEntries(Object.entries(clashes).map(([path, clash]) => [this.origin(pack, path), clash])),
      pack: pack.about,
    });
  }

  /** A pack's files carry its title in front, so that they never mix with those of another. */
  private origin(pack: PackView, path: string): string {
    return `${pack.about.title}/${path}`;
  }

  /** The chosen files and everything that is no asset by itself: libraries, buffers, pictures that models ask for. */
  private tree(pack: PackView, paths: readonly string[]): FileTree {
    const chosen = new Set(paths);
    const missing = paths.find((path) => !pack.entries.some((entry) => entry.path === path));
    if (missing) throw notFound(`file ${missing} in the pack`);
    const models = pack.entries.some((entry) => entry.kind === 'model' && chosen.has(entry.path));
    const taken = pack.entries.filter((entry) => chosen.has(entry.path) || (models && entry.kind === null));
    return new Map(taken.map((entry) => [this.origin(pack, entry.path), this.blobs.read(entry.sha256)]));
  }

  private async make(crateId: string, pack: PackView, path: string): Promise<{ preview: string; model: string | null }> {
    const all = new Map(pack.entries.map((entry) => [entry.path, this.blobs.read(entry.sha256)]));
    // The whole pack goes along, since a model may ask for pictures that are assets of their own.
    const unit =
      this.imports.plan(crateId, all).units.find((u) => u.file === path) ?? this.imports.plan(crateId, new Map([[path, all.get(path)!]])).units[0];
    if (!unit) throw new UnreadableInput('asset-kind', `${path} cannot be shown.`, { file: path });
    const asset = await this.imports.preview(crateId, {
      ...unit,
      options: unit.kind === 'model' ? { ...unit.options, collision: 'none', lods: [] } : unit.options,
    });
    const preview = asset.files.get(previewPath(asset.path));
    if (!preview) throw new UnreadableInput('asset-kind', `${path} cannot be shown.`, { file: path });
    return { preview: this.blobs.put(preview), model: asset.kind === 'model' ? this.blobs.put(asset.files.get(asset.path)!) : null };
  }
}

/** A ZIP of a folder holds that folder: `moor/rock.png` counts as `rock.png` where all files lie in `moor`. */
function withoutCommonFolder(tree: FileTree): FileTree {
  const tops = new Set([...tree.keys()].map((path) => (path.includes('/') ? path.split('/')[0] : '')));
  if (tops.size !== 1 || tops.has('')) return tree;
  const [top] = tops;
  return withoutCommonFolder(new Map([...tree].map(([path, bytes]) => [path.slice(top.length + 1), bytes])));
}
