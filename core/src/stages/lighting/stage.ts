/**
 * The lighting stage. What does not depend on lights (where the rays of the hemisphere lead) and what depends on
 * few of them (direct light, chart by chart) is kept between builds, so that a moved light costs the charts it reaches.
 */

import { canonicalJson, sha256Hex } from '../../hash.ts';
import type { MaterialType } from '../../profile/schema.ts';
import type { BuildParameters } from '../contract/parameters.ts';
import type { StageCache } from '../contract/stage.ts';
import type { Surface } from '../surface/surface.ts';
import type { BuildMaterial } from '../surface/materials.ts';
import { blocksOf, layOutCharts, type Atlas } from './charts.ts';
import type { PointLight, SunLight } from '../../part/lightSource.ts';
import type { Sky } from './skyCells.ts';
import { NO_EMITTER } from './gather.ts';
import { needsCoarse, RAYS_BUDGET, withCoarseLight } from './coarse.ts';
import { roughLight } from './rough.ts';
import { lightProbes, type ProbeGrid } from './probes.ts';
import { boxOfPoints } from '../../math/box3.ts';
import { joined } from '../../math/joined.ts';
import type { Vec3 } from '../../math/vec3.ts';
import {
  blockBox,
  chartLighter,
  finishLight,
  lightAllCharts,
  luxelsOf,
  probeScene,
  reachesBox,
  tasksFor,
  type KnownLight,
  type LightCrew,
  type LightingOptions,
  type LightScene,
  type LitCharts,
} from './light.ts';
import { own } from '../../own.ts';

/** What lighting reads of a material and of its type. */
export type LightMaterial = Pick<BuildMaterial, 'name' | 'type' | 'albedo' | 'emission' | 'luxel'>;
export type LightType = Pick<MaterialType, 'lit' | 'opaque' | 'sky'>;

export interface LightingStageInputs {
  surfaces: readonly Surface[];
  materials: Readonly<Record<string, LightMaterial>>;
  types: Readonly<Record<string, LightType>>;
  lights: readonly PointLight[];
  suns: readonly SunLight[];
  sky: Sky;
  metresPerUnit: number;
  /** Ground that throws shadows, nine numbers a triangle, and the light that it sends back. */
  ground?: { triangles: readonly Float32Array[]; radiance: [number, number, number] };
}

export interface LightingOutput {
  atlas: Atlas;
  /** Surface of every chart entry: indices into `lit`, which are indices into the given surfaces. */
  lit: number[];
  /** E/π, linear red, green, blue, row by row. */
  values: Float32Array;
  /** Rays that were cast for it, shadow rays not counted. */
  rays: number;
  /** Blocks of luxels, and those whose direct light was computed anew. */
  blocks: number;
  blocksLit: number;
  /** Light for what moves; null where it was left out. */
  probes: ProbeGrid | null;
}

export const lightingOptions = ({
  hemisphereRays,
  bounces,
  supersample,
  sunRays,
  denoise,
}: Pick<BuildParameters, keyof LightingOptions>): LightingOptions => ({
  hemisphereRays,
  bounces,
  supersample,
  sunRays,
  denoise,
});

/** Charts, occluders and emitters of drawn surfaces. */
export function lightScene(inputs: LightingStageInputs, luxel: number, options: LightingOptions): { scene: LightScene; lit: number[] } {
  const { surfaces, materials, types, lights, suns, sky, metresPerUnit, ground } = inputs;
  const typeOf = (surface: Surface): LightType | undefined => types[own(materials, surface.material)?.type ?? ''];
  const lit: number[] = [];
  surfaces.forEach((surface, index) => {
    if (typeOf(surface)?.lit && !typeOf(surface)?.sky) lit.push(index);
  });
  const litSurfaces = lit.map((index) => surfaces[index]);
  const litIndex = new Map(lit.map((surface, index) => [surface, index]));
  const emitters: number[] = [];
  const emitterOf = new Map<string, number>();
  const emitter = (material: LightMaterial | undefined): number => {
    if (!material?.emission.some((v) => v > 0)) return NO_EMITTER;
    const known = emitterOf.get(material.name) ?? emitters.length / 3;
    if (!emitterOf.has(material.name)) emitters.push(...material.emission);
    emitterOf.set(material.name, known);
    return known;
  };
  const corners: number[] = [];
  const owners: number[] = [];
  surfaces.forEach((surface, index) => {
    const type = typeOf(surface);
    if (!type?.opaque || type.sky) return;
    const owner = litIndex.get(index) ?? -1 - emitter(own(materials, surface.material));
    for (let i = 2; i < surface.winding.length; i++) {
      corners.push(...surface.winding[0], ...surface.winding[i - 1], ...surface.winding[i]);
      owners.push(owner);
    }
  });
  const groundOwner = ground && ground.triangles.length > 0 ? -1 - emitters.length / 3 : 0;
  if (groundOwner < 0) emitters.push(...ground!.radiance);
  const occluders = joined([Float32Array.from(corners), ...(ground?.triangles ?? [])]);
  const occluderSurface = new Int32Array(occluders.length / 9).fill(groundOwner);
  occluderSurface.set(owners);
  const atlas = layOutCharts(litSurfaces, luxel, (surface) => surface.luxel ?? own(materials, surface.material)?.luxel ?? 1);
  const given = {
    surfaces: litSurfaces,
    occluders,
    occluderSurface,
    emitters: Float32Array.from(emitters),
    lights,
    suns,
    sky,
    materials: Object.fromEntries(Object.entries(materials).map(([name, { albedo, emission }]) => [name, { albedo, emission }])),
    metresPerUnit,
  };
  return { scene: { inputs: given, atlas, options }, lit };
}

export interface LightingRun {
  cache?: StageCache;
  /** Starts those who light charts; without it all is done here. */
  crew?: (scene: LightScene, luxels: number) => LightCrew;
  /** Distance of probes in units, 0 for none, and where they may stand. */
  probes?: { spacing: number; isFree: (point: Vec3) => boolean };
  /** Bytes that the table of rays may take in memory. */
  raysBudget?: number;
  /** Shown the light as far as it is known, rough at first: `values` goes on changing after the call. */
  onPicture?: (light: Pick<LightingOutput, 'atlas' | 'lit' | 'values'>) => void;
  onProgress: (fraction: number) => void;
}

/** Share of the work that the coarse step of large maps is. */
const COARSE_SHARE = 0.15;

/** Where rays lead is kept on disk up to this size: larger tables take longer to read than to make. */
const HITS_LIMIT = 192 * 1024 * 1024;

export async function buildLighting(
  inputs: LightingStageInputs,
  luxel: number,
  options: LightingOptions,
  { cache, crew: start, probes, raysBudget = RAYS_BUDGET, onPicture, onProgress }: LightingRun,
): Promise<LightingOutput> {
  const { scene, lit } = lightScene(inputs, luxel, options);
  const { atlas } = scene;
  const { occluders, occluderSurface } = scene.inputs;
  const corners = Float64Array.from(scene.inputs.surfaces.flatMap((s) => [s.winding.length, ...s.winding.flat()]));
  const layout = Float64Array.from(atlas.charts.flatMap(({ x, y, w, h, luxel: edge }) => [x, y, w, h, edge]));
  const shape = [bytesOf(corners), bytesOf(occluders), bytesOf(occluderSurface), bytesOf(layout)].map(sha256Hex).join();
  const raysKey = sha256Hex(`light-rays/4\n${shape}\n${options.hemisphereRays}`);
  const directKey = sha256Hex(`light-direct/4\n${shape}\n${options.supersample}/${options.sunRays}`);
  const blockKeys = blockLightKeys(scene);
  const known = await knownLight(cache, raysKey, directKey, blockKeys);

  const begin = (of: LightScene, luxels: number) => start?.(of, luxels) ?? crewOfOne(of);
  // With the rays known all is done in moments, and a rough look would only delay it.
  const rough = onPicture && !known.rays ? roughLight(scene) : null;
  const show = () => rough && onPicture?.({ atlas, lit, values: rough.values });
  show();
  const coarse = needsCoarse(scene, raysBudget);
  const whole = coarse ? await withCoarseLight(scene, raysBudget, begin, (f) => onProgress(f * COARSE_SHARE)) : scene;
  const before = coarse ? COARSE_SHARE : 0;
  const crew = begin(whole, luxelsOf(atlas, tasksFor(atlas, known)));
  try {
    const charts = await lightAllCharts(
      whole,
      crew,
      known,
      (f) => onProgress(before + f * (0.9 - before)),
      (part) => {
        rough?.refine(part);
        show();
      },
    );
    if (cache && !known.rays && !coarse && charts.hits.byteLength <= HITS_LIMIT) await cache.put(raysKey, encodeRays(charts));
    await cache?.put(directKey, encodeDirect(blockKeys, charts.direct));
    const values = finishLight(scene, charts);
    onProgress(0.95);
    const box = boxOfPoints(scene.inputs.surfaces.flatMap((s) => s.winding));
    const grid = probes && scene.inputs.surfaces.length > 0 ? lightProbes(probeScene(scene, values), box, probes.spacing, probes.isFree) : null;
    onProgress(1);
    return {
      atlas,
      lit,
      values,
      probes: grid,
      rays: known.rays ? 0 : charts.texels.length * options.hemisphereRays,
      blocks: blockKeys.length,
      blocksLit: blockKeys.length - (known.direct?.holds.filter(Boolean).length ?? 0),
    };
  } finally {
    await crew.close();
  }
}

export function crewOfOne(scene: LightScene): LightCrew {
  const light = chartLighter(scene);
  return { run: async (task) => light(task), close: () => Promise.resolve() };
}

/** One key per block: the lights that reach it. Equal keys mean equal direct light while the surfaces are the same. */
function blockLightKeys({ inputs, atlas }: LightScene): string[] {
  const suns = canonicalJson(inputs.suns);
  const own = inputs.lights.map((light) => canonicalJson(light));
  return blocksOf(atlas).map((block) => {
    const box = blockBox(atlas.charts[block.chart], block);
    const near = inputs.lights.flatMap((light, i) => (reachesBox(light, box) ? [own[i]] : []));
    return sha256Hex(`${suns}\n${near.join('\n')}`).slice(0, 24);
  });
}

async function knownLight(cache: StageCache | undefined, raysKey: string, directKey: string, blockKeys: readonly string[]): Promise<KnownLight> {
  const [rays, direct] = [await cache?.get(raysKey), await cache?.get(directKey)];
  const known: KnownLight = {};
  if (rays) known.rays = decodeRays(rays);
  if (direct) {
    const stored = decodeDirect(direct);
    if (stored.keys.length === blockKeys.length) known.direct = { holds: blockKeys.map((key, i) => key === stored.keys[i]), values: stored.values };
  }
  return known;
}

const bytesOf = (values: Int32Array | Uint32Array | Float32Array | Float64Array): Uint8Array =>
  new Uint8Array(values.buffer, values.byteOffset, values.byteLength);

/** u32 number of luxels, u32 texel of each, then int32 per ray. */
function encodeRays({ texels, hits }: LitCharts): Uint8Array {
  const bytes = new Uint8Array(4 + texels.byteLength + hits.byteLength);
  new DataView(bytes.buffer).setUint32(0, texels.length, true);
  bytes.set(bytesOf(texels), 4);
  bytes.set(bytesOf(hits), 4 + texels.byteLength);
  return bytes;
}

function decodeRays(bytes: Uint8Array): { texels: Uint32Array; hits: Int32Array } {
  const { buffer } = bytes.slice();
  const count = new DataView(buffer).getUint32(0, true);
  return { texels: new Uint32Array(buffer, 4, count), hits: new Int32Array(buffer, 4 + count * 4) };
}

/** u32 length of the keys as JSON, the keys, padding to 4, float32 values. */
function encodeDirect(keys: readonly string[], values: Float32Array): Uint8Array {
  return withHead({ keys }, values);
}

function decodeDirect(bytes: Uint8Array): { keys: string[]; values: Float32Array } {
  const { head, values } = splitHead<{ keys: string[] }>(bytes);
  return { keys: head.keys, values };
}

function withHead(head: unknown, values: Float32Array): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(head));
  const start = 4 + Math.ceil(text.length / 4) * 4;
  const bytes = new Uint8Array(start + values.byteLength);
  new DataView(bytes.buffer).setUint32(0, text.length, true);
  bytes.set(text, 4);
  bytes.set(bytesOf(values), start);
  return bytes;
}

function splitHead<T>(bytes: Uint8Array): { head: T; values: Float32Array } {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + length))) as T;
  return { head, values: new Float32Array(bytes.slice(4 + Math.ceil(length / 4) * 4).buffer) };
}

/** Layout: u32 length of the JSON head (little endian), the head, padding to 4, float32 values. */
export function encodeLighting({ values, ...head }: LightingOutput): Uint8Array {
  return withHead(head, values);
}

export function decodeLighting(bytes: Uint8Array): LightingOutput {
  const { head, values } = splitHead<Omit<LightingOutput, 'values'>>(bytes);
  return { ...head, values };
}
