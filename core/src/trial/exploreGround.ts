/** Where a walker can go in a running world as it stands now: solids, and whatever its objects have opened or closed. */

import { importNavMesh, NavMeshQuery, type NavMesh } from '@recast-navigation/core';
import type { Solid } from '../document/schema.ts';
import { boxCentre, type Box3 } from '../math/box3.ts';
import { distance, type Vec3 } from '../math/vec3.ts';
import { areasOf, nearestOnPolygon, toRecast } from '../stages/navigation/navmesh.ts';
import { buildNavigation, polygonNear, type NavigationOutput } from '../stages/navigation/stage.ts';
import type { Obstacle } from './collide.ts';
import type { TrialWorld } from './world.ts';

/** A piece of a way: straight to a point, on foot, by a jump or drop, or up or down something that is climbed. */
export interface Leg {
  to: Vec3;
  how: 'walk' | 'jump' | 'climb';
}

/** What a jump counts for more than walking as far, in heights of the player: ways on foot are surer. */
const JUMP_COST = 4;

export class Ground {
  private readonly areas: number[];
  private readonly mesh: NavMesh | null;
  private readonly query: NavMeshQuery | null;
  private constructor(
    private readonly output: NavigationOutput,
    private readonly world: TrialWorld,
  ) {
    this.areas = areasOf(output.polygons);
    this.mesh = output.detour.length > 0 ? importNavMesh(output.detour).navMesh : null;
    this.query = this.mesh && new NavMeshQuery(this.mesh);
  }

  static async of(world: TrialWorld): Promise<Ground> {
    const { player } = world.profile;
    // People come and go, and are walked round.
    const solids = [...world.standing()].filter(({ id }) => !world.people.has(id)).map(solidOf);
    const climbs = [...world.objects].flatMap((item) => item.climbs);
    const cell = Math.max(1, Math.round(player.radius / 2));
    return new Ground(await buildNavigation({ solids, climbs, player, cell }), world);
  }

  /** What the ground of a world depends on: the same text where the ground is the same. */
  static keyOf(world: TrialWorld): string {
    return [...world.objects.standing()]
      .filter(({ id }) => !world.people.has(id))
      .map(({ id, box }) => `${id} ${[...box.min, ...box.max].map((v) => Math.round(v)).join(' ')}`)
      .join(';');
  }

  free(): void {
    this.mesh?.destroy();
  }

  /** Number of the connected area below a point; -1 where there is none. */
  areaAt(point: Vec3): number {
    const { player } = this.world.profile;
    const polygon = polygonNear(this.output, point, player.radius * 3, player.height);
    return polygon < 0 ? -1 : this.areas[polygon];
  }

  /** Areas that are reached from one, by links too. */
  from(area: number): Set<number> {
    const reached = new Set([area]);
    for (let grown = true; grown;) {
      grown = false;
      for (const { fromArea, toArea } of this.output.links)
        if (reached.has(fromArea) && !reached.has(toArea)) {
          reached.add(toArea);
          grown = true;
        }
    }
    return reached;
  }

  /** Points of the ground from which a box is in reach, nearest to it first; with `within`, those that are in it. */
  pointsAt(box: Box3, reached: ReadonlySet<number>, within: boolean): Vec3[] {
    const { player } = this.world.profile;
    const centre = boxCentre(box);
    const found: { at: Vec3; away: number }[] = [];
    this.output.polygons.forEach((polygon, i) => {
      if (!reached.has(this.areas[i])) return;
      const at = nearestOnPolygon(this.output, polygon, centre);
      if (within) {
        const inside = [0, 1].every((k) => at[k] > box.min[k] - player.radius * 0.5 && at[k] < box.max[k] + player.radius * 0.5);
        if (!inside || at[2] > box.max[2] || at[2] + player.height < box.min[2]) return;
        found.push({ at, away: Math.hypot(at[0] - centre[0], at[1] - centre[1]) });
      } else {
        const eye: Vec3 = [at[0], at[1], at[2] + player.eyeHeight];
        const nearest = [0, 1, 2].map((k) => Math.min(box.max[k], Math.max(box.min[k], eye[k]))) as Vec3;
        const away = distance(nearest, eye);
        if (away <= player.reach) found.push({ at, away });
      }
    });
    return found.sort((a, b) => a.away - b.away).map(({ at }) => at);
  }

  /** The way from one point to another, or null where there is none. */
  way(from: Vec3, to: Vec3): Leg[] | null {
    const [start, end] = [this.areaAt(from), this.areaAt(to)];
    if (start < 0 || end < 0) return null;
    if (start === end) return this.walk(from, to);
    const { links } = this.output;
    const { player } = this.world.profile;
    // Dijkstra over the links; where each is come from, and how far it is to its far end.
    const far = links.map(() => Infinity);
    const before = links.map(() => -1);
    const open = new Set<number>();
    links.forEach((link, i) => {
      if (link.fromArea !== start) return;
      far[i] = distance(from, link.from) + distance(link.from, link.to) + JUMP_COST * player.height;
      open.add(i);
    });
    let last = -1;
    let shortest = Infinity;
    while (open.size > 0) {
      let at = -1;
      for (const i of open) if (at < 0 || far[i] < far[at]) at = i;
      open.delete(at);
      if (far[at] >= shortest) break;
      if (links[at].toArea === end && far[at] + distance(links[at].to, to) < shortest) {
        shortest = far[at] + distance(links[at].to, to);
        last = at;
      }
      links.forEach((link, i) => {
        if (link.fromArea !== links[at].toArea) return;
        const along = far[at] + distance(links[at].to, link.from) + distance(link.from, link.to) + JUMP_COST * player.height;
        if (along >= far[i]) return;
        far[i] = along;
        before[i] = at;
        open.add(i);
      });
    }
    if (last < 0) return null;
    const chain: number[] = [];
    for (let at = last; at >= 0; at = before[at]) chain.unshift(at);
    const legs: Leg[] = [];
    let here = from;
    for (const i of chain) {
      const link = links[i];
      const walk = this.walk(here, link.from);
      if (!walk) return null;
      legs.push(...walk, { to: link.to, how: this.climbs(link.from, link.to) ? 'climb' : 'jump' });
      here = link.to;
    }
    const rest = this.walk(here, to);
    return rest && [...legs, ...rest];
  }

  private climbs(from: Vec3, to: Vec3): boolean {
    const near = this.world.profile.player.radius * 3;
    return [...this.world.objects].some(({ climbs }) =>
      climbs.some(({ space: { min, max } }) =>
        [from, to].every((p) => p[0] > min[0] - near && p[0] < max[0] + near && p[1] > min[1] - near && p[1] < max[1] + near),
      ),
    );
  }

  /** On foot within one area. */
  private walk(from: Vec3, to: Vec3): Leg[] | null {
    if (!this.query) return null;
    const { radius, height } = this.world.profile.player;
    const [a, b] = [from, to].map((p) => {
      const [x, y, z] = toRecast(p);
      return { x, y, z };
    });
    const { success, path } = this.query.computePath(a, b, { halfExtents: { x: radius * 3, y: height, z: radius * 3 } });
    if (!success) return null;
    const legs = path.map(({ x, y, z }): Leg => ({ to: [x, 0 - z, y], how: 'walk' }));
    const end = legs.at(-1)?.to;
    return end && Math.hypot(end[0] - to[0], end[1] - to[1]) <= radius * 3 ? legs : null;
  }
}

/** What navigation asks of a solid is its planes. */
const solidOf = ({ planes }: Obstacle): Solid => ({ faces: planes.map(([x, y, z, d]) => ({ normal: [x, y, z], distance: d })) }) as unknown as Solid;
