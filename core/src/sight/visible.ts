/**
 * What can be seen of a level slice of a map from a point: the visibility polygon. Walls are line segments, the ends of
 * what solids leave of the slice. Method: an angular sweep over the ends of the segments with the nearest one kept
 * (Asano 1985, "An efficient algorithm for finding the visibility polygon for a polygonal region with holes"; from memory).
 *
 * Coordinates are x and y of the map, in units; angles in radians, counter-clockwise from +x.
 */

export type Point2 = readonly [number, number];
export type Segment = readonly [Point2, Point2];

export interface SightOptions {
  from: Point2;
  /** How far one sees, in units. */
  radius: number;
  /** Where one looks and how wide, in radians; all around without it. */
  towards?: { angle: number; width: number };
}

/** Sides of the polygon that stands for the rim of what one sees. */
const RIM = 96;
const TURN = Math.PI * 2;
const turned = (angle: number): number => ((angle % TURN) + TURN) % TURN;

/**
 * The outline of what is seen, counter-clockwise, with the point itself first where one looks one way only.
 * @returns corners; those on the rim lie on a polygon of `RIM` sides within the circle
 */
export function visiblePolygon(walls: readonly Segment[], { from, radius, towards }: SightOptions): Point2[] {
  // About the eye: nothing beyond the square around the circle counts.
  const rim: Segment[] = Array.from({ length: RIM }, (_, i) => [rimPoint(radius, i), rimPoint(radius, i + 1)]);
  const near = walls.flatMap(([a, b]): Segment[] => {
    const [p, q]: Segment = [
      [a[0] - from[0], a[1] - from[1]],
      [b[0] - from[0], b[1] - from[1]],
    ];
    return awayFromOrigin(p, q) < radius && (p[0] !== q[0] || p[1] !== q[1]) ? [[p, q]] : [];
  });
  const segments = withoutCrossings([...near, ...rim]);
  const start = towards && towards.width < TURN ? turned(towards.angle - towards.width / 2) : 0;
  const width = towards && towards.width < TURN ? towards.width : TURN;
  const corners: Point2[] = width < TURN ? [[0, 0]] : [];
  sweep(segments, start, width, corners);
  return tidy(corners).map(([x, y]) => [x + from[0], y + from[1]]);
}

const rimPoint = (radius: number, i: number): Point2 => {
  const angle = ((i % RIM) / RIM) * TURN;
  return [Math.cos(angle) * radius, Math.sin(angle) * radius];
};

function awayFromOrigin(a: Point2, b: Point2): number {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const along = Math.max(0, Math.min(1, -(a[0] * dx + a[1] * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(a[0] + dx * along, a[1] + dy * along);
}

/** Splits segments where they cross, so that between two ends the same one stays in front. */
function withoutCrossings(segments: readonly Segment[]): Segment[] {
  const cuts: number[][] = segments.map(() => []);
  const boxes = segments.map(([a, b]) => [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1])]);
  const order = segments.map((_, i) => i).sort((i, j) => boxes[i][0] - boxes[j][0]);
  for (let i = 0; i < order.length; i++)
    for (let j = i + 1; j < order.length && boxes[order[j]][0] <= boxes[order[i]][2]; j++) {
      const [p, q] = [order[i], order[j]];
      if (boxes[p][1] > boxes[q][3] || boxes[q][1] > boxes[p][3]) continue;
      const at = crossing(segments[p], segments[q]);
      if (!at) continue;
      if (at[0] > 1e-9 && at[0] < 1 - 1e-9) cuts[p].push(at[0]);
      if (at[1] > 1e-9 && at[1] < 1 - 1e-9) cuts[q].push(at[1]);
    }
  return segments.flatMap(([a, b], i) => {
    if (cuts[i].length === 0) return [[a, b] as Segment];
    const along = [0, ...cuts[i].sort((x, y) => x - y), 1];
    const point = (t: number): Point2 => (t === 0 ? a : t === 1 ? b : [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]);
    return along.slice(1).map((t, k): Segment => [point(along[k]), point(t)]);
  });
}

function crossing([a, b]: Segment, [c, d]: Segment): [number, number] | null {
  const [rx, ry, sx, sy] = [b[0] - a[0], b[1] - a[1], d[0] - c[0], d[1] - c[1]];
  const across = rx * sy - ry * sx;
  if (Math.abs(across) < 1e-12) return null;
  const [qx, qy] = [c[0] - a[0], c[1] - a[1]];
  const [t, u] = [(qx * sy - qy * sx) / across, (qx * ry - qy * rx) / across];
  return t >= -1e-9 && t <= 1 + 1e-9 && u >= -1e-9 && u <= 1 + 1e-9 ? [t, u] : null;
}

interface Swept {
  segment: Segment;
  from: number;
  to: number;
}

function sweep(segments: readonly Segment[], start: number, width: number, corners: Point2[]): void {
  const swept = segments.flatMap(([a, b]): Swept[] => {
    const turnsLeft = a[0] * b[1] - a[1] * b[0];
    // Seen from its end, a segment covers nothing.
    if (Math.abs(turnsLeft) < 1e-12) return [];
    const [first, last] = turnsLeft > 0 ? [a, b] : [b, a];
    const from = turned(Math.atan2(first[1], first[0]) - start);
    const span = turned(Math.atan2(last[1], last[0]) - Math.atan2(first[1], first[0]));
    // One that lies across the start is there from the beginning and at the end.
    return from + span > TURN
      ? [
          { segment: [first, last], from: 0, to: from + span - TURN },
          { segment: [first, last], from, to: TURN },
        ]
      : [{ segment: [first, last], from, to: from + span }];
  });
  const angles = [...new Set([0, width, ...swept.flatMap(({ from, to }) => [from, to])])]
    .filter((angle) => angle >= 0 && angle <= width)
    .sort((a, b) => a - b);
  const byStart = [...swept].sort((a, b) => a.from - b.from);
  let next = 0;
  let open: Swept[] = [];
  for (let i = 0; i + 1 < angles.length; i++) {
    const [from, to] = [angles[i], angles[i + 1]];
    while (next < byStart.length && byStart[next].from <= from + 1e-12) open.push(byStart[next++]);
    open = open.filter((one) => one.to > from + 1e-12);
    if (to - from < 1e-12) continue;
    const middle = start + (from + to) / 2;
    let nearest: Segment | null = null;
    let best = Infinity;
    for (const { segment } of open) {
      const away = along(segment, middle);
      if (away < best) {
        best = away;
        nearest = segment;
      }
    }
    if (nearest) corners.push(onRay(nearest, start + from), onRay(nearest, start + to));
  }
}

/** How far from the origin a ray meets the line of a segment. */
function along([a, b]: Segment, angle: number): number {
  const [cx, cy] = [Math.cos(angle), Math.sin(angle)];
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const across = cx * dy - cy * dx;
  return Math.abs(across) < 1e-12 ? Infinity : (a[0] * dy - a[1] * dx) / across;
}

function onRay(segment: Segment, angle: number): Point2 {
  const away = along(segment, angle);
  return [Math.cos(angle) * away, Math.sin(angle) * away];
}

/** Whether the middle of three points lies on the way from the first to the last. */
function isStraight(a: Point2, b: Point2, c: Point2): boolean {
  const across = (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0]);
  const onwards = (b[0] - a[0]) * (c[0] - b[0]) + (b[1] - a[1]) * (c[1] - b[1]);
  return Math.abs(across) < 1e-9 && onwards > 0;
}

/** Without corners that say nothing. */
function tidy(corners: readonly Point2[]): Point2[] {
  const out: Point2[] = [];
  for (const corner of corners) {
    const last = out[out.length - 1];
    if (last && Math.hypot(corner[0] - last[0], corner[1] - last[1]) < 1e-7) continue;
    const before = out[out.length - 2];
    if (before && last && isStraight(before, last, corner)) out.pop();
    out.push(corner);
  }
  if (out.length > 1 && Math.hypot(out[0][0] - out[out.length - 1][0], out[0][1] - out[out.length - 1][1]) < 1e-7) out.pop();
  // It begins anywhere, in the middle of a wall as well.
  if (out.length > 3 && isStraight(out[out.length - 1], out[0], out[1])) out.shift();
  if (out.length > 3 && isStraight(out[out.length - 2], out[out.length - 1], out[0])) out.pop();
  return out;
}

/** Twice the area that a polygon encloses, counter-clockwise positive. */
export function areaOf(polygon: readonly Point2[]): number {
  let sum = 0;
  polygon.forEach(([x, y], i) => {
    const [nx, ny] = polygon[(i + 1) % polygon.length];
    sum += x * ny - y * nx;
  });
  return sum / 2;
}

/** Whether a point lies within a polygon, by crossings of a ray. */
export function isWithin(polygon: readonly Point2[], [x, y]: Point2): boolean {
  let inside = false;
  for (let i = 0, j = polygon.length - 1; i < polygon.length; j = i++) {
    const [a, b] = [polygon[i], polygon[j]];
    if (a[1] > y !== b[1] > y && x < ((b[0] - a[0]) * (y - a[1])) / (b[1] - a[1]) + a[0]) inside = !inside;
  }
  return inside;
}
