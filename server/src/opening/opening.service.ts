import { isUtf8 } from 'node:buffer';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { basename, dirname, extname, join } from 'node:path';
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { ASSET_KINDS, ASSETS, assetKindOf, type AssetKind } from '@violet-crate/core/crate/assetKind';
import { isScript, sourceFolder } from '@violet-crate/core/crate/contents';
import { scriptText } from '@violet-crate/core/importing/importPlan';
import { isSourceOf } from '@violet-crate/core/crate/sourceForm';
import { sampleOf } from '@violet-crate/core/importing/samples';
import { own } from '@violet-crate/core/own';
import { commandWords, noScreen, openFile, systemOpener } from '@violet-crate/host/openWith';
import { writeWhole } from '@violet-crate/host/files';
import { isFileInside, readInside } from '@violet-crate/host/inside';
import { watch as watchFile, type FSWatcher } from 'chokidar';
import { ImportsService } from '../assets/imports.service.ts';
import { BoundFoldersService } from '../bound/boundFolders.service.ts';
import { CONFIG, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { notFound, Problem } from '../http/problem.ts';
import { Notices } from '../notices/notices.ts';
import { SettingsService } from '../settings/settings.service.ts';
import { WatchService } from '../watch/watch.service.ts';

export interface OpenedFile {
  /** The asset or script, and the file on disk that a program has. */
  path: string;
  file: string;
  program: string;
  /** Changed in the crate and by the program since it was opened: the user says which stands. */
  conflict: boolean;
  /** Why what the program saved cannot be taken; null where it can. */
  problem: string | null;
}

/** As it is kept between runs of the server. */
interface Kept extends OpenedFile {
  /** SHA-256 of the file and of what the crate had, when they were last the same. */
  base: string;
  inCrate: string;
}

/** Milliseconds that a file has to rest: programs write in pieces. */
const REST = 400;

/** Sources of assets, and scripts, that are open in programs of this machine: what is saved there comes into the crate. */
@Injectable()
export class OpeningService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly opened = new Map<string, Map<string, Kept>>();
  private readonly watchers = new Map<string, FSWatcher>();
  private readonly logger = new Logger('opening');

  constructor(
    @Inject(CONFIG) private readonly config: Config,
    private readonly settings: SettingsService,
    private readonly crates: CratesService,
    private readonly imports: ImportsService,
    private readonly watch: WatchService,
    private readonly folders: BoundFoldersService,
    private readonly notices: Notices,
  ) {}

  onApplicationBootstrap(): void {
    this.crates.beforeRemoval.push(async (crateId) => {
      await Promise.all([...(this.opened.get(crateId)?.keys() ?? [])].map((path) => this.unfollow(crateId, path)));
      this.opened.delete(crateId);
      rmSync(this.folder(crateId), { recursive: true, force: true });
    });
    for (const id of existsSync(this.root) ? readdirSync(this.root) : [])
      for (const kept of this.read(id)) {
        this.keep(id, kept);
        this.follow(id, kept);
      }
  }

  async onApplicationShutdown(): Promise<void> {
    await Promise.all([...this.watchers.values()].map((watcher) => watcher.close()));
  }

  /** What is set on this machine, and what the system would take itself. */
  programs() {
    const typed = this.settings.openers();
    return {
      noScreen: noScreen(),
      system: systemOpener(),
      programs: Object.fromEntries(ASSET_KINDS.map((kind) => [kind, typed[kind] ?? ''])),
      names: Object.fromEntries(Object.entries(typed).flatMap(([kind, words]) => (words.trim() ? [[kind, basename(commandWords(words)[0])]] : []))),
    };
  }

  /** Opens a small file of a kind, to see whether the program is the right one. */
  async tryOut(kind: AssetKind): Promise<{ program: string; file: string }> {
    const { name, bytes } = sampleOf(kind);
    const file = join(this.root, 'samples', name);
    writeWhole(file, bytes);
    return { program: await openFile(file, this.settings.openers()[kind] ?? ''), file };
  }

  list(crateId: string): OpenedFile[] {
    return [...(this.opened.get(crateId)?.values() ?? [])].map(({ base: _, inCrate: __, ...shown }) => shown);
  }

  async open(crateId: string, path: string): Promise<OpenedFile> {
    const bytes = this.inCrate(crateId, path);
    const kind = assetKindOf(path);
    if (!bytes || !kind) throw notFound(`file with a source: ${path}`);
    const source = isScript(path) ? path : own(this.crates.view(crateId).manifest.assets, path)!.source;
    if (!isSourceOf(kind, source, bytes))
      throw new Problem(
        422,
        'source-form',
        `${basename(source)} is not opened: it is no ${ASSETS[kind].endings.join(', ')} file by its name and its first bytes, and a program could run it.`,
      );
    const base = sha256(bytes);
    const file = this.onDisk(crateId, path, kind, bytes);
    const program = await openFile(file, this.settings.openers()[kind] ?? '');
    const kept: Kept = { path, file, program, conflict: false, problem: null, base, inCrate: base };
    this.keep(crateId, kept);
    this.follow(crateId, kept);
    return this.list(crateId).find((one) => one.path === path)!;
  }

  /** The program's work is over. A copy that was made for it goes. */
  async close(crateId: string, path: string): Promise<void> {
    const kept = this.opened.get(crateId)?.get(path);
    if (!kept) throw notFound(`opened file ${path}`);
    await this.unfollow(crateId, path);
    this.opened.get(crateId)!.delete(path);
    this.write(crateId);
    if (kept.file.startsWith(this.folder(crateId))) rmSync(dirname(kept.file), { recursive: true, force: true });
  }

  /** Which side stands where both were changed. */
  settle(crateId: string, path: string, take: 'program' | 'crate'): void {
    const kept = this.opened.get(crateId)?.get(path);
    if (!kept) throw notFound(`opened file ${path}`);
    const here = this.inCrate(crateId, path);
    if (!here) throw notFound(`file ${path}`);
    kept.conflict = false;
    kept.inCrate = sha256(here);
    // What the program saved is news to the crate then, whatever it was before.
    kept.base = take === 'crate' ? kept.inCrate : '';
    if (take === 'crate') writeWhole(kept.file, here);
    this.keep(crateId, kept);
    void this.look(crateId, path);
  }

  /** The source of an asset, or a script, as the crate has it. */
  private inCrate(crateId: string, path: string): Uint8Array | null {
    const { manifest, files } = this.crates.view(crateId);
    const inside = isScript(path) ? path : own(manifest.assets, path)?.source;
    return inside !== undefined && files.some((file) => file.path === inside) ? this.crates.readFile(crateId, inside) : null;
  }

  /**
   * The file to open: the user's own in a watched folder, or a script in the folder that the crate lives in, where it reads
   * the same as in the crate; else a copy.
   */
  private onDisk(crateId: string, path: string, kind: AssetKind, bytes: Uint8Array): string {
    const { manifest, files } = this.crates.view(crateId);
    const record = own(manifest.assets, path);
    const watched = this.watch.view(crateId)?.folder;
    const bound = this.folders.view(crateId);
    const candidates = [
      watched && record?.origin?.path.startsWith(`${basename(watched)}/`)
        ? ([watched, record.origin.path.slice(basename(watched).length + 1)] as const)
        : null,
      bound && !record ? ([bound.folder, path] as const) : null,
    ];
    // The very file, by no link: what it leads to may be another kind of file.
    for (const candidate of candidates)
      if (candidate && extname(candidate[1]) === extname(record?.source ?? path) && isFileInside(...candidate)) {
        const there = readInside(...candidate);
        if (there && sha256(there) === sha256(bytes)) return join(...candidate);
      }
    const stem = basename(path, extname(path));
    const name = `${stem}${extname(record?.source ?? path)}`;
    const folder = join(this.folder(crateId), sha256(new TextEncoder().encode(path)).slice(0, 12));
    const file = join(folder, name);
    writeWhole(file, bytes);
    // What a model refers to lies beside it, by the names that it uses.
    if (record) {
      const along = `${sourceFolder(kind, stem)}/`;
      for (const other of files.filter((one) => one.path.startsWith(along))) {
        const beside = join(folder, ...other.path.slice(along.length).split('/'));
        writeWhole(beside, this.crates.readFile(crateId, other.path));
      }
    }
    return file;
  }

  private follow(crateId: string, { path, file }: Kept): void {
    void this.unfollow(crateId, path);
    // `atomic`: many programs save by putting a new file in the old one's place.
    const watcher = watchFile(file, { ignoreInitial: true, atomic: true, awaitWriteFinish: { stabilityThreshold: REST, pollInterval: 100 } });
    // What a quick program saves before the watcher is ready raises no event, so it is looked for then.
    watcher.on('all', () => void this.look(crateId, path)).on('ready', () => void this.look(crateId, path));
    watcher.on('error', (error) => this.logger.warn(`${path} is not watched: ${String(error)}`));
    this.watchers.set(`${crateId}/${path}`, watcher);
  }

  private async unfollow(crateId: string, path: string): Promise<void> {
    const key = `${crateId}/${path}`;
    const watcher = this.watchers.get(key);
    this.watchers.delete(key);
    await watcher?.close();
  }

  /** Takes in what a program saved. An empty file is one that is being written. */
  private async look(crateId: string, path: string): Promise<void> {
    try {
      const kept = this.opened.get(crateId)?.get(path);
      if (!kept || !existsSync(kept.file)) return;
      const there = new Uint8Array(readFileSync(kept.file));
      const hash = sha256(there);
      const here = this.inCrate(crateId, path);
      if (there.length === 0 || hash === kept.base || !here) return;
      const now = sha256(here);
      const tell = (change: Partial<Kept>) => {
        this.keep(crateId, { ...kept, conflict: false, problem: null, ...change });
        this.notices.changed.next({ crateId });
      };
      if (now === hash) return tell({ base: hash, inCrate: hash });
      if (now !== kept.inCrate) return tell({ conflict: true });
      if (!isScript(path)) {
        tell({ base: hash, inCrate: hash });
        this.imports.remake(crateId, path, there);
        return;
      }
      if (!isUtf8(there)) return tell({ problem: 'What was saved there is not UTF-8 text. Save it as UTF-8.' });
      const taken = new TextEncoder().encode(scriptText(there));
      this.crates.writeFiles(crateId, [{ path, bytes: taken }]);
      tell({ base: hash, inCrate: sha256(taken) });
      this.notices.refreshed.next({ crateId });
    } catch (error) {
      // The file is being replaced, or the crate went: the next look says more.
      this.logger.warn(`${path}: ${error instanceof Error ? error.message : String(error)}`);
    }
  }

  private get root(): string {
    return join(this.config.data, 'opened');
  }

  private folder(crateId: string): string {
    return join(this.root, crateId);
  }

  private keep(crateId: string, kept: Kept): void {
    const all = this.opened.get(crateId) ?? new Map<string, Kept>();
    this.opened.set(crateId, all.set(kept.path, kept));
    this.write(crateId);
  }

  private write(crateId: string): void {
    writeWhole(
      join(this.folder(crateId), 'opened.json'),
      new TextEncoder().encode(JSON.stringify([...(this.opened.get(crateId)?.values() ?? [])], null, 2)),
    );
  }

  private read(crateId: string): Kept[] {
    try {
      return JSON.parse(readFileSync(join(this.folder(crateId), 'opened.json'), 'utf8')) as Kept[];
    } catch {
      return [];
    }
  }
}

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
