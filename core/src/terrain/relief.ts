/**
 * What the lie of the land is, at a sample: slope, aspect, light and curvature, from the three by three heights about it.
 * Gradients by the weighted differences of B. K. P. Horn, "Hill shading and the reflectance map", Proceedings of the IEEE 69
 * (1981), 14-47: the middle row and column count twice.
 */

const DEGREES = 180 / Math.PI;

/** Heights by sample, as a `Ground` and a plain grid have them; what lies outside is held at the edge. */
export interface Heights {
  nx: number;
  ny: number;
  at(i: number, j: number): number;
}

/** A grid of rows along x as heights. */
export const gridHeights = (values: Float32Array, nx: number, ny: number): Heights => ({
  nx,
  ny,
  at: (i, j) => values[Math.min(ny - 1, Math.max(0, j)) * nx + Math.min(nx - 1, Math.max(0, i))],
});

/** Rise per unit along x and y. At the edge, where samples are held, the difference is one-sided. */
export function gradient({ at, nx, ny }: Heights, i: number, j: number, spacing: number): [number, number] {
  const [w, e] = [i > 0 ? i - 1 : i, i < nx - 1 ? i + 1 : i];
  const [s, n] = [j > 0 ? j - 1 : j, j < ny - 1 ? j + 1 : j];
  const sw = at(w, s);
  const se = at(e, s);
  const nw = at(w, n);
  const ne = at(e, n);
  const dx = (se + 2 * at(e, j) + ne - (sw + 2 * at(w, j) + nw)) / (4 * spacing * Math.max(1, e - w));
  const dy = (nw + 2 * at(i, n) + ne - (sw + 2 * at(i, s) + se)) / (4 * spacing * Math.max(1, n - s));
  return [dx, dy];
}

/** Steepness in degrees. */
export const slopeOfGradient = ([dx, dy]: readonly [number, number]): number => Math.atan(Math.hypot(dx, dy)) * DEGREES;

/** Where the ground falls to: degrees from +x, counter-clockwise, 0 to 360; null where it is level. */
export function aspectOfGradient([dx, dy]: readonly [number, number]): number | null {
  if (dx === 0 && dy === 0) return null;
  return (Math.atan2(-dy, -dx) * DEGREES + 360) % 360;
}

/**
 * Light of a distant lamp on matt ground, 0..1, by its gradient (Lambert's law).
 *
 * @param from where the lamp is: degrees from +x, counter-clockwise
 * @param above its height over the horizon, degrees
 */
export function hillShade(from: number, above: number): (gradient: readonly [number, number]) => number {
  const [a, h] = [from / DEGREES, above / DEGREES];
  const x = Math.cos(h) * Math.cos(a);
  const y = Math.cos(h) * Math.sin(a);
  const z = Math.sin(h);
  return ([dx, dy]) => Math.max(0, (z - dx * x - dy * y) / Math.sqrt(1 + dx * dx + dy * dy));
}

/** How the ground bends, per unit: above 0 on crests, below 0 in hollows (the Laplacian, turned over). */
export const curvature = ({ at }: Pick<Heights, 'at'>, i: number, j: number, spacing: number): number =>
  (4 * at(i, j) - at(i - 1, j) - at(i + 1, j) - at(i, j - 1) - at(i, j + 1)) / (spacing * spacing);
