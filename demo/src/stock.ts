/** What the stand-in installs of both games ship: everything is made by formulas. */

import type { BasePack } from '@violet-crate/core/crate/basePack';
import type { CrateMaterial } from '@violet-crate/core/crate/manifest';
import { STOCK_MODELS } from './models.ts';
import type { Rgb } from './noise.ts';
import { duskSky, ridgeSky } from './skies.ts';
import { MODELS } from './skarrow/models.ts';
import { TEXTURES as RIDGE_TEXTURES } from './skarrow/textures.ts';
import { hiss, render, SOUNDS, step } from './sounds.ts';
import { SUBTITLES } from './subtitles.ts';
import { TEXTURES } from './textures.ts';

export interface Stock {
  /** Materials without a texture. */
  plain: BasePack['materials'];
  textures: Record<string, (u: number, v: number) => Rgb>;
  /** How textured materials shine and what they are underfoot. */
  feel: Record<string, Partial<CrateMaterial>>;
  sky: { name: string; hdr: Uint8Array };
  models: Record<string, { obj: string; mtl: string }>;
  /** Options of models that differ from the usual ones. */
  handled: Record<string, Record<string, unknown>>;
  sounds: Record<string, Uint8Array>;
  subtitles: Record<string, string>;
  unitsPerRepeat: number;
}

const brinewick: Stock = {
  plain: [
    { name: 'sky', type: 'sky', colour: '#b9c4e8', unitsPerRepeat: 64 },
    { name: 'unseen', type: 'unseen', colour: '#808080', unitsPerRepeat: 64 },
    { name: 'divider', type: 'divider', colour: '#808080', unitsPerRepeat: 64 },
    { name: 'barrier', type: 'barrier', colour: '#808080', unitsPerRepeat: 64 },
    // Stands in for what is not painted yet; the profile says so, and using it is a warning.
    { name: 'unpainted', type: 'lit', colour: '#8f8a80', unitsPerRepeat: 64 },
  ],
  textures: TEXTURES,
  feel: {
    brick: { roughness: 0.9, surface: 'stone' },
    plaster: { roughness: 0.95, surface: 'stone' },
    plank: { roughness: 0.7, surface: 'wood' },
    slate: { roughness: 0.6, surface: 'stone' },
    wet_stone: { roughness: 0.35, surface: 'wet' },
    brass: { roughness: 0.3, metalness: 1, surface: 'metal' },
    water: { type: 'water', roughness: 0.05 },
  },
  sky: { name: 'dusk_sky', hdr: duskSky() },
  models: STOCK_MODELS,
  // Kilograms of what players handle: hollow things, lighter than timber of their size.
  handled: { crate: { mass: 16, movable: true }, barrel: { mass: 26, movable: true } },
  sounds: SOUNDS,
  subtitles: SUBTITLES,
  unitsPerRepeat: 64,
};

const skarrow: Stock = {
  plain: [
    { name: 'sky', type: 'sky', colour: '#c8dcf4', unitsPerRepeat: 8 },
    { name: 'unseen', type: 'unseen', colour: '#808080', unitsPerRepeat: 4 },
    { name: 'barrier', type: 'barrier', colour: '#808080', unitsPerRepeat: 4 },
  ],
  textures: RIDGE_TEXTURES,
  feel: {
    snow: { roughness: 0.85, surface: 'snow', unitsPerRepeat: 9 },
    ice: { roughness: 0.15, surface: 'ice', unitsPerRepeat: 14 },
    rock: { roughness: 0.9, surface: 'rock', unitsPerRepeat: 8 },
    turf: { roughness: 1, surface: 'turf', unitsPerRepeat: 6 },
    boards: { roughness: 0.8, surface: 'timber', unitsPerRepeat: 3 },
    banner_red: { roughness: 1, unitsPerRepeat: 3 },
    banner_gold: { roughness: 1, unitsPerRepeat: 3 },
    banner_check: { roughness: 1, unitsPerRepeat: 3 },
  },
  sky: { name: 'ridge_sky', hdr: ridgeSky() },
  models: MODELS,
  handled: { pole: { collision: 'none' }, pine_tall: { collision: 'none' }, pine_small: { collision: 'none' } },
  sounds: {
    horn: render(
      1.4,
      (t) =>
        (Math.sin(2 * Math.PI * 220 * t) * 0.3 + Math.sin(2 * Math.PI * 330 * t) * 0.22 + Math.sin(2 * Math.PI * 440 * t) * 0.12) *
        Math.min(1, t * 12) *
        Math.min(1, (1.4 - t) * 4),
    ),
    wind: render(3, (t, i) => (hiss(i >> 3) * 0.5 + hiss(i >> 5) * 0.5) * 0.25 * (0.7 + 0.3 * Math.sin(2 * Math.PI * t * 0.66))),
    step_snow: step(260, 26, 0.12),
    step_ice: step(760, 40, 0.5),
    step_rock: step(430, 42, 0.5),
    step_turf: step(180, 30, 0.3),
    step_timber: step(170, 30, 0.7),
  },
  subtitles: {},
  unitsPerRepeat: 4,
};

export const STOCK: Record<string, Stock> = { brinewick, skarrow };
