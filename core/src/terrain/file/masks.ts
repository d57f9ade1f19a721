/** What covers a ground, one surface at a time, as grey PNG with 8 bits: white where it covers all. The first row has the greatest y. */

import { encode } from 'fast-png';
import { readPng } from '../../asset/texture/readPng.ts';
import type { Change } from '../../document/edit.ts';
import { TILE } from '../../document/schema.ts';
import { UnreadableInput } from '../../unreadable.ts';
import type { Ground } from '../ground.ts';
import { TILE_SAMPLES } from '../pack.ts';
import { tileBytes, tileId, withWeights } from '../tile.ts';

export function writeMask(ground: Ground, surface: string): Uint8Array {
  const { nx, ny, terrain } = ground;
  const number = terrain.surfaces.findIndex(({ id }) => id === surface);
  const data = new Uint8Array(nx * ny);
  for (let j = 0; j < ny; j++) for (let i = 0; i < nx; i++) data[(ny - 1 - j) * nx + i] = Math.round(ground.weightsAt(i, j)[number] * 255);
  return encode({ width: nx, height: ny, data, channels: 1, depth: 8 });
}

/**
 * @returns shares of 255 by sample, the first row has the least y
 * @throws UnreadableInput `mask-format`, `mask-size`, `mask-depth`, or what the reader of PNG says of damage
 */
export function readMask(bytes: Uint8Array, file: string, { nx, ny }: Pick<Ground, 'nx' | 'ny'>): Uint8Array {
  const refuse = (code: string, message: string, hint: string): never => {
    throw new UnreadableInput(code, message, { file }, hint);
  };
  if (bytes.length < 33 || bytes[0] !== 0x89 || bytes[1] !== 0x50)
    refuse('mask-format', `${file} is no PNG.`, 'Export the mask as PNG, grey, with 8 bits.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  if (width !== nx || height !== ny)
    refuse(
      'mask-size',
      `${file} has ${width} × ${height} pixels, the ground has ${nx} × ${ny} samples.`,
      `Scale the picture to ${nx} × ${ny}: one pixel is one sample.`,
    );
  const [depth, colour] = [bytes[24], bytes[25]];
  if (depth !== 8 || (colour !== 0 && colour !== 4))
    refuse(
      'mask-depth',
      `${file} ${depth !== 8 ? `has ${depth} bits a sample` : 'is in colour'}; a mask is grey with 8 bits.`,
      'Export one channel in grey with 8 bits.',
    );
  const picture = readPng(bytes, file);
  const out = new Uint8Array(nx * ny);
  for (let j = 0; j < ny; j++) for (let i = 0; i < nx; i++) out[j * nx + i] = picture.data[((ny - 1 - j) * nx + i) * 4];
  return out;
}

/** A surface that covers the ground as a mask says, as if painted by hand: the others give way where it is white. */
export function coverByMask(ground: Ground, surface: string, mask: Uint8Array): Change[] {
  const { nx, ny, tilesX, tilesY, terrain, id } = ground;
  const changes: Change[] = [];
  for (let y = 0; y < tilesY; y++)
    for (let x = 0; x < tilesX; x++) {
      const tile = ground.tiles[y * tilesX + x] ?? { terrain: id, x, y };
      const read = (of: string) => (tile.hand?.[of] === undefined ? null : tileBytes(tile, 'hand', of));
      const own = Object.fromEntries(terrain.surfaces.map(({ id: one }) => [one, Uint8Array.from(read(one) ?? new Uint8Array(TILE_SAMPLES))]));
      for (let j = y * TILE; j < Math.min(ny, (y + 1) * TILE); j++)
        for (let i = x * TILE; i < Math.min(nx, (x + 1) * TILE); i++) {
          const at = (j % TILE) * TILE + (i % TILE);
          const wanted = mask[j * nx + i];
          for (const one in own) own[one][at] = one === surface ? wanted : Math.floor((own[one][at] * (255 - wanted)) / 255);
        }
      changes.push({ of: 'tiles', id: tileId(id, x, y), to: withWeights(tile, 'hand', own) });
    }
  return changes;
}
