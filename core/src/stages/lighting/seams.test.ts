/** What holds across charts, blocks and luxel sizes. */

import { describe, expect, it } from '@jest/globals';
import type { Vec3 } from '../../math/vec3.ts';
import { testProfile } from '../../testing/world.ts';
import type { StageCache } from '../contract/stage.ts';
import type { Surface } from '../surface/surface.ts';
import type { BuildMaterial } from '../surface/materials.ts';
import { blocksOf, chartCoordinates, layOutCharts, type Atlas } from './charts.ts';
import type { PointLight } from '../../part/lightSource.ts';
import { chartLighter, finishLight, type LightingOptions } from './light.ts';
import { roughLight } from './rough.ts';
import { buildLighting, lightScene, type LightingStageInputs } from './stage.ts';

const types = Object.fromEntries(testProfile().materialTypes.map((t) => [t.id, t]));
const materials: Record<string, BuildMaterial> = {
  m: { name: 'm', type: 'lit', albedo: [0.5, 0.5, 0.5], emission: [0, 0, 0], unitsPerRepeat: 64 },
};
const OPTIONS: LightingOptions = { hemisphereRays: 16, bounces: 2, supersample: 1, sunRays: 4, denoise: 1 };

const floor = (solid: string, x0: number, x1: number, y0: number, y1: number, change: Partial<Surface> = {}): Surface => {
  const winding: Vec3[] = [
    [x0, y0, 0],
    [x1, y0, 0],
    [x1, y1, 0],
    [x0, y1, 0],
  ];
  return { solid, face: 0, material: 'm', normal: [0, 0, 1], winding, uv: winding.map(() => [0, 0]), ...change };
};
const lamp = (position: Vec3, reach = 0): PointLight => ({ position, colour: [1, 1, 1], intensity: 20, reach });
const inputsOf = (surfaces: Surface[], lights: PointLight[]): LightingStageInputs => ({
  surfaces,
  materials,
  types,
  lights,
  suns: [],
  sky: { colour: [1, 1, 1], radiance: 0.2 },
  metresPerUnit: 1 / 32,
});

/** Light of a surface's chart at a point, as a texture shows it: mixed linearly between the four luxels about it. */
function shown(atlas: Atlas, values: Float32Array, surfaces: readonly Surface[], solid: string, point: Vec3): number {
  const chart = atlas.charts.find((c) => surfaces[c.surfaces[0]].solid === solid)!;
  const [x, y] = chartCoordinates(chart, point).map((v) => v - 0.5);
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const at = (a: number, b: number) => values[((chart.y + b) * atlas.width + chart.x + a) * 3];
  const [u, v] = [x - i, y - j];
  return (at(i, j) * (1 - u) + at(i + 1, j) * u) * (1 - v) + (at(i, j + 1) * (1 - u) + at(i + 1, j + 1) * u) * v;
}

function light(surfaces: Surface[], lights: PointLight[], options = OPTIONS) {
  const { scene } = lightScene(inputsOf(surfaces, lights), 4, options);
  const charts = chartLighter(scene)({ from: 0, to: blocksOf(scene.atlas).length, direct: true, hits: true });
  return { scene, charts, values: finishLight(scene, charts) };
}

describe('seams', () => {
  // Off the grid of luxels, with a steep change of light along the seam.
  const surfaces = [floor('west', 0, 37.3, 0, 50), floor('east', 37.3, 90, 0, 50)];
  it('between faces of one plane cannot be seen: both charts show the same light along their common edge', () => {
    const { scene, values } = light(surfaces, [lamp([30, 20, 12])]);
    for (let y = 3; y < 47; y += 1.7) {
      const [west, east] = ['west', 'east'].map((solid) => shown(scene.atlas, values, surfaces, solid, [37.3, y, 0]));
      expect(west).toBeGreaterThan(0.05);
      expect(Math.abs(west - east)).toBeLessThan(1e-5 * west);
    }
  });

  it('are left where faces do not meet: light of one room does not come through a wall into the next', () => {
    // A wall of two units, thinner than a luxel, stands between the floors; its two faces keep the light in.
    const wall = (x: number, normal: Vec3): Surface => {
      const winding: Vec3[] = [
        [x, 0, 0],
        [x, 50, 0],
        [x, 50, 60],
        [x, 0, 60],
      ];
      return {
        solid: `wall ${x}`,
        face: 0,
        material: 'm',
        normal,
        winding: normal[0] > 0 ? winding : winding.reverse(),
        uv: winding.map(() => [0, 0]),
      };
    };
    const rooms = [floor('west', 0, 36, 0, 50), floor('east', 38, 90, 0, 50), wall(36, [-1, 0, 0]), wall(38, [1, 0, 0])];
    const { scene, values } = light(rooms, [lamp([30, 20, 12])], { ...OPTIONS, hemisphereRays: 0 });
    expect(shown(scene.atlas, values, rooms, 'west', [35, 20, 0])).toBeGreaterThan(1);
    for (let x = 38; x < 44; x += 0.5) expect(shown(scene.atlas, values, rooms, 'east', [x, 20, 0])).toBe(0);
  });
});

describe('luxels', () => {
  it('are as wide as face, else material, else the build says', () => {
    const surfaces = [floor('own', 0, 32, 0, 32, { luxel: 0.5 }), floor('fine', 40, 72, 0, 32, { material: 'fine' }), floor('plain', 80, 112, 0, 32)];
    const inputs = { ...inputsOf(surfaces, []), materials: { ...materials, fine: { ...materials.m, name: 'fine', luxel: 0.25 } } };
    const { scene } = lightScene(inputs, 8, OPTIONS);
    const luxel = (solid: string) => scene.atlas.charts.find((c) => scene.inputs.surfaces[c.surfaces[0]].solid === solid)!.luxel;
    expect([luxel('own'), luxel('fine'), luxel('plain')]).toEqual([4, 2, 8]);
  });

  it('of faces in one plane lie on one grid', () => {
    const { charts } = layOutCharts([floor('a', 3.7, 20, 1.1, 9), floor('b', 31.3, 60, 5.9, 22)], 4);
    for (const chart of charts) for (const start of [chart.u0, chart.v0]) expect(Math.abs(start / 4 - Math.round(start / 4))).toBeLessThan(1e-9);
  });
});

describe('blocks', () => {
  const kept = (): StageCache => {
    const stored = new Map<string, Uint8Array>();
    return { get: (key) => Promise.resolve(stored.get(key) ?? null), put: (key, value) => Promise.resolve(void stored.set(key, value)) };
  };

  it('cost a moved lamp only the part of a huge floor that it reaches, with the same light as from nothing', async () => {
    const surfaces = [floor('hall', 0, 512, 0, 512)];
    const build = (cache: StageCache | undefined, x: number) =>
      buildLighting(
        inputsOf(surfaces, [lamp([x, 40, 20], 60), lamp([400, 400, 20], 60)]),
        4,
        { ...OPTIONS, hemisphereRays: 4 },
        { cache, onProgress: () => {} },
      );
    const cache = kept();
    const first = await build(cache, 40);
    expect(first.blocks).toBe(25);
    expect(first.blocksLit).toBe(25);
    const moved = await build(cache, 50);
    expect(moved.blocksLit).toBeLessThanOrEqual(2);
    expect(moved.rays).toBe(0);
    expect(moved.values).toEqual((await build(undefined, 50)).values);
  });

  it('of a face that is lit more finely are not those that were kept of it', async () => {
    const build = (cache: StageCache | undefined, luxel?: number) =>
      buildLighting(
        inputsOf([floor('west', 0, 64, 0, 64, luxel ? { luxel } : {}), floor('east', 64, 128, 0, 64)], [lamp([40, 40, 20])]),
        8,
        { ...OPTIONS, hemisphereRays: 4 },
        { cache, onProgress: () => {} },
      );
    const cache = kept();
    await build(cache);
    const finer = await build(cache, 0.5);
    expect(finer.values).toEqual((await build(undefined, 0.5)).values);
    // The way back is known in whole.
    expect((await build(cache)).rays).toBe(0);
  });
});

describe('the rough picture', () => {
  it('is near what comes out, and takes direct light in as it is computed', () => {
    const surfaces = [floor('west', 0, 37.3, 0, 50), floor('east', 37.3, 90, 0, 50)];
    const { scene, charts, values } = light(surfaces, [lamp([30, 20, 40])]);
    const rough = roughLight(scene);
    const error = () => {
      let [off, all] = [0, 0];
      for (const texel of charts.texels) {
        off += Math.abs(rough.values[texel * 3] - values[texel * 3]);
        all += values[texel * 3];
      }
      return off / all;
    };
    const before = error();
    expect(before).toBeLessThan(0.15);
    rough.refine(charts);
    expect(error()).toBeLessThan(before / 2);
  });

  it('comes before the light is done, and again with every part', async () => {
    const seen: number[] = [];
    let done = 0;
    await buildLighting(
      inputsOf([floor('hall', 0, 400, 0, 400)], [lamp([40, 40, 20])]),
      4,
      { ...OPTIONS, hemisphereRays: 4 },
      {
        onPicture: () => void seen.push(done),
        onProgress: (fraction) => (done = fraction),
      },
    );
    expect(seen[0]).toBe(0);
    expect(seen.length).toBeGreaterThan(2);
    expect(seen.every((fraction) => fraction < 0.95)).toBe(true);
  });
});
