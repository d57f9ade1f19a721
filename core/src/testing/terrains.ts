/** Terrains for tests: a frame, and grounds whose heights are a formula or a published grid. */

import { createRequire } from 'node:module';
import { applyEdit } from '../document/edit.ts';
import type { GameMap, Terrain } from '../document/schema.ts';
import { completeMap } from '../document/schema.ts';
import { groundOf, type Ground } from '../terrain/ground.ts';
import { replaceHeights } from '../terrain/reshape.ts';

export const terrain = (samples: [number, number], change: Partial<Terrain> = {}): Terrain => ({
  name: 'ridge',
  origin: [0, 0],
  spacing: 1,
  samples,
  range: [-100, 400],
  depth: 'f32',
  base: 0,
  surfaces: [
    { id: 'snow', label: 'Snow', material: 'snow' },
    { id: 'rock', label: 'Rock', material: 'rock' },
  ],
  things: [
    { id: 'pine', label: 'Pine', model: 'models/pine.glb', size: [0.5, 1.5], sink: 0.1, lean: 0, radius: 0.4, tall: 6 },
    { id: 'cairn', label: 'Cairn', model: 'models/cairn.glb', size: [1, 1], sink: 0, lean: 1, radius: 0, tall: 0 },
  ],
  paint: {},
  scatter: {},
  ...change,
});

export const mapWith = (one: Terrain): GameMap =>
  completeMap({
    format: 1,
    profile: 'test',
    settings: { skyColour: '#fff', skyIntensity: 1, trial: [] },
    bands: {},
    solids: {},
    objects: {},
    signals: {},
    terrains: { e1: one },
  });

/** A map whose terrain e1 has heights by a formula of samples. */
export function shaped(one: Terrain, height: (i: number, j: number) => number): { map: GameMap; ground: Ground } {
  const map = mapWith(one);
  const [nx, ny] = one.samples;
  const heights = Float32Array.from({ length: nx * ny }, (_, k) => height(k % nx, Math.floor(k / nx)));
  const changes = replaceHeights(groundOf(map, 'e1')!, heights);
  const next = changes.length > 0 ? applyEdit(map, { name: 'shape', changes }) : map;
  return { map: next, ground: groundOf(next, 'e1')! };
}

/**
 * Maunga Whau in Auckland, 87 × 61 heights of 10 m: digitised from a topographic map by Ross Ihaka, open data, as `vega-datasets` 2
 * carries it (`volcano.json`).
 */
export function maungawhau(): { width: number; height: number; values: number[] } {
  return createRequire(import.meta.url)('vega-datasets/data/volcano.json') as { width: number; height: number; values: number[] };
}
