import { Inject, Injectable } from '@nestjs/common';
import { freshnessOf, type Freshness } from '@violet-crate/core/stages/freshness';
import { parametersOf, type BuildParameters } from '@violet-crate/core/stages/contract/parameters';
import { planBuild, type BuildPlan } from '@violet-crate/core/stages/plan';
import type { BuildStage, Quality } from '@violet-crate/core/stages/contract/stage';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { buildInputHash } from '@violet-crate/core/crate/contents';
import { and, desc, eq } from 'drizzle-orm';
import { BlobStore } from '@violet-crate/host/blobStore';
import { SettingsService } from '../settings/settings.service.ts';
import { CONFIG, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { builds } from '../database/schema.ts';
import { GamesService } from '../games/games.service.ts';
import { ProfilesService } from '../games/profiles.service.ts';
import { notFound } from '../http/problem.ts';
import { JobsService, type Job } from '../jobs/jobs.service.ts';
import { own } from '@violet-crate/core/own';

export type Build = typeof builds.$inferSelect;
export type BuildView = Omit<Build, 'inputs'> & { fresh: boolean; freshness: Freshness[] };

export interface BuildOrder {
  quality: Quality;
  parameters?: Partial<BuildParameters>;
  only?: BuildStage;
  anyway?: boolean;
}

/** Plans that are kept; the one that was asked for longest ago goes first. */
const PLANS = 16;

@Injectable()
export class BuildsService {
  private readonly plans = new Map<string, BuildPlan>();

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) private readonly config: Config,
    @Inject(CratesService) private readonly crates: CratesService,
    @Inject(GamesService) private readonly games: GamesService,
    @Inject(ProfilesService) private readonly profiles: ProfilesService,
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(BlobStore) private readonly blobs: BlobStore,
    @Inject(SettingsService) private readonly settings: SettingsService,
  ) {}

  start(crateId: string, map: string, order: BuildOrder): Job {
    const world = this.crates.world(crateId);
    if (!own(world.crate.maps, map)) throw notFound(`map ${map}`);
    this.crates.needWhole(crateId);
    const inputHash = this.inputHash(crateId, map);
    const { quality, parameters = {}, only, anyway = false } = order;
    const game = this.crates.game(crateId);
    if (world.profile.programs?.some(({ at }) => at === 'build')) this.profiles.needAllowed({ ...game, profile: world.profile });
    this.games.needPrepared(game, 'build');
    return this.jobs.add(
      'build',
      crateId,
      only ? `Build ${map}, only ${only}` : `Build ${map}`,
      {
        world,
        map,
        quality,
        parameters,
        only,
        anyway,
        blobs: this.config.blobs,
        cache: this.config.cache,
        threads: this.settings.threads(),
        base: this.games.basePackFolder(game),
        required: this.config.required,
        game: { folder: game.folder, version: this.games.version(game) ?? '' },
      },
      (output, jobId) => {
        const { ok, stages, artefacts, picture, plan: inputs } = output;
        // One stage by itself is no build until all others are up to date too; what it found stands in the job.
        if (only && !ok && !stages.some((stage) => stage.state === 'failed')) return { buildId: null, ok, stages };
        this.database
          .insert(builds)
          .values({
            id: jobId,
            crateId,
            map,
            quality,
            inputHash,
            ok,
            stages,
            artefacts,
            inputs,
            parameters,
            picture,
            createdAt: new Date().toISOString(),
          })
          .run();
        return { buildId: jobId, ok };
      },
    );
  }

  /** Builds of a crate, newest first, each with whether it still matches the crate and, by stage, why not. */
  list(crateId: string): BuildView[] {
    const rows = this.database.select().from(builds).where(eq(builds.crateId, crateId)).orderBy(desc(builds.createdAt)).limit(20).all();
    const hashes = new Map<string, string>();
    const world = this.crates.world(crateId);
    const told = new Set<string>();
    return rows.map(({ inputs, ...row }) => {
      if (!hashes.has(row.map)) hashes.set(row.map, this.inputHash(crateId, row.map));
      const fresh = row.inputHash === hashes.get(row.map);
      // Reasons are for the newest of each map only: nobody asks why an old one is old.
      const first = !told.has(row.map);
      told.add(row.map);
      const parameters = parametersOf(row.quality as Quality, world.profile, row.parameters ?? {});
      const plan = () => this.plan(world, row.map, parameters, hashes.get(row.map)!);
      const freshness = first && inputs && own(world.crate.maps, row.map) ? freshnessOf(inputs, plan()) : [];
      return { ...row, fresh, freshness };
    });
  }

  /** The plan of a build as the crate is now; kept while its inputs and parameters are the same, since large maps take long to hash. */
  private plan(world: CrateWorld, map: string, parameters: BuildParameters, inputHash: string): BuildPlan {
    const key = `${inputHash}/${JSON.stringify(parameters)}`;
    const known = this.plans.get(key) ?? planBuild(world, map, parameters);
    this.plans.delete(key);
    this.plans.set(key, known);
    if (this.plans.size > PLANS) this.plans.delete(this.plans.keys().next().value!);
    return known;
  }

  latestGood(crateId: string, map: string): Build | undefined {
    return this.database
      .select()
      .from(builds)
      .where(and(eq(builds.crateId, crateId), eq(builds.map, map), eq(builds.ok, true)))
      .orderBy(desc(builds.createdAt))
      .limit(1)
      .get();
  }

  artefact(buildId: string, path: string): Uint8Array {
    const build = this.database.select().from(builds).where(eq(builds.id, buildId)).get();
    const file = build?.artefacts.find((artefact) => artefact.path === path);
    if (!file) throw notFound(`artefact ${path}`);
    return this.blobs.read(file.sha256);
  }

  /** A small picture of what came out of a build, as PNG. */
  picture(buildId: string): Uint8Array {
    const sha256 = this.database.select().from(builds).where(eq(builds.id, buildId)).get()?.picture;
    if (!sha256) throw notFound('picture of that build');
    return this.blobs.read(sha256);
  }

  inputHash(crateId: string, map: string): string {
    const { crate, profile, base } = this.crates.world(crateId);
    return buildInputHash(crate, map, { profile, base });
  }
}
