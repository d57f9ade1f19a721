import { randomUUID } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Inject, Injectable } from '@nestjs/common';
import { isScript, isText, mapPath, readCrate, writeDocuments, type CrateContents } from '@violet-crate/core/crate/contents';
import type { FileRecord } from '@violet-crate/core/crate/basePack';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { LOCK_FILE, readLock, type CrateLock } from '@violet-crate/core/crate/lock';
import { readMap } from '@violet-crate/core/crate/readMap';
import { CrateManifestSchema, type CrateManifest } from '@violet-crate/core/crate/manifest';
import { freeName, nameProblem } from '@violet-crate/core/crate/naming';
import type { Renaming } from '@violet-crate/core/library/rename';
import { newCrateContents, renameCrate, TEMPLATES } from '@violet-crate/core/crate/template';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { Finding } from '@violet-crate/core/finding';
import { cycleProblem } from '@violet-crate/core/document/prefabGraph';
import { applyEdit, touchedBy, type MapEdit } from '@violet-crate/core/document/edit';
import { sha256Hex } from '@violet-crate/core/hash';
import { completeMap, type GameMap } from '@violet-crate/core/document/schema';
import { profileDifferences, profileTrouble } from '@violet-crate/core/setup/profileChange';
import type { Profile } from '@violet-crate/core/profile/schema';
import { gameChange, stockInUse, type GameChange, type SeenGame } from '@violet-crate/core/setup/gameChange';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { readRequired } from '@violet-crate/host/requiredCrates';
import { installId } from '@violet-crate/host/setup/findGames';
import type { GameInstall } from '@violet-crate/host/setup/readFacts';
import { Value } from '@sinclair/typebox/value';
import { and, asc, desc, eq, gt, inArray, isNull, lte, sql } from 'drizzle-orm';
import { BlobStore, DAMAGE_HINT, type BlobDamage } from '@violet-crate/host/blobStore';
import { CONFIG, type Config } from '../config.ts';
import { DATABASE, inGroups, type Database } from '../database/database.ts';
import { crates, files, mapEdits, maps, mapSnapshots, scriptVersions } from '../database/schema.ts';
import { GamesService } from '../games/games.service.ts';
import { ProfilesService } from '../games/profiles.service.ts';
import { notFound, Problem } from '../http/problem.ts';
import { Notices } from '../notices/notices.ts';

/** Edits after which a map's snapshot is written anew. */
const SNAPSHOT_EVERY = 50;

/** Milliseconds within which saving a script again belongs to the same change, and versions that are kept of each. */
const ONE_CHANGE = 180_000;
const VERSIONS = 200;

/** So many revisions are listed. */
const LISTED_REVISIONS = 500;

/** A manifest as it will be, made from the one that is there at that moment. */
export type ManifestChange = (manifest: CrateManifest) => CrateManifest;

export interface CrateView {
  id: string;
  manifest: CrateManifest;
  maps: string[];
  files: { path: string; bytes: number; sha256: string; findings: Finding[] }[];
  updatedAt: string;
  /** Id of the install that it is made with. */
  install: string;
}

export interface GameState {
  profile: Profile;
  install: { id: string; folder: string; version: string | null };
  change: GameChange | null;
  /** What a newer version of the profile would mean; null where there is none. */
  newer: { differences: string[]; trouble: string[] } | null;
}

const damaged = (path: string, what: BlobDamage): Finding => ({
  code: 'file-damaged',
  severity: 'blocker',
  stage: isScript(path) ? 'scripts' : 'assets',
  message: `What is stored of ${path} is ${what === 'missing' ? 'missing' : 'damaged'} on the disk.`,
  hint: DAMAGE_HINT,
  place: { file: path },
});

/** Crates as rows and blobs: manifest, files and maps. Maps are a snapshot plus the edits after it. */
@Injectable()
export class CratesService {
  /** Those who hold on to a crate let go of it here, before it is removed. */
  readonly beforeRemoval: ((id: string) => Promise<void>)[] = [];

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(BlobStore) private readonly blobs: BlobStore,
    @Inject(GamesService) private readonly games: GamesService,
    @Inject(ProfilesService) private readonly profiles: ProfilesService,
    @Inject(Notices) private readonly notices: Notices,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  /** Manifests of all crates that are there, by id. */
  manifests(): { id: string; manifest: CrateManifest }[] {
    return this.database
      .select({ id: crates.id, manifest: crates.manifest })
      .from(crates)
      .where(isNull(crates.deletedAt))
      .orderBy(asc(crates.name))
      .all();
  }

  names(): string[] {
    return this.database
      .select({ name: crates.name })
      .from(crates)
      .all()
      .map((row) => row.name);
  }

  view(id: string): CrateView {
    const row = this.row(id);
    const own = this.database.select().from(files).where(eq(files.crateId, id)).orderBy(asc(files.path)).all();
    const names = this.database.select({ name: maps.name }).from(maps).where(eq(maps.crateId, id)).orderBy(asc(maps.name)).all();
    return {
      id,
      manifest: row.manifest,
      maps: names.map((m) => m.name),
      files: own.map(({ path, bytes, sha256, findings }) => {
        const what = this.blobs.look(sha256, bytes);
        return { path, bytes, sha256, findings: what ? [damaged(path, what), ...findings] : findings };
      }),
      updatedAt: row.updatedAt,
      install: installId(this.game(id).folder),
    };
  }

  /** The crate's game as it is now, and what of it is other than when somebody last looked. The first look is remembered. */
  async gameState(id: string): Promise<GameState> {
    const game = this.game(id);
    const newer = this.newerProfile(id);
    const version = this.games.version(game);
    const install = { id: installId(game.folder), folder: game.folder, version };
    const { seenGame } = this.row(id);
    if (!version) return { profile: game.profile, install, change: null, newer };
    if (!seenGame) {
      this.lookAtGame(id);
      return { profile: game.profile, install, change: null, newer };
    }
    const { tools } = await this.games.facts(game, false);
    const change = gameChange(game.profile, seenGame, {
      folder: game.folder,
      version,
      tools: Object.fromEntries(tools.map((tool) => [tool.id, tool.version])),
      stock: new Map(this.games.basePack(game).files.map((file) => [file.path, file.sha256])),
    });
    return { profile: game.profile, install, change, newer };
  }

  /** Takes the game as it is now for the one that the crate is made with. */
  lookAtGame(id: string): void {
    const game = this.game(id);
    const seenGame: SeenGame = { folder: game.folder, version: this.games.version(game) ?? '', stock: stockInUse(this.world(id)) };
    this.database.update(crates).set({ seenGame }).where(eq(crates.id, id)).run();
  }

  /** Keeps a profile as it is for all crates that are made with it: it is about to become another. */
  stayWith(profile: Profile): void {
    const hash = this.profiles.keep(profile);
    for (const { id, manifest, profileHash } of this.database.select().from(crates).all())
      if (manifest.profile === profile.id && profileHash === null)
        this.database.update(crates).set({ profileHash: hash }).where(eq(crates.id, id)).run();
  }

  /** Moves a crate to its profile as it is now. */
  moveToProfile(id: string): void {
    this.row(id);
    this.database.update(crates).set({ profileHash: null, updatedAt: now() }).where(eq(crates.id, id)).run();
  }

  /** What moving a crate to its profile as it is now would mean; null where it is there already. */
  newerProfile(id: string): { differences: string[]; trouble: string[] } | null {
    const { manifest } = this.row(id);
    const [before, after] = [this.game(id).profile, this.profiles.get(manifest.profile)];
    if (before === after) return null;
    return { differences: profileDifferences(before, after), trouble: profileTrouble(this.contents(id), before, after) };
  }

  /** Makes a crate with another install of its game. */
  useInstall(id: string, install: string): void {
    const { folder } = this.games.installById(this.row(id).manifest.profile, install);
    this.database.update(crates).set({ install: folder, seenGame: null }).where(eq(crates.id, id)).run();
    this.lookAtGame(id);
  }

  /** What a new crate would consist of, for a look before it is made. */
  plan(input: { profile: string; name: string; title: string; template: string }): {
    contents: CrateContents;
    binary: Map<string, string>;
  } {
    const profile = this.games.profile(input.profile);
    const problem = nameProblem(profile, 'crate', input.name, this.names());
    if (problem) throw new Problem(422, 'crate-name', problem);
    const [, stock] = /^stock:([a-z][a-z0-9_]*)$/.exec(input.template) ?? [];
    if (stock) return { contents: this.fromStock(profile, input, stock), binary: new Map() };
    if (input.template !== 'example') {
      const template = TEMPLATES.find((one) => one === input.template)!;
      return { contents: newCrateContents(profile, { name: input.name, title: input.title, template }), binary: new Map() };
    }
    const example = this.manifests().find((c) => c.manifest.profile === input.profile && c.manifest.name === profile.example);
    if (!example) throw new Problem(422, 'example-missing', `There is no example crate for ${profile.title}.`);
    const contents = renameCrate(this.contents(example.id), input.name, input.title);
    return { contents, binary: new Map(contents.files.map((file) => [file.path, file.sha256])) };
  }

  /** A new crate with a copy of one of the game's own maps, which stays as it is. */
  private fromStock(profile: Profile, { name, title }: { name: string; title: string }, stock: string): CrateContents {
    const game = this.games.install(profile.id);
    const file = join(this.games.basePackFolder(game), mapPath(stock));
    if (!this.games.basePack(game).files.some(({ path }) => path === mapPath(stock)) || !existsSync(file))
      throw new Problem(422, 'stock-map', `${profile.title} has no map "${stock}" of its own here.`);
    const contents = newCrateContents(profile, { name, title, template: 'blank' });
    return { ...contents, maps: { [name]: readMap(readFileSync(file, 'utf8'), mapPath(stock)) } };
  }

  create(input: Parameters<CratesService['plan']>[0]): string {
    const { contents, binary } = this.plan(input);
    return this.store(contents, (path) => binary.get(path)!);
  }

  /**
   * Takes a whole folder in.
   *
   * @param beside put behind the title where a crate of the name is there already; without it that is refused
   */
  importTree(tree: FileTree, beside?: string): { id: string; damage: Finding[] } {
    // What systems leave in folders is no part of a crate, as it is none on disk.
    for (const path of tree.keys()) if (path.split('/').some((part) => part.startsWith('.') || part === '__MACOSX')) tree.delete(path);
    const damage: Finding[] = [];
    const contents = readCrate(tree, damage);
    // What a damaged map's file held is kept as it was, beside what could be read of it.
    for (const { place } of damage) {
      const path = `sources/${place!.file!}`;
      if (tree.has(path)) continue;
      const bytes = tree.get(place!.file!)!;
      tree.set(path, bytes);
      contents.files.push({ path, bytes: bytes.length, sha256: sha256Hex(bytes) });
    }
    const profile = this.games.profile(contents.manifest.profile);
    const { name, title } = contents.manifest;
    if (beside !== undefined && this.names().includes(name))
      contents.manifest = { ...contents.manifest, name: freeName(name, this.names()), title: `${title} (${beside})` };
    const problem = nameProblem(profile, 'crate', contents.manifest.name, this.names());
    if (problem) throw new Problem(422, 'crate-name', `Crate name "${contents.manifest.name}": ${problem}`);
    return { id: this.store(contents, (path) => this.blobs.put(tree.get(path)!)), damage };
  }

  /**
   * The crate as its folder would be.
   *
   * @param anyway without what is damaged, instead of refusing: what can be saved of it
   */
  exportTree(id: string, anyway = false): FileTree {
    if (!anyway) this.needWhole(id);
    const contents = this.contents(id);
    const tree = writeDocuments(contents);
    for (const file of contents.files) {
      try {
        tree.set(file.path, this.blobs.read(file.sha256));
      } catch (error) {
        if (!(error instanceof UnreadableInput) || !anyway) throw error;
      }
    }
    return tree;
  }

  /** Takes a crate away for good, with everything in it. */
  async erase(id: string): Promise<void> {
    for (const letGo of this.beforeRemoval) await letGo(id);
    this.database.delete(crates).where(eq(crates.id, id)).run();
  }

  /** @param change what is null in it is taken out */
  updateManifest(id: string, change: { [K in keyof CrateManifest]?: CrateManifest[K] | null }): CrateManifest {
    const { manifest } = this.row(id);
    // Fields that a request left out are undefined members of its DTO and must not wipe what is there.
    const merged = { ...manifest, ...(JSON.parse(JSON.stringify(change)) as Partial<CrateManifest>) };
    const next = Object.fromEntries(Object.entries(merged).filter(([, value]) => value !== null)) as CrateManifest;
    const wrong = Value.Errors(CrateManifestSchema, next).First();
    if (wrong) throw new Problem(422, 'manifest', `${wrong.path.slice(1) || 'manifest'}: ${wrong.message}.`);
    this.database.update(crates).set({ manifest: next, updatedAt: now() }).where(eq(crates.id, id)).run();
    this.notices.written.next({ crateId: id });
    return next;
  }

  /** Puts a map into a crate that has none of its name. */
  addMap(id: string, name: string, document: GameMap): void {
    this.database.transaction((tx) => {
      tx.insert(maps).values({ crateId: id, name, document, revision: 0 }).run();
      tx.insert(mapSnapshots).values({ crateId: id, map: name, revision: 0, document, at: now() }).run();
      this.touch(id);
    });
  }

  /** Takes a map out of a crate, with its history. */
  removeMap(id: string, name: string): void {
    this.database.transaction((tx) => {
      tx.delete(maps)
        .where(and(eq(maps.crateId, id), eq(maps.name, name)))
        .run();
      tx.delete(mapEdits)
        .where(and(eq(mapEdits.crateId, id), eq(mapEdits.map, name)))
        .run();
      tx.delete(mapSnapshots)
        .where(and(eq(mapSnapshots.crateId, id), eq(mapSnapshots.map, name)))
        .run();
      this.touch(id);
    });
  }

  /** All of a crate that checks and builds look at. */
  contents(id: string): CrateContents {
    const { manifest } = this.row(id);
    const contents: CrateContents = { manifest, maps: {}, scripts: {}, data: {}, files: [] };
    for (const { name } of this.database.select({ name: maps.name }).from(maps).where(eq(maps.crateId, id)).all())
      contents.maps[name] = this.map(id, name).map;
    for (const file of this.database.select().from(files).where(eq(files.crateId, id)).orderBy(asc(files.path)).all()) {
      if (!isText(file.path)) {
        contents.files.push({ path: file.path, bytes: file.bytes, sha256: file.sha256 });
        continue;
      }
      const text = this.text(file.sha256);
      // One that is damaged is left out, which `view` tells; builds and packages do not begin without it.
      if (text !== null) (isScript(file.path) ? contents.scripts : contents.data)[file.path] = text;
    }
    return contents;
  }

  private text(sha256: string): string | null {
    try {
      return new TextDecoder().decode(this.blobs.read(sha256));
    } catch (error) {
      if (error instanceof UnreadableInput) return null;
      throw error;
    }
  }

  /** Files whose stored content is missing or damaged. */
  damagedFiles(id: string): string[] {
    const own = this.database.select({ path: files.path, sha256: files.sha256, bytes: files.bytes }).from(files).where(eq(files.crateId, id)).all();
    return own.filter(({ sha256, bytes }) => this.blobs.look(sha256, bytes) !== null).map(({ path }) => path);
  }

  /** @throws Problem where something would be made without what is damaged */
  needWhole(id: string): void {
    this.contents(id);
    const [first, ...more] = this.damagedFiles(id);
    if (first)
      throw new Problem(
        409,
        'file-damaged',
        `${first}${more.length > 0 ? ` and ${more.length} more` : ''}: what is stored of it is missing or damaged. ${DAMAGE_HINT}`,
      );
  }

  world(id: string): CrateWorld {
    const crate = this.contents(id);
    const game = this.game(id);
    const stock = this.games.basePack(game);
    const { lock, damage } = this.lock(id);
    const { base, required } = readRequired(this.config.required, lock, stock);
    return { profile: game.profile, base, crate, required: { ...required, ...(damage === undefined ? {} : { damage }) } };
  }

  /** Which versions of other crates it is made with; none where its file cannot be read, which is told. */
  lock(id: string): { lock: CrateLock; damage?: string } {
    try {
      const row = this.database
        .select({ sha256: files.sha256 })
        .from(files)
        .where(and(eq(files.crateId, id), eq(files.path, LOCK_FILE)))
        .get();
      return { lock: row ? readLock(new TextDecoder().decode(this.blobs.read(row.sha256))) : { format: 1, crates: {} } };
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
      return { lock: { format: 1, crates: {} }, damage: error.message };
    }
  }

  /** The install that a crate is made with, under the profile that it was made with. */
  game(id: string): GameInstall {
    const { manifest, install, profileHash } = this.row(id);
    return { ...this.games.install(manifest.profile, install), profile: this.profiles.version(manifest.profile, profileHash) };
  }

  fileHash(id: string, path: string): string {
    const row = this.database
      .select({ sha256: files.sha256 })
      .from(files)
      .where(and(eq(files.crateId, id), eq(files.path, path)))
      .get();
    if (!row) throw notFound(`file ${path}`);
    return row.sha256;
  }

  /** @throws UnreadableInput where its content is missing or damaged */
  readFile(id: string, path: string): Uint8Array {
    try {
      return this.blobs.read(this.fileHash(id, path));
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
      throw new UnreadableInput(error.code, `What is stored of ${path} is missing or damaged on the disk.`, { file: path }, error.hint);
    }
  }

  /**
   * Writes files and, in the same transaction, what changes of the manifest. The change is given the manifest as it is
   * then: what others wrote while work was under way stays.
   */
  writeFiles(id: string, written: { path: string; bytes: Uint8Array; findings?: Finding[] }[], change?: ManifestChange): void {
    this.row(id);
    const hashes = this.blobs.putAll(written.map(({ bytes }) => bytes));
    const stored = written.map(({ path, bytes, findings }, i) => ({ path, sha256: hashes[i], bytes: bytes.length, findings: findings ?? [] }));
    this.enterFiles(id, stored, change);
  }

  /** Enters files whose content lies in the store already. */
  enterFiles(id: string, stored: (FileRecord & { findings: Finding[] })[], change?: ManifestChange): void {
    this.database.transaction((tx) => {
      for (const row of stored) if (isText(row.path)) this.keepVersion(id, row.path, row.sha256);
      for (const rows of inGroups(stored))
        tx.insert(files)
          .values(rows.map((row) => ({ crateId: id, ...row })))
          .onConflictDoUpdate({
            target: [files.crateId, files.path],
            set: { sha256: sql`excluded.sha256`, bytes: sql`excluded.bytes`, findings: sql`excluded.findings` },
          })
          .run();
      this.touch(id, change);
    });
  }

  /**
   * Keeps what a script is now, before it becomes something else. What is typed within a few minutes counts as one change:
   * then what it was before all of it is there already. Called within a transaction.
   */
  private keepVersion(crateId: string, path: string, next: string): void {
    const here = and(eq(files.crateId, crateId), eq(files.path, path));
    const row = this.database.select().from(files).where(here).get();
    if (!row || row.sha256 === next) return;
    const [last] = this.scriptVersions(crateId, path);
    if (last && Date.now() - Date.parse(last.savedAt) < ONE_CHANGE) return;
    this.database.insert(scriptVersions).values({ crateId, path, sha256: row.sha256, savedAt: now() }).run();
    const [, ...older] = this.scriptVersions(crateId, path).slice(VERSIONS - 1);
    if (older.length > 0)
      this.database
        .delete(scriptVersions)
        .where(
          inArray(
            scriptVersions.id,
            older.map((one) => one.id),
          ),
        )
        .run();
  }

  /** What a script was before, newest first. */
  scriptVersions(crateId: string, path: string): { id: number; sha256: string; savedAt: string }[] {
    return this.database
      .select({ id: scriptVersions.id, sha256: scriptVersions.sha256, savedAt: scriptVersions.savedAt })
      .from(scriptVersions)
      .where(and(eq(scriptVersions.crateId, crateId), eq(scriptVersions.path, path)))
      .orderBy(desc(scriptVersions.id))
      .all();
  }

  scriptVersion(crateId: string, id: number): string {
    const row = this.database
      .select()
      .from(scriptVersions)
      .where(and(eq(scriptVersions.crateId, crateId), eq(scriptVersions.id, id)))
      .get();
    if (!row) throw notFound('such version of a script');
    return new TextDecoder().decode(this.blobs.read(row.sha256));
  }

  /** Marks a crate as changed just now, and its manifest with it. Called within a transaction. */
  private touch(id: string, change: ManifestChange = (manifest) => manifest): void {
    this.database
      .update(crates)
      .set({ updatedAt: now(), manifest: change(this.row(id).manifest) })
      .where(eq(crates.id, id))
      .run();
    this.notices.written.next({ crateId: id });
  }

  /** Carries out a renaming: files move, maps get an edit each, scripts their new text; all or nothing. */
  applyRenaming(id: string, renaming: Partial<Renaming>): void {
    const moved = (renaming.moves ?? []).filter(([from, to]) => from !== to);
    this.database.transaction((tx) => {
      for (const [from, to] of moved)
        tx.update(files)
          .set({ path: to })
          .where(and(eq(files.crateId, id), eq(files.path, from)))
          .run();
      this.writeFiles(
        id,
        Object.entries({ ...renaming.scripts, ...renaming.data }).map(([path, source]) => ({ path, bytes: new TextEncoder().encode(source) })),
        (manifest) => renaming.manifest ?? manifest,
      );
      for (const [name, edit] of Object.entries(renaming.edits ?? {})) this.editMap(id, name, this.map(id, name).revision, [edit]);
    });
  }

  /** Removes files and, in the same transaction, what the manifest says of them. */
  dropFiles(id: string, paths: readonly string[], change?: ManifestChange): void {
    this.database.transaction((tx) => {
      for (const path of paths)
        tx.delete(files)
          .where(and(eq(files.crateId, id), eq(files.path, path)))
          .run();
      this.touch(id, change);
    });
  }

  /** Removes one file and nothing else. */
  removeFile(id: string, path: string): void {
    this.fileHash(id, path);
    this.dropFiles(id, [path]);
  }

  map(id: string, name: string): { map: GameMap; revision: number } {
    const snapshot = this.database
      .select()
      .from(maps)
      .where(and(eq(maps.crateId, id), eq(maps.name, name)))
      .get();
    if (!snapshot) throw notFound(`map ${name}`);
    const later = this.database
      .select({ edit: mapEdits.edit, revision: mapEdits.revision })
      .from(mapEdits)
      .where(and(eq(mapEdits.crateId, id), eq(mapEdits.map, name), gt(mapEdits.revision, snapshot.revision)))
      .orderBy(asc(mapEdits.revision))
      .all();
    return {
      map: later.reduce((map, row) => applyEdit(map, row.edit), completeMap(snapshot.document)),
      revision: later.at(-1)?.revision ?? snapshot.revision,
    };
  }

  /** The edits after a revision, in order. */
  editsSince(id: string, name: string, since: number): { revision: number; edit: MapEdit }[] {
    return this.database
      .select({ revision: mapEdits.revision, edit: mapEdits.edit })
      .from(mapEdits)
      .where(and(eq(mapEdits.crateId, id), eq(mapEdits.map, name), gt(mapEdits.revision, since)))
      .orderBy(asc(mapEdits.revision))
      .all();
  }

  /** The last edits by name, newest first, down to the oldest state that is kept. */
  revisions(id: string, name: string): { revision: number; name: string; at: string; changes: number }[] {
    const edits = this.database
      .select({ revision: mapEdits.revision, edit: mapEdits.edit, at: mapEdits.at })
      .from(mapEdits)
      .where(and(eq(mapEdits.crateId, id), eq(mapEdits.map, name)))
      .orderBy(desc(mapEdits.revision))
      .limit(LISTED_REVISIONS)
      .all()
      .map(({ revision, edit, at }) => ({ revision, name: edit.name, at, changes: edit.changes.length }));
    const first = this.database
      .select({ revision: mapSnapshots.revision, at: mapSnapshots.at })
      .from(mapSnapshots)
      .where(and(eq(mapSnapshots.crateId, id), eq(mapSnapshots.map, name)))
      .orderBy(asc(mapSnapshots.revision))
      .get();
    if (!first) throw notFound(`map ${name} in this crate`);
    return edits.length < LISTED_REVISIONS ? [...edits, { ...first, name: 'as it began', changes: 0 }] : edits;
  }

  /** The map as it was at a revision. */
  mapAt(id: string, name: string, revision: number): GameMap {
    const snapshot = this.database
      .select()
      .from(mapSnapshots)
      .where(and(eq(mapSnapshots.crateId, id), eq(mapSnapshots.map, name), lte(mapSnapshots.revision, revision)))
      .orderBy(desc(mapSnapshots.revision))
      .get();
    if (!snapshot) throw notFound(`revision ${revision} of map ${name}`);
    return this.editsSince(id, name, snapshot.revision)
      .filter((row) => row.revision <= revision)
      .reduce((map, { edit }) => applyEdit(map, edit), completeMap(snapshot.document));
  }

  /**
   * Appends edits to a map. `base` is the revision they were made on. What others did since is answered, and
   * merged where it touches other things; where it touches the same, that is a conflict which the user settles,
   * unless `force` puts these edits on top. Acknowledged edits are on disk.
   */
  editMap(
    id: string,
    name: string,
    base: number,
    edits: MapEdit[],
    options: { force?: boolean; tab?: string } = {},
  ): { revision: number; others: { revision: number; edit: MapEdit }[] } {
    const { map, revision } = this.map(id, name);
    const others = base === revision ? [] : this.editsSince(id, name, base);
    if (base > revision) throw new Problem(409, 'map-revision', 'The map on the server is older than this page’s. Load it again.', { revision });
    const mine = new Set(edits.flatMap((edit) => [...touchedBy(edit)]));
    const both = [...new Set(others.flatMap(({ edit }) => [...touchedBy(edit)].filter((key) => mine.has(key))))];
    if (both.length > 0 && !options.force)
      throw new Problem(
        409,
        'map-conflict',
        'The same things were changed elsewhere, perhaps in another tab. Your last change is not saved yet: keep yours or take the other.',
        { revision, conflicts: both, others: others.map(({ edit }) => edit.name) },
      );
    let next = revision;
    const after = edits.reduce(applyEdit, map);
    const cycle = after.prefabs === map.prefabs ? null : cycleProblem(after);
    // One that is there already, from before it was refused, must not keep anybody from mending it.
    if (cycle && !cycleProblem(map)) throw new Problem(422, 'prefab-cycle', cycle);
    this.database.transaction((tx) => {
      for (const edit of edits) tx.insert(mapEdits).values({ crateId: id, map: name, revision: ++next, edit, at: now() }).run();
      if (Math.floor(next / SNAPSHOT_EVERY) > Math.floor(revision / SNAPSHOT_EVERY)) {
        tx.update(maps)
          .set({ document: after, revision: next })
          .where(and(eq(maps.crateId, id), eq(maps.name, name)))
          .run();
        tx.insert(mapSnapshots).values({ crateId: id, map: name, revision: next, document: after, at: now() }).run();
      }
      tx.update(crates).set({ updatedAt: now() }).where(eq(crates.id, id)).run();
    });
    this.notices.edited.next({ crateId: id, map: name, revision: next, tab: options.tab ?? '' });
    return { revision: next, others };
  }

  /** @throws Problem where there is no such crate */
  expect(id: string): void {
    this.row(id);
  }

  private row(id: string) {
    const row = this.database.select().from(crates).where(eq(crates.id, id)).get();
    if (!row || row.deletedAt) throw notFound('crate with this address');
    return row;
  }

  private store(contents: CrateContents, hashOf: (path: string) => string): string {
    const id = randomUUID();
    const { manifest } = contents;
    const binary = contents.files.map((file) => ({ ...file, sha256: hashOf(file.path) }));
    const texts = Object.entries({ ...contents.scripts, ...contents.data }).map(([path, source]) => {
      const bytes = new TextEncoder().encode(source);
      return { path, bytes: bytes.length, sha256: this.blobs.put(bytes) };
    });
    this.database.transaction((tx) => {
      tx.insert(crates).values({ id, name: manifest.name, manifest, createdAt: now(), updatedAt: now() }).run();
      for (const file of [...binary, ...texts])
        tx.insert(files)
          .values({ crateId: id, findings: [], ...file })
          .run();
      for (const [name, document] of Object.entries(contents.maps)) {
        tx.insert(maps).values({ crateId: id, name, document, revision: 0 }).run();
        tx.insert(mapSnapshots).values({ crateId: id, map: name, revision: 0, document, at: now() }).run();
      }
    });
    return id;
  }
}

const now = (): string => new Date().toISOString();

/** Paths that a crate would have, for display. */
export const plannedPaths = (contents: CrateContents): string[] =>
  [
    'crate.json',
    ...Object.keys(contents.maps).map(mapPath),
    ...Object.keys(contents.scripts),
    ...Object.keys(contents.data),
    ...contents.files.map((f) => f.path),
  ].sort();
