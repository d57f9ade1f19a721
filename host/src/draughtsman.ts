/** Draws maps for players: letters from a font of this machine's packages, pictures by resvg. */

import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { letteringOf } from '@violet-crate/core/overview/lettering';
import type { Draughtsman } from '@violet-crate/core/stages/overview/stage';
import { Resvg } from '@resvg/resvg-js';

let known: Draughtsman | undefined;

/** Made once: the font is read and parsed when it is first asked for. */
export function draughtsman(): Draughtsman {
  if (known) return known;
  const font = readFileSync(createRequire(import.meta.url).resolve('dejavu-fonts-ttf/ttf/DejaVuSans-Bold.ttf'));
  known = {
    letters: letteringOf(font.buffer.slice(font.byteOffset, font.byteOffset + font.byteLength)),
    // Text comes as outlines: no font of the system is looked for.
    png: (svg, width) =>
      Uint8Array.from(new Resvg(svg, { fitTo: { mode: 'width', value: width }, font: { loadSystemFonts: false } }).render().asPng()),
  };
  return known;
}
