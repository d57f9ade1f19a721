/**
 * The build: check, geometry, sealing, visibility, lighting, navigation, packing, each stage from the cache where its
 * key is known.
 */

import { readZip, writeZip } from '../asset/archive/zip.ts';
import type { LightPicture } from '../asset/texture/picture.ts';
import { readSky } from '../asset/texture/readSky.ts';
import type { FileTree } from '../crate/fileTree.ts';
import type { CrateWorld } from '../crate/world.ts';
import { checkCrate } from '../check/checkCrate.ts';
import type { Finding } from '../finding.ts';
import { sha256Hex } from '../hash.ts';
import { expandWorld } from '../map/prefab.ts';
import type { GameMap, Solid } from '../document/schema.ts';
import { joined } from '../math/joined.ts';
import type { Vec3 } from '../math/vec3.ts';
import { buildGeometry, type GeometryOutput } from './geometry/stage.ts';
import { decodeDaylight, decodeGround, encodeDaylight, encodeGround } from './ground/codec.ts';
import { buildDaylight, type DaylightOutput } from './ground/daylight.ts';
import { BuiltField } from './ground/field.ts';
import { hillLight } from './ground/scene.ts';
import { buildGround, groundFindings, groundTriangles, thingsOf, type GroundOutput } from './ground/stage.ts';
import type { LightCrew, LightScene } from './lighting/light.ts';
import type { PointLight, SunLight } from '../part/lightSource.ts';
import { buildLighting, decodeLighting, encodeLighting, lightingOptions, type LightingOutput } from './lighting/stage.ts';
import { buildNavigation, navigationFindings, type NavigationOutput } from './navigation/stage.ts';
import { decodeNavigation, encodeNavigation } from './pack/navBin.ts';
import { packMap, packPicture, type Sealed } from './pack/packMap.ts';
import { runPrograms, type ProgramsOutput, type RunProgram } from './programs/stage.ts';
import { parametersOf, type BuildParameters } from './contract/parameters.ts';
import { sealingInputs, skyPicture, type StageInputs } from './inputs.ts';
import { planBuild, type BuildPlan } from './plan.ts';
import { BuildRun, jsonCodec, Stopped } from './run.ts';
import { buildOverview, type Draughtsman, type OverviewOutput } from './overview/stage.ts';
import { leafAt } from './sealing/bsp.ts';
import { decodeTree, encodeTree, floodTree, sealingFindings, sealTree, type SealingOutput, type SealTree } from './sealing/stage.ts';
import { BUILD_STAGES, type BuildStage, type Quality, type StageCache, type StageReport } from './contract/stage.ts';
import type { Surface } from './surface/surface.ts';
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
  /** Contents of a file of the crate or the base pack, by its path: pictures of skies, textures and models that are packed. */
  readFile?: (path: string) => Promise<Uint8Array>;
  /** Shows the light while it is computed: asked whether it has room for a picture, then given the map (once) and its light. */
  picture?: { due(): boolean; show(files: FileTree): void };
  /** Draws the picture of the map; without it there is none. */
  draughtsman?: () => Draughtsman;
  /** Runs programs of the game; without it they are left out. */
  runProgram?: RunProgram;
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

export async function buildMap(given: CrateWorld, mapName: string, options: BuildOptions): Promise<BuildResult> {
  const parameters = parametersOf(options.quality, given.profile, options.parameters);
  const plan = planBuild(given, mapName, parameters);
  const run = new BuildRun(options, plan);
  let artefacts: FileTree | null = null;
  try {
    artefacts = await runStages(run, given, mapName, plan.inputs);
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

async function runStages(run: BuildRun, given: CrateWorld, mapName: string, inputs: StageInputs): Promise<FileTree | null> {
  const world = expandWorld(given);
  const { profile } = world;
  const map = world.crate.maps[mapName];
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
    () => buildGeometry(inputs.geometry, run.progress('geometry'), inputs.geometry.parameters.merge === 'yes'),
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

  const sealed = profile.sealed && geometry ? await seal(run, world, map, mapName, inputs.sealing, geometry.surfaces) : null;
  if (!profile.sealed) run.skip('sealing', `${profile.title} needs no sealed maps.`);
  const surfaces = geometry && (profile.sealed ? sealed && sealed.output.visible.map((index) => geometry.surfaces[index]) : geometry.surfaces);
  const insideKey = sealed ? sha256Hex(sealed.output.inside.join()) : '';

  const visibility = sealed ? await see(run, sealed, inputs.visibility.parameters, insideKey) : null;
  if (!profile.sealed) run.skip('visibility', `${profile.title} needs no sealed maps: everything is drawn always, which costs speed in wide maps.`);

  const hasGround = Object.keys(inputs.ground.terrains).length > 0;
  const ground = hasGround ? await layGround(run, inputs.ground, mapName, unit) : null;
  if (!hasGround) run.skip('ground', 'The map has none.');
  // Shadows of the ground on solids and on itself: the mesh of the second level, which is as near as shadows need.
  const shadowLevel = ground ? Math.min(1, ground.grounds[0].bounds.length - 1) : 0;
  const groundOccluders = ground ? ground.grounds.map((one) => groundTriangles(one, shadowLevel)) : [];

  const { parameters: lightParameters, dark, ...scene } = inputs.lighting;
  const lights = Object.values(scene.lights).flatMap(({ kind, light }) => (kind === 'point' ? [light] : []));
  const suns = Object.values(scene.lights).flatMap(({ kind, light }) => (kind === 'sun' ? [light] : []));
  const light =
    surfaces &&
    (await run.stage(
      'lighting',
      run.keyOf('lighting', insideKey),
      { encode: encodeLighting, decode: decodeLighting },
      async () => {
        const sky = { ...scene.sky, picture: await readSkyPicture(run, world, map) };
        const open = hillLight({ suns, sky, albedo: inputs.daylight.albedo });
        return buildLighting(
          { ...scene, surfaces, lights, suns, sky, ground: { triangles: groundOccluders, radiance: open } },
          lightParameters.luxel * scene.luxel,
          lightingOptions(lightParameters),
          {
            cache: run.cache,
            crew: run.crew,
            probes: { spacing: lightParameters.probeSpacing, isFree: freeTest(sealed, Object.values(dark), ground?.grounds ?? []) },
            onPicture: run.picture && showPictures(run.picture, inputs.packing, surfaces),
            onProgress: run.progress('lighting'),
          },
        );
      },
      {
        summary: ({ atlas, blocks, blocksLit }) =>
          `${lights.length + suns.length} lights, ${atlas.charts.length} charts (${blocksLit} of ${blocks} blocks lit anew) in ${atlas.width} × ${atlas.height} luxels of ${atlas.luxel} ${unit}.`,
        counts: ({ atlas, blocks, blocksLit, rays, probes }) => ({
          lights: lights.length + suns.length,
          charts: atlas.charts.length,
          blocks,
          blocksLit,
          luxels: atlas.charts.reduce((sum, chart) => sum + chart.w * chart.h, 0),
          rays,
          probes: probes?.free.filter(Boolean).length ?? 0,
        }),
      },
    ));

  const daylight =
    ground && surfaces ? await lightGround(run, world, map, inputs.daylight, { ground, surfaces, lights, suns, groundOccluders, shadowLevel }) : null;
  if (!hasGround) run.skip('daylight', 'The map has no ground.');

  const navigation = await navigate(run, world, map, mapName, inputs.navigation, ground);
  const overview = await drawMap(run, inputs.overview, profile.title);
  if (
    !surfaces ||
    !light ||
    navigation === undefined ||
    overview === undefined ||
    (hasGround && (!ground || !daylight)) ||
    (sealed && inputs.visibility.parameters.visibility !== 'none' && !visibility)
  ) {
    run.skip('packing', 'Not all stages are up to date.');
    return null;
  }
  const packed = await run.stage(
    'packing',
    null,
    jsonCodec<FileTree>(),
    () =>
      packMap(
        inputs.packing,
        { surfaces, light, sealed, visibility, navigation, ground, daylight, overview, readFile: run.readFile },
        run.progress('packing'),
      ),
    {
      summary: (files) => `${Math.ceil(bytesOf(files) / 1024)} KiB in ${files.size} files.`,
      counts: (files) => ({ files: files.size, bytes: bytesOf(files) }),
    },
  );
  return packed && stampMap(run, world, mapName, inputs.programs, packed);
}

/** The packed map with what the game's own programs add to it; they see the textures of the crate beside it. */
async function stampMap(
  run: BuildRun,
  { crate, profile }: CrateWorld,
  mapName: string,
  inputs: StageInputs['programs'],
  packed: FileTree,
): Promise<FileTree | null> {
  const { runProgram, readFile } = run;
  if (inputs.programs.length === 0 || !runProgram) {
    run.skip('programs', inputs.programs.length === 0 ? `${profile.title} has none.` : 'There is nothing here that could run them.');
    return packed;
  }
  const output = await run.stage(
    'programs',
    null,
    jsonCodec<ProgramsOutput>(),
    async () => {
      const given: FileTree = new Map(packed);
      if (readFile) for (const { path } of crate.files) if (path.startsWith('textures/')) given.set(path, await readFile(path));
      return runPrograms(inputs, mapName, given, runProgram, run.progress('programs'));
    },
    {
      summary: ({ ran, files }) => (ran.length > 0 ? `${ran.join(', ')}; ${files.size} files added.` : 'None ran to its end.'),
      counts: ({ ran, files }) => ({ programs: ran.length, files: files.size }),
      findings: ({ findings }) => findings,
    },
  );
  return output && new Map([...packed, ...output.files]);
}

async function layGround(run: BuildRun, inputs: StageInputs['ground'], mapName: string, unit: string): Promise<GroundOutput | null> {
  const level = ({ blocks }: GroundOutput['grounds'][number], wanted: number) =>
    blocks.reduce((sum, { level: own, indices }) => sum + (own === wanted ? indices.length / 3 : 0), 0);
  return run.stage('ground', run.keyOf('ground'), { encode: encodeGround, decode: decodeGround }, () => buildGround(inputs, run.progress('ground')), {
    summary: ({ grounds }) =>
      grounds
        .map(
          (one) =>
            `${level(one, 0).toLocaleString('en')} triangles within ${one.farthest[0].toFixed(2)} ${unit} of ${(one.nx * one.ny).toLocaleString('en')} samples, ${one.bounds.length} levels`,
        )
        .join('; ') + '.',
    counts: ({ grounds }) => ({
      samples: grounds.reduce((sum, { nx, ny }) => sum + nx * ny, 0),
      triangles: grounds.reduce((sum, one) => sum + level(one, 0), 0),
      things: grounds.reduce((sum, one) => sum + thingsOf(one), 0),
    }),
    findings: (value) => groundFindings(value, inputs, mapName),
  });
}

interface GroundLit {
  ground: GroundOutput;
  surfaces: readonly Surface[];
  lights: PointLight[];
  suns: SunLight[];
  groundOccluders: readonly Float32Array[];
  shadowLevel: number;
}

/** Sun and sky on the ground, with the shadows of solids. */
async function lightGround(
  run: BuildRun,
  world: CrateWorld,
  map: GameMap,
  { sky: given, albedo, metresPerUnit, parameters }: StageInputs['daylight'],
  { ground, surfaces, lights, suns, groundOccluders, shadowLevel }: GroundLit,
): Promise<DaylightOutput | null> {
  return run.stage(
    'daylight',
    run.keyOf('daylight'),
    { encode: encodeDaylight, decode: decodeDaylight },
    async () => {
      const sky = { ...given, picture: await readSkyPicture(run, world, map) };
      const solids = surfaces.flatMap(({ winding }) => winding.slice(2).flatMap((corner, i) => [...winding[0], ...winding[i + 1], ...corner]));
      const occluders = joined([Float32Array.from(solids), ...groundOccluders]);
      const error = Math.max(...ground.grounds.map(({ farthest }) => farthest[shadowLevel]));
      const scene = { grounds: ground.grounds, occluders, error, suns, lights, sky, albedo, metresPerUnit };
      const { luxel, hemisphereRays, sunRays } = parameters;
      // A quarter of the rays of a room: nothing bounces in the open, and points are smoothed with their neighbours.
      return buildDaylight(scene, { luxel, skyRays: Math.max(4, Math.ceil(hemisphereRays / 4)), sunRays }, run.progress('daylight'));
    },
    {
      summary: ({ grounds }) =>
        grounds.map(({ width, height, stride }) => `${width} × ${height} points of light, one every ${stride} samples`).join('; ') + '.',
      counts: ({ grounds }) => ({ luxels: grounds.reduce((sum, { width, height }) => sum + width * height, 0) }),
    },
  );
}

const bytesOf = (files: FileTree): number => [...files.values()].reduce((sum, file) => sum + file.length, 0);

/** One picture at a time, the map itself with the first. A picture that fails is left out: its fault shows again in packing. */
function showPictures(
  { due, show }: NonNullable<BuildOptions['picture']>,
  packing: StageInputs['packing'],
  surfaces: readonly Surface[],
): (light: Pick<LightingOutput, 'atlas' | 'lit' | 'values'>) => void {
  let busy = false;
  let first = true;
  return (light) => {
    if (busy || light.lit.length === 0 || !due()) return;
    busy = true;
    packPicture(packing, { surfaces, light }, first)
      .then((files) => {
        first = false;
        show(files);
      })
      .catch(() => undefined)
      .finally(() => (busy = false));
  };
}

async function readSkyPicture(run: BuildRun, world: CrateWorld, map: GameMap): Promise<LightPicture | undefined> {
  const file = skyPicture(world, map);
  return file && run.readFile ? readSky(await run.readFile(file.path), file.path) : undefined;
}

/** The tree is kept, since it follows from solids alone; the flood from the objects is a moment's work and made anew. */
async function seal(
  run: BuildRun,
  world: CrateWorld,
  map: GameMap,
  mapName: string,
  { solids, dividers }: StageInputs['sealing'],
  surfaces: readonly Surface[],
): Promise<Sealed | null> {
  const inputs = sealingInputs(world, map);
  let output: SealingOutput | null = null;
  const flooded = (tree: SealTree) => (output ??= floodTree(tree, inputs.sources, surfaces));
  const tree = await run.stage(
    'sealing',
    run.keyOf('sealing'),
    { encode: encodeTree, decode: decodeTree },
    () => sealTree(Object.values(solids), run.progress('sealing'), Object.values(dividers)),
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
async function see(
  run: BuildRun,
  { tree, output }: Sealed,
  parameters: StageInputs['visibility']['parameters'],
  insideKey: string,
): Promise<VisibilityOutput | null> {
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
  { solids, climbs, player, parameters }: StageInputs['navigation'],
  ground: GroundOutput | null,
): Promise<NavigationOutput | null | undefined> {
  if (parameters.navCell <= 0) {
    run.skip('navigation', 'Left out.');
    return null;
  }
  const output = await run.stage(
    'navigation',
    run.keyOf('navigation'),
    { encode: encodeNavigation, decode: decodeNavigation },
    () =>
      buildNavigation({
        solids: Object.values(solids),
        ground: (ground?.grounds ?? []).map((one) => groundTriangles(one, 0)),
        climbs,
        player,
        cell: parameters.navCell,
      }),
    {
      summary: ({ polygons, links }) => `${polygons.length} walkable polygons, ${links.length} jumps between areas.`,
      counts: ({ polygons, links }) => ({ polygons: polygons.length, links: links.length }),
      findings: (value) => navigationFindings(value, world.profile, map, mapName),
    },
  );
  return output ?? undefined;
}

/** Pictures of the map for its players; null where there are to be none, undefined where they are not up to date. */
async function drawMap(run: BuildRun, inputs: StageInputs['overview'], game: string): Promise<OverviewOutput | null | undefined> {
  const { draughtsman } = run;
  if (inputs.sides.length === 0 || !draughtsman) {
    run.skip('overview', inputs.sides.length === 0 ? `${game} shows its players no map.` : 'There is nothing here that could draw it.');
    return null;
  }
  const output = await run.stage(
    'overview',
    run.keyOf('overview'),
    { encode: (files) => writeZip(files), decode: (bytes) => readZip(bytes, 'overview') },
    () => buildOverview(inputs, draughtsman(), run.readFile, run.progress('overview')),
    {
      summary: (files) =>
        `${inputs.sides.map((side) => `${side}`).join(' and ')} pixels, with ${Object.keys(inputs.places).length} places; ${Math.ceil(bytesOf(files) / 1024)} KiB.`,
      counts: (files) => ({ pictures: files.size, places: Object.keys(inputs.places).length, bytes: bytesOf(files) }),
    },
  );
  return output ?? undefined;
}

/** Whether a probe may stand at a point: outside all solids that stop light and, where there is a tree, in a reached cell. */
function freeTest(sealed: Sealed | null, dark: readonly Solid[], grounds: GroundOutput['grounds']): (point: Vec3) => boolean {
  const fields = grounds.map((one) => new BuiltField(one));
  const inGround = (p: Vec3) => fields.some((field) => (field.heightAt(p[0], p[1]) ?? -Infinity) > p[2]);
  const inSolid = (p: Vec3) =>
    dark.some((solid) => solid.faces.every(({ normal: n, distance }) => n[0] * p[0] + n[1] * p[1] + n[2] * p[2] < distance + 1));
  if (!sealed) return (point) => !inSolid(point) && !inGround(point);
  const inside = new Set(sealed.output.inside);
  return (point) => inside.has(leafAt(sealed.tree.bsp, point).index) && !inSolid(point) && !inGround(point);
}
