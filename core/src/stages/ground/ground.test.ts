/** Ground as it is built: meshes within their bound, what covers it, its light against closed forms, and the files of the map. */

import { describe, expect, it } from '@jest/globals';
import { applyEdit } from '../../document/edit.ts';
import { PLAIN_BRUSH } from '../../terrain/brush/brush.ts';
import { Stroke } from '../../terrain/brush/stroke.ts';
import { shaped, terrain } from '../../testing/terrains.ts';
import { collisionOf, decodeCollision, encodeCollision } from '../pack/collisionBin.ts';
import { decodeTerrains, encodeTerrains } from '../pack/terrainBin.ts';
import { decodeGround, encodeGround } from './codec.ts';
import { buildDaylight } from './daylight.ts';
import type { DaylightScene } from './scene.ts';
import { BuiltField } from './field.ts';
import { buildGround, groundFindings, groundTriangles, HOLE, type GroundInputs } from './stage.ts';

const wave = (i: number, j: number): number => 6 * Math.sin(i / 9) + 4 * Math.cos(j / 7);
const inputsOf = (map: ReturnType<typeof shaped>['map'], more: Partial<GroundInputs> = {}): GroundInputs => ({
  terrains: map.terrains,
  tiles: map.tiles,
  feels: { rock: 'stone' },
  mostThings: null,
  parameters: { groundError: 0.2, groundLevels: 3 },
  ...more,
});

describe('built ground', () => {
  const { map, ground } = shaped(terrain([257, 129], { spacing: 2, origin: [100, -50] }), wave);
  const built = buildGround(inputsOf(map), () => {});
  const [one] = built.grounds;

  it('has meshes that keep to their bound but for half of it (see RightTriangles), says by how much, and fewer triangles on each level', () => {
    expect(one.bounds.map((v) => Math.round(v * 10) / 10)).toEqual([0.2, 0.8, 3.2]);
    one.farthest.forEach((v, level) => expect(v).toBeLessThanOrEqual(one.bounds[level] * 1.5));
    const counts = one.bounds.map((_, level) => groundTriangles(one, level).length / 9);
    expect(counts[1]).toBeLessThan(counts[0]);
    expect(counts[2]).toBeLessThan(counts[1]);
    expect(counts[0]).toBeLessThan(256 * 128 * 2);
  });

  it('covers the same area as the frame, seen from above, on every level', () => {
    for (const level of [0, 1, 2]) {
      const at = groundTriangles(one, level);
      let area = 0;
      for (let k = 0; k < at.length; k += 9)
        area += ((at[k + 3] - at[k]) * (at[k + 7] - at[k + 1]) - (at[k + 6] - at[k]) * (at[k + 4] - at[k + 1])) / 2;
      expect(area).toBeCloseTo(512 * 256, 3);
    }
  });

  it('stands where the document has it', () => {
    const field = new BuiltField(one);
    for (const [x, y] of [
      [100, -50],
      [333.3, 71.9],
      [611.99, 205.99],
    ])
      expect(field.heightAt(x, y)).toBeCloseTo(ground.heightAt(x, y)!, 3);
    expect(field.heightAt(99, 0)).toBeNull();
  });

  it('is the same again, and comes back whole from the store and from the files of the map', () => {
    const bytes = encodeGround(built);
    expect(Buffer.compare(encodeGround(buildGround(inputsOf(map), () => {})), bytes)).toBe(0);
    const again = decodeGround(bytes);
    expect(Buffer.compare(encodeGround(again), bytes)).toBe(0);
    expect(again.grounds[0]).toMatchObject({ id: 'e1', nx: 257, ny: 129, spacing: 2, bounds: one.bounds, surfaces: one.surfaces });
    const [file] = decodeTerrains(encodeTerrains(built.grounds, null));
    expect(file.blocks).toHaveLength(one.blocks.length);
    expect(file).toMatchObject({ id: 'e1', nx: 257, ny: 129, surfaces: [{ material: 'snow', feel: '' }, { feel: 'stone' }], light: null });
    const same = (a: Float32Array, b: Float32Array) => expect(Buffer.compare(Buffer.from(a.buffer), Buffer.from(b.buffer))).toBe(0);
    same(groundTriangles(file, 0), groundTriangles(one, 0));
    const collision = encodeCollision(collisionOf({}, built.grounds));
    const [stops] = decodeCollision(collision).grounds;
    same(stops.heights, one.heights);
    expect(Buffer.compare(encodeCollision({ solids: [], grounds: [stops] }), collision)).toBe(0);
  });

  it('refuses a file that is cut off', () => {
    const bytes = encodeTerrains(built.grounds, null);
    expect(() => decodeTerrains(bytes.slice(0, bytes.length - 40))).toThrow();
  });
});

describe('what a ground holds', () => {
  it('leaves holes out of what stops players', () => {
    const { map, ground } = shaped(terrain([129, 129]), () => 5);
    const stroke = new Stroke(ground, 'hole', { ...PLAIN_BRUSH, radius: 6, strength: 1 });
    stroke.to(40, 40);
    const [one] = buildGround(inputsOf(applyEdit(map, { name: 'hole', changes: stroke.finish() })), () => {}).grounds;
    const field = new BuiltField(one);
    expect(one.covers.includes(HOLE)).toBe(true);
    expect(field.isThere(40, 40)).toBe(false);
    expect(field.isThere(90, 40)).toBe(true);
  });

  it('warns of more things than the game is made for, and only then', () => {
    const built = { grounds: [{ clusters: [{ kind: 0, centre: [0, 0, 0], radius: 1, things: new Float32Array(8 * 11) }] }] } as never;
    expect(groundFindings(built, { mostThings: 10, terrains: {} } as never, 'ridge')).toMatchObject([
      { code: 'things-many', place: { map: 'ridge' }, message: expect.stringMatching(/^11 scattered things.*made for 10/) },
    ]);
    expect(groundFindings(built, { mostThings: 11, terrains: {} } as never, 'ridge')).toEqual([]);
  });
});

describe('daylight', () => {
  const options = { luxel: 2, skyRays: 64, sunRays: 1 };
  const sun = (towards: [number, number, number], intensity: number): DaylightScene['suns'][number] => ({
    colour: [1, 1, 1],
    intensity,
    towards,
    size: 0,
  });
  const scene = (height: (i: number, j: number) => number, more: Partial<DaylightScene>): DaylightScene => {
    const { map } = shaped(terrain([65, 65]), height);
    const grounds = buildGround(inputsOf(map, { parameters: { groundError: 0.01, groundLevels: 1 } }), () => {}).grounds;
    return {
      grounds,
      occluders: groundTriangles(grounds[0], 0),
      error: 0.01,
      suns: [],
      lights: [],
      sky: { colour: [0, 0, 0], radiance: 0 },
      albedo: [0, 0, 0],
      metresPerUnit: 1,
      ...more,
    };
  };
  const middle = (one: { width: number; height: number; values: Float32Array }): number =>
    one.values[((one.height >> 1) * one.width + (one.width >> 1)) * 3];

  // Lambert: E = E0 · n · l, so that level ground under a sun at 30° has half of what it has under one overhead.
  it('goes with the cosine of the sun’s height on level ground', () => {
    const light = (towards: [number, number, number]) =>
      middle(
        buildDaylight(
          scene(() => 0, { suns: [sun(towards, 1)] }),
          options,
          () => {},
        ).grounds[0],
      );
    expect(light([Math.cos(Math.PI / 6), 0, 0.5]) / light([0, 0, 1])).toBeCloseTo(0.5, 3);
  });

  it('gives a slope that leans to the sun what its normal says', () => {
    const towards: [number, number, number] = [Math.SQRT1_2, 0, Math.SQRT1_2];
    const level = middle(
      buildDaylight(
        scene(() => 0, { suns: [sun(towards, 1)] }),
        options,
        () => {},
      ).grounds[0],
    );
    const facing = middle(
      buildDaylight(
        scene((i) => 64 - i, { suns: [sun(towards, 1)] }),
        options,
        () => {},
      ).grounds[0],
    );
    expect(facing / level).toBeCloseTo(Math.SQRT2, 2);
  });

  it('casts the shadow of a ridge as far as the sun’s height says', () => {
    // A wall of 10 along x = 20, the sun from the west at 45°: dark for 10, and light again beyond.
    const [one] = buildDaylight(
      scene((i) => (i >= 19 && i <= 20 ? 10 : 0), { suns: [sun([-Math.SQRT1_2, 0, Math.SQRT1_2], 1)] }),
      { ...options, luxel: 1 },
      () => {},
    ).grounds;
    const at = (x: number) => one.values[(32 * one.width + x) * 3];
    for (const x of [23, 26, 28]) expect(at(x)).toBe(0);
    for (const x of [10, 33, 40]) expect(at(x)).toBeGreaterThan(0);
  });

  it('is that of the open sky on level ground, and less in a pit', () => {
    const sky: DaylightScene['sky'] = { colour: [1, 1, 1], radiance: 1 };
    const open = middle(
      buildDaylight(
        scene(() => 0, { sky }),
        options,
        () => {},
      ).grounds[0],
    );
    const pit = middle(
      buildDaylight(
        scene((i, j) => Math.min(20, Math.hypot(i - 32, j - 32) * 2), { sky }),
        options,
        () => {},
      ).grounds[0],
    );
    expect(open).toBeGreaterThan(0);
    expect(pit).toBeLessThan(open * 0.8);
  });
});
