/** The ground of a running world: what stands on it asks for heights, what moves in boxes meets it as prisms of its triangles. */

import type { Box3 } from '../math/box3.ts';
import { cross, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { BuiltField } from '../stages/ground/field.ts';
import type { CollisionGround } from '../stages/pack/collisionBin.ts';
import { obstacleFromCorners, type Obstacle } from './collide.ts';
import { Surround } from './surround.ts';

/** What is below a point. */
export interface Footing {
  height: number;
  normal: Vec3;
  /** Kind of the surface, empty where none is stated. */
  surface: string;
  id: string;
}

/** Prisms that are kept; beyond that all are made anew. */
const KEPT = 8192;

/** Sides of the prisms that stand for round things. */
const SIDES = 8;

export class Fields {
  private readonly fields: { field: BuiltField; ground: CollisionGround }[];
  private readonly prisms = new Map<string, Obstacle[]>();
  private readonly things: Surround;
  /** Lowest height of all grounds; Infinity where there is none. */
  readonly lowest: number;

  /** @param depth how far prisms reach down below the ground, units */
  constructor(
    grounds: readonly CollisionGround[],
    private readonly depth: number,
  ) {
    this.fields = grounds.map((ground) => ({ field: new BuiltField(ground), ground }));
    this.things = new Surround(depth);
    let low = Infinity;
    for (const { heights } of grounds) for (const height of heights) if (height < low) low = height;
    this.lowest = low;
    for (const { id, things } of grounds)
      for (let at = 0; at < things.length; at += 5)
        this.things.set(`${id}/${at}`, [pillar(id, [things[at], things[at + 1], things[at + 2]], things[at + 3], things[at + 4])]);
  }

  get any(): boolean {
    return this.fields.length > 0;
  }

  /** Scattered things that stop players, near a box. */
  thingsNear(box: Box3): Obstacle[] {
    return this.fields.length > 0 ? this.things.near(box) : [];
  }

  /** The ground over or under a point, the nearest to it in height; null beside it and in holes. */
  under([x, y, z]: Vec3): Footing | null {
    let best: Footing | null = null;
    for (const { field, ground } of this.fields) {
      const height = field.heightAt(x, y);
      if (height === null || (best && Math.abs(best.height - z) <= Math.abs(height - z))) continue;
      best = { height, normal: field.normalAt(x, y), surface: ground.feels[field.coverAt(x, y)] ?? '', id: ground.id };
    }
    return best;
  }

  /** The ground within a box, as obstacles, with what stands on it. */
  near(box: Box3): Obstacle[] {
    const found: Obstacle[] = this.thingsNear(box);
    for (const { field, ground } of this.fields) {
      const [u0, v0] = field.sampleOf(box.min[0], box.min[1]);
      const [u1, v1] = field.sampleOf(box.max[0], box.max[1]);
      for (let j = Math.max(0, Math.floor(v0)); j <= Math.min(field.ny - 2, Math.floor(v1)); j++)
        for (let i = Math.max(0, Math.floor(u0)); i <= Math.min(field.nx - 2, Math.floor(u1)); i++)
          if (field.isThere(i, j))
            for (const prism of this.quad(field, ground, i, j))
              if (prism.box.max[2] >= box.min[2] && prism.box.min[2] <= box.max[2]) found.push(prism);
    }
    return found;
  }

  private quad(field: BuiltField, ground: CollisionGround, i: number, j: number): Obstacle[] {
    const key = `${ground.id}/${i}/${j}`;
    let known = this.prisms.get(key);
    if (!known) {
      if (this.prisms.size >= KEPT) this.prisms.clear();
      const corner = (a: number, b: number): Vec3 => [...field.pointOf(a, b), field.at(a, b)];
      const [a, b, c, d] = [corner(i, j), corner(i + 1, j), corner(i, j + 1), corner(i + 1, j + 1)];
      const cover = ground.covers[j * ground.nx + i];
      const surface = ground.feels[cover] ?? '';
      known = [this.prism(ground.id, [a, b, c], surface), this.prism(ground.id, [b, d, c], surface)];
      this.prisms.set(key, known);
    }
    return known;
  }

  /** @param corners counter-clockwise, seen from above */
  private prism(id: string, corners: readonly [Vec3, Vec3, Vec3], surface: string): Obstacle {
    const [a, b, c] = corners;
    const up = normalise(cross(sub(b, a), sub(c, a)));
    const bottom = Math.min(a[2], b[2], c[2]) - this.depth;
    const plane = (n: Vec3, p: Vec3): [number, number, number, number] => [n[0], n[1], n[2], n[0] * p[0] + n[1] * p[1] + n[2] * p[2]];
    const sides = corners.map((from, k): [number, number, number, number] => {
      const to = corners[(k + 1) % 3];
      return plane(normalise([to[1] - from[1], from[0] - to[0], 0]), from);
    });
    const planes = [plane(up, a), ...sides, [0, 0, -1, -bottom] as [number, number, number, number]];
    const low = corners.map(([x, y]): Vec3 => [x, y, bottom]);
    return obstacleFromCorners(
      id,
      planes,
      planes.map(() => surface),
      [...corners, ...low],
    );
  }
}

/** An upright cylinder, about. */
function pillar(id: string, foot: Vec3, radius: number, height: number): Obstacle {
  const planes: [number, number, number, number][] = [
    [0, 0, 1, foot[2] + height],
    [0, 0, -1, -foot[2]],
  ];
  const corners: Vec3[] = [];
  for (let k = 0; k < SIDES; k++) {
    const angle = (k / SIDES) * 2 * Math.PI;
    const [x, y] = [Math.cos(angle), Math.sin(angle)];
    planes.push([x, y, 0, x * foot[0] + y * foot[1] + radius]);
    const corner = angle + Math.PI / SIDES;
    const far = radius / Math.cos(Math.PI / SIDES);
    for (const z of [foot[2], foot[2] + height]) corners.push([foot[0] + far * Math.cos(corner), foot[1] + far * Math.sin(corner), z]);
  }
  return obstacleFromCorners(`${id} thing`, planes, [], corners);
}
