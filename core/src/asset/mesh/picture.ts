/** A small picture of a model, drawn without a graphics card: one z-buffer, two lights, textures by nearest texel. */

import { encode } from 'fast-png';
import { linearToSrgb, srgbToLinear } from '../../math/srgb.ts';
import { cross, dot, normalise, sub, type Vec3 } from '../../math/vec3.ts';
import type { Picture } from '../texture/picture.ts';
import { plainMaterial, type Model } from './model/model.ts';
import { boundsOf, type Surface } from './geometry/surface.ts';
import { own } from '../../own.ts';

const SIZE = 192;
/** Drawn larger and averaged, which smooths edges. */
const FINE = 2;
/** From the front right, a little above: metres, y up. */
const FROM: Vec3 = normalise([0.6, 0.5, 1]);
const KEY: Vec3 = normalise([0.4, 0.9, 0.7]);
const FILL: Vec3 = normalise([-0.8, 0.2, 0.3]);

/** @param pictures decoded base colour pictures by material slot */
export function pictureOfModel(model: Model, surface: Surface, pictures: ReadonlyMap<string, Picture>): Uint8Array {
  const edge = SIZE * FINE;
  const right = normalise(cross([0, 1, 0], FROM));
  const up = cross(FROM, right);
  const box = boundsOf(surface.positions);
  const centre = [0, 1, 2].map((k) => (box.min[k] + box.max[k]) / 2) as Vec3;
  const radius = Math.hypot(...[0, 1, 2].map((k) => box.max[k] - box.min[k])) / 2 || 1;
  const scale = (edge * 0.49) / radius;
  const colour = new Float32Array(edge * edge * 4);
  const depth = new Float32Array(edge * edge).fill(-Infinity);
  const screen = new Float32Array(surface.positions.length);
  for (let i = 0; i < screen.length; i += 3) {
    const p: Vec3 = [surface.positions[i] - centre[0], surface.positions[i + 1] - centre[1], surface.positions[i + 2] - centre[2]];
    screen[i] = edge / 2 + dot(p, right) * scale;
    screen[i + 1] = edge / 2 - dot(p, up) * scale;
    screen[i + 2] = dot(p, FROM);
  }
  let offset = 0;
  model.parts.forEach((part, p) => {
    const material = own(model.materials, part.material) ?? plainMaterial();
    const picture = pictures.get(part.material);
    const start = surface.partStart[p] * 3;
    const { uvs } = part;
    for (let t = start; t < start + part.indices.length; t += 3) {
      // Scalars, not vectors: this runs for every triangle of models with half a million of them.
      const [a, b, c] = [surface.indices[t], surface.indices[t + 1], surface.indices[t + 2]];
      const ax = screen[a * 3];
      const ay = screen[a * 3 + 1];
      const bx = screen[b * 3];
      const by = screen[b * 3 + 1];
      const cx = screen[c * 3];
      const cy = screen[c * 3 + 1];
      const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
      if (area === 0 || !Number.isFinite(area)) continue;
      let light = -1;
      const [y0, y1] = [Math.max(0, Math.ceil(Math.min(ay, by, cy) - 0.5)), Math.min(edge - 1, Math.floor(Math.max(ay, by, cy) - 0.5))];
      const [x0, x1] = [Math.max(0, Math.ceil(Math.min(ax, bx, cx) - 0.5)), Math.min(edge - 1, Math.floor(Math.max(ax, bx, cx) - 0.5))];
      for (let y = y0; y <= y1; y++) {
        for (let x = x0; x <= x1; x++) {
          const px = x + 0.5 - ax;
          const py = y + 0.5 - ay;
          const u = (px * (cy - ay) - py * (cx - ax)) / area;
          const v = ((bx - ax) * py - (by - ay) * px) / area;
          if (u < 0 || v < 0 || u + v > 1) continue;
          const w = 1 - u - v;
          const z = screen[a * 3 + 2] * w + screen[b * 3 + 2] * u + screen[c * 3 + 2] * v;
          const pixel = y * edge + x;
          if (z <= depth[pixel]) continue;
          let [r, g, bl, alpha] = material.colour;
          if (picture && uvs) {
            const uv = [0, 1].map((k) => uvs[(a - offset) * 2 + k] * w + uvs[(b - offset) * 2 + k] * u + uvs[(c - offset) * 2 + k] * v);
            const wrap = (value: number, size: number) => Math.min(size - 1, Math.floor((value - Math.floor(value)) * size));
            const texel = (wrap(uv[1], picture.height) * picture.width + wrap(uv[0], picture.width)) * 4;
            r *= srgbToLinear(picture.data[texel] / 255);
            g *= srgbToLinear(picture.data[texel + 1] / 255);
            bl *= srgbToLinear(picture.data[texel + 2] / 255);
            alpha *= picture.data[texel + 3] / 255;
            if (material.cutout && alpha < 0.5) continue;
          }
          if (light < 0) light = lightOn(surface.positions, a, b, c);
          depth[pixel] = z;
          colour[pixel * 4] = r * light;
          colour[pixel * 4 + 1] = g * light;
          colour[pixel * 4 + 2] = bl * light;
          colour[pixel * 4 + 3] = 1;
        }
      }
    }
    offset += part.positions.length / 3;
  });
  return encode({ width: SIZE, height: SIZE, data: shrink(colour, edge), channels: 4, depth: 8 });
}

/** Light on a flat triangle, whichever side is seen. */
function lightOn(positions: Float32Array, a: number, b: number, c: number): number {
  const at = (v: number): Vec3 => [positions[v * 3], positions[v * 3 + 1], positions[v * 3 + 2]];
  let normal = normalise(cross(sub(at(b), at(a)), sub(at(c), at(a))));
  if (dot(normal, FROM) < 0) normal = normal.map((v) => -v) as Vec3;
  return 0.28 + 0.75 * Math.max(0, dot(normal, KEY)) + 0.25 * Math.max(0, dot(normal, FILL));
}

function shrink(colour: Float32Array, edge: number): Uint8Array {
  const data = new Uint8Array(SIZE * SIZE * 4);
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) {
      const sum = [0, 0, 0, 0];
      for (let i = 0; i < FINE * FINE; i++) {
        const at = ((y * FINE + Math.floor(i / FINE)) * edge + x * FINE + (i % FINE)) * 4;
        for (let k = 0; k < 4; k++) sum[k] += colour[at + k];
      }
      const out = (y * SIZE + x) * 4;
      for (let k = 0; k < 3; k++) data[out + k] = sum[3] > 0 ? Math.round(linearToSrgb(Math.min(1, sum[k] / sum[3])) * 255) : 0;
      data[out + 3] = Math.round((sum[3] / (FINE * FINE)) * 255);
    }
  return data;
}
