import type { StampPicture } from './brushing.ts';

/** Longest side of a stamp, in pixels: more than a brush can press in. */
const LONGEST = 512;

/** The brightness of a picture, 0..1, by the browser's own decoder. */
export async function pictureHeights(file: File): Promise<StampPicture> {
  const bitmap = await createImageBitmap(file);
  const scale = Math.min(1, LONGEST / Math.max(bitmap.width, bitmap.height));
  const [width, height] = [Math.max(2, Math.round(bitmap.width * scale)), Math.max(2, Math.round(bitmap.height * scale))];
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d')!;
  context.drawImage(bitmap, 0, 0, width, height);
  bitmap.close();
  const { data } = context.getImageData(0, 0, width, height);
  // Relative luminance of sRGB primaries (ITU-R BT.709), of the numbers as they are: heights know no gamma.
  const values = Float32Array.from(
    { length: width * height },
    (_, i) => (0.2126 * data[i * 4] + 0.7152 * data[i * 4 + 1] + 0.0722 * data[i * 4 + 2]) / 255,
  );
  return { name: file.name, width, height, values };
}
