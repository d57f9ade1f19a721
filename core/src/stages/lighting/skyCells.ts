/**
 * The sky as light comes from it: cells of equal solid angle (rows of equal height of z, by Archimedes' hat-box
 * theorem), each with its mean radiance. Rays keep the cell that they leave through, so that another sky needs no new rays.
 */

import type { LightPicture } from '../../asset/texture/picture.ts';

const ROWS = 16;
const COLUMNS = 32;
export const SKY_CELLS = ROWS * COLUMNS;

export interface Sky {
  /** Linear; what the whole sky looks like where there is no picture. */
  colour: [number, number, number];
  /** What colour or picture is multiplied by. */
  radiance: number;
  /** The whole sky, equirectangular: its left edge at turn 180°, going clockwise seen from above. */
  picture?: LightPicture;
}

/** The cell that a unit direction points into. */
export function skyCell(dx: number, dy: number, dz: number): number {
  const row = Math.min(ROWS - 1, Math.max(0, Math.floor(((1 - dz) / 2) * ROWS)));
  const column = Math.min(COLUMNS - 1, Math.floor((Math.atan2(dy, dx) / (2 * Math.PI) + 0.5) * COLUMNS));
  return row * COLUMNS + column;
}

/**
 * Radiance by cell, three numbers each.
 *
 * @param hideSun whether the brightest thousandth of a picture's upper half is cut down to its faintest part: a map that
 * has a sun of its own must not be lit by it twice
 */
export function skyCellLight({ colour, radiance, picture }: Sky, hideSun: boolean): Float32Array {
  const cells = new Float32Array(SKY_CELLS * 3);
  if (!picture) {
    for (let i = 0; i < cells.length; i++) cells[i] = colour[i % 3] * radiance;
    return cells;
  }
  const { width, height, light } = picture;
  const most = hideSun ? sunThreshold(picture) : Infinity;
  const weights = new Float64Array(SKY_CELLS);
  for (let y = 0; y < height; y++) {
    const latitude = (0.5 - (y + 0.5) / height) * Math.PI;
    const weight = Math.cos(latitude);
    for (let x = 0; x < width; x++) {
      const turn = Math.PI - ((x + 0.5) / width) * 2 * Math.PI;
      const cell = skyCell(Math.cos(turn), Math.sin(turn), Math.sin(latitude));
      const at = (y * width + x) * 4;
      const cut = Math.min(1, most / Math.max(1e-9, brightness(light, at)));
      weights[cell] += weight;
      for (let k = 0; k < 3; k++) cells[cell * 3 + k] += light[at + k] * weight * cut;
    }
  }
  for (let cell = 0; cell < SKY_CELLS; cell++) for (let k = 0; k < 3; k++) cells[cell * 3 + k] *= radiance / (weights[cell] || 1);
  return cells;
}

const brightness = (light: Float32Array, at: number): number => 0.2126 * light[at] + 0.7152 * light[at + 1] + 0.0722 * light[at + 2];

/** The brightness above which a pixel belongs to the brightest thousandth of the upper half. */
function sunThreshold({ width, height, light }: LightPicture): number {
  const all = Float32Array.from({ length: width * Math.floor(height / 2) }, (_, i) => brightness(light, i * 4)).sort();
  return all[Math.max(0, all.length - 1 - Math.max(1, Math.round(all.length / 1000)))] ?? Infinity;
}
