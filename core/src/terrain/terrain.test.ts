import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { applyEdit, invertEdit } from '../document/edit.ts';
import type { Tile } from '../document/schema.ts';
import { maungawhau, shaped, terrain } from '../testing/terrains.ts';
import { contourInterval, contours } from './contours.ts';
import { groundOf } from './ground.ts';
import { packBytes, packNumbers, packThings, TILE_SAMPLES, unpackBytes, unpackNumbers, unpackThings } from './pack.ts';
import { groundProfile } from './profileLine.ts';
import { aspectOfGradient, gradient, gridHeights, hillShade, slopeOfGradient } from './relief.ts';
import { tileDamage } from './tile.ts';

describe('packing of tiles', () => {
  it('gives back the very numbers, of both depths', () => {
    fc.assert(
      fc.property(fc.constantFrom('u16' as const, 'f32' as const), fc.integer(), (depth, seed) => {
        const most = depth === 'u16' ? 0xffff : 0xffffffff;
        const values = Uint32Array.from({ length: TILE_SAMPLES }, (_, i) => (Math.imul(seed + i, 2654435761) >>> 0) & most);
        expect(unpackNumbers(packNumbers(values, depth), depth)).toEqual(values);
      }),
      { numRuns: 10 },
    );
    const bytes = Uint8Array.from({ length: TILE_SAMPLES }, (_, i) => (i * 37) >> 3);
    expect(unpackBytes(packBytes(bytes), TILE_SAMPLES)).toEqual(bytes);
  });

  it('keeps things to a few centimetres of a tile of 128 quads', () => {
    const things = [
      { kind: 3, x: 12.345, y: 127.99, turn: 0.25, size: 1 },
      { kind: 0, x: 0, y: 0, turn: 0, size: 0.5 },
    ];
    const [a, b] = unpackThings(packThings(things))!;
    expect([a.kind, a.turn, a.size]).toEqual([3, 0.25, 1]);
    expect(a.x).toBeCloseTo(12.345, 2);
    expect(b.size).toBeCloseTo(0.5, 2);
  });

  it.each(['', 'AAAA', 'not base64 at all!', packBytes(new Uint8Array(7)), packBytes(new Uint8Array(TILE_SAMPLES * 4))])(
    'what is damaged or of another length is told, not taken: %#',
    (text) => {
      expect(unpackNumbers(text, 'u16')).toBeNull();
      const tile: Tile = { terrain: 'e1', x: 0, y: 0, heights: text, holes: text, hand: { snow: text } };
      expect(tileDamage(tile, terrain([128, 128], { depth: 'u16' })).length).toBeGreaterThan(1);
    },
  );

  it('16 bits keep a height to half a step, and keep what they keep', () => {
    const frame = terrain([130, 130], { depth: 'u16', range: [0, 655.35] });
    const { ground, map } = shaped(frame, (i, j) => i * 1.234 + j * 0.777);
    expect(ground.at(100, 50)).toBeCloseTo(123.4 + 38.85, 1);
    const again = shaped(frame, (i, j) => ground.at(i, j));
    expect(JSON.stringify(again.map.tiles)).toBe(JSON.stringify(map.tiles));
  });
});

describe('ground', () => {
  it('is one surface of triangles: exact on every plane, over tile borders and along the edges', () => {
    const { ground } = shaped(terrain([200, 140], { spacing: 2, origin: [10, -20] }), (i, j) => 3 * i - 2 * j);
    for (const [x, y] of [
      [10, -20],
      [265.3, -7.7],
      [266.5, 236],
      [408, 258],
      [137.25, 99.5],
    ])
      expect(ground.heightAt(x, y)).toBeCloseTo((3 * (x - 10)) / 2 - (2 * (y + 20)) / 2, 3);
    expect(ground.heightAt(9.9, 0)).toBeNull();
    const normal = ground.normalAt(100, 100);
    expect(normal[0] / normal[2]).toBeCloseTo(-1.5, 5);
    expect(normal[1] / normal[2]).toBeCloseTo(1, 5);
  });

  it('an edit of tiles is undone exactly', () => {
    const { map } = shaped(terrain([200, 200]), (i) => i);
    const edit = { name: 'dig', changes: [{ of: 'tiles' as const, id: 'e1_0_0', to: null }] };
    const after = applyEdit(map, edit);
    expect(groundOf(after, 'e1')!.at(5, 5)).toBe(0);
    expect(applyEdit(after, invertEdit(map, edit))).toEqual(map);
  });

  it('a profile has the heights of every edge that it crosses, and stops at holes', () => {
    const { ground } = shaped(terrain([129, 129]), (i, j) => Math.abs(i - 60) + 0 * j);
    const [piece] = groundProfile(ground, [0, 10.25], [128, 10.25]);
    expect(piece[0]).toEqual({ along: 0, height: 60 });
    expect(piece.find(({ along }) => Math.abs(along - 60) < 1e-6)?.height).toBeCloseTo(0, 5);
    const climb = piece.reduce((sum, p, i) => sum + (i > 0 ? Math.abs(p.height - piece[i - 1].height) : 0), 0);
    expect(climb).toBeCloseTo(128, 4);
  });
});

describe('relief of Maunga Whau (open data, 10 m)', () => {
  const { width, height, values } = maungawhau();
  // The grid's first row is its northern one.
  const heights = gridHeights(
    Float32Array.from({ length: width * height }, (_, k) => values[(height - 1 - Math.floor(k / width)) * width + (k % width)]),
    width,
    height,
  );
  const z = (i: number, j: number) => heights.at(i, j);

  it('has the size that is published', () => {
    expect([width, height, Math.min(...values), Math.max(...values)]).toEqual([87, 61, 94, 195]);
  });

  it('slope and aspect are Horn’s, written out for every inner sample', () => {
    for (let j = 1; j < height - 1; j++)
      for (let i = 1; i < width - 1; i++) {
        // Horn 1981, equations for the weighted differences: (c + 2f + i) − (a + 2d + g), over eight spacings.
        const dx = (z(i + 1, j + 1) + 2 * z(i + 1, j) + z(i + 1, j - 1) - z(i - 1, j + 1) - 2 * z(i - 1, j) - z(i - 1, j - 1)) / 80;
        const dy = (z(i - 1, j + 1) + 2 * z(i, j + 1) + z(i + 1, j + 1) - z(i - 1, j - 1) - 2 * z(i, j - 1) - z(i + 1, j - 1)) / 80;
        const [gx, gy] = gradient(heights, i, j, 10);
        expect(gx).toBeCloseTo(dx, 9);
        expect(gy).toBeCloseTo(dy, 9);
      }
  });

  it('a plane has its own slope, aspect and shade, at the edges too', () => {
    const plane = gridHeights(
      Float32Array.from({ length: 25 }, (_, k) => (k % 5) * 3),
      5,
      5,
    );
    for (const [i, j] of [
      [0, 0],
      [2, 2],
      [4, 1],
    ]) {
      const g = gradient(plane, i, j, 3);
      expect(slopeOfGradient(g)).toBeCloseTo(45, 9);
      expect(aspectOfGradient(g)).toBeCloseTo(180, 9);
      // Lit square on from the west at 45°, and not at all from the east.
      expect(hillShade(180, 45)(g)).toBeCloseTo(1, 9);
      expect(hillShade(0, 45)(g)).toBeCloseTo(0, 9);
    }
    expect(aspectOfGradient([0, 0])).toBeNull();
  });

  it('contours lie on their level, close or end at the edge, and never cross', () => {
    const lines = contours(heights, 10);
    expect(lines.length).toBeGreaterThan(15);
    for (const { level, points, closed } of lines) {
      const at = (n: number): [number, number] => [points[n * 2], points[n * 2 + 1]];
      const count = points.length / 2;
      for (let n = 0; n < count; n++) {
        const [x, y] = at(n);
        const [i, j] = [Math.min(width - 2, Math.floor(x)), Math.min(height - 2, Math.floor(y))];
        const [s, t] = [x - i, y - j];
        const [a, b, c, d] = [z(i, j), z(i + 1, j), z(i, j + 1), z(i + 1, j + 1)];
        const h = s + t <= 1 ? a + (b - a) * s + (c - a) * t : d + (c - d) * (1 - s) + (b - d) * (1 - t);
        expect(h).toBeCloseTo(level, 6);
      }
      const [first, last] = [at(0), at(count - 1)];
      if (closed) expect(first).toEqual(last);
      else for (const [x, y] of [first, last]) expect(Math.min(x, y, width - 1 - x, height - 1 - y)).toBeCloseTo(0, 9);
    }
    // Levels are asked for in round numbers, further apart the farther one looks from.
    expect([contourInterval(2), contourInterval(0.2), contourInterval(0.02)]).toEqual([10, 100, 1000]);
  });
});
