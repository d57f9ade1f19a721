/** Where a player lands that jumps from where it stands, by the very steps of the test run. */

import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { Profile } from '../profile/schema.ts';
import type { Obstacle } from './collide.ts';
import { newWalker, stepWalker } from './move.ts';

export interface Landing {
  /** Radians from above, counter-clockwise from +x. */
  angle: number;
  /** Where the feet come down; null where nothing is below. */
  at: Vec3 | null;
}

/** Seconds after which a jump that has met no ground is a fall. */
const LONGEST = 3;

/**
 * Running jumps in so many directions, all round.
 *
 * @param near what stands in the way within a box
 * @param dt seconds per step
 */
export function jumpLandings(
  feet: Vec3,
  near: (box: Box3) => readonly Obstacle[],
  player: Profile['player'],
  directions: number,
  dt: number,
): Landing[] {
  return Array.from({ length: directions }, (_, i) => {
    const angle = (i / directions) * 2 * Math.PI;
    const walker = newWalker([...feet]);
    // It comes running: who is in the air already only steers.
    Object.assign(walker, { onGround: true, velocity: [Math.cos(angle) * player.runSpeed, Math.sin(angle) * player.runSpeed, 0] });
    const intent = { move: [Math.cos(angle), Math.sin(angle), 0] as Vec3, run: true, jump: true };
    for (let t = 0; t < LONGEST; t += dt) {
      const far = player.runSpeed * dt + Math.abs(walker.velocity[2]) * dt + player.stepHeight + player.radius;
      const [x, y, z] = walker.feet;
      const box: Box3 = { min: [x - far, y - far, z - far], max: [x + far, y + far, z + player.height + far] };
      stepWalker(walker, intent, near(box), player, dt);
      if (walker.onGround) return { angle, at: walker.feet };
    }
    return { angle, at: null };
  });
}
