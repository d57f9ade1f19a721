import sharp from 'sharp';
import type { Pixels } from '@violet-crate/core/release/thumbnail';

/** Frames of one size as a WebP that goes on for ever. @param framesPerSecond at most 1000 */
export async function animatedWebp(frames: readonly Pixels[], framesPerSecond: number): Promise<Uint8Array> {
  const [{ width, height }] = frames;
  const raw = { width, height: height * frames.length, channels: 3 as const, pageHeight: height };
  const all = Buffer.concat(frames.map(({ data }) => data));
  const delay = frames.map(() => Math.round(1000 / framesPerSecond));
  // One thread, fixed effort: the same frames give the same bytes.
  return new Uint8Array(await sharp(all, { raw }).webp({ quality: 70, effort: 4, loop: 0, delay }).toBuffer());
}
