/** Reads pictures of light for skies: Radiance HDR (RGBE) and OpenEXR, as linear floats. */

import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js';
import { UnreadableInput } from '../../finding.ts';
import { damaged, guardSize, type LightPicture } from './picture.ts';

export const isHdr = (bytes: Uint8Array): boolean => bytes[0] === 0x23 && bytes[1] === 0x3f;
export const isExr = (bytes: Uint8Array): boolean => bytes[0] === 0x76 && bytes[1] === 0x2f && bytes[2] === 0x31 && bytes[3] === 0x01;

export function readLight(bytes: Uint8Array, file: string): LightPicture {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 4096));
  if (isHdr(bytes)) {
    const size = /[-+]Y (\d+) [-+]X (\d+)/.exec(head);
    if (!size) throw new UnreadableInput('image-damaged', `${file} has no size line in its first 4096 bytes (byte 0).`, { file, byte: 0 });
    guardSize(Number(size[2]), Number(size[1]), file, size.index);
  } else {
    // "dataWindow", "box2i", the length 16, then four whole numbers: left, top, right, bottom.
    const at = head.indexOf('dataWindow\0box2i\0');
    if (at < 0) throw new UnreadableInput('image-damaged', `${file} has no data window in its first 4096 bytes (byte 8).`, { file, byte: 8 });
    const from = at + 'dataWindow\0box2i\0'.length + 4;
    if (from + 16 > bytes.length) throw damaged(file, 'it is cut off', bytes.length);
    const view = new DataView(bytes.buffer, bytes.byteOffset + from, 16);
    guardSize(view.getInt32(8, true) - view.getInt32(0, true) + 1, view.getInt32(12, true) - view.getInt32(4, true) + 1, file, from);
  }
  const loader = isHdr(bytes) ? new HDRLoader() : new EXRLoader();
  try {
    const read = loader.setDataType(FloatType).parse(bytes.slice().buffer) as { width: number; height: number; data: Float32Array };
    if (!read?.data || read.data.length < read.width * read.height) throw new Error('it cannot be decoded');
    return toRgba(read, isExr(bytes));
  } catch (error) {
    throw damaged(file, error, bytes.length);
  }
}

/** Brings one to four channels to four, rows from the top. three's EXR loader fills rows from the bottom. */
function toRgba({ width, height, data }: { width: number; height: number; data: Float32Array }, upsideDown: boolean): LightPicture {
  const channels = data.length / (width * height);
  const light = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const from = ((upsideDown ? height - 1 - y : y) * width + x) * channels;
      const to = (y * width + x) * 4;
      for (let k = 0; k < 3; k++) {
        const value = data[from + (channels >= 3 ? k : 0)];
        light[to + k] = Number.isFinite(value) ? Math.max(0, value) : 0;
      }
      light[to + 3] = 1;
    }
  }
  return { width, height, light };
}
