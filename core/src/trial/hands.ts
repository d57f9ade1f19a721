/** What the player does to things that move: picking up, carrying, setting down, throwing, pushing along. */

import { boxCentre, boxSize } from '../math/box3.ts';
import { addScaled, normalise, scale, type Vec3 } from '../math/vec3.ts';
import type { Profile } from '../profile/schema.ts';
import type { Bodies } from './bodies.ts';
import type { Obstacle } from './collide.ts';
import type { Walker } from './move.ts';
import { reachedAhead } from './reach.ts';

/** Speed of what is carried, in speeds of running. */
const SWIFT = 4;
/** Seconds for which a carried thing may hang behind something before it slips out of hand. */
const SLIPS_AFTER = 0.6;

export class Hands {
  /** Id of what is carried. */
  held: string | null = null;
  private off = 0;

  constructor(
    private readonly bodies: Bodies,
    private readonly profile: Profile,
    private readonly dropped: (id: string) => void,
  ) {}

  /** The thing that a player looking along `look` can lift, or null. */
  liftable(eye: Vec3, look: Vec3, obstacles: readonly Obstacle[]): string | null {
    const most = this.profile.player.strength?.lift ?? 0;
    const things = [...this.bodies.ids()].flatMap((id) => {
      if (this.bodies.massOf(id) > most) return [];
      const box = this.bodies.boxOf(id)!;
      return [{ id, box, position: boxCentre(box) }];
    });
    return reachedAhead(things, eye, look, this.profile.player.reach, obstacles)?.id ?? null;
  }

  take(id: string): void {
    this.release();
    this.held = id;
    this.off = 0;
    this.bodies.carry(id, true);
  }

  /** Lets go of what is carried; it falls from where it is. */
  release(): string | null {
    const { held } = this;
    if (held !== null) this.bodies.carry(held, false);
    this.held = null;
    return held;
  }

  /** Throws what is carried; answers what that was. */
  fling(look: Vec3): string | null {
    const held = this.release();
    if (held !== null) this.bodies.kick(held, scale(normalise(look), this.profile.player.strength?.throw ?? 0));
    return held;
  }

  /** Before physics takes its step: carries on, and pushes what the player walked against. */
  step(walker: Walker, eye: Vec3, look: Vec3, wanted: Vec3, dt: number): void {
    const { player } = this.profile;
    for (const { id, normal } of walker.against) {
      const level: Vec3 = [-normal[0], -normal[1], 0];
      if (Math.hypot(...level) > 0.5) {
        const way = normalise(level);
        this.bodies.push(id, way, Math.max(0, wanted[0] * way[0] + wanted[1] * way[1]) * player.walkSpeed);
      }
    }
    if (this.held === null) return;
    const box = this.bodies.boxOf(this.held);
    if (!box) return void (this.held = null);
    const depth = Math.max(...boxSize(box)) / 2;
    const before = Math.min(player.reach, player.radius + depth * 1.5);
    const point = addScaled(eye, normalise(look), before);
    // Not into the ground before one's feet.
    point[2] = Math.max(point[2], walker.feet[2] + boxSize(box)[2] / 2 + 1);
    const off = this.bodies.haul(this.held, point, player.runSpeed * SWIFT);
    this.off = off > player.reach / 2 ? this.off + dt : 0;
    if (this.off > SLIPS_AFTER || off > player.reach * 2) this.dropped(this.release()!);
  }
}
