/**
 * Light of large maps in two steps, as "final gathering" does it (Jensen 2001, chapter 8): all bounces on coarser
 * luxels, whose table of rays fits into memory, then one more from there to every fine luxel, whose rays are summed up
 * as they are cast. Where the fine table fits, it is kept instead: then a moved lamp casts no ray anew.
 */

import { blocksOf, layOutCharts, type Atlas } from './charts.ts';
import { finishLight, lightAllCharts, luxelsOf, matter, type LightCrew, type LightScene } from './light.ts';

/** Bytes that a table of rays may take in memory. */
export const RAYS_BUDGET = 256 * 1024 * 1024;

const tableBytes = (atlas: Atlas, rays: number): number =>
  luxelsOf(atlas, [{ from: 0, to: blocksOf(atlas).length, direct: false, hits: true }]) * rays * 4;

/** Whether the rays of all luxels are too many to keep. */
export const needsCoarse = ({ atlas, options }: LightScene, budget: number): boolean =>
  options.bounces > 0 && tableBytes(atlas, options.hemisphereRays) > budget;

/** The same scene with wider luxels, each face in proportion. */
export function coarserScene({ inputs, atlas, options }: LightScene, factor: number): LightScene {
  const own = new Map(atlas.charts.flatMap((chart) => chart.surfaces.map((surface) => [inputs.surfaces[surface], chart.luxel / atlas.luxel])));
  return { inputs, options, atlas: layOutCharts(inputs.surfaces, atlas.luxel * factor, (surface) => own.get(surface)!) };
}

/** The scene with all light but the last bounce, on luxels so wide that their rays fit into the budget. */
export async function withCoarseLight(
  scene: LightScene,
  budget: number,
  start: (scene: LightScene, luxels: number) => LightCrew,
  onProgress: (fraction: number) => void,
): Promise<LightScene> {
  const options = { ...scene.options, bounces: scene.options.bounces - 1, supersample: 1 };
  let coarse: LightScene;
  let factor = 1;
  do coarse = coarserScene({ ...scene, options }, (factor *= 2));
  while (tableBytes(coarse.atlas, options.hemisphereRays) > budget && factor < 64);
  const tasks = [{ from: 0, to: blocksOf(coarse.atlas).length, direct: true, hits: true }];
  const crew = start(coarse, luxelsOf(coarse.atlas, tasks));
  try {
    const values = finishLight(coarse, await lightAllCharts(coarse, crew, {}, onProgress));
    const { chartOfTexel, reflectance, emission, emitters } = matter(coarse);
    const radiance = values.map((value, i) => {
      const chart = chartOfTexel[Math.floor(i / 3)];
      return chart < 0 ? 0 : emission[chart * 3 + (i % 3)] + reflectance[chart * 3 + (i % 3)] * value;
    });
    return { ...scene, known: { atlas: coarse.atlas, radiance, emitters } };
  } finally {
    await crew.close();
  }
}
