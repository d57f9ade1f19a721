/** Draws the picture of a map beside the page. */

import { drawOverview, type Drawing } from '@violet-crate/core/overview/drawing';
import type { OverviewInputs } from '@violet-crate/core/overview/inputs';
import { letteringOf, type Lettering } from '@violet-crate/core/overview/lettering';

export interface OverviewOrder {
  inputs: OverviewInputs;
  side: number;
  /** Addresses of the pictures of places, by their textures. */
  pictures: Record<string, string>;
  /** Address of the font. */
  font: string;
}

export type OverviewAnswer = { drawing: Drawing | null } | { trouble: string };

let letters: Promise<Lettering> | null = null;

async function readFont(address: string): Promise<Lettering> {
  const response = await fetch(address);
  if (!response.ok) throw new Error(`the font does not load (${response.status})`);
  return letteringOf(await response.arrayBuffer());
}

onmessage = async ({ data: { inputs, side, pictures, font } }: MessageEvent<OverviewOrder>) => {
  const answer = (message: OverviewAnswer) => postMessage(message);
  try {
    letters ??= readFont(font);
    answer({ drawing: drawOverview(inputs, side, await letters, (path) => pictures[path] ?? null) });
  } catch (error) {
    letters = null;
    answer({ trouble: `The picture could not be drawn: ${(error as Error).message}. Close it and try again.` });
  }
};
