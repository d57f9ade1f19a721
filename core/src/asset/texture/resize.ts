import { linearToSrgb, srgbToLinear } from '../../math/srgb.ts';
import type { Picture } from './readImage.ts';

const TO_LINEAR = Float32Array.from({ length: 256 }, (_, i) => srgbToLinear(i / 255));

/**
 * Resizes in linear light by averaging the source area under each target pixel; colours are weighted by
 * alpha, so that transparent pixels do not bleed. Enlarging repeats and blends in the same way.
 */
export function resizePicture(picture: Picture, width: number, height: number): Picture {
  if (width === picture.width && height === picture.height) return picture;
  const data = new Uint8Array(width * height * 4);
  const stepX = picture.width / width;
  const stepY = picture.height / height;
  for (let y = 0; y < height; y++) {
    const rows = coverage(y * stepY, (y + 1) * stepY, picture.height);
    for (let x = 0; x < width; x++) {
      const sum = [0, 0, 0, 0];
      let weight = 0;
      for (const [sy, wy] of rows) {
        for (const [sx, wx] of coverage(x * stepX, (x + 1) * stepX, picture.width)) {
          const at = (sy * picture.width + sx) * 4;
          const w = wx * wy;
          const alpha = (picture.data[at + 3] / 255) * w;
          for (let k = 0; k < 3; k++) sum[k] += TO_LINEAR[picture.data[at + k]] * alpha;
          sum[3] += alpha;
          weight += w;
        }
      }
      const out = (y * width + x) * 4;
      for (let k = 0; k < 3; k++) data[out + k] = sum[3] > 0 ? Math.round(linearToSrgb(sum[k] / sum[3]) * 255) : 0;
      data[out + 3] = Math.round((sum[3] / weight) * 255);
    }
  }
  return { width, height, data };
}

/** The source cells between two coordinates with the length covered in each. */
function coverage(from: number, to: number, size: number): [number, number][] {
  const cells: [number, number][] = [];
  for (let i = Math.floor(from); i < Math.min(size, Math.ceil(to - 1e-9)); i++) {
    cells.push([i, Math.min(to, i + 1) - Math.max(from, i)]);
  }
  return cells.length > 0 ? cells : [[Math.min(size - 1, Math.floor(from)), 1]];
}

/** Mean colour in linear light, weighted by alpha. */
export function meanColour(picture: Picture): [number, number, number] {
  const sum = [0, 0, 0];
  let weight = 0;
  for (let i = 0; i < picture.data.length; i += 4) {
    const alpha = picture.data[i + 3] / 255;
    for (let k = 0; k < 3; k++) sum[k] += TO_LINEAR[picture.data[i + k]] * alpha;
    weight += alpha;
  }
  return sum.map((v) => (weight > 0 ? v / weight : 0)) as [number, number, number];
}
