/**
 * A picture of a built map without a graphics card: one ray per pixel into the packed GLB, coloured by
 * material and lightmap. It serves the command line, and the application where no view is open.
 */

import { WebIO } from '@gltf-transform/core';
import { KHRLightsPunctual, KHRTextureBasisu } from '@gltf-transform/extensions';
import { decode, encode } from 'fast-png';
import { UnreadableInput } from '../unreadable.ts';
import { buildBvh, castRay, type Bvh, type Hit } from '../stages/lighting/bvh.ts';
import { linearToSrgb, srgbToLinear } from '../math/srgb.ts';
import { cross, normalise, type Vec3 } from '../math/vec3.ts';
import type { GroundView } from './groundView.ts';

export interface ThumbnailView {
  /** Map space, units. */
  eye: Vec3;
  direction: Vec3;
  /** Vertical field of view in degrees. */
  fieldOfView: number;
  width: number;
  height: number;
  sky: [number, number, number];
  /** Ground, which is no part of the GLB. */
  ground?: GroundView;
}

export interface Pixels {
  width: number;
  height: number;
  /** RGB, 8 bits each, sRGB, row by row from the top. */
  data: Uint8Array;
}

/** One picture of a built map, as PNG. @throws UnreadableInput where the GLB is damaged */
export async function renderThumbnail(glb: Uint8Array, metresPerUnit: number, view: ThumbnailView): Promise<Uint8Array> {
  return encodePicture((await openBuilt(glb, metresPerUnit))(view));
}

export const encodePicture = ({ width, height, data }: Pixels): Uint8Array => encode({ width, height, data, channels: 3, depth: 8 });

/**
 * A built map to draw as often as one likes.
 *
 * @returns draws one view. Views with the same ground, or none, share their preparations
 */
export async function openBuilt(glb: Uint8Array, metresPerUnit: number): Promise<(view: ThumbnailView) => Pixels> {
  const document = await new WebIO()
    .registerExtensions([KHRLightsPunctual, KHRTextureBasisu])
    .readBinary(glb)
    .catch((error: unknown) => {
      throw new UnreadableInput(
        'map-glb',
        `The built map cannot be read: ${String((error as Error).message)}`,
        { file: 'map.glb' },
        'Build the map again.',
      );
    });
  const corners: number[] = [];
  const lightUv: number[] = [];
  const colours: number[] = [];
  for (const node of document.getRoot().listNodes()) {
    if (node.getExtras().group === undefined) continue;
    for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
      const position = primitive.getAttribute('POSITION')!.getArray()!;
      const uv = primitive.getAttribute('TEXCOORD_1')!.getArray()!;
      const indices = primitive.getIndices()!.getArray()!;
      const material = primitive.getMaterial()!;
      // Maps from before pictures were put into them have their mean colours as the factor.
      const colour = (material.getExtras().colour as number[] | undefined) ?? material.getBaseColorFactor();
      for (const index of indices) {
        corners.push(position[index * 3], position[index * 3 + 1], position[index * 3 + 2]);
        lightUv.push(uv[index * 2], uv[index * 2 + 1]);
      }
      for (let t = 0; t < indices.length / 3; t++) colours.push(colour[0], colour[1], colour[2]);
    }
  }
  const texture = document.getRoot().listTextures()[0]?.getImage();
  const range = Number((document.getRoot().listMaterials()[0]?.getExtras() as { lightmap?: { range: number } } | undefined)?.lightmap?.range ?? 1);
  const light = texture ? decode(texture) : { width: 1, height: 1, data: new Uint8Array([188, 188, 188]) };
  const scene: BuiltScene = { corners, lightUv, colours, light, range, metresPerUnit };
  let prepared: { ground: GroundView | undefined; corners: number[]; bvh: Bvh } | null = null;
  return (view) => {
    if (prepared?.ground !== view.ground || !prepared) {
      const all = [...corners];
      for (const [i, v] of (view.ground?.corners ?? []).entries()) if (i % 3 === 0) all.push(...groundCorner(view.ground!, i, v, metresPerUnit));
      prepared = { ground: view.ground, corners: all, bvh: buildBvh(all) };
    }
    return drawView(scene, prepared.bvh, view);
  };
}

interface BuiltScene {
  /** glTF space, nine numbers a triangle; two a corner; the mean colour of each triangle, linear. */
  corners: number[];
  lightUv: number[];
  colours: number[];
  light: { width: number; height: number; data: ArrayLike<number> };
  range: number;
  metresPerUnit: number;
}

function drawView({ corners, lightUv, colours, light, range, metresPerUnit }: BuiltScene, bvh: Bvh, view: ThumbnailView): Pixels {
  const ofSolids = corners.length / 9;
  const toGltfDirection = (d: Vec3): Vec3 => [d[0], d[2], -d[1]];
  const eye = toGltfDirection(view.eye).map((v) => v * metresPerUnit) as Vec3;
  const ahead = normalise(toGltfDirection(view.direction));
  const right = normalise(cross(ahead, [0, 1, 0]));
  const up = cross(right, ahead);
  const half = Math.tan((view.fieldOfView * Math.PI) / 360);
  const data = new Uint8Array(view.width * view.height * 3);
  const hit: Hit = { triangle: -1, distance: 0 };
  const put = (x: number, y: number, colour: readonly number[]) => {
    for (let k = 0; k < 3; k++) data[(y * view.width + x) * 3 + k] = Math.round(linearToSrgb(Math.min(1, 1 - Math.exp(-1.6 * colour[k]))) * 255);
  };
  for (let y = 0; y < view.height; y++) {
    for (let x = 0; x < view.width; x++) {
      const sx = ((x + 0.5) / view.width) * 2 - 1;
      const sy = 1 - ((y + 0.5) / view.height) * 2;
      const ray = [0, 1, 2].map((a) => ahead[a] + right[a] * sx * half * (view.width / view.height) + up[a] * sy * half) as Vec3;
      let colour = view.sky as readonly number[];
      if (castRay(bvh, eye[0], eye[1], eye[2], ray[0], ray[1], ray[2], 0, 1e9, false, hit)) {
        const t = hit.triangle;
        if (t >= ofSolids) {
          const at = (t - ofSolids) * 3;
          put(x, y, view.ground!.colours.slice(at, at + 3));
          continue;
        }
        const p = [0, 1, 2].map((a) => eye[a] + ray[a] * hit.distance) as Vec3;
        const [u, v] = interpolate(corners, lightUv, t, p);
        const lit = lightAt(light, u, v);
        colour = [0, 1, 2].map((k) => colours[t * 3 + k] * lit[k] * range);
      }
      put(x, y, colour);
    }
  }
  return { width: view.width, height: view.height, data };
}

/** The lightmap between its luxels, as games filter it: linear light, bilinear. */
function lightAt({ width, height, data }: BuiltScene['light'], u: number, v: number): Vec3 {
  const [x, y] = [u * width - 0.5, v * height - 0.5];
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  const sum: Vec3 = [0, 0, 0];
  for (const [dx, dy] of CORNERS) {
    const weight = (dx ? x - x0 : 1 - x + x0) * (dy ? y - y0 : 1 - y + y0);
    const at = (Math.min(height - 1, Math.max(0, y0 + dy)) * width + Math.min(width - 1, Math.max(0, x0 + dx))) * 3;
    for (let k = 0; k < 3; k++) sum[k] += weight * LINEAR[data[at + k]];
  }
  return sum;
}
const CORNERS = [
  [0, 0],
  [1, 0],
  [0, 1],
  [1, 1],
] as const;
const LINEAR = Float64Array.from({ length: 256 }, (_, level) => srgbToLinear(level / 255));

/** A corner of the ground as glTF has it. */
const groundCorner = ({ corners }: GroundView, i: number, x: number, m: number): Vec3 => [x * m, corners[i + 2] * m, 0 - corners[i + 1] * m];

/** Barycentric interpolation of two values per corner. */
function interpolate(corners: number[], values: number[], triangle: number, p: Vec3): [number, number] {
  const at = (i: number): Vec3 => [corners[triangle * 9 + i * 3], corners[triangle * 9 + i * 3 + 1], corners[triangle * 9 + i * 3 + 2]];
  const [a, b, c] = [at(0), at(1), at(2)];
  const area = (q: Vec3, r: Vec3, s: Vec3) => {
    const n = cross([r[0] - q[0], r[1] - q[1], r[2] - q[2]], [s[0] - q[0], s[1] - q[1], s[2] - q[2]]);
    return Math.hypot(...n);
  };
  const whole = area(a, b, c) || 1;
  const [wa, wb, wc] = [area(p, b, c) / whole, area(a, p, c) / whole, area(a, b, p) / whole];
  const uv = (i: number, k: number) => values[triangle * 6 + i * 2 + k];
  return [0, 1].map((k) => uv(0, k) * wa + uv(1, k) * wb + uv(2, k) * wc) as [number, number];
}
