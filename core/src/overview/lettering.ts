/** Text as outlines, so that a drawing looks the same wherever it is shown and printed. Letter by letter, from left to right, kerned. */

import opentype from 'opentype.js';

export interface Lettering {
  /** Of a line of text at a size, in the units of the size. */
  width(text: string, size: number): number;
  /** SVG path data of a line of text whose base line begins at a point. */
  outline(text: string, x: number, y: number, size: number): string;
}

/** @param font an OpenType or TrueType file */
export function letteringOf(font: ArrayBuffer): Lettering {
  const face = opentype.parse(font);
  // Glyph by glyph: the package's shaping of whole texts breaks at fonts whose rules it does not know.
  const walk = (text: string, size: number, put: (glyph: opentype.Glyph, x: number) => void): number => {
    const scale = size / face.unitsPerEm;
    let x = 0;
    let last: opentype.Glyph | null = null;
    for (const letter of text) {
      const glyph = face.charToGlyph(letter);
      if (last) x += face.getKerningValue(last, glyph) * scale;
      put(glyph, x);
      x += (glyph.advanceWidth ?? 0) * scale;
      last = glyph;
    }
    return x;
  };
  return {
    width: (text, size) => walk(text, size, () => undefined),
    outline(text, x, y, size) {
      const parts: string[] = [];
      walk(text, size, (glyph, along) => parts.push(glyph.getPath(x + along, y, size).toPathData(2)));
      return parts.join('');
    },
  };
}
