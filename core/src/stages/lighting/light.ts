/**
 * The light of an atlas: direct light and the rays of the hemisphere are computed block by block, here or by
 * threads that are handed ranges of blocks; then light bounces along the rays, is freed of grain and put together.
 * Every luxel depends on its own number alone, so that any division of the work gives the same bits.
 */

import { boxOfPoints, type Box3 } from '../../math/box3.ts';
import type { Surface } from '../surface/surface.ts';
import { bounceLight, meanRadiance } from './bounce.ts';
import { buildBvh } from './bvh.ts';
import { blocksOf, luxelCentre, type Atlas, type Block, type Chart } from './charts.ts';
import { denoise } from './denoise.ts';
import { dilate } from './dilate.ts';
import { addPointLights, addSuns } from './direct.ts';
import type { PointLight, SunLight } from '../../part/lightSource.ts';
import { cosineDirections } from './directions.ts';
import { gatherHits, NO_EMITTER, type Scene } from './gather.ts';
import { forEachLuxel, polygonsByCell, type ChartCells } from './luxels.ts';
import type { ProbeScene } from './probes.ts';
import { skyCellLight, type Sky } from './skyCells.ts';
import { stitch } from './stitch.ts';

export interface LightingInputs {
  surfaces: readonly Surface[];
  /** Three corners per occluding triangle, nine numbers each, and the surface of each (-1 - m for emitter m, -1 - NO_EMITTER for none). */
  occluders: Float32Array;
  occluderSurface: Int32Array;
  /** Radiance of surfaces without charts that give off light, three numbers each. */
  emitters: Float32Array;
  lights: readonly PointLight[];
  suns: readonly SunLight[];
  sky: Sky;
  /** Linear reflectance and emission by material. */
  materials: Record<string, { albedo: [number, number, number]; emission: [number, number, number] }>;
  metresPerUnit: number;
}

export interface LightingOptions {
  /** Rays per luxel for sky and bounces; 0 leaves both out. */
  hemisphereRays: number;
  /** How often light is followed from surface to surface. */
  bounces: number;
  /** Shadow rays per luxel and light along one axis of a grid within the luxel: 2 takes 4 samples. */
  supersample: number;
  /** Shadow rays over the disc of a wide sun or lamp. */
  sunRays: number;
  /** Passes of the filter against grain; each doubles its reach. */
  denoise: number;
}

/** What is computed of a range of blocks. */
export interface LitCharts {
  /** Texels of the atlas, in the order of the blocks. */
  texels: Uint32Array;
  /** E/π, three numbers per luxel. */
  direct: Float32Array;
  /** What every ray of the hemisphere meets; empty where they were not asked for, or are summed up at once. */
  hits: Int32Array;
  /** E/π that arrives indirectly, three numbers per luxel, where the scene has light to gather. */
  indirect?: Float32Array;
}

export interface LightTask {
  from: number;
  to: number;
  /** Whether direct light is wanted, and whether the rays of the hemisphere. */
  direct: boolean;
  hits: boolean;
}

/** Lights ranges of blocks of one scene; `close` ends what it started. */
export interface LightCrew {
  run(task: LightTask): Promise<LitCharts>;
  close(): Promise<void>;
}

export interface LightScene {
  inputs: LightingInputs;
  atlas: Atlas;
  options: LightingOptions;
  /** Light that is known already on a coarser atlas: rays are summed up from it at once and not kept (`coarse.ts`). */
  known?: { atlas: Atlas; radiance: Float32Array; emitters: Float32Array };
}

/** The triangles that stop light, and the chart or emitter of each. Rays find the luxels of the coarser atlas where there is one. */
function rayScene({ inputs, atlas: own, known }: LightScene): Scene {
  const atlas = known?.atlas ?? own;
  const chartOfSurface = new Int32Array(inputs.surfaces.length).fill(-1 - NO_EMITTER);
  atlas.charts.forEach((chart, index) => chart.surfaces.forEach((surface) => (chartOfSurface[surface] = index)));
  const chartOfTriangle = inputs.occluderSurface.map((surface) => (surface >= 0 ? chartOfSurface[surface] : surface));
  return { bvh: buildBvh(inputs.occluders), atlas, chartOfTriangle };
}

/** One who lights blocks on the spot. */
export function chartLighter(whole: LightScene): (task: LightTask) => LitCharts {
  const { inputs, atlas, options } = whole;
  const scene = rayScene(whole);
  const { bvh } = scene;
  const directions = cosineDirections(options.hemisphereRays);
  const { known: lit } = whole;
  const one = new Int32Array(directions.length);
  const blocks = blocksOf(atlas);
  // Blocks of a chart come one after another, so its polygons are looked up once.
  let known: { chart: number; cells: ChartCells } | null = null;
  return ({ from, to, direct, hits }) => {
    const texels: number[] = [];
    const light: number[] = [];
    const gathered: number[] = [];
    let met = new Int32Array(hits && !lit ? 1024 * directions.length : 0);
    for (const block of blocks.slice(from, to)) {
      const chart = atlas.charts[block.chart];
      if (known?.chart !== block.chart) known = { chart: block.chart, cells: polygonsByCell(inputs.surfaces, chart) };
      const box = blockBox(chart, block);
      const near = inputs.lights.filter((l) => reachesBox(l, box));
      forEachLuxel(atlas, block, known.cells, (texel, point, samples) => {
        if (direct) {
          const sum = [0, 0, 0];
          const grid = samples(options.supersample);
          // The rays over a wide light are shared out among the samples of a luxel, each turned another way.
          const rays = Math.ceil(options.sunRays / grid.length);
          grid.forEach((sample, n) => {
            const seed = texel * grid.length + n;
            addPointLights(near, inputs.metresPerUnit, bvh, sample, chart.normal, seed, rays, sum);
            addSuns(inputs.suns, bvh, sample, chart.normal, seed, rays, sum);
          });
          light.push(sum[0] / grid.length, sum[1] / grid.length, sum[2] / grid.length);
        }
        if (hits && lit) {
          gatherHits(scene, point, chart, texel, directions, one, 0);
          gathered.push(...meanRadiance(one, 0, one.length, lit.radiance, lit.emitters));
        } else if (hits && directions.length > 0) {
          const at = texels.length * directions.length;
          if (at + directions.length > met.length) {
            const grown = new Int32Array(met.length * 2);
            grown.set(met);
            met = grown;
          }
          gatherHits(scene, point, chart, texel, directions, met, at);
        }
        texels.push(texel);
      });
    }
    return {
      texels: Uint32Array.from(texels),
      direct: Float32Array.from(light),
      hits: hits && !lit ? met.slice(0, texels.length * directions.length) : new Int32Array(0),
      ...(hits && lit ? { indirect: Float32Array.from(gathered) } : {}),
    };
  };
}

/** The box about a block in the plane of its chart, in map space. */
export function blockBox(chart: Chart, { i, j, w, h }: Block): Box3 {
  return boxOfPoints([
    luxelCentre(chart, i - 1, j - 1),
    luxelCentre(chart, i + w, j - 1),
    luxelCentre(chart, i - 1, j + h),
    luxelCentre(chart, i + w, j + h),
  ]);
}

/** Whether a light could reach anything in a box. */
export function reachesBox(light: PointLight, { min, max }: Box3): boolean {
  if (light.reach <= 0) return true;
  let squared = 0;
  for (let k = 0; k < 3; k++) squared += Math.max(min[k] - light.position[k], 0, light.position[k] - max[k]) ** 2;
  return squared < (light.reach + 1) ** 2;
}

/** What earlier runs left: direct light by block, and where the rays of the hemisphere lead. Either may be missing. */
export interface KnownLight {
  /** Blocks whose direct light still holds; its numbers, all luxels in the order of the blocks. */
  direct?: { holds: boolean[]; values: Float32Array };
  /** All luxels in the order of the blocks, and their rays. */
  rays?: { texels: Uint32Array; hits: Int32Array };
}

/** Luxels in one range: small enough for a smooth bar and even shares, large enough that messages do not count. */
const RANGE = 6000;

/** Ranges of blocks that have to be lit, given what is known. */
export function tasksFor(atlas: Atlas, { direct, rays }: KnownLight): LightTask[] {
  const tasks: LightTask[] = [];
  let from = 0;
  let luxels = 0;
  const lacks = (i: number) => !(direct?.holds[i] ?? false);
  const blocks = blocksOf(atlas);
  blocks.forEach((block, i) => {
    luxels += block.w * block.h;
    const last = i === blocks.length - 1;
    if (!last && luxels < RANGE && lacks(i + 1) === lacks(i)) return;
    if (lacks(i) || !rays) tasks.push({ from, to: i + 1, direct: lacks(i), hits: !rays });
    [from, luxels] = [i + 1, 0];
  });
  return tasks;
}

/** Luxels that the tasks are about, borders included: what the work is measured by. */
export function luxelsOf(atlas: Atlas, tasks: readonly LightTask[]): number {
  const blocks = blocksOf(atlas);
  return tasks.reduce((sum, { from, to }) => sum + blocks.slice(from, to).reduce((n, block) => n + block.w * block.h, 0), 0);
}

/** Direct light and rays of all charts, as far as they are not known. */
export async function lightAllCharts(
  { atlas }: LightScene,
  crew: LightCrew,
  known: KnownLight,
  onProgress: (fraction: number) => void,
  onPart: (part: LitCharts) => void = () => {},
): Promise<LitCharts> {
  const tasks = tasksFor(atlas, known);
  const blocks = blocksOf(atlas);
  const sizes = tasks.map(({ from, to }) => blocks.slice(from, to).reduce((sum, { w, h }) => sum + w * h, 0));
  const total = sizes.reduce((a, b) => a + b, 0) || 1;
  let done = 0;
  const parts = await Promise.all(
    tasks.map(async (task, i) => {
      const part = await crew.run(task);
      done += sizes[i];
      onProgress(done / total);
      if (task.direct) onPart(part);
      return part;
    }),
  );
  const { rays, direct } = known;
  if (!rays) {
    const count = parts.reduce((sum, part) => sum + part.texels.length, 0);
    const all: LitCharts = {
      texels: new Uint32Array(count),
      direct: new Float32Array(count * 3),
      hits: new Int32Array(parts.reduce((sum, part) => sum + part.hits.length, 0)),
    };
    if (parts.some((part) => part.indirect)) all.indirect = new Float32Array(count * 3);
    let [at, hitsAt] = [0, 0];
    parts.forEach((part, i) => {
      if (part.indirect) all.indirect!.set(part.indirect, at * 3);
      all.texels.set(part.texels, at);
      all.direct.set(tasks[i].direct ? part.direct : direct!.values.subarray(at * 3, (at + part.texels.length) * 3), at * 3);
      all.hits.set(part.hits, hitsAt);
      at += part.texels.length;
      hitsAt += part.hits.length;
    });
    return all;
  }
  // The luxels are known, so what was lit anew goes to its block's place among them.
  const values = direct ? Float32Array.from(direct.values) : new Float32Array(rays.texels.length * 3);
  const starts = blockStarts(atlas, blocks, rays.texels);
  parts.forEach((part, i) => values.set(part.direct, starts[tasks[i].from] * 3));
  return { texels: rays.texels, direct: values, hits: rays.hits };
}

/** Index of the first luxel of every block. */
function blockStarts({ charts, width }: Atlas, blocks: readonly Block[], texels: Uint32Array): number[] {
  const starts: number[] = [];
  let at = 0;
  for (const { chart, i, j, w, h } of blocks) {
    starts.push(at);
    const [x, y] = [charts[chart].x + i, charts[chart].y + j];
    const within = (texel: number) => {
      const [tx, ty] = [texel % width, Math.floor(texel / width)];
      return tx >= x && tx < x + w && ty >= y && ty < y + h;
    };
    while (at < texels.length && within(texels[at])) at++;
  }
  return starts;
}

/** What surfaces and sky give back and give off, by chart and texel. */
export function matter({ inputs, atlas }: LightScene) {
  const chartOfTexel = new Int32Array(atlas.width * atlas.height).fill(-1);
  atlas.charts.forEach((chart, index) => {
    for (let y = chart.y; y < chart.y + chart.h; y++) chartOfTexel.fill(index, y * atlas.width + chart.x, y * atlas.width + chart.x + chart.w);
  });
  const own = (key: 'albedo' | 'emission', otherwise: number) =>
    Float32Array.from(
      atlas.charts.flatMap((chart) => inputs.materials[inputs.surfaces[chart.surfaces[0]].material]?.[key] ?? [otherwise, otherwise, otherwise]),
    );
  const sky = skyCellLight(inputs.sky, inputs.suns.length > 0);
  const emitters = new Float32Array(sky.length + inputs.emitters.length);
  emitters.set(sky);
  emitters.set(inputs.emitters, sky.length);
  return { chartOfTexel, reflectance: own('albedo', 0.5), emission: own('emission', 0), emitters };
}

/** What probes look at: a lit atlas with all that gives light. */
export function probeScene(scene: LightScene, values: Float32Array): ProbeScene {
  const { lights, suns, metresPerUnit } = scene.inputs;
  return { ...rayScene(scene), ...matter(scene), values, lights, suns, metresPerUnit };
}

/** E/π that arrives indirectly at lit luxels, three numbers each. */
function indirectLight(scene: LightScene, { texels, direct, hits }: LitCharts): Float32Array {
  const { chartOfTexel, ...material } = matter(scene);
  const { hemisphereRays: rays, bounces } = scene.options;
  const chartOf = Uint32Array.from(texels, (texel) => chartOfTexel[texel]);
  return bounceLight({ texels, direct, hits, rays, chartOf, ...material, texelCount: chartOfTexel.length }, bounces);
}

/** Lets light bounce between lit charts; linear RGB triples, row by row, atlas.width × atlas.height. */
export function finishLight(scene: LightScene, charts: LitCharts): Float32Array {
  const { atlas, options, inputs } = scene;
  const size = atlas.width * atlas.height;
  const { texels, direct } = charts;
  const indirect = charts.indirect ?? indirectLight(scene, charts);
  const covered = new Uint8Array(size);
  const values = new Float32Array(size * 3);
  texels.forEach((texel, i) => {
    covered[texel] = 1;
    for (let k = 0; k < 3; k++) values[texel * 3 + k] = indirect[i * 3 + k];
  });
  if (options.denoise > 0) denoise(values, covered, atlas, options.denoise);
  texels.forEach((texel, i) => {
    for (let k = 0; k < 3; k++) values[texel * 3 + k] += direct[i * 3 + k];
  });
  stitch(values, covered, inputs.surfaces, atlas);
  dilate(values, covered, atlas);
  return values;
}

/** All of it here, without threads. */
export function lightAtlas(inputs: LightingInputs, atlas: Atlas, options: LightingOptions): Float32Array {
  const scene = { inputs, atlas, options };
  return finishLight(scene, chartLighter(scene)({ from: 0, to: blocksOf(atlas).length, direct: true, hits: true }));
}
