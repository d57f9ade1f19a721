/** The light of skies and of lamps that have a size, against what is known in closed form. */

import { describe, expect, it } from '@jest/globals';
import type { LightPicture } from '../../asset/texture/picture.ts';
import type { Vec3 } from '../../math/vec3.ts';
import { testProfile } from '../../testing/world.ts';
import type { Surface } from '../surface/surface.ts';
import { blocksOf, chartCoordinates } from './charts.ts';
import type { PointLight } from '../../part/lightSource.ts';
import { chartLighter, finishLight } from './light.ts';
import { SKY_CELLS, skyCell, skyCellLight, type Sky } from './skyCells.ts';
import { lightScene } from './stage.ts';

/** An equirectangular picture of what every direction looks like. */
function skyOf(look: (direction: Vec3) => number, width = 256): LightPicture {
  const height = width / 2;
  const light = new Float32Array(width * height * 4).fill(1);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const latitude = (0.5 - (y + 0.5) / height) * Math.PI;
      const turn = Math.PI - ((x + 0.5) / width) * 2 * Math.PI;
      const direction: Vec3 = [Math.cos(latitude) * Math.cos(turn), Math.cos(latitude) * Math.sin(turn), Math.sin(latitude)];
      light.fill(look(direction), (y * width + x) * 4, (y * width + x) * 4 + 3);
    }
  return { width, height, light };
}

const mean = (cells: Float32Array) => cells.reduce((sum, v) => sum + v, 0) / cells.length;

describe('cells of the sky', () => {
  it('are of equal solid angle: even directions fall evenly into them', () => {
    const counts = new Uint32Array(SKY_CELLS);
    const n = SKY_CELLS * 400;
    for (let i = 0; i < n; i++) {
      // A Fibonacci spiral is even over the sphere.
      const z = 1 - (2 * i + 1) / n;
      const angle = i * Math.PI * (3 - Math.sqrt(5));
      counts[skyCell(Math.sqrt(1 - z * z) * Math.cos(angle), Math.sqrt(1 - z * z) * Math.sin(angle), z)]++;
    }
    for (const count of counts) expect(Math.abs(count / 400 - 1)).toBeLessThan(0.1);
  });

  it('of one colour are all alike; a picture keeps its mean over the sphere', () => {
    const plain = skyCellLight({ colour: [1, 0.5, 0.25], radiance: 2 }, false);
    expect([...plain.slice(0, 3), ...plain.slice(-3)]).toEqual([2, 1, 0.5, 2, 1, 0.5]);
    // The mean of z² over the sphere is 1/3.
    expect(mean(skyCellLight({ colour: [1, 1, 1], radiance: 3, picture: skyOf(([, , z]) => z * z) }, false))).toBeCloseTo(1, 2);
  });

  it('leave out the picture’s sun where the map has one of its own', () => {
    const towards: Vec3 = [0, Math.SQRT1_2, Math.SQRT1_2];
    const picture = skyOf((d) => (d[0] * towards[0] + d[1] * towards[1] + d[2] * towards[2] > Math.cos(0.02) ? 1000 : 0.5));
    const [with_, without] = [false, true].map((hide) => skyCellLight({ colour: [1, 1, 1], radiance: 1, picture }, hide));
    expect(mean(with_)).toBeGreaterThan(0.55);
    expect(mean(without)).toBeCloseTo(0.5, 3);
  });
});

const types = Object.fromEntries(testProfile().materialTypes.map((t) => [t.id, t]));
const materials = { m: { name: 'm', type: 'lit', albedo: [0, 0, 0] as Vec3, emission: [0, 0, 0] as Vec3, unitsPerRepeat: 64 } };

/** Light on a small plate about a point, at the plate's middle or along x. */
function onPlate(corners: Vec3[], normal: Vec3, sky: Sky, lights: PointLight[] = [], occluder: Vec3[] = [], luxel = 2) {
  const surface: Surface = { solid: 's', face: 0, material: 'm', normal, winding: corners, uv: corners.map(() => [0, 0]) };
  const given = { surfaces: [surface], materials, types, lights, suns: [], sky, metresPerUnit: 1 / 32 };
  const { scene } = lightScene(given, luxel, { hemisphereRays: sky.radiance > 0 ? 1024 : 0, bounces: 1, supersample: 1, sunRays: 256, denoise: 0 });
  if (occluder.length > 0) {
    const triangles = [occluder[0], occluder[1], occluder[2], occluder[0], occluder[2], occluder[3]].flat();
    scene.inputs = { ...scene.inputs, occluders: Float32Array.from(triangles), occluderSurface: Int32Array.from([-1 - 0x3fffffff, -1 - 0x3fffffff]) };
  }
  const charts = chartLighter(scene)({ from: 0, to: blocksOf(scene.atlas).length, direct: true, hits: true });
  const values = finishLight(scene, charts);
  const [chart] = scene.atlas.charts;
  return (point: Vec3) => {
    const [i, j] = chartCoordinates(chart, point).map(Math.floor);
    return values[((chart.y + j) * scene.atlas.width + chart.x + i) * 3];
  };
}

const flat = (half: number): Vec3[] => [
  [-half, -half, 0],
  [half, -half, 0],
  [half, half, 0],
  [-half, half, 0],
];

describe('a sky by picture', () => {
  // Outside reference: the configuration factor of half an even sphere is 1 for a plate that faces it, 1/2 for one on edge.
  const upper: Sky = { colour: [1, 1, 1], radiance: 1, picture: skyOf(([, , z]) => (z > 0 ? 1 : 0)) };
  it('white above and black below lights a floor by 1, a wall by 1/2 and a ceiling not at all', () => {
    expect(onPlate(flat(2), [0, 0, 1], upper)([1, 1, 0])).toBeCloseTo(1, 2);
    const wall = flat(2).map(([a, b]): Vec3 => [0, a, b]);
    expect(Math.abs(onPlate(wall, [1, 0, 0], upper)([0, 1, 1]) - 0.5)).toBeLessThan(0.01);
    expect(onPlate(flat(2).reverse(), [0, 0, -1], upper)([1, 1, 0])).toBeCloseTo(0, 2);
  });

  it('bright in the east lights what faces east', () => {
    const east: Sky = { colour: [1, 1, 1], radiance: 1, picture: skyOf(([x]) => Math.max(0, x)) };
    const wall = flat(2).map(([a, b]): Vec3 => [0, a, b]);
    // ∫ cos² over the hemisphere / π = 2/3 where the wall faces it.
    expect(Math.abs(onPlate(wall, [1, 0, 0], east)([0, 1, 1]) - 2 / 3)).toBeLessThan(0.02);
    expect(onPlate([...wall].reverse(), [-1, 0, 0], east)([0, 1, 1])).toBeCloseTo(0, 2);
  });
});

describe('a lamp that has a size', () => {
  const dark: Sky = { colour: [1, 1, 1], radiance: 0 };
  const ball: PointLight = { position: [0, 0, 96], colour: [1, 1, 1], intensity: 40, reach: 0, radius: 8 };

  it('lights the open as a point does', () => {
    const at: Vec3 = [1, 1, 0];
    expect(onPlate(flat(4), [0, 0, 1], dark, [ball])(at)).toBeCloseTo(onPlate(flat(4), [0, 0, 1], dark, [{ ...ball, radius: 0 }])(at), 9);
  });

  // Similar triangles: an edge at height h under a disc of radius r at height H throws a half shadow 2 r h / (H - h) wide.
  it('throws a half shadow as wide as its disc and the height of the edge make it', () => {
    const h = 32;
    const edge: Vec3[] = [
      [-200, -200, h],
      [0, -200, h],
      [0, 200, h],
      [-200, 200, h],
    ];
    const strip: Vec3[] = [
      [-16, 0, 0],
      [16, 0, 0],
      [16, 2, 0],
      [-16, 2, 0],
    ];
    const along = (radius: number) => {
      const [hidden, open] = [edge, []].map((occluder) => onPlate(strip, [0, 0, 1], dark, [{ ...ball, radius }], occluder, 0.5));
      const shares = Array.from({ length: 60 }, (_, i): Vec3 => [-15 + i * 0.5 + 0.25, 1, 0]).map((point) => hidden(point) / open(point));
      return shares.filter((share) => share > 0.001 && share < 0.999).length * 0.5;
    };
    expect(Math.abs(along(8) - (2 * 8 * h) / (96 - h))).toBeLessThan(1.5);
    expect(along(0)).toBeLessThanOrEqual(0.5);
  });
});
