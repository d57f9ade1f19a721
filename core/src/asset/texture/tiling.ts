import type { Picture } from './picture.ts';

/**
 * How visible the seam is when a picture repeats: the mean step across its borders over the mean step
 * between neighbouring pixels inside. About 1 for a picture that tiles, above 3 for a seam that shows.
 */
export function seamError(picture: Picture): number {
  const { width, height, data } = picture;
  if (width < 4 || height < 4) return 1;
  const step = (a: number, b: number) =>
    Math.abs(data[a * 4] - data[b * 4]) + Math.abs(data[a * 4 + 1] - data[b * 4 + 1]) + Math.abs(data[a * 4 + 2] - data[b * 4 + 2]);
  let [seam, inside, inner] = [0, 0, 0];
  for (let y = 0; y < height; y++) {
    seam += step(y * width, y * width + width - 1);
    for (let x = 1; x < width; x += 3) {
      inside += step(y * width + x, y * width + x - 1);
      inner++;
    }
  }
  for (let x = 0; x < width; x++) {
    seam += step(x, (height - 1) * width + x);
    for (let y = 1; y < height; y += 3) {
      inside += step(y * width + x, (y - 1) * width + x);
      inner++;
    }
  }
  // A flat picture has no steps at all; half a grey level keeps the ratio finite.
  return (seam / (width + height) + 0.5) / (inside / inner + 0.5);
}
