import { resizePicture } from './resize.ts';
import type { Picture } from './picture.ts';

export interface ChannelSources {
  occlusion?: Picture;
  roughness?: Picture;
  metalness?: Picture;
}

/**
 * Occlusion, roughness and metalness in one picture, as glTF 2.0 (3.9.2, 3.9.3) reads them: red, green and
 * blue. What is missing is unoccluded, fully rough and not metal. Smaller pictures are enlarged to the largest.
 */
export function packChannels(sources: ChannelSources): Picture {
  const given = [sources.occlusion, sources.roughness, sources.metalness];
  const [width, height] = [Math.max(...given.map((p) => p?.width ?? 1)), Math.max(...given.map((p) => p?.height ?? 1))];
  const data = new Uint8Array(width * height * 4).fill(255);
  const missing = [255, 255, 0];
  given.forEach((picture, channel) => {
    const fitted = picture && resizePicture(picture, width, height, 'data');
    for (let i = 0; i < width * height; i++) data[i * 4 + channel] = fitted ? fitted.data[i * 4] : missing[channel];
  });
  return { width, height, data };
}
