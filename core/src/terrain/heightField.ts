/**
 * A surface over a grid of heights. Map space, units; sample (i, j) lies at origin + spacing · (i, j). A quad is two triangles that
 * meet along the line from (i + 1, j) to (i, j + 1), everywhere and for everyone: what is drawn at the finest level, walked on and
 * measured is one surface.
 */

import { normalise, type Vec3 } from '../math/vec3.ts';

export abstract class HeightField {
  constructor(
    /** Samples along x and y. */
    readonly nx: number,
    readonly ny: number,
    readonly origin: readonly [number, number],
    readonly spacing: number,
  ) {}

  /** Height of a sample, which is held within the grid. */
  abstract at(i: number, j: number): number;

  /** Whether the quad from sample (i, j) on is there. */
  abstract isThere(i: number, j: number): boolean;

  /** Where a point of the map lies among the samples. */
  sampleOf(x: number, y: number): [number, number] {
    const { origin, spacing } = this;
    return [(x - origin[0]) / spacing, (y - origin[1]) / spacing];
  }

  pointOf(i: number, j: number): [number, number] {
    const { origin, spacing } = this;
    return [origin[0] + i * spacing, origin[1] + j * spacing];
  }

  /** Height of the surface over a point; null beside it and in holes. */
  heightAt(x: number, y: number): number | null {
    const [u, v] = this.sampleOf(x, y);
    const i = Math.min(this.nx - 2, Math.floor(u));
    const j = Math.min(this.ny - 2, Math.floor(v));
    if (u < 0 || v < 0 || u > this.nx - 1 || v > this.ny - 1 || !this.isThere(i, j)) return null;
    return this.within(i, j, u - i, v - j);
  }

  /** Height within a quad, at shares of its sides. */
  private within(i: number, j: number, s: number, t: number): number {
    const [b, c] = [this.at(i + 1, j), this.at(i, j + 1)];
    if (s + t <= 1) {
      const a = this.at(i, j);
      return a + (b - a) * s + (c - a) * t;
    }
    const d = this.at(i + 1, j + 1);
    return d + (c - d) * (1 - s) + (b - d) * (1 - t);
  }

  /** Unit normal of the triangle over a point, upwards; straight up beside the ground. */
  normalAt(x: number, y: number): Vec3 {
    const [u, v] = this.sampleOf(x, y);
    const i = Math.min(this.nx - 2, Math.max(0, Math.floor(u)));
    const j = Math.min(this.ny - 2, Math.max(0, Math.floor(v)));
    const [b, c] = [this.at(i + 1, j), this.at(i, j + 1)];
    const lower = u - i + (v - j) <= 1;
    const corner = lower ? this.at(i, j) : this.at(i + 1, j + 1);
    const { spacing } = this;
    return normalise(lower ? [corner - b, corner - c, spacing] : [c - corner, b - corner, spacing]);
  }
}
