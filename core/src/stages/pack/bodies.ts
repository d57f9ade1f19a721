/** What physics moves in the test run and the game: convex hulls of models' collision shapes, for `map.json`. */

import { WebIO, type Node } from '@gltf-transform/core';
import { KHRTextureBasisu } from '@gltf-transform/extensions';
import { own } from '../../own.ts';
import { UnreadableInput } from '../../unreadable.ts';
import { boxCorners, type Box3 } from '../../math/box3.ts';
import type { Vec3 } from '../../math/vec3.ts';
import type { ReadFile } from './glbMaterials.ts';
import { fromGltf } from './gltfSpace.ts';
import type { PackingInputs } from './inputs.ts';

/** A model as a rigid body. */
export interface ModelBody {
  /** Kilograms. */
  mass: number;
  friction: number;
  /** Corners of each convex part, x, y, z in turn, about the model's origin in units, z up. */
  hulls: number[][];
}

/** Friction of what states none (common practice: dry wood on stone). */
export const PLAIN_FRICTION = 0.6;

/** The corners of a box. */
export const boxHull = (box: Box3): number[] => boxCorners(box).flat();

/** Grid in units on which corners are written: what lies nearer is rounding. */
const GRID = 4096;

/** The bodies of a map's movable models by path. Where the model's own shape cannot be had, its box stands in. */
export async function modelBodies(packing: Pick<PackingInputs, 'bodies' | 'models' | 'metresPerUnit'>, readFile: ReadFile | undefined) {
  const bodies: Record<string, ModelBody> = {};
  for (const [path, { mass, friction }] of Object.entries(packing.bodies)) {
    const bounds = own(packing.models, path)?.bounds;
    // A stock file may be missing from the install, which is a finding of the set-up.
    const bytes = await readFile?.(path).catch(() => null);
    let hulls = bytes ? await collisionHulls(path, bytes, packing.metresPerUnit) : [];
    if (hulls.length === 0 && bounds) hulls = [boxHull(bounds)];
    if (hulls.length > 0) bodies[path] = { mass, friction, hulls };
  }
  return bodies;
}

async function collisionHulls(path: string, bytes: Uint8Array, metresPerUnit: number): Promise<number[][]> {
  const document = await new WebIO()
    .registerExtensions([KHRTextureBasisu])
    .readBinary(bytes)
    .catch((error: unknown) => {
      throw new UnreadableInput(
        'model-damaged',
        `The collision shape of ${path} cannot be read: ${(error as Error).message}`,
        { file: path },
        'Import it again.',
      );
    });
  const scene = document
    .getRoot()
    .listScenes()
    .find((candidate) => candidate.getName() === 'collision');
  return (scene?.listChildren() ?? []).map((node) => cornersOf(node, metresPerUnit)).filter((hull) => hull.length >= 12);
}

/** Each corner once: the mesh of a hull has one per triangle that meets there. */
function cornersOf(node: Node, metresPerUnit: number): number[] {
  const matrix = node.getWorldMatrix();
  const corners = new Map<string, Vec3>();
  for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
    const positions = primitive.getAttribute('POSITION');
    const p: number[] = [];
    for (let i = 0; i < (positions?.getCount() ?? 0); i++) {
      const [x, y, z] = positions!.getElement(i, p);
      const world = [0, 1, 2].map((row) => matrix[row] * x + matrix[4 + row] * y + matrix[8 + row] * z + matrix[12 + row]) as Vec3;
      const corner = fromGltf(world, metresPerUnit).map((v) => Math.round(v * GRID) / GRID + 0) as Vec3;
      corners.set(corner.join(), corner);
    }
  }
  return [...corners.values()].flat();
}
