/** Reads JPEG, baseline and progressive, turned upright as its orientation tag (Exif 2.3, 0x0112) says. */

import ExifReader from 'exifreader';
import { decode } from 'jpeg-js';
import { damaged, guardSize, type Picture } from './picture.ts';

export function readJpeg(bytes: Uint8Array, file: string): Picture {
  // The frame header states the size before anything is unpacked.
  for (let at = 2; at + 9 < bytes.length && bytes[at] === 0xff;) {
    const marker = bytes[at + 1];
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) {
      guardSize((bytes[at + 7] << 8) | bytes[at + 8], (bytes[at + 5] << 8) | bytes[at + 6], file, at + 5);
      break;
    }
    at += 2 + ((bytes[at + 2] << 8) | bytes[at + 3]);
  }
  let image;
  try {
    image = decode(bytes, { useTArray: true, formatAsRGBA: true, tolerantDecoding: false, maxMemoryUsageInMB: 1024 });
  } catch (error) {
    throw damaged(file, error, bytes.length);
  }
  return upright({ width: image.width, height: image.height, data: image.data }, orientationOf(bytes));
}

/** 1 to 8; 1 where the file says nothing or nonsense. */
function orientationOf(bytes: Uint8Array): number {
  try {
    const tags = ExifReader.load(bytes.slice().buffer, { includeTags: { exif: ['Orientation'] } });
    const value = Number(tags.Orientation?.value ?? 1);
    return value >= 1 && value <= 8 ? value : 1;
  } catch {
    return 1;
  }
}

/**
 * For every orientation: which source column and row a target pixel comes from, as (transposed, columns
 * reversed, rows reversed) of the source.
 */
const TURNS: Record<number, [boolean, boolean, boolean]> = {
  1: [false, false, false],
  2: [false, true, false],
  3: [false, true, true],
  4: [false, false, true],
  5: [true, false, false],
  6: [true, false, true],
  7: [true, true, true],
  8: [true, true, false],
};

export function upright(picture: Picture, orientation: number): Picture {
  const [transposed, flipX, flipY] = TURNS[orientation];
  if (orientation === 1) return picture;
  const width = transposed ? picture.height : picture.width;
  const height = transposed ? picture.width : picture.height;
  const from = new Uint32Array(picture.data.buffer, picture.data.byteOffset, picture.width * picture.height);
  const to = new Uint32Array(width * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const sx = transposed ? y : x;
      const sy = transposed ? x : y;
      to[y * width + x] = from[(flipY ? picture.height - 1 - sy : sy) * picture.width + (flipX ? picture.width - 1 - sx : sx)];
    }
  }
  return { width, height, data: new Uint8Array(to.buffer) };
}
