import { Inject, Injectable, Logger, type OnApplicationShutdown } from '@nestjs/common';
import { creditPack, type AssetPack } from '@violet-crate/core/importing/assetPack';
import { planImport, type Clash, type ImportPlan, type ImportUnit, type PlanOptions, type Unpacked } from '@violet-crate/core/importing/importPlan';
import { assetKindOf, type AssetKind } from '@violet-crate/core/crate/assetKind';
import { isScript, previewPath, sourceFolder } from '@violet-crate/core/crate/contents';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { enterAsset, type ImportedAsset } from '@violet-crate/core/importing/importAsset';
import { followPath } from '@violet-crate/core/library/rename';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { unreadableFinding, type Finding } from '@violet-crate/core/finding';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import type { Profile } from '@violet-crate/core/profile/schema';
import { diskFull } from '@violet-crate/host/diskFull';
import { Converter } from '@violet-crate/host/converter';
import { SettingsService } from '../settings/settings.service.ts';
import { CONFIG, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { GamesService } from '../games/games.service.ts';
import { ProfilesService } from '../games/profiles.service.ts';
import { notFound } from '../http/problem.ts';
import { JobsService, type Job } from '../jobs/jobs.service.ts';
import { convertGiven, importerOf } from '@violet-crate/host/setup/runProgram';
import { own } from '@violet-crate/core/own';

/** What became of one file of a batch. */
export interface ImportedFile {
  file: string;
  kind: AssetKind | null;
  state: 'waiting' | 'converting' | 'done' | 'failed' | 'unchanged' | 'skipped';
  /** The asset that it became. */
  path?: string;
  findings?: number;
  error?: Finding;
  reason?: string;
}

export interface BatchSettings {
  clashes?: Record<string, Clash>;
  /** The pack that the files come from: its title stands in their records, its author in the credits. */
  pack?: AssetPack;
}

/** Batches of files on their way into a crate: planned whole, converted on all cores, stored one by one. */
@Injectable()
export class ImportsService implements OnApplicationShutdown {
  private readonly converter = new Converter(() => this.settings.threads());
  /** Names that batches under way are about to give, by crate; and the plan that is being made. */
  private readonly underWay = new Map<string, Map<ImportUnit, { file: string; path: string }>>();
  private readonly planned = new Map<string, Promise<unknown>>();
  private readonly logger = new Logger('imports');

  constructor(
    private readonly crates: CratesService,
    private readonly games: GamesService,
    private readonly profiles: ProfilesService,
    private readonly jobs: JobsService,
    @Inject(CONFIG) private readonly config: Config,
    private readonly settings: SettingsService,
  ) {}

  async onApplicationShutdown(): Promise<void> {
    await this.converter.close();
  }

  /** Whether a file is one that a program of the crate's game takes. */
  takes(id: string, path: string): boolean {
    return importerOf(this.profileOf(id).programs ?? [], path) !== undefined;
  }

  /** What would become of files, looked at in this process: for folders and packs of one's own. */
  plan(id: string, files: FileTree, settings: BatchSettings = {}): ImportPlan {
    const { profile, manifest, options } = this.planning(id, settings);
    return planImport(profile, manifest, files, options);
  }

  /** Opens archives in a thread: they are a stranger's. */
  unpack(files: FileTree): Promise<Unpacked> {
    return this.converter.unpack(files);
  }

  /** The same for one archive that is a whole by itself. */
  open(file: string, bytes: Uint8Array): Promise<FileTree> {
    return this.converter.open(file, bytes);
  }

  private planning(id: string, settings: BatchSettings): { profile: Profile; manifest: CrateManifest; options: PlanOptions } {
    const { profile, base, crate } = this.crates.world(id);
    const options = {
      clashes: settings.clashes,
      fromPack: settings.pack?.title,
      stockMaterials: base.materials.map((material) => material.name),
      scripts: { ...crate.scripts, ...crate.data },
      underWay: [...(this.underWay.get(id)?.values() ?? [])],
    };
    return { profile, manifest: crate.manifest, options };
  }

  /** Converts in a thread without storing anything: for looks into packs. */
  preview(id: string, unit: ImportUnit): Promise<ImportedAsset> {
    return this.converter.convert(this.profileOf(id), unit);
  }

  /** Files as one batch; one job with progress per file, in which a bad file never stops the rest. */
  import(id: string, files: FileTree, settings: BatchSettings = {}): Job {
    const names = [...files.keys()];
    const { profile } = this.planning(id, settings);
    if (names.some((path) => this.takes(id, path))) this.profiles.needAllowed({ ...this.crates.game(id), profile });
    return this.start(id, names.length === 1 ? `Convert ${names[0]}` : `Import ${names.length} files`, settings, (signal) =>
      // One plan after the other, so that each knows which names the one before it takes.
      this.inTurn(id, async () => {
        const game = this.crates.game(id);
        const converters = (profile.programs ?? []).filter(({ at }) => at === 'import');
        const {
          files: given,
          broken,
          notes,
        } = await convertGiven(converters, files, {
          game: game.folder,
          version: this.games.version(game) ?? '',
          signal,
        });
        const { manifest, options } = this.planning(id, settings);
        const plan = await this.converter.plan(profile, manifest, given, options, signal);
        this.takeNames(id, plan);
        return { ...plan, skipped: [...plan.skipped, ...broken], notes };
      }),
    );
  }

  private async inTurn<T>(id: string, work: () => Promise<T>): Promise<T> {
    const before = this.planned.get(id) ?? Promise.resolve();
    const mine = before.catch(() => undefined).then(work);
    this.planned.set(id, mine);
    try {
      return await mine;
    } finally {
      if (this.planned.get(id) === mine) this.planned.delete(id);
    }
  }

  private takeNames(id: string, plan: ImportPlan): void {
    const names = this.underWay.get(id) ?? new Map<ImportUnit, { file: string; path: string }>();
    this.underWay.set(id, names);
    for (const unit of plan.units) if (!unit.unchanged) names.set(unit, { file: unit.file, path: unit.replaces ?? `${unit.kind}s/${unit.name}` });
  }

  /** Makes assets again from their kept sources, with settings laid over the remembered ones. */
  reconvert(id: string, paths: readonly string[], options: Record<string, unknown>): Job {
    const units = paths.map((path) => this.unitOf(id, path, options));
    return this.start(id, units.length === 1 ? `Convert ${units[0].file}` : `Convert ${units.length} assets again`, {}, () =>
      Promise.resolve({ units, skipped: [] }),
    );
  }

  /** Makes an asset again from a source that another program changed, as it was made before. */
  remake(id: string, path: string, bytes: Uint8Array): Job {
    const unit = { ...this.unitOf(id, path, {}), bytes };
    return this.start(id, `Convert ${unit.file}`, {}, () => Promise.resolve({ units: [unit], skipped: [] }));
  }

  private profileOf(id: string) {
    return this.crates.game(id).profile;
  }

  private unitOf(id: string, path: string, options: Record<string, unknown>): ImportUnit {
    const { manifest, files } = this.crates.view(id);
    const record = own(manifest.assets, path);
    if (!record) throw notFound(`converted asset ${path}`);
    const kind = assetKindOf(path)!;
    const name = path.replace(/^[^/]+\//, '').replace(/\.[^.]+$/, '');
    const folder = `${sourceFolder(kind, name)}/`;
    const companions = new Map(
      files.filter((file) => file.path.startsWith(folder)).map((file) => [file.path.slice(folder.length), this.crates.readFile(id, file.path)]),
    );
    const { pack, ...remembered } = record.options as { pack?: ImportUnit['pack'] } & Record<string, unknown>;
    return {
      kind,
      file: record.origin?.path ?? record.source.replace(/^sources\//, ''),
      bytes: this.crates.readFile(id, record.source),
      name,
      companions,
      pack,
      fromPack: record.origin?.pack,
      materials: [...manifest.materials, ...this.crates.world(id).base.materials].map((material) => material.name),
      options: { ...remembered, ...options },
      replaces: path,
      unchanged: false,
    };
  }

  private start(
    id: string,
    label: string,
    settings: BatchSettings,
    planned: (signal: AbortSignal) => Promise<ImportPlan & { notes?: ReadonlyMap<string, Finding[]> }>,
  ): Job {
    const profile = this.profileOf(id);
    return this.jobs.drive('convert', id, label, async ({ signal, progress }) => {
      progress('Looking through the files', 0);
      const plan = await planned(signal);
      const files: ImportedFile[] = [
        ...plan.units.map((unit): ImportedFile => ({
          file: unit.file,
          kind: unit.kind,
          state: unit.unchanged ? 'unchanged' : 'waiting',
          path: unit.replaces,
        })),
        ...plan.skipped.map(({ file, reason }): ImportedFile => ({ file, kind: null, state: 'skipped', reason })),
      ];
      let finished = 0;
      let told = 0;
      const tell = (step: string, now = false) => {
        // Rows of large batches are long; a few reports a second are enough.
        if (!now && performance.now() - told < 250) return;
        told = performance.now();
        progress(step, finished / Math.max(1, plan.units.length), { files });
      };
      await Promise.all(
        plan.units.map(async (unit, i) => {
          const row = files[i];
          if (!unit.unchanged) {
            try {
              const asset = await this.converter.convert(profile, unit, signal, () => {
                row.state = 'converting';
                tell(unit.file);
              });
              // What the game's own converter said of the file stays with what came of it.
              asset.findings.push(...(plan.notes?.get(unit.file) ?? []).map((note) => ({ ...note, place: { file: asset.path } })));
              this.store(id, asset, unit);
              Object.assign(row, { state: 'done', path: asset.path, findings: asset.findings.length });
            } catch (error) {
              if (signal.aborted) throw error;
              row.state = 'failed';
              row.error = unreadableFinding(this.failure(unit.file, error), 'assets');
            } finally {
              this.underWay.get(id)?.delete(unit);
            }
          }
          finished++;
          tell(unit.file, finished === plan.units.length);
        }),
      );
      const { pack } = settings;
      if (pack) this.crates.writeFiles(id, [], (manifest) => ({ ...manifest, credits: creditPack(manifest, pack) }));
      const failed = files.filter((file) => file.state === 'failed');
      // A batch of one that failed is a failed job; in larger ones the others count.
      if (failed.length === 1 && files.length === 1) {
        const { error } = failed[0];
        throw new UnreadableInput(error!.code, error!.message, error!.place, error!.hint);
      }
      return { files, done: files.filter((file) => file.state === 'done').length, failed: failed.length };
    });
  }

  /** Why a file did not make it. A fault of ours is logged and told as one: nobody can do anything with its text. */
  private failure(file: string, error: unknown): UnreadableInput {
    const known = error instanceof UnreadableInput ? error : diskFull(error, this.config.data, 1);
    if (known) return known;
    this.logger.error(error instanceof Error ? error.stack : String(error));
    return new UnreadableInput('internal', `${file}: the conversion failed unexpectedly; the server’s log says why.`, { file });
  }

  private store(id: string, asset: ImportedAsset, unit: ImportUnit): void {
    const { replaces } = unit;
    const written = [...asset.files].map(([path, bytes]) => ({ path, bytes, findings: path === asset.path ? asset.findings : [] }));
    // A sound that became WAV instead of OGG has another path; what used the old one follows.
    const moved = replaces !== undefined && replaces !== asset.path && !isScript(asset.path);
    if (moved) {
      this.crates.applyRenaming(id, followPath(this.crates.world(id), replaces, asset.path));
      this.crates.dropFiles(
        id,
        [replaces, previewPath(replaces)].filter((path) => !asset.files.has(path)),
        ({ assets: { [replaces]: _old, ...assets }, ...manifest }) => ({ ...manifest, assets }),
      );
    }
    this.crates.writeFiles(id, written, (manifest) => enterAsset(manifest, asset));
  }
}
