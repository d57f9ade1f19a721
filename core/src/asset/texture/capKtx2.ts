/** A KTX 2.0 texture without its largest levels: what a machine with less memory loads of it, to the bit. Nothing is encoded anew. */

import { read, write } from 'ktx-parse';

/**
 * @param maxSize pixels along the longer side of what stays
 * @returns the texture itself where it is no larger, or has no smaller levels
 */
export function capKtx2(bytes: Uint8Array, maxSize: number): { bytes: Uint8Array; from: number; to: number } {
  const container = read(bytes);
  const from = Math.max(container.pixelWidth, container.pixelHeight);
  let drop = 0;
  while (from >> drop > maxSize && drop < container.levels.length - 1) drop++;
  if (drop === 0) return { bytes, from, to: from };
  container.levels.splice(0, drop);
  container.levelCount = container.levels.length;
  container.pixelWidth = Math.max(1, container.pixelWidth >> drop);
  container.pixelHeight = Math.max(1, container.pixelHeight >> drop);
  // ETC1S describes the slices of every level beside the palettes that they share (KTX 2.0, "BasisLZ global data").
  container.globalData?.imageDescs.splice(0, drop);
  return { bytes: write(container), from, to: Math.max(container.pixelWidth, container.pixelHeight) };
}
