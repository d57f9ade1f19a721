import type { Picture } from './picture.ts';
import { resizePicture, type Meaning } from './resize.ts';

/** Alpha at which cut-outs are cut, of 255: glTF 2.0's default alphaCutoff of 0.5. */
export const CUTOFF = 128;

/**
 * All levels from full size to one pixel, each averaged from the full picture. With `keepCoverage` the
 * alpha of every level is scaled so that as much of it passes the cut as at full size; otherwise leaves and
 * grates thin out with distance (Castaño 2010).
 */
export function mipmaps(picture: Picture, meaning: Meaning, keepCoverage: boolean): Picture[] {
  const levels = [picture];
  let { width, height } = picture;
  const wanted = keepCoverage ? coverage(picture, 1) : 0;
  while (width > 1 || height > 1) {
    width = Math.max(1, width >> 1);
    height = Math.max(1, height >> 1);
    // Halves of halves are as good as halves of the whole, at a fraction of the cost.
    const level = resizePicture(levels.at(-1)!, width, height, meaning);
    levels.push(level);
  }
  if (keepCoverage) for (const level of levels.slice(1)) scaleAlpha(level, wanted);
  return levels;
}

/** Share of the pixels whose alpha, scaled, passes the cut. */
export function coverage(picture: Picture, scale: number): number {
  let passed = 0;
  for (let i = 3; i < picture.data.length; i += 4) if (picture.data[i] * scale >= CUTOFF) passed++;
  return passed / (picture.width * picture.height);
}

function scaleAlpha(picture: Picture, wanted: number): void {
  let [low, high] = [0, 8];
  // Coverage grows with the scale, so halving the interval finds it.
  for (let i = 0; i < 20; i++) {
    const middle = (low + high) / 2;
    if (coverage(picture, middle) < wanted) low = middle;
    else high = middle;
  }
  // Coverage moves in steps; the nearer side of the step is taken.
  const scale = Math.abs(coverage(picture, low) - wanted) < Math.abs(coverage(picture, high) - wanted) ? low : high;
  for (let i = 3; i < picture.data.length; i += 4) picture.data[i] = Math.min(255, Math.round(picture.data[i] * scale));
}
