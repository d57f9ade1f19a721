/** Routes in the perspective: the ribbon as it lies on the ground, its branches, and the flights of its jumps. */

import { BufferAttribute, BufferGeometry, DoubleSide, Group, LineBasicMaterial, LineSegments, Mesh, MeshBasicMaterial } from 'three';
import type { GameMap } from '@violet-crate/core/document/schema';
import { smoothLine } from '@violet-crate/core/math/smoothLine';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Profile } from '@violet-crate/core/profile/schema';
import { ribbonOf } from '@violet-crate/core/route/ribbon';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { groundBelow, groundsOf } from '@violet-crate/core/terrain/ground';
import { jumpsAt } from './routeDraw.ts';

interface Colours {
  violet: string;
  warm: string;
}

/** @param speed at which jumps are shown, metres a second */
export function routesGroup(map: GameMap, profile: Profile, speed: number, colours: Colours): Group {
  const { metres } = profile.unit;
  const grounds = groundsOf(map);
  // As far above the ground as a mesh that is coarser from afar may come.
  const lift = profile.player.height / 4;
  const on = ([x, y, z]: readonly number[]): Vec3 => [x, y, (groundBelow(grounds, x, y)?.height ?? z) + lift];
  const strip: number[] = [];
  const lines: number[] = [];
  const line = (points: readonly Vec3[], to: number[]) => {
    for (let n = 1; n < points.length; n++) to.push(...toGltf(points[n - 1], metres), ...toGltf(points[n], metres));
  };
  const edges: number[] = [];
  for (const route of Object.values(map.routes)) {
    const ribbon = ribbonOf(map, route);
    const sides = bothSides(
      ribbon.stations.map(({ at }) => at),
      route.width / 2,
    ).map((side) => side.map(on));
    const [left, right] = sides;
    for (let n = 1; n < left.length; n++)
      for (const p of [left[n - 1], right[n - 1], right[n], left[n - 1], right[n], left[n]]) strip.push(...toGltf(p, metres));
    for (const side of sides) line(side, edges);
    for (const { points } of route.branches) line(smoothLine(points, false, route.width).map(on), edges);
    for (const { flight } of jumpsAt(map, profile, ribbon, speed)) {
      line(flight.path, lines);
      if (!flight.landing) continue;
      const r = route.width / 6;
      const [x, y, z] = flight.landing;
      for (const s of [1, -1]) line([[x - r, y - r * s, z + lift], [x + r, y + r * s, z + lift]], lines); // prettier-ignore
    }
  }
  const geometry = (points: number[]) => new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(points), 3));
  const drawn = (points: number[], colour: string) => new LineSegments(geometry(points), new LineBasicMaterial({ color: colour }));
  const band = new MeshBasicMaterial({ color: colours.violet, transparent: true, opacity: 0.3, side: DoubleSide, depthWrite: false });
  const group = new Group();
  if (strip.length > 0) group.add(new Mesh(geometry(strip), band));
  if (edges.length > 0) group.add(drawn(edges, colours.violet));
  if (lines.length > 0) group.add(drawn(lines, colours.warm));
  return group;
}

/** Lines on either side of one, level with it. */
function bothSides(points: readonly Vec3[], away: number): [Vec3[], Vec3[]] {
  const [left, right]: [Vec3[], Vec3[]] = [[], []];
  points.forEach(([x, y, z], n) => {
    const [a, b] = [points[Math.max(0, n - 1)], points[Math.min(points.length - 1, n + 1)]];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const long = Math.hypot(dx, dy) || 1;
    const [ox, oy] = [(-dy / long) * away, (dx / long) * away];
    left.push([x + ox, y + oy, z]);
    right.push([x - ox, y - oy, z]);
  });
  return [left, right];
}
