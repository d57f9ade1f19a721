import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { Clash, ImportPlan, ImportUnit } from '@violet-crate/core/crate/importPlan';
import { planImport } from '@violet-crate/core/crate/importPlan';
import { assetKindOf, type AssetKind } from '@violet-crate/core/crate/assetKind';
import { isScript, previewPath, type FileTree } from '@violet-crate/core/crate/contents';
import { enterAsset, sourceFolder, type ImportedAsset } from '@violet-crate/core/crate/importAsset';
import { followPath } from '@violet-crate/core/crate/rename';
import type { Credit } from '@violet-crate/core/crate/manifest';
import { UnreadableInput, type Finding } from '@violet-crate/core/finding';
import { Converter } from '@violet-crate/host/converter';
import { CratesService } from '../crates/crates.service.ts';
import { GamesService } from '../games/games.service.ts';
import { notFound } from '../http/problem.ts';
import { JobsService, type Job } from '../jobs/jobs.service.ts';

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
  fromPack?: string;
  credits?: Credit[];
}

/** Batches of files on their way into a crate: planned whole, converted on all cores, stored one by one. */
@Injectable()
export class ImportsService implements OnApplicationShutdown {
  private readonly converter = new Converter();

  constructor(
    private readonly crates: CratesService,
    private readonly games: GamesService,
    private readonly jobs: JobsService,
  ) {}

  async onApplicationShutdown(): Promise<void> {
    await this.converter.close();
  }

  plan(id: string, files: FileTree, settings: BatchSettings = {}): ImportPlan {
    const { profile, base, crate } = this.crates.world(id);
    return planImport(profile, crate.manifest, files, {
      clashes: settings.clashes,
      fromPack: settings.fromPack,
      stockMaterials: base.materials.map((material) => material.name),
      scripts: Object.keys(crate.scripts),
    });
  }

  /** Converts in a thread without storing anything: for looks into packs. */
  preview(id: string, unit: ImportUnit): Promise<ImportedAsset> {
    return this.converter.convert(this.profileOf(id), unit);
  }

  /** Files as one batch; one job with progress per file, in which a bad file never stops the rest. */
  import(id: string, files: FileTree, settings: BatchSettings = {}): Job {
    const plan = this.plan(id, files, settings);
    const names = [...files.keys()];
    return this.start(id, names.length === 1 ? `Convert ${names[0]}` : `Import ${names.length} files`, plan, settings);
  }

  /** Makes assets again from their kept sources, with settings laid over the remembered ones. */
  reconvert(id: string, paths: readonly string[], options: Record<string, unknown>): Job {
    const units = paths.map((path) => this.unitOf(id, path, options));
    return this.start(id, units.length === 1 ? `Convert ${units[0].file}` : `Convert ${units.length} assets again`, { units, skipped: [] });
  }

  private profileOf(id: string) {
    return this.games.profile(this.crates.view(id).manifest.profile);
  }

  private unitOf(id: string, path: string, options: Record<string, unknown>): ImportUnit {
    const { manifest, files } = this.crates.view(id);
    const record = manifest.assets[path];
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
      materials: [...manifest.materials, ...this.games.basePack(manifest.profile).materials].map((material) => material.name),
      options: { ...remembered, ...options },
      replaces: path,
      unchanged: false,
    };
  }

  private start(id: string, label: string, plan: ImportPlan, settings: BatchSettings = {}): Job {
    const profile = this.profileOf(id);
    return this.jobs.drive('convert', id, label, async ({ signal, progress }) => {
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
              this.store(id, asset, unit);
              Object.assign(row, { state: 'done', path: asset.path, findings: asset.findings.length });
            } catch (error) {
              if (signal.aborted) throw error;
              row.state = 'failed';
              row.error =
                error instanceof UnreadableInput
                  ? error.toFinding('assets')
                  : { code: 'internal', severity: 'blocker', stage: 'assets', message: error instanceof Error ? error.message : String(error) };
            }
          }
          finished++;
          tell(unit.file, finished === plan.units.length);
        }),
      );
      if (settings.credits) this.crates.updateManifest(id, { credits: settings.credits });
      const failed = files.filter((file) => file.state === 'failed');
      // A batch of one that failed is a failed job; in larger ones the others count.
      if (failed.length === 1 && files.length === 1) {
        const { error } = failed[0];
        throw new UnreadableInput(error!.code, error!.message, error!.place, error!.hint);
      }
      return { files, done: files.filter((file) => file.state === 'done').length, failed: failed.length };
    });
  }

  private store(id: string, asset: ImportedAsset, unit: ImportUnit): void {
    let { manifest } = this.crates.view(id);
    const written = [...asset.files].map(([path, bytes]) => ({ path, bytes, findings: path === asset.path ? asset.findings : [] }));
    // A sound that became WAV instead of OGG has another path; what used the old one follows.
    if (unit.replaces && unit.replaces !== asset.path && !isScript(asset.path)) {
      const { [unit.replaces]: _old, ...assets } = manifest.assets;
      manifest = { ...manifest, assets };
      this.crates.applyRenaming(id, followPath(this.crates.world(id), unit.replaces, asset.path));
      this.crates.dropFiles(
        id,
        [unit.replaces, previewPath(unit.replaces)].filter((path) => !asset.files.has(path)),
      );
    }
    this.crates.writeFiles(id, written, enterAsset(manifest, asset));
  }
}
