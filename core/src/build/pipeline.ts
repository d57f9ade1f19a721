/** The build: check, geometry, sealing, lighting, packing, each stage from the cache where its key is known. */

import type { FileTree } from '../crate/contents.ts';
import { assetRecord, buildMaterial, findMaterial, type CrateWorld } from '../crate/world.ts';
import { checkCrate } from '../crate/check.ts';
import { hasBlocker, type Finding } from '../finding.ts';
import { linearOfHex } from '../math/srgb.ts';
import { boxCentre } from '../math/box3.ts';
import { mapLights, mapSuns } from '../map/lights.ts';
import { expandWorld } from '../map/prefab.ts';
import { classBox } from '../map/objectBox.ts';
import type { GameMap, Solid } from '../map/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { hasPart, materialType, type MaterialType } from '../profile/schema.ts';
import { buildGeometry, type GeometryOutput } from './geometry/stage.ts';
import { buildLighting, decodeLighting, encodeLighting, LIGHT_OPTIONS, type LightingOutput } from './lighting/stage.ts';
import { mapGlb } from './pack/mapGlb.ts';
import { collisionOf, runtimeMap } from './pack/runtime.ts';
import { sealingFindings, sealMap, type SealingInputs, type SealingOutput } from './sealing/stage.ts';
import { BUILD_STAGES, stageKey, type BuildStage, type Quality, type StageCache, type StageReport } from './stage.ts';
import type { BuildMaterial } from './surface.ts';

export interface BuildOptions {
  quality: Quality;
  cache?: StageCache;
  /** Called often; may throw `Cancelled`. `now` is a clock in milliseconds for the reports. */
  onProgress?: (stage: BuildStage, fraction: number) => void;
  onStage?: (report: StageReport) => void;
  now?: () => number;
}

export interface BuildResult {
  ok: boolean;
  stages: StageReport[];
  findings: Finding[];
  /** `maps/NAME/map.glb`, `map.json`, `collision.json`; null when a blocker stopped the build. */
  artefacts: FileTree | null;
}

export async function buildMap(given: CrateWorld, mapName: string, options: BuildOptions): Promise<BuildResult> {
  const world = expandWorld(given);
  const { profile } = world;
  const map = world.crate.maps[mapName];
  const reports: StageReport[] = [];
  const now = options.now ?? (() => performance.now());
  const progress = (stage: BuildStage) => (fraction: number) => options.onProgress?.(stage, fraction);

  const report = (stage: BuildStage, started: number, state: StageReport['state'], summary: string, findings: Finding[] = []) => {
    const entry: StageReport = { stage, state, milliseconds: Math.round(now() - started), summary, findings };
    reports.push(entry);
    options.onStage?.(entry);
  };
  const finish = (artefacts: FileTree | null): BuildResult => {
    for (const stage of BUILD_STAGES) if (!reports.some((r) => r.stage === stage)) report(stage, now(), 'skipped', 'Not run.');
    return { ok: artefacts !== null, stages: reports, findings: reports.flatMap((r) => r.findings), artefacts };
  };
  /** Takes a stage's result from the cache or computes and stores it. */
  const cached = async <T>(
    stage: BuildStage,
    inputs: unknown,
    codec: Codec<T>,
    compute: () => T,
    summary: (value: T) => string,
    findings: (value: T) => Finding[] = () => [],
  ): Promise<T> => {
    const started = now();
    progress(stage)(0);
    const key = stageKey(stage, inputs);
    const stored = await options.cache?.get(key);
    const value = stored ? codec.decode(stored) : compute();
    if (!stored) await options.cache?.put(key, codec.encode(value));
    const found = findings(value);
    report(stage, started, hasBlocker(found) ? 'failed' : stored ? 'reused' : 'done', summary(value), found);
    progress(stage)(1);
    return value;
  };

  const started = now();
  progress('check')(0);
  const found = checkCrate(given).findings.filter((finding) => finding.place?.map === undefined || finding.place.map === mapName);
  const blockers = found.filter((finding) => finding.severity === 'blocker');
  report(
    'check',
    started,
    blockers.length > 0 ? 'failed' : 'done',
    `${blockers.length} blockers, ${found.length - blockers.length} other findings.`,
    found,
  );
  if (blockers.length > 0) return finish(null);

  const context = materialContext(world, map);
  const geometry = await cached(
    'geometry',
    { solids: map.solids, materials: context.materials, types: context.types },
    jsonCodec<GeometryOutput>(),
    () => buildGeometry({ solids: map.solids, ...context }, progress('geometry')),
    (value) => `${value.surfaces.length} polygons from ${value.facesBefore} faces of ${Object.keys(map.solids).length} solids.`,
  );

  let surfaces = geometry.surfaces;
  if (profile.sealed) {
    const inputs = sealingInputs(world, map, context);
    const sealing = await cached(
      'sealing',
      { inputs, geometry: stageKey('geometry', { solids: map.solids, ...context }) },
      jsonCodec<SealingOutput>(),
      () => sealMap(inputs, geometry.surfaces, progress('sealing')),
      (value) => (value.leak ? 'The map leaks.' : `Sealed: ${value.cells} cells, ${value.portals} portals, ${value.reached} cells reached.`),
      (value) => sealingFindings(inputs, value, mapName, profile.unit.plural),
    );
    if (sealing.leak) return finish(null);
    surfaces = sealing.visible.map((index) => geometry.surfaces[index]);
  } else report('sealing', now(), 'skipped', `${profile.title} needs no sealed maps.`);

  const lights = mapLights(world.profile, map);
  const sky = { colour: linearOfHex(map.settings.skyColour), radiance: map.settings.skyIntensity };
  const luxel = profile.lighting.luxel[options.quality];
  const suns = mapSuns(world.profile, map);
  const lightInputs = { surfaces, ...context, lights, suns, sky, luxel, metresPerUnit: profile.unit.metres };
  const light = await cached(
    'lighting',
    { ...lightInputs, options: LIGHT_OPTIONS[options.quality] },
    { encode: encodeLighting, decode: decodeLighting },
    () => buildLighting(lightInputs, LIGHT_OPTIONS[options.quality], progress('lighting')),
    (value) =>
      `${lights.length + suns.length} lights, ${value.atlas.charts.length} charts in ${value.atlas.width} × ${value.atlas.height} luxels of ${value.atlas.luxel} ${profile.unit.plural}.`,
  );

  const packed = await pack(world, mapName, surfaces, light, context, progress('packing'), now);
  report('packing', packed.started, 'done', packed.summary);
  return finish(packed.artefacts);
}

interface Codec<T> {
  encode(value: T): Uint8Array;
  decode(bytes: Uint8Array): T;
}

const jsonCodec = <T>(): Codec<T> => ({
  encode: (value) => new TextEncoder().encode(JSON.stringify(value)),
  decode: (bytes) => JSON.parse(new TextDecoder().decode(bytes)) as T,
});

export interface MaterialContext {
  materials: Record<string, BuildMaterial>;
  types: Record<string, MaterialType>;
}

/** The materials that a map's faces use, with their types. */
export function materialContext(world: CrateWorld, map: GameMap): MaterialContext {
  const materials: MaterialContext['materials'] = {};
  for (const solid of Object.values(map.solids)) {
    for (const face of solid.faces) {
      const material = materials[face.material] ?? buildMaterial(world, face.material);
      if (material) materials[face.material] = material;
    }
  }
  return { materials, types: Object.fromEntries(world.profile.materialTypes.map((type) => [type.id, type])) };
}

/** The solids that seal and the points that must not see the outside: every object that takes part in play. */
export function sealingInputs(world: CrateWorld, map: GameMap, context: MaterialContext = materialContext(world, map)): SealingInputs {
  const seals = (solid: Solid) => !solid.detail && solid.faces.every((face) => context.types[context.materials[face.material]?.type]?.seals ?? true);
  return {
    solids: Object.fromEntries(Object.entries(map.solids).filter(([, solid]) => seals(solid))),
    // A sun lights from a direction; where its mark stands means nothing.
    sources: Object.entries(map.objects)
      .filter(([, object]) => !hasPart(world.profile, object.class, 'sun'))
      .map(([id, object]) => ({ id, name: object.name, point: boxCentre(classBox(world.profile, object)) as Vec3 })),
  };
}

async function pack(
  world: CrateWorld,
  mapName: string,
  surfaces: GeometryOutput['surfaces'],
  light: LightingOutput,
  context: MaterialContext,
  onProgress: (fraction: number) => void,
  now: () => number,
) {
  const started = now();
  const { profile } = world;
  const map = world.crate.maps[mapName];
  onProgress(0);
  const { glb, triangles } = await mapGlb(surfaces, light, context.materials, context.types, profile.unit.metres, mapName);
  onProgress(0.8);
  const collides = (name: string) => {
    const found = findMaterial(world, name);
    return found ? (materialType(profile, found.material.type)?.collides ?? true) : true;
  };
  const models: Record<string, { min: Vec3; max: Vec3 }> = {};
  for (const object of Object.values(map.objects)) {
    const model = object.properties.model;
    const bounds = typeof model === 'string' ? assetRecord(world, model)?.bounds : undefined;
    if (bounds) models[model as string] = bounds;
  }
  const folder = `maps/${mapName}`;
  const json = (value: unknown) => new TextEncoder().encode(JSON.stringify(value));
  const artefacts: FileTree = new Map([
    [`${folder}/map.glb`, glb],
    [`${folder}/map.json`, json(runtimeMap(mapName, map, Object.keys(world.crate.scripts).sort(), models))],
    [`${folder}/collision.json`, json(collisionOf(map.solids, collides))],
  ]);
  onProgress(1);
  const bytes = [...artefacts.values()].reduce((sum, file) => sum + file.length, 0);
  return { artefacts, started, summary: `${triangles} triangles, ${Math.ceil(bytes / 1024)} KiB in ${artefacts.size} files.` };
}
