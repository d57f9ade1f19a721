/**
 * The build: check, geometry, sealing, visibility, lighting, navigation, packing, each stage from the cache where its
 * key is known.
 */

import { encodeLight } from '../asset/texture/encodeKtx2.ts';
import type { LightPicture } from '../asset/texture/picture.ts';
import type { FileTree } from '../crate/contents.ts';
import { assetRecord, type CrateWorld } from '../crate/world.ts';
import { checkCrate } from '../crate/check.ts';
import { hasBlocker, type Finding } from '../finding.ts';
import { sha256Hex } from '../hash.ts';
import { expandWorld } from '../map/prefab.ts';
import type { GameMap } from '../map/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { buildGeometry, type GeometryOutput } from './geometry/stage.ts';
import type { LightCrew, LightScene } from './lighting/light.ts';
import { buildLighting, decodeLighting, encodeLighting, lightingOptions, type LightingOutput } from './lighting/stage.ts';
import { buildNavigation, navigationFindings, type NavigationOutput } from './navigation/stage.ts';
import { collisionOf, encodeCollision } from './pack/collisionBin.ts';
import { mapGlb } from './pack/mapGlb.ts';
import { decodeNavigation, encodeNavigation } from './pack/navBin.ts';
import { encodeProbes } from './pack/probesBin.ts';
import { runtimeMap } from './pack/runtime.ts';
import { encodeVisibilityFile } from './pack/visibilityBin.ts';
import { parametersOf, type BuildParameters } from './parameters.ts';
import { collides, lightInputs, materialContext, planBuild, sealingInputs, type BuildPlan, type MaterialContext } from './plan.ts';
import { leafAt } from './sealing/bsp.ts';
import { cellsBefore, decodeTree, encodeTree, floodTree, sealingFindings, sealTree, type SealingOutput, type SealTree } from './sealing/stage.ts';
import { BUILD_STAGES, Cancelled, STAGE_NEEDS, type BuildStage, type Quality, type StageCache, type StageReport } from './stage.ts';
import type { Surface } from './surface.ts';
import { buildVisibility, decodeVisibility, encodeVisibility, type VisibilityOutput } from './visibility/stage.ts';

export interface BuildOptions {
  quality: Quality;
  /** Parameters that differ from the quality's. */
  parameters?: Partial<BuildParameters>;
  /** Run this stage and what it needs; the others only where the cache has them. */
  only?: BuildStage;
  /** Go on in spite of blockers, as far as the stages can. */
  anyway?: boolean;
  cache?: StageCache;
  /** Threads that light charts; without it lighting runs here. */
  crew?: (scene: LightScene, luxels: number) => LightCrew;
  /** Called often; may throw `Cancelled`. */
  onProgress?: (stage: BuildStage, fraction: number) => void;
  onStage?: (report: StageReport) => void;
  /** A clock in milliseconds and the memory in use in bytes, for the reports. */
  now?: () => number;
  memory?: () => number;
}

export interface BuildResult {
  ok: boolean;
  stages: StageReport[];
  findings: Finding[];
  /** What it was made from: tells later what has changed. */
  plan: Pick<BuildPlan, 'parts' | 'revisions'>;
  parameters: BuildParameters;
  /** `maps/NAME/…`: map.glb, map.json and the binary files beside them; null when a blocker stopped the build. */
  artefacts: FileTree | null;
}

/** Ends a build early, with the reports so far. */
class Stopped extends Error {}

export async function buildMap(given: CrateWorld, mapName: string, options: BuildOptions): Promise<BuildResult> {
  const parameters = parametersOf(options.quality, given.profile, options.parameters);
  const plan = planBuild(given, mapName, parameters);
  const run = new BuildRun(options, plan);
  let artefacts: FileTree | null = null;
  try {
    artefacts = await runStages(run, given, mapName, parameters);
  } catch (error) {
    if (!(error instanceof Stopped)) throw error;
  }
  const reports = BUILD_STAGES.map((stage) => run.reports.get(stage) ?? run.skip(stage, 'Not run.'));
  return {
    ok: artefacts !== null,
    stages: reports,
    findings: reports.flatMap((r) => r.findings),
    plan: { parts: plan.parts, revisions: plan.revisions },
    parameters,
    artefacts,
  };
}

interface Codec<T> {
  encode(value: T): Uint8Array;
  decode(bytes: Uint8Array): T;
}

const jsonCodec = <T>(): Codec<T> => ({
  encode: (value) => new TextEncoder().encode(JSON.stringify(value)),
  decode: (bytes) => JSON.parse(new TextDecoder().decode(bytes)) as T,
});

interface Told<T> {
  summary: (value: T) => string;
  counts?: (value: T) => Record<string, number>;
  findings?: (value: T) => Finding[];
}

/** One build as it goes: what was asked for, what has been reported. */
class BuildRun {
  readonly reports = new Map<BuildStage, StageReport>();
  private readonly wanted: Set<BuildStage> | null;
  private readonly now: () => number;
  private most = 0;

  constructor(
    private readonly options: BuildOptions,
    private readonly plan: BuildPlan,
  ) {
    this.now = options.now ?? (() => performance.now());
    this.wanted = options.only ? needsOf(options.only) : null;
  }

  get crew(): BuildOptions['crew'] {
    return this.options.crew;
  }

  get cache(): StageCache | undefined {
    return this.options.cache;
  }

  progress =
    (stage: BuildStage) =>
    (fraction: number): void => {
      this.most = Math.max(this.most, this.options.memory?.() ?? 0);
      this.options.onProgress?.(stage, fraction);
    };

  skip(stage: BuildStage, summary: string): StageReport {
    return this.report({ stage, state: 'skipped', milliseconds: 0, memory: 0, summary, counts: {}, findings: [] });
  }

  private report(report: StageReport): StageReport {
    this.reports.set(report.stage, report);
    this.options.onStage?.(report);
    return report;
  }

  /** What the key of a stage is, with what else its result depends on beside its inputs. */
  keyOf(stage: BuildStage, also = ''): string {
    return also ? sha256Hex(`${this.plan.keys[stage]}\n${also}`) : this.plan.keys[stage];
  }

  /**
   * Takes a stage's result from the cache or computes and stores it, and reports it. Null where only other stages
   * were asked for and the cache does not have it.
   *
   * @throws Stopped where its findings do not let the build go on, or it failed
   */
  async stage<T>(stage: BuildStage, key: string | null, codec: Codec<T>, compute: () => T | Promise<T>, told: Told<T>): Promise<T | null> {
    const started = this.now();
    this.most = 0;
    this.progress(stage)(0);
    const stored = key ? await this.cache?.get(key) : null;
    if (!stored && this.wanted && !this.wanted.has(stage)) {
      this.skip(stage, 'Out of date, and not asked for.');
      return null;
    }
    let value: T;
    try {
      value = stored ? codec.decode(stored) : await compute();
    } catch (error) {
      if (error instanceof Cancelled || error instanceof Stopped || !isOutOfMemory(error)) throw error;
      this.report({
        stage,
        state: 'failed',
        milliseconds: Math.round(this.now() - started),
        memory: this.most,
        summary: 'Ran out of memory.',
        counts: {},
        findings: [
          {
            code: 'out-of-memory',
            severity: 'blocker',
            stage: 'build',
            message: `The stage ${stage} ran out of memory.`,
            hint: 'Build at a lower quality or with larger luxels, or split the map.',
          },
        ],
      });
      throw new Stopped();
    }
    if (!stored && key) await this.cache?.put(key, codec.encode(value));
    const findings = told.findings?.(value) ?? [];
    const stops = hasBlocker(findings) && !this.options.anyway;
    this.progress(stage)(1);
    this.report({
      stage,
      state: stops ? 'failed' : stored ? 'fresh' : 'ran',
      milliseconds: Math.round(this.now() - started),
      memory: this.most,
      summary: told.summary(value),
      counts: told.counts?.(value) ?? {},
      findings,
    });
    if (stops) throw new Stopped();
    return value;
  }
}

/** A stage with all that it needs, and the check and the packing, which are moments' work. */
function needsOf(stage: BuildStage): Set<BuildStage> {
  const all = new Set<BuildStage>(['check', stage, 'packing']);
  const visit = (one: BuildStage) =>
    STAGE_NEEDS[one].forEach((need) => {
      all.add(need);
      visit(need);
    });
  visit(stage);
  return all;
}

const isOutOfMemory = (error: unknown): boolean =>
  error instanceof RangeError && /allocation|array length|buffer length|Array buffer|string length/i.test(error.message);

async function runStages(run: BuildRun, given: CrateWorld, mapName: string, parameters: BuildParameters): Promise<FileTree | null> {
  const world = expandWorld(given);
  const { profile } = world;
  const map = world.crate.maps[mapName];
  const context = materialContext(world, map);
  const unit = profile.unit.plural;

  const ofMap = (finding: Finding) => finding.place?.map === undefined || finding.place.map === mapName;
  const blockers = (found: Finding[]) => found.filter((finding) => finding.severity === 'blocker').length;
  await run.stage('check', null, jsonCodec<Finding[]>(), () => checkCrate(given).findings.filter(ofMap), {
    summary: (found) => `${blockers(found)} blockers, ${found.length - blockers(found)} other findings.`,
    counts: (found) => ({ blockers: blockers(found), findings: found.length }),
    findings: (found) => found,
  });

  const geometry = await run.stage(
    'geometry',
    run.keyOf('geometry'),
    jsonCodec<GeometryOutput>(),
    () => buildGeometry({ solids: map.solids, ...context }, run.progress('geometry'), parameters.merge === 'yes'),
    {
      summary: ({ surfaces, facesBefore, pieces }) =>
        `${surfaces.length} polygons from ${facesBefore} faces of ${Object.keys(map.solids).length} solids; ${pieces} before merging.`,
      counts: ({ surfaces, facesBefore, pieces }) => ({
        facesIn: facesBefore,
        pieces,
        facesOut: surfaces.length,
        triangles: surfaces.reduce((sum, s) => sum + s.winding.length - 2, 0),
      }),
    },
  );

  const sealed = profile.sealed && geometry ? await seal(run, world, map, mapName, context, geometry.surfaces) : null;
  if (!profile.sealed) run.skip('sealing', `${profile.title} needs no sealed maps.`);
  const surfaces = geometry && (profile.sealed ? sealed && sealed.output.visible.map((index) => geometry.surfaces[index]) : geometry.surfaces);
  const insideKey = sealed ? sha256Hex(sealed.output.inside.join()) : '';

  const visibility = sealed ? await see(run, sealed, parameters, insideKey) : null;
  if (!profile.sealed) run.skip('visibility', `${profile.title} needs no sealed maps: everything is drawn always, which costs speed in wide maps.`);

  const lights = lightInputs(world, map);
  const light =
    surfaces &&
    (await run.stage(
      'lighting',
      run.keyOf('lighting', insideKey),
      { encode: encodeLighting, decode: decodeLighting },
      () =>
        buildLighting({ surfaces, ...context, ...lights }, parameters.luxel, lightingOptions(parameters), {
          cache: run.cache,
          crew: run.crew,
          probes: { spacing: parameters.probeSpacing, isFree: freeTest(sealed, map) },
          onProgress: run.progress('lighting'),
        }),
      {
        summary: ({ atlas, chartsLit }) =>
          `${lights.lights.length + lights.suns.length} lights, ${atlas.charts.length} charts (${chartsLit} lit anew) in ${atlas.width} × ${atlas.height} luxels of ${atlas.luxel} ${unit}.`,
        counts: ({ atlas, chartsLit, rays, probes }) => ({
          lights: lights.lights.length + lights.suns.length,
          charts: atlas.charts.length,
          chartsLit,
          luxels: atlas.charts.reduce((sum, chart) => sum + chart.w * chart.h, 0),
          rays,
          probes: probes?.free.filter(Boolean).length ?? 0,
        }),
      },
    ));

  const navigation = await navigate(run, world, map, mapName, parameters);
  if (!surfaces || !light || navigation === undefined || (sealed && parameters.visibility !== 'none' && !visibility)) {
    run.skip('packing', 'Not all stages are up to date.');
    return null;
  }
  return run.stage(
    'packing',
    null,
    jsonCodec<FileTree>(),
    () => pack(world, mapName, { surfaces, light, context, sealed, visibility, navigation }, run.progress('packing')),
    {
      summary: (files) => `${Math.ceil(bytesOf(files) / 1024)} KiB in ${files.size} files.`,
      counts: (files) => ({ files: files.size, bytes: bytesOf(files) }),
    },
  );
}

const bytesOf = (files: FileTree): number => [...files.values()].reduce((sum, file) => sum + file.length, 0);

interface Sealed {
  tree: SealTree;
  output: SealingOutput;
}

/** The tree is kept, since it follows from solids alone; the flood from the objects is a moment's work and made anew. */
async function seal(
  run: BuildRun,
  world: CrateWorld,
  map: GameMap,
  mapName: string,
  context: MaterialContext,
  surfaces: readonly Surface[],
): Promise<Sealed | null> {
  const inputs = sealingInputs(world, map, context);
  let output: SealingOutput | null = null;
  const flooded = (tree: SealTree) => (output ??= floodTree(tree, inputs.sources, surfaces));
  const tree = await run.stage(
    'sealing',
    run.keyOf('sealing'),
    { encode: encodeTree, decode: decodeTree },
    () => sealTree(Object.values(inputs.solids), run.progress('sealing')),
    {
      summary: (value) => {
        const { leaks, cells, portals, reached } = flooded(value);
        if (leaks.length > 0) return leaks.length === 1 ? 'The map leaks.' : `The map leaks through ${leaks.length} openings.`;
        return `Sealed: ${cells} cells, ${portals} portals, ${reached} cells reached.`;
      },
      counts: (value) => {
        const { leaks, cells, portals, reached, visible } = flooded(value);
        return { cells, portals, reached, openings: leaks.length, facesOut: visible.length };
      },
      findings: (value) => sealingFindings(inputs, flooded(value), mapName, world.profile.unit.plural),
    },
  );
  return tree && { tree, output: flooded(tree) };
}

/** What is seen from where; null where it was left out. */
async function see(run: BuildRun, { tree, output }: Sealed, parameters: BuildParameters, insideKey: string): Promise<VisibilityOutput | null> {
  if (parameters.visibility === 'none') {
    run.skip('visibility', 'Left out: everything is drawn always.');
    return null;
  }
  const way = parameters.visibility;
  return run.stage(
    'visibility',
    run.keyOf('visibility', insideKey),
    { encode: encodeVisibility, decode: decodeVisibility },
    () => buildVisibility(tree, output.inside, { way, farthest: parameters.viewDistance }, run.progress('visibility')),
    {
      summary: ({ leaves, visible, sectorCount }) =>
        `${leaves.length} cells in ${sectorCount} sectors; from one, ${Math.round((visible.count() / Math.max(1, leaves.length ** 2)) * 100)} % of the cells are seen on average.`,
      counts: ({ leaves, visible, sectorCount, gates, unfinished }) => ({
        cells: leaves.length,
        sectors: sectorCount,
        gates,
        pairsSeen: visible.count(),
        unfinished,
      }),
    },
  );
}

/** Where players walk; null where it was left out, undefined where it is not up to date. */
async function navigate(
  run: BuildRun,
  world: CrateWorld,
  map: GameMap,
  mapName: string,
  parameters: BuildParameters,
): Promise<NavigationOutput | null | undefined> {
  if (parameters.navCell <= 0) {
    run.skip('navigation', 'Left out.');
    return null;
  }
  const stops = collides(world);
  const solids = Object.values(map.solids).filter((solid) => solid.faces.some((face) => stops(face.material)));
  const output = await run.stage(
    'navigation',
    run.keyOf('navigation'),
    { encode: encodeNavigation, decode: decodeNavigation },
    () => buildNavigation(solids, world.profile.player, parameters.navCell),
    {
      summary: ({ polygons, links }) => `${polygons.length} walkable polygons, ${links.length} jumps between areas.`,
      counts: ({ polygons, links }) => ({ polygons: polygons.length, links: links.length }),
      findings: (value) => navigationFindings(value, world.profile, map, mapName),
    },
  );
  return output ?? undefined;
}

/** Whether a probe may stand at a point: in a reached cell, or where there is no tree, outside all solids. */
function freeTest(sealed: Sealed | null, map: GameMap): (point: Vec3) => boolean {
  const inSolid = (p: Vec3) =>
    Object.values(map.solids).some((solid) => solid.faces.every(({ normal: n, distance }) => n[0] * p[0] + n[1] * p[1] + n[2] * p[2] < distance + 1));
  if (!sealed) return (point) => !inSolid(point);
  const inside = new Set(sealed.output.inside);
  return (point) => inside.has(leafAt(sealed.tree.bsp, point).index) && !inSolid(point);
}

interface Parts {
  surfaces: readonly Surface[];
  light: LightingOutput;
  context: MaterialContext;
  sealed: Sealed | null;
  visibility: VisibilityOutput | null;
  navigation: NavigationOutput | null;
}

async function pack(world: CrateWorld, mapName: string, parts: Parts, onProgress: (fraction: number) => void): Promise<FileTree> {
  const { surfaces, light, context, sealed, visibility, navigation } = parts;
  const { profile } = world;
  const map = world.crate.maps[mapName];
  const { groupOf, groups } = drawnTogether(surfaces, sealed, visibility);
  const { glb } = await mapGlb(surfaces, groupOf, groups.length, light, context.materials, context.types, profile.unit.metres, mapName);
  onProgress(0.8);
  const models: Record<string, { min: Vec3; max: Vec3 }> = {};
  for (const object of Object.values(map.objects)) {
    const model = object.properties.model;
    const bounds = typeof model === 'string' ? assetRecord(world, model)?.bounds : undefined;
    if (bounds) models[model as string] = bounds;
  }
  const json = (value: unknown) => new TextEncoder().encode(JSON.stringify(value));
  const files: [string, Uint8Array][] = [
    ['map.glb', glb],
    ['map.json', json(runtimeMap(mapName, map, Object.keys(world.crate.scripts).sort(), models))],
    ['collision.bin', encodeCollision(collisionOf(map.solids, collides(world)))],
    ['visibility.bin', encodeVisibilityFile(sealed?.tree.bsp ?? null, visibility, groups)],
  ];
  if (light.lit.length > 0) files.push(['lightmap.ktx2', await encodeLight(lightPicture(light))]);
  if (navigation) files.push(['nav.bin', encodeNavigation(navigation)]);
  if (light.probes) files.push(['probes.bin', encodeProbes(light.probes)]);
  return new Map(files.map(([name, bytes]) => [`maps/${mapName}/${name}`, bytes]));
}

/** The lightmap as it was computed: linear, as bright as it is, opaque. */
function lightPicture({ atlas, values }: LightingOutput): LightPicture {
  const light = new Float32Array(atlas.width * atlas.height * 4).fill(1);
  for (let i = 0; i < atlas.width * atlas.height; i++) light.set(values.subarray(i * 3, i * 3 + 3), i * 4);
  return { width: atlas.width, height: atlas.height, light };
}

/** Surfaces that face the same sectors are drawn together. */
function drawnTogether(
  surfaces: readonly Surface[],
  sealed: Sealed | null,
  visibility: VisibilityOutput | null,
): { groupOf: number[]; groups: number[][] } {
  if (!sealed || !visibility) return { groupOf: surfaces.map(() => 0), groups: [[]] };
  const sectorOf = new Map(visibility.leaves.map((leaf, cell) => [leaf, visibility.sectors[cell]]));
  const numbers = new Map<string, number>();
  const groups: number[][] = [];
  const groupOf = surfaces.map((surface) => {
    const sectors = [...new Set(cellsBefore(sealed.tree.bsp, surface).flatMap((leaf) => sectorOf.get(leaf) ?? []))].sort((a, b) => a - b);
    const key = sectors.join();
    if (!numbers.has(key)) {
      numbers.set(key, groups.length);
      groups.push(sectors);
    }
    return numbers.get(key)!;
  });
  return { groupOf, groups };
}
