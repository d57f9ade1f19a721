/** What a brush is: all brushes, one table. A brush works on samples within its radius; what it does to one is one function. */

export interface BrushSettings {
  /** Units. */
  radius: number;
  /** 0..1: how much of the change happens at once. */
  strength: number;
  /** 0..1: share of the radius over which it fades out. */
  fade: number;
  /** Height for what needs one, in units. */
  height: number;
  /** Height of a step of terraces, in units. */
  step: number;
  /** Angle of rest, degrees. */
  rest: number;
  /** Width of the waves of noise, in units. */
  size: number;
  seed: number;
  /** Id of a surface or of a kind of thing of the terrain. */
  what: string;
  /** Paint only where the ground is between these slopes (degrees) and heights. */
  slope: [number, number];
  heights: [number, number];
  /** Least distance of scattered things, units. */
  apart: number;
  /** What is mirrored: along x, along y, both or nothing, about the middle of the terrain. */
  mirror: 'none' | 'x' | 'y' | 'both';
  /** Put the middle on the grid of samples. */
  snap: boolean;
  /** A picture, 0..1 by row, and its width. */
  picture: { width: number; height: number; values: Float32Array } | null;
}

export const PLAIN_BRUSH: BrushSettings = {
  radius: 16,
  strength: 0.5,
  fade: 0.7,
  height: 0,
  step: 4,
  rest: 32,
  size: 24,
  seed: 1,
  what: '',
  slope: [0, 90],
  heights: [-1e6, 1e6],
  apart: 4,
  mirror: 'none',
  snap: false,
  picture: null,
};

/** Which settings a brush asks for, beside radius, strength, fade, mirror and snap. */
export type BrushAsk = 'height' | 'step' | 'rest' | 'size' | 'seed' | 'surface' | 'thing' | 'limits' | 'apart' | 'picture';

export interface BrushFacts {
  label: string;
  /** One sentence on what it does. */
  does: string;
  asks: readonly BrushAsk[];
  /** What of tiles it writes. */
  writes: 'heights' | 'hand' | 'holes' | 'guard' | 'placed';
}

export const BRUSHES = {
  raise: { label: 'Raise', does: 'Heaps ground up.', asks: [], writes: 'heights' },
  lower: { label: 'Lower', does: 'Digs ground out.', asks: [], writes: 'heights' },
  flatten: { label: 'Flatten', does: 'Levels to the height at which the stroke began.', asks: [], writes: 'heights' },
  level: { label: 'To height', does: 'Levels to a height that is typed.', asks: ['height'], writes: 'heights' },
  incline: { label: 'Incline', does: 'Levels to the slope between the first point of the stroke and where it is now.', asks: [], writes: 'heights' },
  smooth: { label: 'Smooth', does: 'Evens out bumps.', asks: [], writes: 'heights' },
  roughen: { label: 'Roughen', does: 'Adds seeded bumps.', asks: ['size', 'seed'], writes: 'heights' },
  terrace: { label: 'Terrace', does: 'Cuts steps of one height.', asks: ['step'], writes: 'heights' },
  weather: {
    label: 'Weather',
    does: 'Lets slide what lies steeper than the angle of rest. What leaves one place arrives at another.',
    asks: ['rest'],
    writes: 'heights',
  },
  rain: { label: 'Rain', does: 'Washes ground downhill and lets it settle.', asks: [], writes: 'heights' },
  stamp: { label: 'Stamp', does: 'Presses a picture into the ground, once a click: bright is high.', asks: ['picture', 'height'], writes: 'heights' },
  paint: { label: 'Paint', does: 'Covers with a surface, within limits of slope and height.', asks: ['surface', 'limits'], writes: 'hand' },
  unpaint: { label: 'Unpaint', does: 'Gives back what rules say.', asks: [], writes: 'hand' },
  hole: { label: 'Hole', does: 'Takes ground away.', asks: [], writes: 'holes' },
  fill: { label: 'Fill', does: 'Closes holes.', asks: [], writes: 'holes' },
  protect: { label: 'Protect', does: 'Keeps other brushes out.', asks: [], writes: 'guard' },
  release: { label: 'Release', does: 'Takes protection away.', asks: [], writes: 'guard' },
  scatter: { label: 'Scatter', does: 'Sets things, none nearer than a distance.', asks: ['thing', 'apart', 'seed', 'limits'], writes: 'placed' },
  clear: { label: 'Clear', does: 'Removes scattered things, whoever set them.', asks: [], writes: 'placed' },
} as const satisfies Record<string, BrushFacts>;

export type BrushKind = keyof typeof BRUSHES;
export const BRUSH_KINDS = Object.keys(BRUSHES) as BrushKind[];

/** How strongly a brush acts at a distance from its middle, both in the same unit: 1 within, a smooth step to 0 at the radius. */
export function reachAt(distance: number, radius: number, fade: number): number {
  if (distance >= radius) return 0;
  const inner = radius * (1 - fade);
  if (distance <= inner) return 1;
  const t = (radius - distance) / (radius - inner);
  return t * t * (3 - 2 * t);
}
