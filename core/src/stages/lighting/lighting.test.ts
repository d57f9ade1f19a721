import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import type { Vec3 } from '../../math/vec3.ts';
import { projectPoint } from '../../solid/projection.ts';
import { block } from '../../solid/primitives.ts';
import { exposeFaces } from '../geometry/expose.ts';
import type { Surface } from '../surface/surface.ts';
import { buildBvh, castRay, type Hit } from './bvh.ts';
import { chartCoordinates, layOutCharts } from './charts.ts';
import type { PointLight } from '../../part/lightSource.ts';
import { cosineDirections } from './directions.ts';
import { lightAtlas, type LightingInputs, type LightingOptions } from './light.ts';

/** A horizontal square plate about the origin, facing up. */
function plate(half: number): Surface {
  const winding: Vec3[] = [
    [-half, -half, 0],
    [half, -half, 0],
    [half, half, 0],
    [-half, half, 0],
  ];
  return { solid: 's1', face: 0, material: 'm', normal: [0, 0, 1], winding, uv: winding.map(() => [0, 0]) };
}

function lightOn(
  surfaces: Surface[],
  lights: PointLight[],
  change: Partial<LightingInputs> = {},
  luxel = 0.5,
  hemisphereRays = 0,
  options: Partial<LightingOptions> = {},
) {
  const corners: number[] = [];
  const owners: number[] = [];
  surfaces.forEach((surface, i) => {
    for (let k = 2; k < surface.winding.length; k++) {
      corners.push(...surface.winding[0], ...surface.winding[k - 1], ...surface.winding[k]);
      owners.push(i);
    }
  });
  const atlas = layOutCharts(surfaces, luxel);
  const values = lightAtlas(
    {
      surfaces,
      occluders: Float32Array.from(corners),
      occluderSurface: Int32Array.from(owners),
      lights,
      suns: [],
      sky: { colour: [1, 1, 1], radiance: 0 },
      materials: { m: { albedo: [0.5, 0.5, 0.5], emission: [0, 0, 0] } },
      emitters: new Float32Array(0),
      metresPerUnit: 1 / 32,
      ...change,
    },
    atlas,
    { hemisphereRays, bounces: 1, supersample: 1, sunRays: 256, denoise: 0, ...options },
  );
  return { atlas, values };
}

const white = (position: Vec3, intensity = 100, reach = 0): PointLight => ({ position, colour: [1, 1, 1], intensity, reach });
/** The light at the origin: the mean of the four luxels about it, since the grid has a corner there. */
const middle = ({ atlas, values }: ReturnType<typeof lightOn>) => {
  const chart = atlas.charts[0];
  const [i, j] = chartCoordinates(chart, [0, 0, 0]).map(Math.round);
  const at = (x: number, y: number) => values[((chart.y + y) * atlas.width + chart.x + x) * 3];
  return (at(i - 1, j - 1) + at(i, j - 1) + at(i - 1, j) + at(i, j)) / 4;
};

describe('light', () => {
  // Outside reference: the inverse square law, E = I/d² under a point light (CIE S 017:2020, 17-21-064).
  it('falls with the square of the distance', () => {
    for (const metres of [1, 2, 4, 8]) {
      const value = middle(lightOn([plate(1)], [white([0, 0, metres * 32])]));
      expect(Math.abs(value / (100 / metres ** 2 / Math.PI) - 1)).toBeLessThan(0.01);
    }
  });

  // Outside reference: Lambert's cosine law, E = E₀ cos θ.
  it('falls with the cosine of the angle of incidence', () => {
    const straight = middle(lightOn([plate(1)], [white([0, 0, 128])]));
    for (const degrees of [15, 30, 45, 60, 75]) {
      const a = (degrees * Math.PI) / 180;
      const value = middle(lightOn([plate(1)], [white([Math.sin(a) * 128, 0, Math.cos(a) * 128])]));
      expect(value / straight).toBeCloseTo(Math.cos(a), 2);
    }
  });

  it('does not come from behind, and ends at its reach', () => {
    expect(middle(lightOn([plate(1)], [white([0, 0, -64])]))).toBe(0);
    expect(middle(lightOn([plate(1)], [white([0, 0, 64], 100, 60)]))).toBe(0);
  });

  it('is stopped by what lies between', () => {
    const lid: Surface = { ...plate(8), solid: 's2', normal: [0, 0, 1], winding: plate(8).winding.map(([x, y]) => [x, y, 32]) };
    const { atlas, values } = lightOn([plate(3), lid], [white([0, 0, 128])]);
    // Packing may reorder charts; a chart knows its surfaces.
    const sum = (surface: number) => {
      const c = atlas.charts.find((chart) => chart.surfaces.includes(surface))!;
      let total = 0;
      for (let y = c.y; y < c.y + c.h; y++) for (let x = c.x; x < c.x + c.w; x++) total += values[(y * atlas.width + x) * 3];
      return total;
    };
    expect(sum(0)).toBe(0);
    expect(sum(1)).toBeGreaterThan(0);
  });

  // A matt plate under an even sky of radiance L has E = πL, so E/π = L.
  it('of an unhidden sky is its radiance', () => {
    const result = lightOn([plate(1)], [], { sky: { colour: [1, 0.5, 0.25], radiance: 2 } }, 0.5, 64);
    expect(middle(result)).toBeCloseTo(2, 5);
  });

  it('of a spot stays within its cone and fades at the rim', () => {
    const spot = (degrees: number): number => {
      const a = (degrees * Math.PI) / 180;
      const cone = { direction: [Math.sin(a), 0, -Math.cos(a)] as Vec3, outer: Math.cos(Math.PI / 6), inner: Math.cos(Math.PI / 9) };
      return middle(lightOn([plate(1)], [{ ...white([0, 0, 64]), cone }]));
    };
    expect(spot(15)).toBeCloseTo(spot(0), 6);
    expect(spot(25)).toBeGreaterThan(0);
    expect(spot(25)).toBeLessThan(spot(15));
    expect(spot(31)).toBe(0);
  });

  // Similar triangles: behind an edge at height h, the half shadow of a sun of angle a is 2 h tan(a/2) wide.
  it('of the sun comes at its cosine, and the half shadow is as wide as its disc and the height of the edge make it', () => {
    const sun = { towards: [0, 0, 1] as Vec3, colour: [1, 1, 1] as [number, number, number], intensity: 2, size: 0 };
    expect(middle(lightOn([plate(1)], [], { suns: [sun] }))).toBeCloseTo(2, 6);
    const slanted: Vec3 = [0, Math.sin(Math.PI / 3), Math.cos(Math.PI / 3)];
    expect(middle(lightOn([plate(1)], [], { suns: [{ ...sun, towards: slanted }] }))).toBeCloseTo(1, 6);

    const size = (10 * Math.PI) / 180;
    const height = 64;
    const edge: Vec3[] = [
      [-60, -60, height],
      [0, -60, height],
      [0, 60, height],
      [-60, 60, height],
    ];
    const corners = [edge[0], edge[1], edge[2], edge[0], edge[2], edge[3]].flat();
    const occluders = { occluders: Float32Array.from(corners), occluderSurface: Int32Array.from([-1, -1]) };
    const { atlas, values } = lightOn([plate(12)], [], { suns: [{ ...sun, size }], ...occluders }, 0.5);
    const chart = atlas.charts[0];
    const row = (chart.y + (chart.h >> 1)) * atlas.width + chart.x;
    const line = Array.from({ length: chart.w }, (_, i) => values[(row + i) * 3] / 2);
    const half = line.filter((v) => v > 0.001 && v < 0.999).length * 0.5;
    expect(Math.abs(half - 2 * height * Math.tan(size / 2))).toBeLessThan(1.5);
    expect(line.some((v) => Math.abs(v - 0.5) < 0.1)).toBe(true);
  });

  it('directions weigh the hemisphere by the cosine: their mean height is 2/3', () => {
    const directions = cosineDirections(4096);
    expect(directions.reduce((sum, d) => sum + d[2], 0) / 4096).toBeCloseTo(2 / 3, 3);
    for (const d of directions) expect(Math.hypot(...d)).toBeCloseTo(1, 9);
  });
});

describe('rays', () => {
  const solids = Array.from({ length: 40 }, (_, i) =>
    block({ min: [(i * 37) % 200, (i * 53) % 180, (i * 29) % 90], max: [((i * 37) % 200) + 24, ((i * 53) % 180) + 30, ((i * 29) % 90) + 18] }, 'm'),
  );
  const corners = Float32Array.from(
    exposeFaces(solids).flatMap(({ winding }) => winding.slice(2).flatMap((p, i) => [...winding[0], ...winding[i + 1], ...p])),
  );

  // Outside reference: three-mesh-bvh on the same triangles.
  it('hit where three-mesh-bvh says', () => {
    const own = buildBvh(corners);
    const reference = new MeshBVH(new BufferGeometry().setAttribute('position', new BufferAttribute(corners, 3)));
    const hit: Hit = { triangle: -1, distance: 0 };
    // Off the grid of the blocks, where grazing rays could be judged either way.
    const coordinate = fc.integer({ min: -500, max: 2500 }).map((v) => v / 10 + 0.0371);
    fc.assert(
      fc.property(fc.tuple(coordinate, coordinate, coordinate), fc.tuple(coordinate, coordinate, coordinate), (a, b) => {
        const d = new Vector3(b[0] - a[0], b[1] - a[1], b[2] - a[2]);
        fc.pre(d.length() > 1);
        d.normalize();
        const expected = reference.raycastFirst(new Ray(new Vector3(...a), d), DoubleSide);
        const found = castRay(own, a[0], a[1], a[2], d.x, d.y, d.z, 0, 1e6, false, hit);
        expect(found).toBe(expected !== null);
        if (expected) expect(hit.distance).toBeCloseTo(expected.distance, 3);
        expect(castRay(own, a[0], a[1], a[2], d.x, d.y, d.z, 0, 1e6, true, hit)).toBe(found);
      }),
      { numRuns: 400 },
    );
  });
});

describe('charts', () => {
  it('do not overlap and lie within the atlas', () => {
    const surfaces = exposeFaces(Array.from({ length: 12 }, (_, i) => block({ min: [i * 40, 0, 0], max: [i * 40 + 30, 20 + i * 9, 40] }, 'm'))).map(
      (p): Surface => ({
        solid: String(p.solid),
        face: p.face,
        material: 'm',
        normal: block({ min: [0, 0, 0], max: [1, 1, 1] }, 'm').faces[p.face].normal,
        winding: p.winding,
        uv: [],
      }),
    );
    const { charts, width, height } = layOutCharts(surfaces, 8);
    const used = new Uint8Array(width * height);
    for (const chart of charts) {
      for (let y = chart.y; y < chart.y + chart.h; y++) {
        for (let x = chart.x; x < chart.x + chart.w; x++) {
          expect(x < width && y < height).toBe(true);
          expect(used[y * width + x]).toBe(0);
          used[y * width + x] = 1;
        }
      }
    }
  });

  it('projection keeps walls upright and repeats by the material’s size', () => {
    expect(projectPoint({ normal: [1, 0, 0] }, [0, 0, 64], 64)[1]).toBeCloseTo(-1, 9);
    expect(projectPoint({ normal: [0, 0, 1] }, [128, 0, 0], 64)[0]).toBeCloseTo(2, 9);
  });
});
