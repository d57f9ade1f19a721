/** The ground from above: tiles as pictures that are kept while they do not change, contour lines, things, the brush. */

import { TILE } from '@violet-crate/core/document/schema';
import { contourInterval, contours, type Contour } from '@violet-crate/core/terrain/contours';
import type { Ground } from '@violet-crate/core/terrain/ground';
import { tilePicture, type Rgb, type SlopeWord } from '@violet-crate/core/terrain/picture';
import { drawLabel, toScreen, toSheet, type Canvas2d, type Sheet } from '../../common/sheet.ts';

export interface GroundLook {
  /** Colours of the terrain's surfaces. */
  colours: readonly Rgb[];
  /** In place of the surfaces. */
  slopes: readonly SlopeWord[] | null;
  contours: boolean;
  ink: string;
  ground: string;
}

interface Kept {
  of: readonly unknown[];
  canvas: HTMLCanvasElement;
}

/** Pictures of tiles; the shade of a tile's edge reads its neighbours, so that they are among what it is made from. */
export class TilePictures {
  private readonly kept = new Map<string, Kept>();

  get(ground: Ground, x: number, y: number, step: number, look: Pick<GroundLook, 'colours' | 'slopes'>, fresh: boolean): HTMLCanvasElement {
    const near = [0, -1, 1].flatMap((b) => [0, -1, 1].map((a) => ground.tileAt(x + a, y + b)));
    const of = [ground.tiles[y * ground.tilesX + x], ground.terrain, step, look.colours, look.slopes, ...near];
    const key = `${ground.id}/${x}/${y}`;
    const known = this.kept.get(key);
    if (!fresh && known && known.of.length === of.length && known.of.every((value, i) => value === of[i])) return known.canvas;
    const picture = tilePicture(ground, x, y, step, look.colours, look.slopes);
    const canvas = known?.canvas ?? document.createElement('canvas');
    canvas.width = picture.width;
    canvas.height = picture.height;
    canvas.getContext('2d')!.putImageData(new ImageData(picture.data, picture.width, picture.height), 0, 0);
    this.kept.set(key, { of: fresh ? [] : of, canvas });
    return canvas;
  }
}

/** Samples that a pixel of a picture stands for, at a scale in pixels per sample. */
export function stepAt(pixelsPerSample: number): number {
  let step = 1;
  while (step < TILE && step * pixelsPerSample < 0.75) step *= 2;
  return step;
}

/** Samples within what a sheet shows; null where it shows nothing of the ground. */
function seen(ground: Ground, canvas: Canvas2d, sheet: Sheet) {
  const [left, top] = toSheet(sheet, canvas, [0, 0]);
  const [right, bottom] = toSheet(sheet, canvas, [canvas.width, canvas.height]);
  const [u0, v0] = ground.sampleOf(left, bottom);
  const [u1, v1] = ground.sampleOf(right, top);
  const rect = {
    i0: Math.max(0, Math.floor(u0)),
    j0: Math.max(0, Math.floor(v0)),
    i1: Math.min(ground.nx - 1, Math.ceil(u1)),
    j1: Math.min(ground.ny - 1, Math.ceil(v1)),
  };
  return rect.i0 < rect.i1 && rect.j0 < rect.j1 ? rect : null;
}

/** @param only tiles to draw, over what is there, as they are while a stroke goes on */
export function drawGround(
  canvas: Canvas2d,
  sheet: Sheet,
  ground: Ground,
  look: GroundLook,
  pictures: TilePictures,
  only?: ReadonlySet<number>,
): void {
  const rect = seen(ground, canvas, sheet);
  if (!rect) return;
  const { context } = canvas;
  const { spacing } = ground.terrain;
  const step = stepAt(sheet.scale * spacing);
  context.imageSmoothingEnabled = true;
  for (let y = Math.floor(rect.j0 / TILE); y <= Math.floor(Math.max(rect.j0, rect.j1 - 1) / TILE); y++)
    for (let x = Math.floor(rect.i0 / TILE); x <= Math.floor(Math.max(rect.i0, rect.i1 - 1) / TILE); x++) {
      if (x * TILE >= ground.nx - 1 || y * TILE >= ground.ny - 1) continue;
      if (only && !only.has(y * ground.tilesX + x)) continue;
      const picture = pictures.get(ground, x, y, step, look, only !== undefined);
      const [x0, y1] = toScreen(sheet, canvas, ground.pointOf(x * TILE, y * TILE));
      const [x1, y0] = toScreen(sheet, canvas, ground.pointOf(Math.min(ground.nx - 1, (x + 1) * TILE), Math.min(ground.ny - 1, (y + 1) * TILE)));
      // A hair wider than the tile: between two pictures no line of the sheet shows.
      context.drawImage(picture, x0, y0, x1 - x0 + 0.6, y1 - y0 + 0.6);
    }
}

const LINES = new WeakMap<Ground, Map<string, Contour[]>>();

/** Most cells along a side that contour lines are looked for in. */
const CELLS = 320;

export function drawContours(canvas: Canvas2d, sheet: Sheet, ground: Ground, look: GroundLook, unit: string): void {
  const rect = seen(ground, canvas, sheet);
  if (!rect) return;
  const { context } = canvas;
  const interval = contourInterval(sheet.scale);
  const step = 2 ** Math.max(0, Math.ceil(Math.log2(Math.max(rect.i1 - rect.i0, rect.j1 - rect.j0) / CELLS)));
  // On the lattice of the step, so that lines stay where they are while the sheet moves.
  const on = { i0: Math.floor(rect.i0 / step) * step, j0: Math.floor(rect.j0 / step) * step, i1: rect.i1, j1: rect.j1 };
  const key = `${interval}/${step}/${Object.values(on).join()}`;
  let known = LINES.get(ground);
  if (!known) LINES.set(ground, (known = new Map()));
  if (!known.has(key)) {
    known.clear();
    known.set(key, contours({ nx: ground.nx, ny: ground.ny, at: (i, j) => ground.at(i, j) }, interval, step, on));
  }
  context.strokeStyle = look.ink;
  for (const { level, points } of known.get(key)!) {
    const strong = Math.round(level / interval) % 5 === 0;
    context.globalAlpha = strong ? 0.8 : 0.45;
    context.lineWidth = strong ? 1.2 : 0.8;
    context.beginPath();
    for (let n = 0; n < points.length; n += 2) {
      const [x, y] = toScreen(sheet, canvas, ground.pointOf(points[n], points[n + 1]));
      if (n === 0) context.moveTo(x, y);
      else context.lineTo(x, y);
    }
    context.stroke();
    // Every fifth is named once, where it is long enough to be looked up.
    if (strong && points.length > 60) {
      const n = Math.floor(points.length / 4) * 2;
      const [x, y] = toScreen(sheet, canvas, ground.pointOf(points[n], points[n + 1]));
      context.globalAlpha = 1;
      drawLabel(context, `${Math.round(level * 100) / 100} ${unit}`, x, y, look.ink, look.ground);
    }
  }
  context.globalAlpha = 1;
}

/** Scattered things as dots, from a scale on at which they can be told apart. */
export function drawThings(canvas: Canvas2d, sheet: Sheet, ground: Ground, ink: string): void {
  const rect = seen(ground, canvas, sheet);
  if (!rect || sheet.scale < 0.35) return;
  const { context } = canvas;
  context.fillStyle = ink;
  context.globalAlpha = 0.7;
  for (let y = Math.floor(rect.j0 / TILE); y <= Math.floor(rect.j1 / TILE); y++)
    for (let x = Math.floor(rect.i0 / TILE); x <= Math.floor(rect.i1 / TILE); x++)
      for (const { position, kind, scale } of ground.thingsOn(y * ground.tilesX + x)) {
        const [px, py] = toScreen(sheet, canvas, [position[0], position[1]]);
        const size = Math.max(1.5, Math.max(0.4, ground.terrain.things[kind].radius) * scale * sheet.scale);
        context.beginPath();
        context.arc(px, py, size, 0, 2 * Math.PI);
        context.fill();
      }
  context.globalAlpha = 1;
}
