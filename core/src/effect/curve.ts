/** Curves and gradients over time, and tables of them for what is asked ten thousand times a step. */

import { linearOfHex } from '../math/srgb.ts';
import type { Curve, Gradient } from './document.ts';

/** Steps of a table. */
export const STEPS = 128;

/** @param t clamped to 0..1 */
export function curveAt(curve: Curve, t: number): number {
  const [first] = curve;
  if (t <= first[0]) return first[1];
  for (let i = 1; i < curve.length; i++) {
    const [to, value] = curve[i];
    if (t > to) continue;
    const [from, before] = curve[i - 1];
    return to === from ? value : before + ((value - before) * (t - from)) / (to - from);
  }
  return curve[curve.length - 1][1];
}

/** The largest value of a curve. */
export const curveMost = (curve: Curve): number => Math.max(...curve.map(([, value]) => value));

/** The area below a curve over 0..1, exactly: what it comes to in one round of one second. */
export function curveArea(curve: Curve): number {
  const [first] = curve;
  const last = curve[curve.length - 1];
  let area = first[0] * first[1] + (1 - last[0]) * last[1];
  for (let i = 1; i < curve.length; i++) area += ((curve[i][0] - curve[i - 1][0]) * (curve[i][1] + curve[i - 1][1])) / 2;
  return area;
}

/** Linear red, green, blue and alpha (not multiplied in) at a time. Mixed in linear light, as light is. */
export function gradientAt(gradient: Gradient, t: number): [number, number, number, number] {
  const of = ({ colour, alpha }: Gradient[number]): [number, number, number, number] => [...linearOfHex(colour), alpha];
  if (t <= gradient[0].at) return of(gradient[0]);
  for (let i = 1; i < gradient.length; i++) {
    if (t > gradient[i].at) continue;
    const [from, to] = [gradient[i - 1], gradient[i]];
    const share = to.at === from.at ? 1 : (t - from.at) / (to.at - from.at);
    const [a, b] = [of(from), of(to)];
    return a.map((value, k) => value + (b[k] - value) * share) as [number, number, number, number];
  }
  return of(gradient[gradient.length - 1]);
}

/** `STEPS` + 1 values of a curve. */
export const curveTable = (curve: Curve): Float64Array => Float64Array.from({ length: STEPS + 1 }, (_, i) => curveAt(curve, i / STEPS));

/** `STEPS` + 1 times red, green, blue, alpha. */
export function gradientTable(gradient: Gradient): Float32Array {
  const table = new Float32Array((STEPS + 1) * 4);
  for (let i = 0; i <= STEPS; i++) table.set(gradientAt(gradient, i / STEPS), i * 4);
  return table;
}
