/** Where a ray meets the ground. */

import type { Vec3 } from '../math/vec3.ts';
import type { Ground } from './ground.ts';

/** Steps of half a quad; a ridge that is thinner than that is not met. */
const STEP = 0.5;

/** Most steps of one ray. */
const MOST = 20_000;

/** Distance along a ray (in multiples of its direction) to the surface of the ground from above, or null. */
export function rayGround(ground: Ground, origin: Vec3, direction: Vec3, far = Infinity): number | null {
  const above = (t: number): number | null => {
    const height = ground.heightAt(origin[0] + direction[0] * t, origin[1] + direction[1] * t);
    return height === null ? null : origin[2] + direction[2] * t - height;
  };
  const level = Math.hypot(direction[0], direction[1]);
  const { spacing } = ground.terrain;
  if (level < 1e-9) {
    const height = above(0);
    return height !== null && height >= 0 && direction[2] < 0 ? height / -direction[2] : null;
  }
  // Only where the ray is over the ground and within its heights.
  const { min, max } = ground.box;
  let [from, to] = [0, far];
  for (let axis = 0; axis < 3; axis++) {
    if (Math.abs(direction[axis]) < 1e-12) {
      if (origin[axis] < min[axis] - spacing || origin[axis] > max[axis] + spacing) return null;
      continue;
    }
    const [a, b] = [(min[axis] - origin[axis]) / direction[axis], (max[axis] - origin[axis]) / direction[axis]];
    from = Math.max(from, Math.min(a, b));
    to = Math.min(to, Math.max(a, b));
  }
  if (from > to) return null;
  const step = Math.max((spacing * STEP) / level, (to - from) / MOST);
  let [last, lastAbove] = [from, above(from)];
  for (let t = from + step; ; t += step) {
    const at = Math.min(t, to);
    const now = above(at);
    if (now !== null && lastAbove !== null && lastAbove >= 0 && now < 0) {
      let [low, high] = [last, at];
      for (let n = 0; n < 24; n++) {
        const middle = (low + high) / 2;
        if ((above(middle) ?? 1) >= 0) low = middle;
        else high = middle;
      }
      return low;
    }
    if (at >= to) return null;
    [last, lastAbove] = [at, now];
  }
}

/** A circle on the ground, for what shows how far something reaches; what lies beside the ground keeps the last height. */
export function ringOnGround(ground: Ground, x: number, y: number, radius: number, lift = 0): Vec3[] {
  let height = ground.heightAt(x, y) ?? ground.terrain.base;
  return Array.from({ length: 65 }, (_, n): Vec3 => {
    const angle = (n / 64) * 2 * Math.PI;
    const [px, py] = [x + radius * Math.cos(angle), y + radius * Math.sin(angle)];
    height = ground.heightAt(px, py) ?? height;
    return [px, py, height + lift];
  });
}
