import { expect, test } from '@jest/globals';
import { chance } from '../math/chance.ts';
import { areaOf, isWithin, visiblePolygon, type Point2, type Segment } from './visible.ts';

const box = (x0: number, y0: number, x1: number, y1: number): Segment[] => [
  [
    [x0, y0],
    [x1, y0],
  ],
  [
    [x1, y0],
    [x1, y1],
  ],
  [
    [x1, y1],
    [x0, y1],
  ],
  [
    [x0, y1],
    [x0, y0],
  ],
];

/** Whether a straight way between two points is free of walls: the definition of being seen. */
function isFree(walls: readonly Segment[], from: Point2, to: Point2): boolean {
  const side = (a: Point2, b: Point2, c: Point2) => (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
  return !walls.some(([a, b]) => side(a, b, from) * side(a, b, to) < 0 && side(from, to, a) * side(from, to, b) <= 0);
}

test('in an empty room all of it is seen', () => {
  const seen = visiblePolygon(box(0, 0, 4, 3), { from: [1, 1], radius: 100 });
  expect(areaOf(seen)).toBeCloseTo(12, 9);
  expect(seen).toHaveLength(4);
});

/**
 * A room of 4 by 4 with a bend: its lower right quarter is a pillar. Seen from (1, 3), the shadow of the corner (2, 2) falls
 * along the line x + y = 4, so that of the lower left quarter everything is seen (elementary geometry).
 */
test('a bend hides what lies behind its corner', () => {
  const bend: Segment[] = [
    [
      [0, 0],
      [2, 0],
    ],
    [
      [2, 0],
      [2, 2],
    ],
    [
      [2, 2],
      [4, 2],
    ],
    [
      [4, 2],
      [4, 4],
    ],
    [
      [4, 4],
      [0, 4],
    ],
    [
      [0, 4],
      [0, 0],
    ],
  ];
  expect(areaOf(visiblePolygon(bend, { from: [1, 3], radius: 50 }))).toBeCloseTo(12, 9);
  // From (3.5, 3) the line past (2, 2) meets x = 0 at y = 2/3: a triangle of 2 by 4/3 is seen below y = 2, of the 4 that are there.
  expect(areaOf(visiblePolygon(bend, { from: [3.5, 3], radius: 50 }))).toBeCloseTo(8 + (2 * (4 / 3)) / 2, 9);
});

test('one looks one way, and so far', () => {
  const seen = visiblePolygon([], { from: [5, 5], radius: 2, towards: { angle: 0, width: Math.PI / 2 } });
  expect(seen[0]).toEqual([5, 5]);
  expect(isWithin(seen, [6, 5.5])).toBe(true);
  expect(isWithin(seen, [4, 5])).toBe(false);
  expect(isWithin(seen, [6, 6.5])).toBe(false);
  expect(Math.abs(areaOf(seen) - Math.PI)).toBeLessThan(0.01);
});

test('ten thousand points are seen or not as single rays have it', () => {
  const random = chance(20261127);
  const near = (point: Point2, [a, b]: Segment): number => {
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const along = Math.max(0, Math.min(1, ((point[0] - a[0]) * dx + (point[1] - a[1]) * dy) / (dx * dx + dy * dy)));
    return Math.hypot(point[0] - a[0] - dx * along, point[1] - a[1] - dy * along);
  };
  let asked = 0;
  let wrong = 0;
  for (let scene = 0; scene < 50; scene++) {
    const walls: Segment[] = [];
    for (let n = 0; n < 12; n++) {
      const [x, y] = [random() * 90, random() * 90];
      // Boxes that overlap, and walls of no width.
      if (n % 3 < 2) walls.push(...box(x, y, x + 2 + random() * 20, y + 2 + random() * 20));
      else
        walls.push([
          [x, y],
          [random() * 100, random() * 100],
        ]);
    }
    const from: Point2 = [random() * 100, random() * 100];
    const radius = 20 + random() * 80;
    const seen = visiblePolygon(walls, { from, radius });
    for (let n = 0; n < 260 && asked < 10_000; n++) {
      const point: Point2 = [random() * 100, random() * 100];
      const away = Math.hypot(point[0] - from[0], point[1] - from[1]);
      // The rim is a polygon; and on an edge rounding decides.
      if (away > radius * 0.999) continue;
      const edge = seen.some((corner, i) => near(point, [corner, seen[(i + 1) % seen.length]]) < 1e-6);
      if (edge) continue;
      asked++;
      if (isWithin(seen, point) !== isFree(walls, from, point)) wrong++;
    }
  }
  expect(asked).toBeGreaterThan(6000);
  expect(wrong).toBe(0);
});
