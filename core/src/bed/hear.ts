/** How loud and how clear the beds of a map are at an ear. */

import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import { cellsIn, distanceOf, nearestIn, type SoundCells, Ways } from './space.ts';

/** Metres a second, in air of 20 °C. */
const SPEED = 343;
/** Frequency in hertz at which loudness is judged, and the highest that is heard. */
const MIDDLE = 500;
const HIGHEST = 20_000;
/** Softer than this is not heard at all, as a share of the full amplitude: −60 dB. */
export const SILENT = 0.001;
/** Sound through a wall: what is left is below this frequency (mass law: the loss grows by 6 dB an octave). */
const THROUGH_WALLS = 400;
/** Decibels after which no more walls are looked for. */
const MOST_LOSS = 90;

export interface SoundArea {
  id: string;
  bed: string;
  box: Box3;
  /** Units beyond its rim at which it is half as loud. */
  near: number;
  priority: number;
}

export interface SoundWorld {
  areas: readonly SoundArea[];
  cells: SoundCells | null;
  metres: number;
  /** Decibels that walls take on a straight way between two points. */
  lossAlong(from: Vec3, to: Vec3): number;
}

export interface HeardArea {
  id: string;
  bed: string;
  /** Amplitude, 0 to 1. */
  gain: number;
  /** Hertz above which it is taken away. */
  cutoff: number;
  /** Where it seems to come from. */
  from: Vec3;
  /** How it comes: within, through openings, through walls. */
  way: 'within' | 'openings' | 'walls';
}

/**
 * Decibels that an edge takes from sound which has to go a detour: Z. Maekawa, "Noise reduction by screens", Applied Acoustics 1 (1968),
 * in the form 10 log₁₀(3 + 20 N), N = 2 δ f / c; less the 4.8 dB which that gives without a detour, so that stepping into the open is no leap.
 * @param detour metres
 */
export const edgeLoss = (detour: number, frequency = MIDDLE): number =>
  detour <= 0 ? 0 : 10 * Math.log10(3 + (20 * 2 * detour * frequency) / SPEED) - 10 * Math.log10(3);

export const amplitude = (decibels: number): number => 10 ** (decibels / 20);

export class Hearing {
  private readonly ways: Ways | null;
  private readonly cellsOf: ReadonlySet<number>[];

  constructor(private readonly world: SoundWorld) {
    this.ways = world.cells && world.cells.planes.length > 0 ? new Ways(world.cells) : null;
    this.cellsOf = world.areas.map(({ box }) => (world.cells ? cellsIn(world.cells, box) : new Set<number>()));
  }

  /** All areas that are heard at a point, the loudest first. */
  at(ear: Vec3): HeardArea[] {
    const { areas } = this.world;
    const inCell = this.ways?.look(ear) ?? false;
    const heard = areas.map((area, i) => this.one(area, this.cellsOf[i], ear, inCell));
    // Whoever is within an area of higher priority hears less of the lower ones, as far as he is within it.
    const ranks = [...new Set(areas.map(({ priority }) => priority))].sort((a, b) => b - a);
    let left = 1;
    for (const rank of ranks) {
      let within = 0;
      areas.forEach(({ priority }, i) => {
        if (priority !== rank) return;
        if (heard[i].way === 'within') within = Math.max(within, heard[i].gain);
        heard[i].gain *= left;
      });
      left *= 1 - within;
    }
    return heard.filter(({ gain }) => gain > SILENT).sort((a, b) => b.gain - a.gain);
  }

  private one({ id, bed, box, near }: SoundArea, cells: ReadonlySet<number>, ear: Vec3, inCell: boolean): HeardArea {
    const nearest = nearestIn(box, ear);
    const straight = distanceOf(ear, nearest);
    const falls = (distance: number) => near / (near + distance);
    if (straight === 0) return { id, bed, gain: 1, cutoff: HIGHEST, from: ear, way: 'within' };
    const walls = this.world.lossAlong(ear, nearest);
    const through = falls(straight) * amplitude(-Math.min(MOST_LOSS, walls));
    if (walls === 0) return { id, bed, gain: through, cutoff: HIGHEST, from: nearest, way: 'openings' };
    const way = inCell ? this.ways!.to(box, cells) : null;
    if (way) {
      const detour = Math.max(0, way.length - straight) * this.world.metres;
      const round = falls(way.length) * amplitude(-edgeLoss(detour));
      // Where N is 1 the edge has taken most of what is higher.
      const cutoff = Math.min(HIGHEST, Math.max(300, SPEED / (2 * Math.max(1e-3, detour))));
      if (round >= through) return { id, bed, gain: Math.hypot(round, through), cutoff, from: way.first, way: 'openings' };
      return { id, bed, gain: Math.hypot(round, through), cutoff: THROUGH_WALLS, from: nearest, way: 'walls' };
    }
    return { id, bed, gain: through, cutoff: THROUGH_WALLS, from: nearest, way: 'walls' };
  }
}
