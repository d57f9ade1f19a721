import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { Inject, Injectable } from '@nestjs/common';
import { planInstructions, readInstructions, type InstructionPlan, type Instructions, type PlannedStep } from '@violet-crate/core/setup/instructions';
import { invertEdit, type MapEdit } from '@violet-crate/core/document/edit';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { readTree } from '@violet-crate/host/folderTree';
import { eq } from 'drizzle-orm';
import { BlobStore } from '@violet-crate/host/blobStore';
import { CONFIG, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { settings } from '../database/schema.ts';
import { notFound, Problem } from '../http/problem.ts';
import { Notices } from '../notices/notices.ts';

/** What following a pack's instructions did to a crate, so that all of it can be taken back. */
interface Followed {
  at: string;
  /** Files as they were, by path; null for those that were not there. */
  files: Record<string, string | null>;
  undo: MapEdit | null;
  credits: CrateManifest['credits'];
  /** Steps that the user ticked by hand. */
  ticked: number[];
}

export interface CommunityPack {
  id: string;
  title: string;
  author: string;
  licence: string;
  steps: (PlannedStep & { ticked: boolean })[];
  /** When it was followed in this crate; null where it was not. */
  followedAt: string | null;
}

/** Packs of the community that were fetched, and what their instructions do to a crate. */
@Injectable()
export class CommunityService {
  constructor(
    @Inject(CONFIG) private readonly config: Config,
    @Inject(DATABASE) private readonly database: Database,
    @Inject(BlobStore) private readonly blobs: BlobStore,
    @Inject(CratesService) private readonly crates: CratesService,
    @Inject(Notices) private readonly notices: Notices,
  ) {}

  list(crateId: string): CommunityPack[] {
    const folder = join(this.config.data, 'community');
    const ids = existsSync(folder) ? readdirSync(folder).filter((id) => /^[a-z][a-z0-9_]*$/.test(id)) : [];
    return ids.sort().map((id) => this.view(crateId, id));
  }

  view(crateId: string, id: string): CommunityPack {
    const { instructions, tree } = this.open(id);
    const { title, author, licence } = instructions;
    const followed = this.followed(crateId, id);
    const steps = this.plan(crateId, instructions, tree).steps.map((step, i) => ({ ...step, ticked: followed?.ticked.includes(i) ?? false }));
    return { id, title, author, licence, steps, followedAt: followed?.at || null };
  }

  /** Does all steps that can be done, in one go. */
  follow(crateId: string, id: string): CommunityPack {
    const { instructions, tree } = this.open(id);
    const before = this.followed(crateId, id);
    if (before?.at) throw new Problem(409, 'pack-followed', `${instructions.title} was followed already. Take it back first to follow it again.`);
    const { files, edit, manifest } = this.plan(crateId, instructions, tree);
    const view = this.crates.view(crateId);
    const { map, revision } = this.crates.map(crateId, view.manifest.mainMap);
    const followed: Followed = {
      at: new Date().toISOString(),
      files: Object.fromEntries([...files.keys()].map((path) => [path, view.files.find((file) => file.path === path)?.sha256 ?? null])),
      undo: edit && invertEdit(map, edit),
      credits: view.manifest.credits,
      ticked: before?.ticked ?? [],
    };
    this.database.transaction(() => {
      if (files.size > 0)
        this.crates.writeFiles(
          crateId,
          [...files].map(([path, bytes]) => ({ path, bytes })),
        );
      this.crates.updateManifest(crateId, { credits: manifest.credits });
      if (edit) this.crates.editMap(crateId, view.manifest.mainMap, revision, [edit], { tab: 'folder' });
      this.remember(crateId, id, followed);
    });
    this.notices.refreshed.next({ crateId });
    return this.view(crateId, id);
  }

  /** Takes back all that following did. */
  takeBack(crateId: string, id: string): CommunityPack {
    const followed = this.followed(crateId, id);
    if (!followed?.at) throw new Problem(409, 'pack-not-followed', 'It was not followed in this crate.');
    const { mainMap } = this.crates.view(crateId).manifest;
    this.database.transaction(() => {
      const back = Object.entries(followed.files).flatMap(([path, sha256]) => (sha256 ? [{ path, bytes: this.blobs.read(sha256) }] : []));
      if (back.length > 0) this.crates.writeFiles(crateId, back);
      this.crates.dropFiles(
        crateId,
        Object.keys(followed.files).filter((path) => followed.files[path] === null),
      );
      this.crates.updateManifest(crateId, { credits: followed.credits });
      if (followed.undo)
        this.crates.editMap(
          crateId,
          mainMap,
          this.crates.map(crateId, mainMap).revision,
          [{ ...followed.undo, name: `undo ${followed.undo.name}`.slice(0, 120) }],
          { tab: 'folder' },
        );
      this.remember(crateId, id, { ...followed, at: '', files: {}, undo: null });
    });
    this.notices.refreshed.next({ crateId });
    return this.view(crateId, id);
  }

  tick(crateId: string, id: string, step: number, done: boolean): CommunityPack {
    const { steps } = this.open(id).instructions;
    if (steps[step]?.do !== 'hand') throw new Problem(422, 'step-by-rule', 'Only steps that are done by hand are ticked.');
    const before = this.followed(crateId, id) ?? { at: '', files: {}, undo: null, credits: [], ticked: [] };
    const others = before.ticked.filter((one) => one !== step);
    this.remember(crateId, id, { ...before, ticked: done ? [...others, step] : others });
    return this.view(crateId, id);
  }

  private open(id: string): { instructions: Instructions; tree: FileTree } {
    const folder = join(this.config.data, 'community', id);
    if (!/^[a-z][a-z0-9_]*$/.test(id) || !existsSync(join(folder, 'instructions.json'))) throw notFound(`pack ${id} of the community here`);
    const tree = readTree(folder);
    return { instructions: readInstructions(new TextDecoder().decode(tree.get('instructions.json'))), tree };
  }

  private plan(crateId: string, instructions: Instructions, tree: FileTree): InstructionPlan {
    const own = new Set(this.crates.view(crateId).files.map(({ path }) => path));
    return planInstructions(this.crates.world(crateId), instructions, tree, (path) => (own.has(path) ? this.crates.readFile(crateId, path) : null));
  }

  private key = (crateId: string, id: string): string => `followed/${crateId}/${id}`;

  private followed(crateId: string, id: string): Followed | null {
    const row = this.database
      .select()
      .from(settings)
      .where(eq(settings.key, this.key(crateId, id)))
      .get();
    return row ? (JSON.parse(row.value) as Followed) : null;
  }

  private remember(crateId: string, id: string, followed: Followed): void {
    const [key, value] = [this.key(crateId, id), JSON.stringify(followed)];
    this.database.insert(settings).values({ key, value }).onConflictDoUpdate({ target: settings.key, set: { value } }).run();
  }
}
