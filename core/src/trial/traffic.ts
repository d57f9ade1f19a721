/**
 * What happens when something that parts move meets what is in its way, and who rides along on it. By their property
 * `blocked` such things `stop` (and so does any other value), `push` while there is room, or `crush`: go on whatever becomes of it.
 */

import { boxesTouch, type Box3 } from '../math/box3.ts';
import { posePoint, turnVector, type Pose, type Quat } from '../math/pose.ts';
import { addScaled, sub, type Vec3 } from '../math/vec3.ts';
import type { Item } from '../part/part.ts';
import type { Profile } from '../profile/schema.ts';
import type { Bodies } from './bodies.ts';
import { overlapping, poseObstacle, SKIN, sweepBox, type Half, type Obstacle } from './collide.ts';
import { heightOf, type Walker } from './move.ts';

/** How far above the top of a thing something may lie and still ride on it, in units. */
const ON_TOP = SKIN * 8;

export interface TrafficWorld {
  walkers(): Iterable<Walker>;
  readonly bodies: Bodies | null;
  readonly profile: Profile;
  near(box: Box3): Obstacle[];
  /** Somebody is crushed by it. */
  crush(item: Item, walker: Walker): void;
}

export class Traffic {
  constructor(private readonly world: TrafficWorld) {}

  /**
   * Moves whoever is in the way of, or on, a thing that goes from one pose to another.
   *
   * @param rest the thing where the map has it
   * @returns whether it has to stay where it was
   */
  blocked(item: Item, rest: Obstacle, was: Pose, now: Pose): boolean {
    const rule = item.properties.blocked;
    const origin = item.object.position;
    const [before, after] = [poseObstacle(rest, was, origin), poseObstacle(rest, now, origin)];
    if (rule !== 'push' && rule !== 'crush' && this.meetsBody(before, after)) return true;
    for (const walker of this.world.walkers()) {
      if (walker.flying) continue;
      const rides = walker.ground?.id === item.id;
      if (!rides && overlapping([after], this.centre(walker), this.half(walker)).length === 0) continue;
      if (!rides && rule !== 'push' && rule !== 'crush') return true;
      const way = sub(posePoint(now, origin, this.restOf(was, origin, walker.feet)), walker.feet);
      if (this.shift(walker, way, item.id)) continue;
      if (rule !== 'crush') return true;
      this.world.crush(item, walker);
    }
    return false;
  }

  /** Moves a player along by what it stands on. */
  ride(walker: Walker, way: Vec3): void {
    if (way.some((v) => v !== 0)) this.shift(walker, way, walker.ground?.id ?? '');
  }

  /** As far as there is room; false where that is not all the way. `ignored` is what does the moving. */
  private shift(walker: Walker, way: Vec3, ignored: string): boolean {
    const half = this.half(walker);
    const from = this.centre(walker);
    const swept: Box3 = {
      min: from.map((v, a) => v - half[a] - Math.abs(way[a]) - 1) as Vec3,
      max: from.map((v, a) => v + half[a] + Math.abs(way[a]) + 1) as Vec3,
    };
    const others = this.world.near(swept).filter(({ id }) => id !== ignored);
    const { fraction } = sweepBox(others, from, half, way);
    walker.feet = addScaled(walker.feet, way, fraction);
    return fraction >= 1;
  }

  /** Whether the thing would come into a body that does not ride on it. */
  private meetsBody(before: Obstacle, after: Obstacle): boolean {
    const { bodies } = this.world;
    if (!bodies) return false;
    for (const id of bodies.ids()) {
      const box = bodies.boxOf(id)!;
      if (box.min[2] >= before.box.max[2] - ON_TOP || !boxesTouch(box, after.box, -SKIN)) continue;
      const half = box.max.map((v, a) => (v - box.min[a]) / 2 - SKIN) as Vec3;
      const centre = box.max.map((v, a) => (v + box.min[a]) / 2) as Vec3;
      if (overlapping([after], centre, half).length > 0) return true;
    }
    return false;
  }

  /** Where a point that moved with a thing lay on it at rest. */
  private restOf({ offset, turn }: Pose, origin: Vec3, point: Vec3): Vec3 {
    const back: Quat = [-turn[0], -turn[1], -turn[2], turn[3]];
    return addScaled(origin, turnVector(back, sub(sub(point, origin), offset)), 1);
  }

  private half(walker: Walker): Half {
    const { player } = this.world.profile;
    return [player.radius, player.radius, heightOf(player, walker) / 2];
  }

  private centre(walker: Walker): Vec3 {
    return addScaled(walker.feet, [0, 0, 1], this.half(walker)[2]);
  }
}
