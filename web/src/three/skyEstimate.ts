import { estimateSun } from '@violet-crate/core/map/sky';
import { previewUrl, type AssetSource } from '../api/assetUrl.ts';

/** The sun of a sky texture, from its preview picture; null where that cannot be read. */
export async function skyEstimate(source: AssetSource, texture: string): Promise<ReturnType<typeof estimateSun>> {
  const image = new Image();
  image.src = previewUrl(source, texture);
  try {
    await image.decode();
  } catch {
    return null;
  }
  const canvas = document.createElement('canvas');
  canvas.width = image.naturalWidth;
  canvas.height = image.naturalHeight;
  const context = canvas.getContext('2d')!;
  context.drawImage(image, 0, 0);
  return estimateSun(context.getImageData(0, 0, canvas.width, canvas.height).data, canvas.width, canvas.height);
}
