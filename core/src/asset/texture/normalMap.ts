import type { Picture } from './picture.ts';

/**
 * A normal map from heights (mean of red, green and blue), by Sobel's operator over the wrapped-around
 * neighbours, so that a tileable height map gives a tileable normal map. x to the right, y up, z out, as
 * glTF 2.0 has it.
 *
 * @param strength rise of white over black, in texels
 */
export function normalFromHeight(picture: Picture, strength: number): Picture {
  const { width, height } = picture;
  const heights = new Float32Array(width * height);
  for (let i = 0; i < heights.length; i++) heights[i] = ((picture.data[i * 4] + picture.data[i * 4 + 1] + picture.data[i * 4 + 2]) / 765) * strength;
  const at = (x: number, y: number) => heights[((y + height) % height) * width + ((x + width) % width)];
  const data = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const right = at(x + 1, y - 1) + 2 * at(x + 1, y) + at(x + 1, y + 1);
      const left = at(x - 1, y - 1) + 2 * at(x - 1, y) + at(x - 1, y + 1);
      const below = at(x - 1, y + 1) + 2 * at(x, y + 1) + at(x + 1, y + 1);
      const above = at(x - 1, y - 1) + 2 * at(x, y - 1) + at(x + 1, y - 1);
      const normal = [(left - right) / 8, (below - above) / 8, 1];
      const size = Math.hypot(...normal);
      const out = (y * width + x) * 4;
      for (let k = 0; k < 3; k++) data[out + k] = Math.round((normal[k] / size + 1) * 127.5);
      data[out + 3] = 255;
    }
  }
  return { width, height, data };
}

/** Mean length of the vectors and mean z: about 1 and well above 0 for anything that is a normal map. */
export function normalQuality(picture: Picture): { length: number; z: number } {
  let [length, z] = [0, 0];
  const pixels = picture.width * picture.height;
  for (let i = 0; i < picture.data.length; i += 4) {
    const v = [0, 1, 2].map((k) => picture.data[i + k] / 127.5 - 1);
    length += Math.hypot(...v);
    z += v[2];
  }
  return { length: length / pixels, z: z / pixels };
}
