/**
 * A smooth line through points: centripetal Catmull-Rom (E. Catmull, R. Rom, 1974; C. Yuksel, S. Schaefer, J. Keyser, "Parameterization
 * and applications of Catmull-Rom curves", 2011), which makes neither loops nor overshoots where points lie unevenly.
 */

import { distance, lerp, type Vec3 } from './vec3.ts';

/**
 * @param spacing greatest distance of neighbouring points of the answer, about
 * @returns points from the first to the last; a loop ends where it began
 */
export function smoothLine(points: readonly Vec3[], loop: boolean, spacing: number): Vec3[] {
  const count = points.length;
  if (count < 2) return points.map((p): Vec3 => [...p]);
  const at = (i: number): Vec3 => {
    if (loop) return points[((i % count) + count) % count];
    if (i < 0) return lerp(points[1], points[0], 2);
    if (i >= count) return lerp(points[count - 2], points[count - 1], 2);
    return points[i];
  };
  const out: Vec3[] = [[...points[0]]];
  const last = loop ? count : count - 1;
  for (let i = 0; i < last; i++) {
    const [p0, p1, p2, p3] = [at(i - 1), at(i), at(i + 1), at(i + 2)];
    const knot = (a: Vec3, b: Vec3) => Math.sqrt(Math.max(1e-9, distance(a, b)));
    const t1 = knot(p0, p1);
    const t2 = t1 + knot(p1, p2);
    const t3 = t2 + knot(p2, p3);
    const steps = Math.max(1, Math.ceil(distance(p1, p2) / spacing));
    for (let s = 1; s <= steps; s++) {
      if (s === steps) {
        out.push([...p2]);
        continue;
      }
      const t = t1 + ((t2 - t1) * s) / steps;
      const mix = (a: Vec3, b: Vec3, from: number, to: number) => lerp(a, b, (t - from) / (to - from));
      const [a1, a2, a3] = [mix(p0, p1, 0, t1), mix(p1, p2, t1, t2), mix(p2, p3, t2, t3)];
      const [b1, b2] = [mix(a1, a2, 0, t2), mix(a2, a3, t1, t3)];
      out.push(mix(b1, b2, t1, t2));
    }
  }
  return out;
}
