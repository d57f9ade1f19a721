/** All triangles of a model as one surface in space, whatever parts, materials and rigs they come from. */

import { Matrix4, Quaternion, Vector3 } from 'three';
import { boxOfPoints, type Box3 } from '../../../math/box3.ts';
import type { ModelPart, Rig } from '../model/model.ts';
import { findEdges, findPieces, pointNumbers, type Edges } from './topology.ts';

/** Triangles by their places alone. */
export interface Soup {
  /** Three per vertex, all parts after each other; rigged parts in their bind pose. */
  positions: Float32Array;
  /** Three vertices per triangle. */
  indices: Uint32Array;
  /** Three points per triangle, equal places having equal numbers. */
  corners: Uint32Array;
  /** Part of every triangle, as the first triangle of each part. */
  partStart: number[];
}

/** And how they hang together. */
export interface Surface extends Soup {
  edges: Edges;
  piece: Uint32Array;
  pieces: number;
}

/** World matrices of a rig at rest. */
export function worldMatrices(rig: Rig): Matrix4[] {
  const world: Matrix4[] = [];
  rig.nodes.forEach((node, i) => {
    const local = new Matrix4().compose(new Vector3(...node.translation), new Quaternion(...node.rotation), new Vector3(...node.scale));
    world[i] = node.parent >= 0 ? world[node.parent].clone().multiply(local) : local;
  });
  return world;
}

/** Where a part's vertices are in space. Bending parts follow their joints as glTF 2.0, 3.7.3 says. */
export function placedPositions(part: ModelPart, rig: Rig | null, world: readonly Matrix4[]): Float32Array {
  if (!rig || part.node === undefined) return part.positions;
  const out = new Float32Array(part.positions.length);
  const point = new Vector3();
  const sum = new Vector3();
  const skin = part.skin === undefined ? null : rig.skins[part.skin];
  const joints = skin?.joints.map((joint, j) => world[joint].clone().multiply(new Matrix4().fromArray(skin.inverseBind, j * 16)));
  for (let i = 0; i < out.length / 3; i++) {
    point.fromArray(part.positions, i * 3);
    if (joints && part.joints && part.weights) {
      sum.set(0, 0, 0);
      let total = 0;
      for (let k = 0; k < 4; k++) {
        const weight = part.weights[i * 4 + k];
        if (weight === 0) continue;
        total += weight;
        sum.addScaledVector(point.clone().applyMatrix4(joints[part.joints[i * 4 + k]]), weight);
      }
      if (total > 0) sum.divideScalar(total);
      sum.toArray(out, i * 3);
    } else point.applyMatrix4(world[part.node]).toArray(out, i * 3);
  }
  return out;
}

export function surfaceOf(parts: readonly ModelPart[], rig: Rig | null): Surface {
  const soup = soupOf(parts, rig);
  const edges = findEdges(soup.corners);
  const { piece, count } = findPieces(soup.indices.length / 3, edges);
  return { ...soup, edges, piece, pieces: count };
}

export function soupOf(parts: readonly ModelPart[], rig: Rig | null): Soup {
  const positions = allPositions(parts, rig);
  const { indices, partStart } = allIndices(parts);
  const { point } = pointNumbers(positions);
  return { positions, indices, partStart, corners: indices.map((index) => point[index]) };
}

/** The positions of all parts after each other, where they are in space. A single part's may be its own: large models are often one. */
export function allPositions(parts: readonly ModelPart[], rig: Rig | null): Float32Array {
  const world = rig ? worldMatrices(rig) : [];
  const placed = parts.map((part) => placedPositions(part, rig, world));
  if (placed.length === 1) return placed[0];
  const all = new Float32Array(placed.reduce((sum, positions) => sum + positions.length, 0));
  let at = 0;
  for (const positions of placed) {
    all.set(positions, at);
    at += positions.length;
  }
  return all;
}

function allIndices(parts: readonly ModelPart[]): Pick<Soup, 'indices' | 'partStart'> {
  if (parts.length === 1) return { indices: parts[0].indices, partStart: [0] };
  const indices = new Uint32Array(parts.reduce((sum, part) => sum + part.indices.length, 0));
  const partStart: number[] = [];
  let offset = 0;
  let i = 0;
  for (const part of parts) {
    partStart.push(i / 3);
    for (const index of part.indices) indices[i++] = index + offset;
    offset += part.positions.length / 3;
  }
  return { indices, partStart };
}

/** Bounds of a model in its bind pose, without working out how its surface hangs together. */
export function boundsOfParts(parts: readonly ModelPart[], rig: Rig | null): Box3 {
  const world = rig ? worldMatrices(rig) : [];
  const boxes = parts.map((part) => boundsOf(placedPositions(part, rig, world)));
  return boxOfPoints(boxes.flatMap(({ min, max }) => [min, max]));
}

export function boundsOf(positions: Float32Array): Box3 {
  let [x0, y0, z0, x1, y1, z1] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i += 3) {
    const x = positions[i];
    const y = positions[i + 1];
    const z = positions[i + 2];
    if (x < x0) x0 = x;
    if (x > x1) x1 = x;
    if (y < y0) y0 = y;
    if (y > y1) y1 = y;
    if (z < z0) z0 = z;
    if (z > z1) z1 = z;
  }
  return { min: [x0, y0, z0], max: [x1, y1, z1] };
}

/** Every edge has one triangle on either side, in opposite directions: the surface encloses a volume. */
export function isClosed({ edges }: Pick<Surface, 'edges'>): boolean {
  if (edges.count === 0) return false;
  for (let e = 0; e < edges.count; e++) if (edges.up[e] !== 1 || edges.down[e] !== 1) return false;
  return true;
}

/** Six times the signed volume of the cone from the origin over a triangle: its divergence-theorem share. */
export function cone(positions: ArrayLike<number>, a: number, b: number, c: number): number {
  const bx = positions[b * 3];
  const by = positions[b * 3 + 1];
  const bz = positions[b * 3 + 2];
  const cx = positions[c * 3];
  const cy = positions[c * 3 + 1];
  const cz = positions[c * 3 + 2];
  return positions[a * 3] * (by * cz - bz * cy) + positions[a * 3 + 1] * (bz * cx - bx * cz) + positions[a * 3 + 2] * (bx * cy - by * cx);
}

/** Enclosed volume; positive where triangles face outwards. Means something for closed surfaces only. */
export function volumeOf(positions: ArrayLike<number>, indices: ArrayLike<number>): number {
  let sum = 0;
  for (let i = 0; i < indices.length; i += 3) sum += cone(positions, indices[i], indices[i + 1], indices[i + 2]);
  return sum / 6;
}

/** Twice the area of a triangle. */
export function doubleArea(positions: ArrayLike<number>, a: number, b: number, c: number): number {
  const ax = positions[a * 3];
  const ay = positions[a * 3 + 1];
  const az = positions[a * 3 + 2];
  const ux = positions[b * 3] - ax;
  const uy = positions[b * 3 + 1] - ay;
  const uz = positions[b * 3 + 2] - az;
  const vx = positions[c * 3] - ax;
  const vy = positions[c * 3 + 1] - ay;
  const vz = positions[c * 3 + 2] - az;
  const nx = uy * vz - uz * vy;
  const ny = uz * vx - ux * vz;
  const nz = ux * vy - uy * vx;
  return Math.sqrt(nx * nx + ny * ny + nz * nz);
}
