/** Bounced light against what is known in closed form. */

import { describe, expect, it } from '@jest/globals';
import type { Vec3 } from '../../math/vec3.ts';
import { roomShell } from '../../solid/primitives.ts';
import { buildGeometry } from '../geometry/stage.ts';
import type { Surface } from '../surface/surface.ts';
import type { BuildMaterial } from '../surface/materials.ts';
import { testProfile } from '../../testing/world.ts';
import { blocksOf, layOutCharts } from './charts.ts';
import { needsCoarse, withCoarseLight } from './coarse.ts';
import { chartLighter, finishLight, lightAllCharts, probeScene, type LightingInputs, type LightingOptions } from './light.ts';
import { lightProbes, matt, probeLight } from './probes.ts';
import { crewOfOne, lightScene } from './stage.ts';

const OPTIONS: LightingOptions = { hemisphereRays: 256, bounces: 1, supersample: 1, sunRays: 1, denoise: 0 };
const SIZE = 32;

const material = (name: string, albedo: number, emission: number): BuildMaterial => ({
  name,
  type: 'lit',
  albedo: [albedo, albedo, albedo],
  emission: [emission, emission, emission],
  unitsPerRepeat: 64,
});
const types = Object.fromEntries(testProfile().materialTypes.map((t) => [t.id, t]));

function square(name: string, corners: Vec3[], normal: Vec3): Surface {
  return { solid: name, face: 0, material: name, normal, winding: corners, uv: corners.map(() => [0, 0]) };
}

function lit(
  surfaces: Surface[],
  materials: Record<string, BuildMaterial>,
  options: Partial<LightingOptions>,
  change: Pick<Partial<LightingInputs>, 'lights'> = {},
  luxel = 2,
) {
  const { scene } = lightScene(
    { surfaces, materials, types, lights: [], suns: [], sky: { colour: [1, 1, 1], radiance: 0 }, metresPerUnit: 1 / 32, ...change },
    luxel,
    { ...OPTIONS, ...options },
  );
  const charts = chartLighter(scene)({ from: 0, to: blocksOf(scene.atlas).length, direct: true, hits: true });
  return { scene, charts, values: finishLight(scene, charts) };
}

/** Mean of the luxels of a surface's chart, its border left out. */
function meanOf({ scene, values }: ReturnType<typeof lit>, solid: string): number {
  const chart = scene.atlas.charts.find((c) => scene.inputs.surfaces[c.surfaces[0]].solid === solid)!;
  let sum = 0;
  for (let y = 1; y < chart.h - 1; y++) for (let x = 1; x < chart.w - 1; x++) sum += values[((chart.y + y) * scene.atlas.width + chart.x + x) * 3];
  return sum / ((chart.w - 2) * (chart.h - 2));
}

const receiver = square(
  'receiver',
  [
    [0, 0, 0],
    [SIZE, 0, 0],
    [SIZE, SIZE, 0],
    [0, SIZE, 0],
  ],
  [0, 0, 1],
);
const plates = { receiver: material('receiver', 0, 0), emitter: material('emitter', 0, 1) };

describe('bounced light against published configuration factors', () => {
  // Outside reference: J. R. Howell, "A Catalog of Radiation Heat Transfer Configuration Factors", C-11 and C-14.
  // The mean of E/π over the receiver is the factor times the emitter's radiance, 1 here.
  it('directly opposed parallel unit squares at unit distance: 0.1998', () => {
    const emitter = square(
      'emitter',
      [
        [0, 0, SIZE],
        [0, SIZE, SIZE],
        [SIZE, SIZE, SIZE],
        [SIZE, 0, SIZE],
      ],
      [0, 0, -1],
    );
    expect(Math.abs(meanOf(lit([receiver, emitter], plates, { hemisphereRays: 512 }), 'receiver') - 0.1998)).toBeLessThan(0.003);
  });

  it('perpendicular unit squares with a common edge: 0.2000', () => {
    const emitter = square(
      'emitter',
      [
        [0, 0, 0],
        [0, SIZE, 0],
        [0, SIZE, SIZE],
        [0, 0, SIZE],
      ],
      [1, 0, 0],
    );
    expect(Math.abs(meanOf(lit([receiver, emitter], plates, { hemisphereRays: 512 }), 'receiver') - 0.2)).toBeLessThan(0.004);
  });
});

const BOX = roomShell({ min: [0, 0, 0], max: [48, 40, 32] }, 16, 'wall');
/** The six inner faces of a closed room. */
function inner(reflectance: number, emission: number): { surfaces: Surface[]; materials: Record<string, BuildMaterial> } {
  const materials = { wall: material('wall', reflectance, emission) };
  const { surfaces } = buildGeometry({ solids: Object.fromEntries(BOX.map((solid, i) => [`s${i}`, solid])), materials, types }, () => {});
  const inside = surfaces.filter((s) => s.winding.every(([x, y, z]) => x > -1 && x < 49 && y > -1 && y < 41 && z > -1 && z < 33));
  return { surfaces: inside, materials };
}

describe('the furnace', () => {
  // In a closed box whose walls all give off E and reflect r, the radiosity is E / (1 - r) everywhere (radiosity equation).
  it.each([0, 0.5, 0.8])('reflectance %f: E / (1 - r) within 1 %% everywhere', (r) => {
    const { surfaces, materials } = inner(r, 1);
    expect(surfaces).toHaveLength(6);
    const { scene, charts, values } = lit(surfaces, materials, { hemisphereRays: 64, bounces: 48 }, {}, 4);
    const worst = Math.max(...[...charts.texels].map((texel) => Math.abs(values[texel * 3] * (1 - r) - 1)));
    expect(worst).toBeLessThan(0.01);
    expect(scene.atlas.charts).toHaveLength(6);
  });

  it.each([5, 16, 32])('luxels of %d, whose middles may lie on an edge, see no way out past the walls', (luxel) => {
    const { surfaces, materials } = inner(0.5, 1);
    const { charts, values } = lit(surfaces, materials, { hemisphereRays: 32, bounces: 16 }, {}, luxel);
    expect(Math.max(...[...charts.texels].map((texel) => Math.abs(values[texel * 3] * 0.5 - 1)))).toBeLessThan(0.01);
  });

  it('in two steps, as for maps whose rays do not fit into memory, is the same', async () => {
    const { surfaces, materials } = inner(0.5, 1);
    const { scene } = lit(surfaces, materials, { hemisphereRays: 32, bounces: 12 }, {}, 4);
    const budget = 20_000;
    expect(needsCoarse(scene, budget)).toBe(true);
    const whole = await withCoarseLight(scene, budget, crewOfOne, () => {});
    expect(needsCoarse({ ...scene, atlas: whole.known!.atlas }, budget)).toBe(false);
    const charts = await lightAllCharts(whole, crewOfOne(whole), {}, () => {});
    expect(charts.hits).toHaveLength(0);
    const values = finishLight(whole, charts);
    expect(Math.max(...[...charts.texels].map((texel) => Math.abs(values[texel * 3] * 0.5 - 1)))).toBeLessThan(0.01);
  });

  it('a lamp’s light comes out in two steps as in one', async () => {
    const { surfaces, materials } = inner(0.6, 0);
    const lamp = { position: [14, 12, 20] as Vec3, colour: [1, 0.8, 0.6] as [number, number, number], intensity: 10, reach: 0 };
    const once = lit(surfaces, materials, { hemisphereRays: 64, bounces: 4, denoise: 1 }, { lights: [lamp] }, 4);
    const whole = await withCoarseLight(once.scene, 80_000, crewOfOne, () => {});
    const charts = await lightAllCharts(whole, crewOfOne(whole), {}, () => {});
    const values = finishLight(whole, charts);
    let [off, all] = [0, 0];
    for (const texel of charts.texels) {
      off += Math.abs(values[texel * 3] - once.values[texel * 3]);
      all += once.values[texel * 3];
    }
    expect(off / all).toBeLessThan(0.03);
  });

  it('bounces give back less than came in: energy is conserved', () => {
    const { surfaces, materials } = inner(0.6, 0);
    const lamp = { position: [24, 20, 20] as Vec3, colour: [1, 1, 1] as [number, number, number], intensity: 10, reach: 0 };
    const once = lit(surfaces, materials, { hemisphereRays: 64, bounces: 1 }, { lights: [lamp] }, 4);
    const often = lit(surfaces, materials, { hemisphereRays: 64, bounces: 40 }, { lights: [lamp] }, 4);
    // Luxels of the border repeat the rim and stand for no area of their own.
    const within = (texel: number) => {
      const [x, y] = [texel % once.scene.atlas.width, Math.floor(texel / once.scene.atlas.width)];
      return once.scene.atlas.charts.some((c) => x > c.x && x < c.x + c.w - 1 && y > c.y && y < c.y + c.h - 1);
    };
    const power = ({ values, charts }: typeof once) => [...charts.texels].reduce((sum, t) => sum + (within(t) ? values[t * 3] : 0), 0);
    const direct = [...once.charts.texels].reduce((sum, t, i) => sum + (within(t) ? once.charts.direct[i * 3] : 0), 0);
    // One bounce brings back the share that is reflected, all bounces the geometric series of it.
    expect(Math.abs((power(once) - direct) / direct / 0.6 - 1)).toBeLessThan(0.03);
    expect(Math.abs((power(often) / direct) * (1 - 0.6) - 1)).toBeLessThan(0.03);
  });
});

describe('light in parts', () => {
  it('is the same to the bit however the charts are shared out, and what is known is not computed again', async () => {
    const { surfaces, materials } = inner(0.5, 0);
    const lamp = { position: [24, 20, 20] as Vec3, colour: [1, 0.8, 0.6] as [number, number, number], intensity: 10, reach: 0 };
    const whole = lit(surfaces, materials, { hemisphereRays: 16, supersample: 2, bounces: 3 }, { lights: [lamp] }, 2);
    const light = chartLighter(whole.scene);
    const asked: boolean[] = [];
    // Answers come back in another order than they were asked for.
    const crew = {
      run: async (task: Parameters<typeof light>[0]) => {
        asked.push(task.direct);
        await new Promise((done) => setTimeout(done, (6 - task.from) * 3));
        return light(task);
      },
      close: () => Promise.resolve(),
    };
    const shared = await lightAllCharts(whole.scene, crew, {}, () => {});
    expect(finishLight(whole.scene, shared)).toEqual(whole.values);
    const known = {
      rays: { texels: shared.texels, hits: shared.hits },
      direct: { holds: [true, true, false, true, true, true], values: shared.direct },
    };
    asked.length = 0;
    const again = await lightAllCharts(whole.scene, crew, known, () => {});
    expect(asked).toEqual([true]);
    expect(finishLight(whole.scene, again)).toEqual(whole.values);
  });

  it('the filter against grain keeps the mean and lessens the grain', () => {
    const { surfaces, materials } = inner(0.5, 0);
    const lamp = { position: [24, 20, 16] as Vec3, colour: [1, 1, 1] as [number, number, number], intensity: 10, reach: 0 };
    const grainOf = (denoise: number, hemisphereRays: number) => {
      const { scene, charts, values } = lit(surfaces, materials, { hemisphereRays, bounces: 1, denoise }, { lights: [lamp] }, 3);
      const indirect = [...charts.texels].map((t, i) => values[t * 3] - charts.direct[i * 3]);
      return { scene, indirect, mean: indirect.reduce((a, b) => a + b, 0) / indirect.length };
    };
    const [coarse, smooth, fine] = [grainOf(0, 8), grainOf(2, 8), grainOf(0, 128)];
    const error = (a: number[]) => Math.sqrt(a.reduce((sum, v, i) => sum + (v - fine.indirect[i]) ** 2, 0) / a.length);
    expect(Math.abs(smooth.mean / coarse.mean - 1)).toBeLessThan(0.02);
    expect(error(smooth.indirect)).toBeLessThan(error(coarse.indirect) * 0.8);
  });
});

describe('probes', () => {
  // Over the sphere the cosine to the light's direction is spread evenly from -1 to 1 (Archimedes' hat box).
  const over = (of: (cosine: number) => number) => Array.from({ length: 2000 }, (_, i) => of((i + 0.5) / 1000 - 1)).reduce((a, b) => a + b) / 2000;

  it('are read without negatives and without a change of the mean, between light from everywhere and from one side', () => {
    expect([-1, 0, 1].map((cosine) => matt(3, 0 * cosine, 0))).toEqual([3, 3, 3]);
    for (const strength of [0, 0.1, 0.5, 0.9, 1]) {
      expect(over((cosine) => matt(1, strength * cosine, strength))).toBeCloseTo(1, 3);
      for (const cosine of [-1, -0.5, 0, 1]) expect(matt(1, strength * cosine, strength)).toBeGreaterThanOrEqual(0);
    }
    // One far lamp: the cosine law of Lambert gives 4 times the mean in front and nothing behind.
    expect(matt(1, 1, 1)).toBeCloseTo(4, 9);
    expect(matt(1, -1, 1)).toBe(0);
    const error = (read: (cosine: number) => number) => over((cosine) => (read(cosine) - 4 * Math.max(0, cosine)) ** 2);
    expect(error((cosine) => matt(1, cosine, 1))).toBeLessThan(error((cosine) => Math.max(0, 1 + 2 * cosine)) / 2);
    // Weak directions are read as the first order reads them.
    expect(matt(1, 0.01, 0.01)).toBeCloseTo(1.02, 3);
    expect(matt(0, 0, 0)).toBe(0);
  });

  it('in the furnace see the walls’ radiosity from every side', () => {
    const { surfaces, materials } = inner(0.5, 1);
    const { scene, values } = lit(surfaces, materials, { hemisphereRays: 64, bounces: 40 }, {}, 4);
    const grid = lightProbes(probeScene(scene, values), { min: [0, 0, 0], max: [48, 40, 32] }, 16, () => true)!;
    for (const normal of [
      [0, 0, 1],
      [1, 0, 0],
      [0, -1, 0],
    ] as Vec3[])
      for (const value of probeLight(grid, [24, 20, 16], normal)!) expect(Math.abs(value / 2 - 1)).toBeLessThan(0.05);
  });

  it('are brighter towards a lamp, dark behind a wall, and interpolate between free ones only', () => {
    const { surfaces, materials } = inner(0, 0);
    const lamp = { position: [40, 20, 16] as Vec3, colour: [1, 1, 1] as [number, number, number], intensity: 10, reach: 0 };
    const { scene, values } = lit(surfaces, materials, { hemisphereRays: 0 }, { lights: [lamp] }, 4);
    const grid = lightProbes(probeScene(scene, values), { min: [0, 0, 0], max: [48, 40, 32] }, 16, ([x]) => x < 30)!;
    const at: Vec3 = [20, 20, 16];
    expect(probeLight(grid, at, [1, 0, 0])![0]).toBeGreaterThan(probeLight(grid, at, [-1, 0, 0])![0]);
    expect(probeLight(grid, [46, 20, 16], [1, 0, 0])).toBeNull();
    expect(lightProbes(probeScene(scene, values), { min: [0, 0, 0], max: [48, 40, 32] }, 0, () => true)).toBeNull();
  });

  it('a crew of one lights what a lighter lights', async () => {
    const { surfaces, materials } = inner(0.5, 0);
    const { scene, charts } = lit(surfaces, materials, { hemisphereRays: 8 }, {}, 8);
    const crew = crewOfOne(scene);
    expect(await crew.run({ from: 0, to: blocksOf(layOutCharts(surfaces, 8)).length, direct: true, hits: true })).toEqual(charts);
    await crew.close();
  });
});
