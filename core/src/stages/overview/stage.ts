/** The pictures of the map that the game shows its players, and where on them what lies. */

import { encode } from 'fast-png';
import { readImage } from '../../asset/texture/readImage.ts';
import type { FileTree } from '../../crate/fileTree.ts';
import { dataUri, drawOverview } from '../../overview/drawing.ts';
import type { OverviewInputs } from '../../overview/inputs.ts';
import type { Lettering } from '../../overview/lettering.ts';
import { isSymbol, SYMBOL_SIDE, symbolOutlines } from '../../overview/symbols.ts';

/** What turns drawings into pictures; it needs files of the machine, so whoever runs the build brings it. */
export interface Draughtsman {
  letters: Lettering;
  /** A drawing as PNG, that many pixels wide. */
  png(svg: string, width: number): Uint8Array;
}

/** By the names of the files in the map's folder. */
export type OverviewOutput = FileTree;

export async function buildOverview(
  inputs: OverviewInputs,
  { letters, png }: Draughtsman,
  readFile: ((path: string) => Promise<Uint8Array>) | undefined,
  onProgress: (fraction: number) => void,
): Promise<OverviewOutput> {
  const files: OverviewOutput = new Map();
  const icons = await readIcons(inputs, readFile);
  const pictures: { file: string; width: number; height: number }[] = [];
  let described: object | null = null;
  for (const [k, side] of [...inputs.sides].sort((a, b) => a - b).entries()) {
    const drawing = drawOverview(inputs, side, letters, (path) => icons.get(path) ?? null);
    if (!drawing) break;
    const { svg, width, height, min, max, places } = drawing;
    files.set(`overview_${side}.png`, png(svg, width));
    pictures.push({ file: `overview_${side}.png`, width, height });
    // Shares of the picture, so that they hold for every size.
    const share = ([x, y]: readonly number[]) => [x / width, y / height].map((v) => Math.round(v * 1e5) / 1e5);
    described = {
      min,
      max,
      places: places.map(({ id, at }) => ({ object: id, label: inputs.places[id].label, icon: inputs.places[id].icon, at: share(at) })),
    };
    onProgress((k + 1) / inputs.sides.length);
  }
  for (const icon of new Set(Object.values(inputs.places).map((place) => place.icon)))
    if (isSymbol(icon)) for (const side of inputs.icons) files.set(`${icon.replace('symbols/', 'symbol_')}_${side}.png`, png(symbolSvg(icon), side));
  if (described) files.set('overview.json', new TextEncoder().encode(JSON.stringify({ format: 1, pictures, ...described })));
  return files;
}

const symbolSvg = (icon: string): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${SYMBOL_SIDE} ${SYMBOL_SIDE}"><g fill="#ffffff">${symbolOutlines(icon)!
    .map((d) => `<path d="${d}"/>`)
    .join('')}</g></svg>`;

/** Pictures of places as addresses; one that cannot be read is left out, which the check of assets has told before. */
async function readIcons({ places }: OverviewInputs, readFile: ((path: string) => Promise<Uint8Array>) | undefined): Promise<Map<string, string>> {
  const icons = new Map<string, string>();
  for (const { icon, sha256 } of Object.values(places)) {
    if (!readFile || sha256 === '' || icons.has(icon)) continue;
    try {
      const { width, height, data } = await readImage(await readFile(icon), icon);
      icons.set(icon, dataUri(encode({ width, height, data: Uint8Array.from(data), channels: 4, depth: 8 })));
    } catch {
      continue;
    }
  }
  return icons;
}
