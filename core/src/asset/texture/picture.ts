import { UnreadableInput } from '../../unreadable.ts';

/** A picture in memory, 8 bits per channel. */
export interface Picture {
  width: number;
  height: number;
  /** Red, green, blue, alpha per pixel, rows from the top. Colours are sRGB, data is as it is. */
  data: Uint8Array;
}

/** A picture of light: linear, with values above 1. */
export interface LightPicture {
  width: number;
  height: number;
  /** Red, green, blue, alpha per pixel, rows from the top. */
  light: Float32Array;
}

/** Pixels that a picture may declare: 8192 × 8192. */
export const MAX_PIXELS = 8192 * 8192;

/** Refuses sizes that no picture has before memory is asked for. */
export function guardSize(width: number, height: number, file: string, byte: number): void {
  if (width < 1 || height < 1 || !(width * height <= MAX_PIXELS)) {
    throw new UnreadableInput(
      'image-too-large',
      `${file} declares ${width} × ${height} pixels; at least one and at most ${MAX_PIXELS} pixels are read (byte ${byte}).`,
      { file, byte },
    );
  }
}

export const damaged = (file: string, error: unknown, byte: number): UnreadableInput =>
  new UnreadableInput(
    'image-damaged',
    `${file} is damaged: ${(error instanceof Error ? error.message : String(error)).replace(/\.$/, '')} (byte ${byte}).`,
    { file, byte },
    'Save or copy the picture again.',
  );

/** Zeros after the file: decoders that look for the end of a string or block find one instead of going on for ever. */
const ENDING = 4096;

export function withEnding(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(bytes.length + ENDING);
  out.set(bytes);
  return out;
}
