import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { changedSince, editManifest, invertCrateEdit, placesOf, type CrateEdit } from '@violet-crate/core/crate/crateEdit';
import type { Finding } from '@violet-crate/core/finding';
import { planLinkChanges } from '@violet-crate/core/link/change';
import type { LinkChange } from '@violet-crate/core/linkChange';
import { and, desc, eq, inArray } from 'drizzle-orm';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { crateEdits, files } from '../database/schema.ts';
import { notFound, Problem } from '../http/problem.ts';

/** Edits of crates as a whole that are listed, newest first, and that are kept of one crate. */
const LISTED = 50;
const KEPT = 200;

export interface CrateEditView {
  id: string;
  name: string;
  places: string[];
  at: string;
  undoneAt: string | null;
}

/** Changes of a crate as a whole: planned, done in one go, undone and done again. */
@Injectable()
export class CrateEditsService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CratesService) private readonly crates: CratesService,
  ) {}

  /** What orders about links would do, before anything is done. */
  plan(crateId: string, changes: readonly LinkChange[]): { name: string; places: string[]; leftOut: string[] } {
    const world = this.crates.world(crateId);
    const { edit, leftOut } = planLinkChanges(world, changes);
    return { name: edit?.name ?? '', places: edit ? placesOf(world.crate, edit) : [], leftOut };
  }

  change(crateId: string, changes: readonly LinkChange[]): { edit: CrateEditView | null; leftOut: string[] } {
    const { edit, leftOut } = planLinkChanges(this.crates.world(crateId), changes);
    return { edit: edit && this.apply(crateId, edit), leftOut };
  }

  /** Does it and keeps how to take it back. */
  apply(crateId: string, edit: CrateEdit): CrateEditView {
    const before = this.crates.contents(crateId);
    const row = {
      id: randomUUID(),
      crateId,
      edit,
      inverse: invertCrateEdit(before, edit),
      findings: this.findingsOf(crateId, edit),
      at: new Date().toISOString(),
      undoneAt: null,
    };
    this.database.transaction((tx) => {
      this.carryOut(crateId, edit, row.findings);
      tx.insert(crateEdits).values(row).run();
      const old = tx
        .select({ id: crateEdits.id })
        .from(crateEdits)
        .where(eq(crateEdits.crateId, crateId))
        .orderBy(desc(crateEdits.at))
        .limit(KEPT)
        .offset(KEPT)
        .all();
      for (const { id } of old) tx.delete(crateEdits).where(eq(crateEdits.id, id)).run();
    });
    return { id: row.id, name: edit.name, places: placesOf(before, edit), at: row.at, undoneAt: null };
  }

  list(crateId: string): CrateEditView[] {
    const crate = this.crates.contents(crateId);
    return this.database
      .select()
      .from(crateEdits)
      .where(eq(crateEdits.crateId, crateId))
      .orderBy(desc(crateEdits.at))
      .limit(LISTED)
      .all()
      .map(({ id, edit, at, undoneAt }) => ({ id, name: edit.name, places: placesOf(crate, edit), at, undoneAt }));
  }

  /** @param again does what was undone once more. @throws Problem where what it touches was changed meanwhile, unless `anyway` */
  undo(crateId: string, id: string, { again = false, anyway = false } = {}): void {
    const row = this.database
      .select()
      .from(crateEdits)
      .where(and(eq(crateEdits.id, id), eq(crateEdits.crateId, crateId)))
      .get();
    if (!row || (row.undoneAt !== null) !== again) throw notFound(again ? 'such change that was undone' : 'such change to undo');
    const [there, wanted] = again ? [row.inverse, row.edit] : [row.edit, row.inverse];
    const changed = changedSince(this.crates.contents(crateId), there);
    if (changed.length > 0 && !anyway)
      throw new Problem(
        409,
        'changed-since',
        `Since "${row.edit.name}" ${changed.slice(0, 3).join(', ')}${changed.length > 3 ? ` and ${changed.length - 3} more` : ''} ${changed.length === 1 ? 'was' : 'were'} changed, which would be lost.`,
        { changed },
      );
    this.database.transaction((tx) => {
      this.carryOut(crateId, wanted, row.findings);
      tx.update(crateEdits)
        .set({ undoneAt: again ? null : new Date().toISOString() })
        .where(eq(crateEdits.id, id))
        .run();
    });
  }

  private findingsOf(crateId: string, edit: CrateEdit): Record<string, Finding[]> {
    const going = Object.entries(edit.files).flatMap(([path, to]) => (to === null ? [path] : []));
    const found: Record<string, Finding[]> = {};
    for (let i = 0; i < going.length; i += 500)
      for (const { sha256, findings } of this.database
        .select()
        .from(files)
        .where(and(eq(files.crateId, crateId), inArray(files.path, going.slice(i, i + 500))))
        .all())
        if (findings.length > 0) found[sha256] = findings;
    return found;
  }

  /** Within a transaction. */
  private carryOut(crateId: string, edit: CrateEdit, findings: Record<string, Finding[]>): void {
    const gone = [edit.files, edit.scripts, edit.data ?? {}].flatMap((of) => Object.entries(of).flatMap(([path, to]) => (to === null ? [path] : [])));
    const known = Object.entries(edit.files).flatMap(([path, to]) =>
      to === null ? [] : [{ path, ...to, findings: (findings[to.sha256] ?? []).map((finding) => movedTo(finding, path)) }],
    );
    const texts = Object.entries({ ...edit.scripts, ...edit.data }).flatMap(([path, source]) => (source === null ? [] : [{ path, source }]));
    this.crates.dropFiles(crateId, gone);
    this.crates.writeFiles(
      crateId,
      texts.map(({ path, source }) => ({ path, bytes: new TextEncoder().encode(source) })),
      (manifest) => editManifest(manifest, edit.manifest),
    );
    this.crates.enterFiles(crateId, known);
    for (const [name, change] of Object.entries(edit.maps)) this.crates.editMap(crateId, name, this.crates.map(crateId, name).revision, [change]);
  }
}

const movedTo = (finding: Finding, file: string): Finding => (finding.place?.file ? { ...finding, place: { ...finding.place, file } } : finding);
