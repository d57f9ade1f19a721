import { join } from 'node:path';
import { isBesideCrate } from '@violet-crate/core/crate/contents';
import type { EqualPlan } from '@violet-crate/core/crate/keepEqual';
import { CrateManifestSchema } from '@violet-crate/core/crate/manifest';
import { readMap } from '@violet-crate/core/crate/readMap';
import { mergeMaps, type MemberKey } from '@violet-crate/core/document/merge';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { IS_LINK, listFolder } from '@violet-crate/host/folderTree';
import { isFileInside, linkOn, readInside, removeInside, writeInside } from '@violet-crate/host/inside';
import { hashFiles } from '@violet-crate/host/setup/hashFiles';
import type { BlobStore } from '@violet-crate/host/blobStore';
import type { CratesService } from '../crates/crates.service.ts';
import { Problem } from '../http/problem.ts';
import type { Notices } from '../notices/notices.ts';
import { hashOf, mapName, type CrateSide } from './crateSide.ts';
import type { FolderConflict } from './folderView.ts';

/** Bytes of files that are held in memory at a time. */
const TURN = 64 << 20;

const decoder = new TextDecoder();

interface InFolder {
  folder: string;
}

/** Carries files between a crate and its folder, each by the rule of its kind: maps by member, documents as we write them, all else whole. */
export class Equaliser {
  constructor(
    private readonly side: CrateSide,
    private readonly blobs: BlobStore,
    private readonly crates: CratesService,
    private readonly notices: Notices,
  ) {}

  /** What is new in the folder comes in: files together, maps as edits by name. */
  takeFiles(crateId: string, { folder }: InFolder, plan: EqualPlan, refused: Map<string, string>, conflicts: FolderConflict[]): void {
    let plain: { path: string; bytes: Uint8Array }[] = [];
    let size = 0;
    let refreshed = false;
    const takePlain = () => {
      if (plain.length === 0) return;
      this.side.together(() => {
        this.crates.writeFiles(crateId, plain);
        this.side.remember(
          crateId,
          plain.map(({ path, bytes }) => [path, hashOf(bytes)]),
        );
      });
      [plain, size, refreshed] = [[], 0, true];
    };
    for (const path of plan.take) {
      try {
        const bytes = this.readFile({ folder }, path);
        if (mapName(path)) this.takeMap(crateId, path, bytes);
        else if (path === 'crate.json') this.takeManifest(crateId, bytes);
        else {
          plain.push({ path, bytes });
          size += bytes.length;
          if (size > TURN) takePlain();
        }
        refreshed ||= !mapName(path);
        // A document is written back as this application writes it, so that both sides are the same to the byte.
        if (mapName(path) || path === 'crate.json') this.writeOut(crateId, { folder }, [path]);
      } catch (error) {
        if (!(error instanceof UnreadableInput) && !(error instanceof Problem)) throw error;
        refused.set(path, error.message);
      }
    }
    takePlain();
    const gone = plan.dropFromCrate.filter((path) => !mapName(path) && path !== 'crate.json');
    if (gone.length > 0) {
      this.side.together(() => {
        this.side.keepRemoved(crateId, gone);
        this.crates.dropFiles(crateId, gone);
        this.side.remember(
          crateId,
          gone.map((path) => [path, undefined]),
        );
      });
      refreshed = true;
    }
    for (const path of plan.dropFromCrate)
      if (mapName(path) || path === 'crate.json') conflicts.push({ path, members: [], what: `${path} is gone from the folder.` });
    if (refreshed) this.notices.refreshed.next({ crateId });
  }

  private takeMap(crateId: string, path: string, bytes: Uint8Array): void {
    const name = mapName(path)!;
    const next = readMap(readText(path, bytes), path);
    if (!this.crates.view(crateId).maps.includes(name)) {
      this.crates.addMap(crateId, name, next);
      this.notices.refreshed.next({ crateId });
      return;
    }
    const { map, revision } = this.crates.map(crateId, name);
    const { edit } = mergeMaps(map, map, next, 'changed in the folder');
    if (edit) this.crates.editMap(crateId, name, revision, [edit], { tab: 'folder' });
  }

  private takeManifest(crateId: string, bytes: Uint8Array): void {
    const { manifest } = this.crates.view(crateId);
    const next = readDocument(readText('crate.json', bytes), CrateManifestSchema, 'crate.json');
    if (next.name !== manifest.name || next.profile !== manifest.profile)
      throw new UnreadableInput(
        'folder-manifest',
        `crate.json says that this is "${next.name}" for ${next.profile}; the crate is "${manifest.name}" for ${manifest.profile}. Rename it in the application.`,
      );
    this.crates.updateManifest(crateId, next);
  }

  /** Both sides changed a file: maps are merged member by member, all else is a conflict. */
  mergePath(crateId: string, { folder }: InFolder, path: string, refused: Map<string, string>, conflicts: FolderConflict[]): void {
    const name = mapName(path);
    const was = this.side.wasEqual(crateId).get(path);
    const there = isFileInside(folder, path);
    const known = this.side.hash(crateId, path) !== undefined;
    const what = !there
      ? `${path} was changed here and is gone from the folder.`
      : !known
        ? `${path} was changed in the folder and is gone here.`
        : was === undefined
          ? `${path} is another one here than in the folder.`
          : `${path} was changed here and in the folder.`;
    if (!name || !there || !known || was === undefined) return void conflicts.push({ path, members: [], what });
    try {
      const before = this.blobs.has(was) ? readMap(decoder.decode(this.blobs.read(was)), path) : null;
      if (!before) return void conflicts.push({ path, members: [], what });
      const theirs = readMap(readText(path, this.readFile({ folder }, path)), path);
      const { map, revision } = this.crates.map(crateId, name);
      const { edit, conflicts: clashing } = mergeMaps(before, map, theirs, 'changed in the folder');
      if (edit) this.crates.editMap(crateId, name, revision, [edit], { tab: 'folder' });
      if (clashing.length > 0) {
        conflicts.push({ path, members: clashing.map(({ key }) => key), what });
        return;
      }
      this.writeOut(crateId, { folder }, [path]);
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
      refused.set(path, error.message);
    }
  }

  /** What is new in the crate goes into the folder, each file whole or not at all. */
  give(crateId: string, { folder }: InFolder, plan: EqualPlan, here: ReadonlyMap<string, string>, blocked: ReadonlySet<string>): void {
    this.writeOut(
      crateId,
      { folder },
      plan.give.filter((path) => !blocked.has(path)),
    );
    for (const path of plan.dropFromFolder) removeInside(folder, path);
    this.side.remember(
      crateId,
      plan.dropFromFolder.map((path) => [path, here.get(path)]),
    );
  }

  async carryOut(
    crateId: string,
    { folder }: InFolder,
    { path, members }: FolderConflict,
    side: 'crate' | 'folder',
    chosen: Record<MemberKey, 'crate' | 'folder'>,
  ): Promise<void> {
    const name = mapName(path);
    if (members.length > 0 && name) {
      const before = readMap(decoder.decode(this.blobs.read(this.side.wasEqual(crateId).get(path)!)), path);
      const theirs = readMap(readText(path, this.readFile({ folder }, path)), path);
      const { map, revision } = this.crates.map(crateId, name);
      const { edit } = mergeMaps(before, map, theirs, 'settled with the folder', (key) => ((chosen[key] ?? side) === 'folder' ? 'theirs' : 'ours'));
      if (edit) this.crates.editMap(crateId, name, revision, [edit], { tab: 'folder' });
      return this.writeOut(crateId, { folder }, [path]);
    }
    if (side === 'crate') {
      // What the folder had stays among the blobs for as long as the daily copies know it; what it had of a file is kept in the trash.
      if (this.side.hash(crateId, path) === undefined) removeInside(folder, path);
      else return this.writeOut(crateId, { folder }, [path]);
    } else if (!isFileInside(folder, path)) {
      if (name) {
        // The map goes as it was meant, and its text stays among the sources.
        this.crates.writeFiles(crateId, [{ path: `sources/${path}`, bytes: this.side.bytes(crateId, path) }]);
        this.crates.removeMap(crateId, name);
      } else {
        this.side.keepRemoved(crateId, [path]);
        this.crates.dropFiles(crateId, [path]);
      }
    } else if (name) this.takeMap(crateId, path, this.readFile({ folder }, path));
    else if (path === 'crate.json') this.takeManifest(crateId, this.readFile({ folder }, path));
    else {
      this.side.keepRemoved(crateId, [path]);
      this.crates.writeFiles(crateId, [{ path, bytes: this.readFile({ folder }, path) }]);
    }
    this.side.remember(crateId, [[path, this.side.hash(crateId, path)]]);
    this.notices.refreshed.next({ crateId });
  }

  /** Writes files of the crate into its folder where they read otherwise there; many of them in turns that fit into memory. */
  private writeOut(crateId: string, { folder }: InFolder, paths: readonly string[]): void {
    let turn: [path: string, bytes: Uint8Array][] = [];
    let equal: [path: string, sha256: string][] = [];
    let size = 0;
    const write = () => {
      if (turn.length > 0) {
        this.side.giving(crateId, equal);
        writeInside(folder, turn);
      }
      this.side.remember(crateId, equal);
      [turn, equal, size] = [[], [], 0];
    };
    for (const path of paths) {
      const bytes = this.side.bytes(crateId, path);
      const there = readInside(folder, path);
      if (!there || Buffer.compare(there, bytes) !== 0) turn.push([path, bytes]);
      equal.push([path, hashOf(bytes)]);
      size += bytes.length;
      if (size > TURN) write();
    }
    write();
  }

  private readFile({ folder }: InFolder, path: string): Uint8Array {
    const bytes = readInside(folder, path);
    if (!bytes) throw new UnreadableInput('folder-file', `${path} is gone again, or no regular file.`);
    return bytes;
  }

  /** Hashes of a folder's files, or of those among `only` that are there; and the links, which are neither followed nor taken for gone. */
  async folderHashes(folder: string, only?: ReadonlySet<string>): Promise<{ hashes: Map<string, string>; links: Set<string> }> {
    const links = new Set<string>();
    if (only) for (const path of only) for (const link of [linkOn(folder, path)]) if (link) links.add(link);
    const leftOut = (path: string, reason: string) => void (reason === IS_LINK && links.add(path));
    const paths = only
      ? [...only].filter((path) => isFileInside(folder, path))
      : listFolder(folder, { skip: isBesideCrate, leftOut }).map(({ path }) => path);
    const hashes = await hashFiles(paths.map((path) => join(folder, path)));
    return { hashes: new Map(paths.flatMap((path, i) => (hashes[i] ? [[path, hashes[i].sha256] as const] : []))), links };
  }
}

function readText(path: string, bytes: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    throw new UnreadableInput('text-encoding', `${path} is not UTF-8 text.`, { file: path }, 'Save the file as UTF-8.');
  }
}
