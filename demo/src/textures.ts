/** The stock textures of Brinewick: drawn by formulas, tileable, 256 × 256. Colours are sRGB 0..255. */

import { encode } from 'fast-png';
import { blend, fractal, noise, shade, step, type Rgb } from './noise.ts';

export const TEXTURE_SIZE = 256;

type Painter = (u: number, v: number) => Rgb;

/** Courses of stones: which stone a point lies in and how far it is from the joint (0 in the joint, 1 inside). */
function courses(
  u: number,
  v: number,
  columns: number,
  rows: number,
  joint: number,
  wobble: number,
): { id: number; inside: number; x: number; y: number } {
  const wu = u + (fractal(u, v, 8, 91, 2) - 0.5) * wobble;
  const wv = v + (fractal(u, v, 8, 92, 2) - 0.5) * wobble;
  const row = Math.floor(wv * rows);
  const shifted = wu * columns + (row % 2 === 0 ? 0 : 0.5);
  const column = Math.floor(shifted);
  const x = shifted - column;
  const y = wv * rows - row;
  const edge = Math.min(Math.min(x, 1 - x) / columns, Math.min(y, 1 - y) / rows);
  const id = (((column % columns) + columns) % columns) * 31 + (((row % rows) + rows) % rows) * 17;
  return { id, inside: step(joint * 0.4, joint, edge), x, y };
}

const stoneTint = (id: number, seed: number): number => noise((id * 0.618) % 1, (id * 0.381) % 1, 16, seed);

const brick: Painter = (u, v) => {
  const { id, inside, y } = courses(u, v, 4, 8, 0.012, 0.008);
  const grain = fractal(u, v, 32, 3, 3);
  const face = blend([126, 62, 50], [164, 92, 66], stoneTint(id, 5));
  const soot = step(0.45, 0.8, fractal(u, v, 4, 7, 3));
  const lit = shade(blend(face, [92, 60, 56], soot * 0.5), 0.82 + grain * 0.3 + (y - 0.5) * -0.08);
  return blend([112, 104, 98].map((c) => c * (0.7 + grain * 0.4)) as Rgb, lit, inside);
};

const plaster: Painter = (u, v) => {
  const patch = step(0.5, 0.72, fractal(u, v, 4, 21, 4));
  const grain = fractal(u, v, 48, 22, 2);
  const crack = step(0.02, 0.0, Math.abs(fractal(u, v, 5, 23, 4) - 0.5)) * 0.25;
  return shade(blend([205, 192, 168], [166, 158, 140], patch), 0.88 + grain * 0.16 - crack);
};

const plank: Painter = (u, v) => {
  const boards = 6;
  const board = Math.floor(u * boards);
  const x = u * boards - board;
  const offset = noise((board * 0.37) % 1, 0.2, 16, 31);
  const grain = fractal((u * 4) % 1, (v + offset) % 1, 4, 33, 5);
  const streak = noise(u, (v + offset) % 1, 96, 34, 4);
  const gap = step(0.0, 0.05, Math.min(x, 1 - x));
  const butt = step(0.0, 0.008, Math.abs(((v + offset) % 1) - 0.5));
  return shade(blend([112, 78, 50], [152, 112, 74], offset * 0.6 + grain * 0.4), (0.7 + streak * 0.36) * (0.35 + 0.65 * gap * butt));
};

const slate: Painter = (u, v) => {
  const { id, inside } = courses(u, v, 2, 4, 0.008, 0.004);
  const grain = fractal(u, v, 24, 41, 4);
  return shade(blend([58, 62, 74], [92, 94, 106], stoneTint(id, 43) * 0.7 + grain * 0.3), (0.75 + grain * 0.35) * (0.45 + 0.55 * inside));
};

const wetStone: Painter = (u, v) => {
  const { id, inside } = courses(u, v, 3, 6, 0.016, 0.03);
  const grain = fractal(u, v, 16, 51, 5);
  const moss = step(0.52, 0.72, fractal(u, v, 5, 53, 4)) * (1.2 - inside * 0.5);
  const stone = blend([70, 78, 80], [108, 112, 106], stoneTint(id, 55) * 0.6 + grain * 0.4);
  return shade(blend(stone, [58, 84, 52], Math.min(1, moss * 0.75)), (0.62 + grain * 0.5) * (0.4 + 0.6 * inside));
};

const brass: Painter = (u, v) => {
  const brushed = noise(u, v, 4, 61, 128);
  const stain = step(0.55, 0.8, fractal(u, v, 6, 62, 4));
  return shade(blend([186, 146, 74], [112, 110, 76], stain * 0.7), 0.8 + brushed * 0.28);
};

const iron: Painter = (u, v) => {
  const pit = fractal(u, v, 24, 71, 4);
  const rust = step(0.5, 0.75, fractal(u, v, 5, 72, 4));
  return shade(blend([70, 70, 76], [124, 74, 48], rust * 0.8), 0.7 + pit * 0.5);
};

const water: Painter = (u, v) => {
  const wave = fractal(u, v, 6, 81, 4);
  return blend([28, 66, 74], [74, 128, 126], step(0.35, 0.75, wave));
};

const tile: Painter = (u, v) => {
  const n = 4;
  const [x, y] = [(u * n) % 1, (v * n) % 1];
  const dark = (Math.floor(u * n) + Math.floor(v * n)) % 2 === 0;
  const joint = step(0, 0.05, Math.min(x, 1 - x, y, 1 - y));
  const grain = fractal(u, v, 16, 95, 4);
  return shade(dark ? [118, 60, 58] : [196, 178, 148], (0.78 + grain * 0.3) * (0.5 + 0.5 * joint));
};

const timber: Painter = (u, v) => {
  const ring = fractal(u, (v * 0.5) % 1, 6, 101, 4);
  const streak = noise(u, v, 64, 102, 3);
  return shade(blend([74, 50, 34], [112, 80, 52], ring), 0.72 + streak * 0.4);
};

export const TEXTURES: Record<string, Painter> = { brick, plaster, plank, slate, wet_stone: wetStone, brass, iron, water, tile, timber };

/** A texture as PNG. */
export function paintTexture(painter: Painter, size = TEXTURE_SIZE): Uint8Array {
  const data = new Uint8Array(size * size * 3);
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      painter((x + 0.5) / size, (y + 0.5) / size).forEach(
        (value, k) => (data[(y * size + x) * 3 + k] = Math.round(Math.min(255, Math.max(0, value)))),
      );
    }
  }
  return encode({ width: size, height: size, data, channels: 3, depth: 8 });
}
