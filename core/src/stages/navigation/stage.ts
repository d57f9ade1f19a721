import type { Finding } from '../../finding.ts';
import { collidersOf } from '../../map/member/members.ts';
import { classBox } from '../../map/objectBox.ts';
import type { GameMap, Solid } from '../../document/schema.ts';
import { boxCentre } from '../../math/box3.ts';
import { joined } from '../../math/joined.ts';
import type { Vec3 } from '../../math/vec3.ts';
import type { Climb } from '../../part/part.ts';
import { factOf, partsOf } from '../../profile/parts.ts';
import type { Profile } from '../../profile/schema.ts';
import { solidPolygons } from '../../solid/solid.ts';
import { jumpLinks, type JumpLink } from './jumps.ts';
import { areasOf, buildNavmesh, nearestOnPolygon, type Navmesh, type NavigationPlayer } from './navmesh.ts';

export interface NavigationOutput extends Navmesh {
  links: JumpLink[];
}

export interface NavigationInputs {
  /** Those that stop players. */
  solids: readonly Solid[];
  /** Triangles of the ground, nine numbers each. */
  ground?: readonly Float32Array[];
  climbs: readonly Climb[];
  player: NavigationPlayer;
  /** Side of the cells in which floors are looked for, in units. */
  cell: number;
}

export async function buildNavigation({ solids, ground = [], climbs, player, cell }: NavigationInputs): Promise<NavigationOutput> {
  const triangles = joined([collisionTriangles(solids), ...ground]);
  // Open land is looked at in cells that its size allows: nobody threads a needle there.
  const mesh = await buildNavmesh(triangles, player, ground.length > 0 ? Math.max(cell, spanOf(triangles) / MOST_CELLS) : cell);
  return { ...mesh, links: [...jumpLinks(mesh, player, solids), ...climbLinks(mesh, climbs, player)] };
}

/** Cells along the longer side of open land. */
const MOST_CELLS = 512;

/** The longer side of what triangles cover, seen from above. */
function spanOf(triangles: Float32Array): number {
  const [low, high] = [
    [Infinity, Infinity],
    [-Infinity, -Infinity],
  ];
  for (let i = 0; i < triangles.length; i += 3)
    for (const axis of [0, 1]) {
      low[axis] = Math.min(low[axis], triangles[i + axis]);
      high[axis] = Math.max(high[axis], triangles[i + axis]);
    }
  return Math.max(0, high[0] - low[0], high[1] - low[1]);
}

/** Up and down every climb that leads from one floor to another. */
function climbLinks(mesh: Navmesh, climbs: readonly Climb[], player: NavigationPlayer): JumpLink[] {
  const areas = areasOf(mesh.polygons);
  return climbs.flatMap(({ space, outwards }) => {
    const [x, y] = boxCentre(space);
    // A climber stands before it at its foot, and beyond it once it is climbed.
    const clear = Math.abs(outwards[0]) * (space.max[0] - space.min[0]) + Math.abs(outwards[1]) * (space.max[1] - space.min[1]);
    const off = clear / 2 + player.radius * 1.5;
    const foot: Vec3 = [x + outwards[0] * off, y + outwards[1] * off, space.min[2]];
    const top: Vec3 = [x - outwards[0] * off, y - outwards[1] * off, space.max[2]];
    const [low, high] = [foot, top].map((at) => polygonNear(mesh, at, player.radius * 2, player.stepHeight));
    if (low < 0 || high < 0 || areas[low] === areas[high]) return [];
    const [fromArea, toArea] = [areas[low], areas[high]];
    return [
      { from: foot, to: top, fromArea, toArea },
      { from: top, to: foot, fromArea: toArea, toArea: fromArea },
    ];
  });
}

export function collisionTriangles(solids: readonly Solid[]): Float32Array {
  const corners: number[] = [];
  for (const solid of solids)
    for (const { winding } of solidPolygons(solid))
      for (let i = 2; i < winding.length; i++) corners.push(...winding[0], ...winding[i - 1], ...winding[i]);
  return Float32Array.from(corners);
}

export interface Reach {
  /** Area of every polygon. */
  areas: number[];
  /** Areas that a player gets to from some start, on foot and by jumps. */
  reached: Set<number>;
}

/** Where players get to from the starts of a map. */
export function reachOf({ links, ...mesh }: NavigationOutput, starts: readonly Vec3[], player: NavigationPlayer): Reach {
  const areas = areasOf(mesh.polygons);
  const reached = new Set<number>();
  for (const start of starts) {
    const polygon = polygonNear(mesh, start, player.radius * 2, player.height);
    if (polygon >= 0) reached.add(areas[polygon]);
  }
  for (let grown = true; grown;) {
    grown = false;
    for (const { fromArea, toArea } of links)
      if (reached.has(fromArea) && !reached.has(toArea)) {
        reached.add(toArea);
        grown = true;
      }
  }
  return { areas, reached };
}

/** The polygon nearest to a point, within a distance along the ground and one in height; -1 where there is none. */
export function polygonNear(mesh: Navmesh, point: Vec3, across: number, height: number): number {
  let best = -1;
  let nearest = Infinity;
  mesh.polygons.forEach((polygon, i) => {
    const q = nearestOnPolygon(mesh, polygon, point);
    const away = Math.hypot(q[0] - point[0], q[1] - point[1]);
    const rise = Math.abs(q[2] - point[2]);
    if (away > across || rise > height || away + rise >= nearest) return;
    [best, nearest] = [i, away + rise];
  });
  return best;
}

/** Objects that a player has to get to: those that are operated, and volumes that wait for somebody to enter. */
function objectives(profile: Profile, map: GameMap): { id: string; name: string; at: Vec3; volume: boolean }[] {
  const heard = new Set(Object.values(map.signals).map((signal) => signal.from));
  return Object.entries(map.objects).flatMap(([id, object]) => {
    const wanted = partsOf(profile, object.class).flatMap((part) => part.objective ?? []);
    const volume = !wanted.includes('operate');
    if (wanted.length === 0 || (volume && !heard.has(id))) return [];
    return [{ id, name: object.name, at: boxCentre(classBox(profile, object)), volume }];
  });
}

/** Areas smaller than this many times the player's own floor are ledges that nobody misses. */
const WORTH_TELLING = 24;

export function navigationFindings(output: NavigationOutput, profile: Profile, map: GameMap, name: string): Finding[] {
  const { player } = profile;
  const starts = Object.values(map.objects).filter((object) => factOf(profile, object.class, 'puts'));
  if (starts.length === 0 || output.polygons.length === 0) return [];
  const { areas, reached } = reachOf(
    output,
    starts.map((s) => s.position),
    player,
  );
  const findings: Finding[] = [];
  for (const { id, name: object, at, volume } of objectives(profile, map)) {
    const near = output.polygons.some((polygon, i) => {
      if (!reached.has(areas[i])) return false;
      const q = nearestOnPolygon(output, polygon, at);
      if (volume) return Math.hypot(q[0] - at[0], q[1] - at[1]) <= boxReach(profile, map, id);
      return Math.hypot(q[0] - at[0], q[1] - at[1], q[2] + player.eyeHeight - at[2]) <= player.reach + player.radius;
    });
    if (near) continue;
    findings.push({
      code: 'unreachable-objective',
      severity: 'warning',
      stage: 'build',
      message: `No way leads from a start to ${object}: the player cannot get near enough on foot, by a step or by a jump.`,
      hint: 'Build a way, lower a step, or move it. What machinery opens later is not looked at: where a mover makes the way, all is well.',
      place: { map: name, object: id, point: at },
    });
  }
  const size = new Map<number, { area: number; at: Vec3; polygon: number }>();
  output.polygons.forEach(({ corners }, i) => {
    const points = corners.map((c) => output.vertices[c]);
    const own =
      Math.abs(points.reduce((sum, p, k) => sum + p[0] * points[(k + 1) % points.length][1] - points[(k + 1) % points.length][0] * p[1], 0)) / 2;
    const known = size.get(areas[i]);
    const middle = [0, 1, 2].map((k) => points.reduce((sum, p) => sum + p[k], 0) / points.length) as Vec3;
    if (!known) size.set(areas[i], { area: own, at: middle, polygon: own });
    else {
      known.area += own;
      if (own > known.polygon) [known.polygon, known.at] = [own, middle];
    }
  });
  for (const [area, { area: extent, at }] of size) {
    if (reached.has(area) || extent < WORTH_TELLING * (2 * player.radius) ** 2 || !enclosed(at, map)) continue;
    findings.push({
      code: 'unreachable-area',
      severity: 'note',
      stage: 'build',
      message: `Nobody gets to the floor of ${Math.round(extent)} square ${profile.unit.plural} about ${at.map((v) => Math.round(v)).join(', ')}.`,
      hint: 'If it is meant to be seen only, all is well.',
      place: { map: name, point: at },
    });
  }
  return findings;
}

const boxReach = (profile: Profile, map: GameMap, id: string): number => {
  const { min, max } = classBox(profile, map.objects[id]);
  return Math.hypot(max[0] - min[0], max[1] - min[1]) / 2 + profile.player.radius;
};

/** Whether a floor lies under something: roofs and the outsides of shells are no places that somebody misses. */
function enclosed(at: Vec3, map: GameMap): boolean {
  return collidersOf(map).some(({ box: { min, max } }) => min[2] > at[2] + 8 && at[0] > min[0] && at[0] < max[0] && at[1] > min[1] && at[1] < max[1]);
}
