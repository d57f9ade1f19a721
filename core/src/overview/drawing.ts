/**
 * The map as its players see it on paper: ground in light and shade with contour lines, water, roads, buildings, routes, places with their
 * labels, a scale and where north is (+y). Drawn as SVG, text as outlines, so that it is the same in a browser and in the build.
 */

import { encode } from 'fast-png';
import { toBase64 } from '../base64.ts';
import { linearOfHex, linearToSrgb } from '../math/srgb.ts';
import { smoothLine } from '../math/smoothLine.ts';
import { ribbonOf } from '../route/ribbon.ts';
import type { Point2 } from '../solid/shape.ts';
import { contourInterval, contours } from '../terrain/contours.ts';
import { groundsOf, type Ground } from '../terrain/ground.ts';
import type { Rgb } from '../terrain/picture.ts';
import { TILE } from '../document/schema.ts';
import { groundPicture } from './groundPicture.ts';
import type { Footprint, OverviewInputs } from './inputs.ts';
import type { Lettering } from './lettering.ts';
import { SYMBOL_SIDE, symbolOutlines } from './symbols.ts';

/** Pixels, y down: left, top, right, bottom. */
export type Frame = [number, number, number, number];

export interface DrawnPlace {
  /** Id of its object. */
  id: string;
  at: Point2;
  /** Where its label stands; null where it has none. */
  label: Frame | null;
}

export interface Drawing {
  svg: string;
  width: number;
  height: number;
  /** What of the map it shows, units. */
  min: Point2;
  max: Point2;
  places: DrawnPlace[];
}

const INK = '#2a2233';
const PAPER = '#f4efe6';
const ROUTE = '#8a2f6b';
const ROAD = '#c9b48a';

/** Sizes in pixels on a picture of this longer side; they grow with it, but not below what can be read. */
const DRAWN_FOR = 1024;
const LEAST = 0.72;

/**
 * @param side longer side in pixels
 * @param pictureOf address of the picture of a texture, `data:` or otherwise; null where there is none
 * @returns null where the map is empty
 */
export function drawOverview(inputs: OverviewInputs, side: number, letters: Lettering, pictureOf: (path: string) => string | null): Drawing | null {
  const grounds = groundsOf(inputs);
  const extent = extentOf(inputs, grounds);
  if (!extent) return null;
  const [min, max] = extent;
  const scale = side / Math.max(max[0] - min[0], max[1] - min[1]);
  const [width, height] = [0, 1].map((k) => Math.max(1, Math.round((max[k] - min[k]) * scale)));
  const pen = new Pen(min, max, scale, Math.max(LEAST, side / DRAWN_FOR), letters);
  const marks = pen.places(inputs, pictureOf, width, height);
  const parts = [
    `<rect width="${width}" height="${height}" fill="${PAPER}"/>`,
    ...grounds.map((ground) => pen.ground(ground, inputs.colours)),
    ...Object.values(inputs.water).map((one) => pen.area(one, 0.75)),
    ...grounds.map((ground) => pen.contours(ground)),
    ...Object.values(inputs.roads).map(({ points, loop, road }) => pen.road(smoothLine(points, loop, (max[0] - min[0]) / 400), road!)),
    ...Object.values(inputs.solids)
      .sort((a, b) => a.top - b.top)
      .map((one) => pen.area(one, 1)),
    ...Object.values(inputs.routes).flatMap((route) => [
      ...route.branches.map(({ points }) => pen.route(smoothLine(points, false, route.width))),
      pen.route(ribbonOf(inputs, route).stations.map(({ at }) => at)),
    ]),
    ...Object.values(inputs.routes).map(({ start, stops, finish }) => pen.stops([start, ...stops, finish].map((id) => inputs.stops[id]?.at))),
    marks.svg,
    pen.scaleBar(inputs.unit, width, height),
    pen.north(width),
  ];
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}">${parts.join('')}</svg>`;
  return { svg, width, height, min, max, places: marks.places };
}

/** Share of the longer side that is left free about solids where a map has no ground. */
const MARGIN = 0.04;

function extentOf({ solids, water }: OverviewInputs, grounds: readonly Ground[]): [Point2, Point2] | null {
  const corners = grounds.flatMap(({ box: { min, max } }) => [min, max]);
  const beyond = corners.length > 0 ? [] : [...Object.values(solids), ...Object.values(water)].flatMap(({ outline }) => outline);
  const all = [...corners, ...beyond];
  if (all.length === 0) return null;
  const [min, max] = [Math.min, Math.max].map((of) => [0, 1].map((k) => all.reduce((a, p) => of(a, p[k]), all[0][k])) as Point2);
  const margin = corners.length > 0 ? 0 : Math.max(max[0] - min[0], max[1] - min[1]) * MARGIN;
  return [
    [min[0] - margin, min[1] - margin],
    [max[0] + margin, max[1] + margin],
  ];
}

const n = (v: number): string => String(Math.round(v * 100) / 100);
const attribute = (text: string): string => text.replace(/&/g, '&amp;').replace(/"/g, '&quot;').replace(/</g, '&lt;');

class Pen {
  constructor(
    private readonly min: Point2,
    private readonly max: Point2,
    private readonly scale: number,
    /** What sizes are multiplied by. */
    private readonly grain: number,
    private readonly letters: Lettering,
  ) {}

  private at([x, y]: readonly number[]): Point2 {
    return [(x - this.min[0]) * this.scale, (this.max[1] - y) * this.scale];
  }

  private line(points: readonly (readonly number[])[]): string {
    return points.map((p, k) => `${k === 0 ? 'M' : 'L'}${this.at(p).map(n).join(' ')}`).join('');
  }

  ground(ground: Ground, colours: OverviewInputs['colours']): string {
    const perSample = this.scale * ground.terrain.spacing;
    let step = 1;
    while (step < TILE && step * perSample < 1) step *= 2;
    const picture = groundPicture(
      ground,
      step,
      ground.terrain.surfaces.map(({ material }) => rgbOf(colours[material])),
    );
    const [x, y] = this.at(ground.pointOf(0, picture.height * step));
    const png = encode({ ...picture, channels: 4, depth: 8 });
    // Pixels begin at their samples, so that the last ones reach beyond the edge of the ground.
    return `<image x="${n(x)}" y="${n(y)}" width="${n(picture.width * step * perSample)}" height="${n(picture.height * step * perSample)}" preserveAspectRatio="none" href="${dataUri(png)}"/>`;
  }

  contours(ground: Ground): string {
    const interval = contourInterval(this.scale, 14);
    const step = 2 ** Math.max(0, Math.ceil(Math.log2(Math.max(ground.nx, ground.ny) / 320)));
    const lines = contours({ nx: ground.nx, ny: ground.ny, at: (i, j) => ground.at(i, j) }, interval, step).map(({ points, level }) => {
      const path: Point2[] = [];
      for (let k = 0; k < points.length; k += 2) path.push(ground.pointOf(points[k], points[k + 1]));
      return { d: this.line(path), strong: Math.round(level / interval) % 5 === 0 };
    });
    const drawn = (strong: boolean, width: number, opacity: number) =>
      `<path d="${lines.flatMap((line) => (line.strong === strong ? [line.d] : [])).join('')}" fill="none" stroke="#5b4a3a" stroke-opacity="${opacity}" stroke-width="${n(width * this.grain)}"/>`;
    return drawn(false, 0.8, 0.35) + drawn(true, 1.3, 0.6);
  }

  area({ outline, colour }: Footprint, opacity: number): string {
    return `<path d="${this.line(outline)}Z" fill="${colour}" fill-opacity="${opacity}" stroke="${INK}" stroke-opacity="0.7" stroke-width="${n(this.grain)}"/>`;
  }

  road(points: readonly (readonly number[])[], wide: number): string {
    const width = Math.max(2.5 * this.grain, wide * this.scale);
    const stroke = (colour: string, w: number) =>
      `<path d="${this.line(points)}" fill="none" stroke="${colour}" stroke-width="${n(w)}" stroke-linejoin="round" stroke-linecap="round"/>`;
    return stroke(INK, width + 1.4 * this.grain) + stroke(ROAD, width);
  }

  route(points: readonly (readonly number[])[]): string {
    const stroke = (colour: string, w: number, dash: string) =>
      `<path d="${this.line(points)}" fill="none" stroke="${colour}" stroke-width="${n(w * this.grain)}" stroke-linejoin="round"${dash}/>`;
    return stroke(PAPER, 5, ' stroke-opacity="0.8"') + stroke(ROUTE, 2.6, ` stroke-dasharray="${n(9 * this.grain)} ${n(4 * this.grain)}"`);
  }

  /** The first is a triangle, the last a square, those between are numbered. */
  stops(points: readonly (Point2 | undefined)[]): string {
    const r = 8 * this.grain;
    return points
      .map((point, k) => {
        if (!point) return '';
        const [x, y] = this.at(point);
        const form =
          k === 0
            ? `<path d="M${n(x - r)} ${n(y + r)}L${n(x + r)} ${n(y + r)}L${n(x)} ${n(y - r)}Z"`
            : k === points.length - 1
              ? `<rect x="${n(x - r)}" y="${n(y - r)}" width="${n(2 * r)}" height="${n(2 * r)}"`
              : `<circle cx="${n(x)}" cy="${n(y)}" r="${n(r)}"`;
        const inner = k > 0 && k < points.length - 1 ? this.words(String(k), x, y + 3.6 * this.grain, 10 * this.grain, PAPER) : '';
        return `${form} fill="${ROUTE}" stroke="${PAPER}" stroke-width="${n(1.6 * this.grain)}"/>${inner}`;
      })
      .join('');
  }

  /** A line of text with its middle at x. */
  private words(text: string, x: number, y: number, size: number, colour: string, halo = false): string {
    const d = this.letters.outline(text, x - this.letters.width(text, size) / 2, y, size);
    const around = halo ? `<path d="${d}" fill="none" stroke="${PAPER}" stroke-width="${n(size * 0.3)}" stroke-linejoin="round"/>` : '';
    return `${around}<path d="${d}" fill="${colour}"/>`;
  }

  places(inputs: OverviewInputs, pictureOf: (path: string) => string | null, width: number, height: number): { svg: string; places: DrawnPlace[] } {
    const size = 14 * this.grain;
    const half = 11 * this.grain;
    const taken: Frame[] = Object.values(inputs.places).map(({ at }) => frameAbout(this.at(at), half * 2, half * 2));
    for (const stop of Object.values(inputs.stops)) taken.push(frameAbout(this.at(stop.at), half * 1.6, half * 1.6));
    const places: DrawnPlace[] = [];
    const svg: string[] = [];
    for (const [id, { label, icon, at, labelAt }] of Object.entries(inputs.places)) {
      const [x, y] = this.at(at);
      svg.push(this.icon(icon, x, y, half, pictureOf));
      if (label === '') {
        places.push({ id, at: [x, y], label: null });
        continue;
      }
      const [w, h] = [this.letters.width(label, size), size * 1.3];
      const frame = labelAt
        ? frameAbout(this.at([at[0] + labelAt[0], at[1] + labelAt[1]]), w, h)
        : freeFrame([x, y], half, w, h, taken, width, height);
      taken.push(frame);
      const [cx, cy] = [(frame[0] + frame[2]) / 2, (frame[1] + frame[3]) / 2];
      // A label that was moved away keeps a line to its place.
      const [nx, ny] = [Math.min(frame[2], Math.max(frame[0], x)), Math.min(frame[3], Math.max(frame[1], y))];
      if (Math.hypot(nx - x, ny - y) > half * 2)
        svg.push(`<path d="M${n(x)} ${n(y)}L${n(nx)} ${n(ny)}" stroke="${INK}" stroke-opacity="0.7" stroke-width="${n(this.grain)}"/>`);
      svg.push(this.words(label, cx, cy + size * 0.36, size, INK, true));
      places.push({ id, at: [x, y], label: frame });
    }
    return { svg: svg.join(''), places };
  }

  private icon(icon: string, x: number, y: number, half: number, pictureOf: (path: string) => string | null): string {
    const plate = `<rect x="${n(x - half)}" y="${n(y - half)}" width="${n(2 * half)}" height="${n(2 * half)}" rx="${n(half / 3)}" fill="${PAPER}" stroke="${INK}" stroke-width="${n(1.2 * this.grain)}"/>`;
    const outlines = symbolOutlines(icon);
    if (outlines) {
      const factor = (half * 1.4) / SYMBOL_SIDE;
      return `${plate}<g transform="translate(${n(x - half * 0.7)} ${n(y - half * 0.7)}) scale(${factor.toFixed(4)})" fill="${INK}">${outlines.map((d) => `<path d="${d}"/>`).join('')}</g>`;
    }
    const address = icon === '' ? null : pictureOf(icon);
    if (!address)
      return `<circle cx="${n(x)}" cy="${n(y)}" r="${n(half * 0.45)}" fill="${INK}" stroke="${PAPER}" stroke-width="${n(1.6 * this.grain)}"/>`;
    const inner = half * 0.86;
    return `${plate}<image x="${n(x - inner)}" y="${n(y - inner)}" width="${n(2 * inner)}" height="${n(2 * inner)}" href="${attribute(address)}"/>`;
  }

  /** A round length of about a fifth of the picture. */
  scaleBar({ metres }: OverviewInputs['unit'], width: number, height: number): string {
    const most = ((width / 5) * metres) / this.scale;
    const power = 10 ** Math.floor(Math.log10(most));
    const long = ([5, 2, 1].find((k) => k * power <= most) ?? 1) * power;
    const pixels = (long / metres) * this.scale;
    const g = this.grain;
    const [x, y] = [14 * g, height - 16 * g];
    const text = long >= 1000 ? `${long / 1000} km` : `${Math.round(long * 100) / 100} m`;
    const size = 12 * g;
    const wide = Math.max(pixels, this.letters.width(text, size));
    return [
      `<rect x="${n(x - 8 * g)}" y="${n(y - 22 * g)}" width="${n(wide + 16 * g)}" height="${n(30 * g)}" rx="${n(4 * g)}" fill="${PAPER}" fill-opacity="0.85"/>`,
      this.words(text, x + pixels / 2, y - 7 * g, size, INK),
      `<path d="M${n(x)} ${n(y - 4 * g)}V${n(y)}H${n(x + pixels)}V${n(y - 4 * g)}" fill="none" stroke="${INK}" stroke-width="${n(1.6 * g)}"/>`,
    ].join('');
  }

  north(width: number): string {
    const g = this.grain;
    const [x, y] = [width - 26 * g, 34 * g];
    return [
      `<circle cx="${n(x)}" cy="${n(y - 4 * g)}" r="${n(22 * g)}" fill="${PAPER}" fill-opacity="0.85"/>`,
      `<path d="M${n(x)} ${n(y - 22 * g)}L${n(x + 6 * g)} ${n(y - 4 * g)}H${n(x - 6 * g)}Z" fill="${INK}"/>`,
      this.words('N', x, y + 10 * g, 12 * g, INK),
    ].join('');
  }
}

const frameAbout = ([x, y]: Point2, w: number, h: number): Frame => [x - w / 2, y - h / 2, x + w / 2, y + h / 2];
const overlap = (a: Frame, b: Frame): boolean => a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3];

/** The first place about an icon that is free and within the picture; above it where none is. */
function freeFrame([x, y]: Point2, half: number, w: number, h: number, taken: readonly Frame[], width: number, height: number): Frame {
  const gap = half + 3;
  const tried = [
    [gap + w / 2, 0],
    [-gap - w / 2, 0],
    [0, -gap - h / 2],
    [0, gap + h / 2],
    [gap + w / 2, -gap],
    [-gap - w / 2, gap],
  ].map(([dx, dy]) => frameAbout([x + dx, y + dy], w, h));
  const within = ([l, t, r, b]: Frame) => l >= 2 && t >= 2 && r <= width - 2 && b <= height - 2;
  return tried.find((frame) => within(frame) && !taken.some((other) => overlap(frame, other))) ?? tried.find(within) ?? tried[2];
}

const rgbOf = (hex: string): Rgb => linearOfHex(hex).map((v) => Math.round(linearToSrgb(v) * 255)) as unknown as Rgb;

/** A PNG as an address. */
export const dataUri = (png: Uint8Array): string => `data:image/png;base64,${toBase64(png)}`;
