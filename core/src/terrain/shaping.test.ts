import { describe, expect, it } from '@jest/globals';
import { encode } from 'fast-png';
import { fromArrayBuffer } from 'geotiff';
import { PNG } from 'pngjs';
import { applyEdit } from '../document/edit.ts';
import { smoothLine } from '../math/smoothLine.ts';
import { shaped, terrain } from '../testing/terrains.ts';
import { erodeGrid } from './erode.ts';
import { heightsInUnits, readHeights, writePngHeights, writeRawHeights, writeTiffHeights } from './file/heights.ts';
import { groundOf } from './ground.ts';
import { rayGround } from './ray.ts';
import { PLAIN_BRUSH } from './brush/brush.ts';
import { Stroke } from './brush/stroke.ts';
import { levelPlace, ramp, replaceHeights, road } from './reshape.ts';
import { poissonDisc } from './rule/poisson.ts';
import { pathDistance } from './rule/rebuild.ts';
import { tileThings } from './tile.ts';
import { workOnGround } from './work/groundWork.ts';

describe('weathering', () => {
  it.each(['thermal', 'hydraulic'] as const)('%s keeps the mass within 1 %%, and changes the land', (kind) => {
    const [nx, ny] = [80, 60];
    const heights = Float64Array.from({ length: nx * ny }, (_, k) => 40 + 25 * Math.sin((k % nx) / 9) * Math.cos(Math.floor(k / nx) / 7));
    const before = heights.reduce((a, b) => a + b, 0);
    const first = Float64Array.from(heights);
    let told = 0;
    erodeGrid({ nx, ny, heights }, 1, { kind, steps: 100, strength: 1, rest: 30 }, (done) => (told = done));
    expect(told).toBe(1);
    expect(Math.abs(heights.reduce((a, b) => a + b, 0) - before)).toBeLessThan(before * 0.01);
    expect(heights.some((h, k) => Math.abs(h - first[k]) > 0.5)).toBe(true);
  });

  it('slides to the angle of rest and no flatter', () => {
    const [nx, ny] = [60, 5];
    const heights = Float64Array.from({ length: nx * ny }, (_, k) => (k % nx < 30 ? 20 : 0));
    erodeGrid({ nx, ny, heights }, 1, { kind: 'thermal', steps: 4000, strength: 1, rest: 35 });
    let steepest = 0;
    for (let i = 1; i < nx; i++) steepest = Math.max(steepest, heights[2 * nx + i - 1] - heights[2 * nx + i]);
    expect((Math.atan(steepest) * 180) / Math.PI).toBeLessThan(36);
    expect((Math.atan(steepest) * 180) / Math.PI).toBeGreaterThan(30);
  });
});

describe('earthworks', () => {
  it('volumes of cut and fill are those of prisms', () => {
    const { ground } = shaped(terrain([101, 101]), () => 5);
    // A level place without a fade lifts whole samples: one square unit each.
    const { moved } = levelPlace(ground, { min: [40, 40], max: [60, 60] }, 7, 0);
    expect(moved).toEqual({ cut: 0, filled: 23 * 23 * 2 });
    expect(levelPlace(ground, { min: [40, 40], max: [60, 60] }, 2, 0).moved).toEqual({ cut: 23 * 23 * 3, filled: 0 });
  });

  it('a ramp is an even slope; a balanced road fills what it cuts', () => {
    const hill = shaped(terrain([121, 61]), (i, j) => 10 + 6 * Math.sin(i / 8) + j * 0.05);
    const made = ramp(hill.ground, [20, 30, 5], [100, 30, 21], 6, 4);
    const ground = groundOf(applyEdit(hill.map, { name: 'ramp', changes: made.changes }), 'e1')!;
    for (const i of [30, 60, 90]) expect(ground.at(i, 30)).toBeCloseTo(5 + ((i - 20) / 80) * 16, 3);
    const line = smoothLine(
      [
        [10, 30, 12],
        [60, 34, 9],
        [110, 30, 14],
      ],
      false,
      1,
    );
    const laid = road(hill.ground, line, { width: 8, shoulder: 6, camber: 0, balance: true });
    expect(laid.moved.cut).toBeGreaterThan(50);
    expect(laid.moved.filled / laid.moved.cut).toBeCloseTo(1, 2);
  });

  it('a smooth line goes through its points and stays between them', () => {
    const points: [number, number, number][] = [
      [0, 0, 0],
      [10, 0, 0],
      [10.5, 8, 0],
      [30, 8, 0],
    ];
    const line = smoothLine(points, false, 0.5);
    for (const p of points) expect(Math.min(...line.map((q) => Math.hypot(q[0] - p[0], q[1] - p[1])))).toBeLessThan(1e-9);
    expect(Math.max(...line.map((q) => q[1]))).toBeLessThan(10);
  });

  it('a ray meets the ground where it lies', () => {
    const { ground } = shaped(terrain([101, 101]), (i) => i * 0.5);
    expect(rayGround(ground, [20, 50, 100], [0, 0, -1])).toBeCloseTo(90, 6);
    const t = rayGround(ground, [0, 50, 30], [1, 0, 0])!;
    expect(t).toBeCloseTo(60, 3);
    expect(rayGround(ground, [0, 50, 80], [1, 0, 0.2])).toBeNull();
  });
});

describe('rules', () => {
  const frame = terrain([200, 200], {
    paint: { p1: { name: 'steep', seed: 1, surface: 'rock', soft: 2, slope: [30, 90] } },
    scatter: { g1: { name: 'wood', seed: 3, thing: 'pine', apart: 5, share: 1, slope: [0, 20], surfaces: ['snow'], clear: 8 } },
  });
  const land = (i: number) => (i < 100 ? 0 : (i - 100) * 1.2);

  it('cover and grow by slope, surface and distance, the same for the same seed', () => {
    const { map } = shaped(frame, land);
    const withPath = {
      ...map,
      paths: {
        w1: {
          name: 'way',
          points: [
            [50, 0, 0],
            [50, 199, 0],
          ] as [number, number, number][],
          loop: false,
        },
      },
    };
    const { changes } = workOnGround(withPath, 'e1', { kind: 'rebuild' });
    expect(workOnGround(withPath, 'e1', { kind: 'rebuild' }).changes).toEqual(changes);
    const ground = groundOf(applyEdit(withPath, { name: 'rules', changes }), 'e1')!;
    expect(ground.weightsAt(150, 50)).toEqual([0, 1]);
    expect(ground.weightsAt(50, 50)).toEqual([1, 0]);
    const things = ground.tiles.flatMap((tile) => (tile ? tileThings(tile, 'grown').map(({ x, y }) => [tile.x * 128 + x, tile.y * 128 + y]) : []));
    expect(things.length).toBeGreaterThan(250);
    const away = pathDistance(Object.values(withPath.paths), 8);
    for (const [x, y] of things) {
      expect(x).toBeLessThan(103);
      expect(away(x, y)).toBeGreaterThanOrEqual(7.9);
    }
  });

  it('made anew after the ground has changed, rules leave alone what was set by hand', () => {
    const { map, ground } = shaped(frame, land);
    const stroke = new Stroke(ground, 'paint', { ...PLAIN_BRUSH, what: 'rock', radius: 6, strength: 1, fade: 0.05 });
    stroke.to(40, 40);
    const painted = applyEdit(map, { name: 'paint', changes: stroke.finish() });
    const rebuilt = (of: typeof map) => applyEdit(of, { name: 'rules', changes: workOnGround(of, 'e1', { kind: 'rebuild' }).changes });
    const once = rebuilt(painted);
    expect(workOnGround(once, 'e1', { kind: 'rebuild' }).changes).toEqual([]);
    // The slope goes, and with it what covered it by rule; what was painted stays.
    const level = rebuilt(applyEdit(once, { name: 'level', changes: replaceHeights(groundOf(once, 'e1')!, new Float32Array(200 * 200)) }));
    expect(groundOf(level, 'e1')!.weightsAt(150, 50)).toEqual([1, 0]);
    expect(groundOf(level, 'e1')!.weightsAt(40, 40)).toEqual([0, 1]);
  });

  it('Poisson discs keep the distance and leave no room for another', () => {
    const points = poissonDisc(100, 80, 4, 9, (x) => x < 90);
    const all = Array.from({ length: points.length / 2 }, (_, k) => [points[k * 2], points[k * 2 + 1]]);
    let nearest = Infinity;
    for (let a = 0; a < all.length; a++)
      for (let b = 0; b < a; b++) nearest = Math.min(nearest, Math.hypot(all[a][0] - all[b][0], all[a][1] - all[b][1]));
    expect(nearest).toBeGreaterThanOrEqual(4);
    expect(Math.max(...all.map(([x]) => x))).toBeLessThan(90);
    // Hexagonal packing would hold 2 / (√3 r²) a unit of area; darts come to more than half of that.
    const densest = (2 / (Math.sqrt(3) * 16)) * 90 * 80;
    expect(all.length / densest).toBeGreaterThan(0.5);
  });
});

describe('files of heights', () => {
  const [w, h] = [7, 5];
  const heights = Float32Array.from({ length: w * h }, (_, k) => k * 1.5 - 3);
  const range: [number, number] = [-3, 60];

  it('a PNG with 16 bits is read back by another decoder, and by us', () => {
    const bytes = writePngHeights(heights, w, h, range);
    const png = PNG.sync.read(Buffer.from(bytes), { skipRescale: true } as never);
    expect([png.width, png.height]).toEqual([w, h]);
    const read = heightsInUnits(readHeights(bytes, 'a.png'), range, 'a.png');
    for (let k = 0; k < heights.length; k++) expect(read[k]).toBeCloseTo(heights[k], 2);
    // The first row of the picture is the one of the greatest y.
    expect(readHeights(bytes, 'a.png').values[0]).toBeGreaterThan(readHeights(bytes, 'a.png').values[w * h - 1] - 65535);
  });

  it('a TIFF of 32-bit numbers is read back by geotiff.js, and by us', async () => {
    const bytes = writeTiffHeights(heights, w, h);
    const image = await (await fromArrayBuffer(bytes.slice().buffer)).getImage();
    const [raster] = (await image.readRasters()) as unknown as Float32Array[];
    expect([image.getWidth(), image.getHeight()]).toEqual([w, h]);
    expect(raster[0]).toBe(heights[(h - 1) * w]);
    expect(heightsInUnits(readHeights(bytes, 'a.tif'), null, 'a.tif')).toEqual(heights);
  });

  it('raw numbers come back, their size asked for where it is no square', () => {
    const bytes = writeRawHeights(heights, w, h, 'f32', range);
    expect(() => readHeights(bytes, 'a.r32')).toThrow('no square');
    expect(heightsInUnits(readHeights(bytes, 'a.r32', { width: w }), null, 'a.r32')).toEqual(heights);
    const short = writeRawHeights(heights, w, h, 'u16', range);
    expect(heightsInUnits(readHeights(short, 'a.r16', { width: w }), range, 'a.r16')[8]).toBeCloseTo(heights[8], 2);
  });

  it.each([
    ['a.png', encode({ width: 4, height: 4, data: new Uint8Array(16), channels: 1, depth: 8 }), '8 bits'],
    ['a.png', encode({ width: 4, height: 4, data: new Uint16Array(48), channels: 3, depth: 16 }), 'in colour'],
    ['a.png', Uint8Array.from([1, 2, 3]), 'no PNG'],
    ['a.tif', Uint8Array.from([0x49, 0x49, 42, 0, 255, 255, 0, 0]), 'damaged'],
    ['a.tif', new Uint8Array(0), 'damaged'],
    ['a.raw', new Uint8Array(32), 'what its numbers are'],
    ['a.r16', new Uint8Array(33), 'no whole number'],
    ['a.jpg', new Uint8Array(10), 'no file of heights'],
  ])('%s that cannot be taken is a sentence that says why: %#', (file, bytes, says) => {
    expect(() => readHeights(bytes, file)).toThrow(says);
  });

  it('a picture without a range is a question', () => {
    const bytes = writePngHeights(heights, w, h, range);
    expect(() => heightsInUnits(readHeights(bytes, 'a.png'), null, 'a.png')).toThrow('which heights they mean');
  });

  it('coming in, they give the ground their size; it is one edit', () => {
    const { map } = shaped(terrain([200, 200]), (i) => i);
    const work = { kind: 'heights' as const, file: 'a.png', bytes: writePngHeights(heights, w, h, range), range, raw: {} };
    const next = applyEdit(map, { name: 'in', changes: workOnGround(map, 'e1', work).changes });
    const ground = groundOf(next, 'e1')!;
    expect([ground.nx, ground.ny, Object.keys(next.tiles)]).toEqual([w, h, ['e1_0_0']]);
    expect(ground.at(3, 2)).toBeCloseTo(heights[2 * w + 3], 2);
    expect(ground.spacing).toBe(1);
    const apart = applyEdit(map, { name: 'in', changes: workOnGround(map, 'e1', { ...work, spacing: 2.5 }).changes });
    expect(apart.terrains.e1.spacing).toBe(2.5);
  });
});
