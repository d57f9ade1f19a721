import { encode } from 'fast-png';
import { linearToSrgb } from '../../math/srgb.ts';

/** The lightmap value (E/π) that full white stands for; brighter luxels are cut off. */
export const LIGHTMAP_RANGE = 4;

/** An 8-bit sRGB PNG of linear RGB triples divided by LIGHTMAP_RANGE. */
export function lightmapPng(width: number, height: number, values: Float32Array): Uint8Array {
  const data = new Uint8Array(width * height * 3);
  for (let i = 0; i < data.length; i++) data[i] = Math.round(linearToSrgb(Math.min(1, Math.max(0, values[i] / LIGHTMAP_RANGE))) * 255);
  return encode({ width, height, data, channels: 3, depth: 8 });
}
