/**
 * The one shape of the corpus: a prism over an L, 3 × 2 × 1 (x, y up, z), with concave caps, so that wrong triangulation
 * shows in its area. Its numbers follow from geometry alone.
 */
export const L = [
  [0, 0],
  [3, 0],
  [3, 1],
  [1, 1],
  [1, 2],
  [0, 2],
];
/** Front (z = 1) and back (z = 0) corners of the prism. */
export const points = [...L.map(([x, y]) => [x, y, 1]), ...L.map(([x, y]) => [x, y, 0])];
/** Corners counter-clockwise from outside: front cap, back cap, six sides. */
export const polygons = [[0, 1, 2, 3, 4, 5], [11, 10, 9, 8, 7, 6], ...L.map((_, i) => [i, i + 6, ((i + 1) % 6) + 6, (i + 1) % 6])];
/** 4 + 4 triangles of the caps, 2 of each side. */
export const TRIANGLES = 20;
/** Twice the L, and its outline times the depth. */
export const AREA = 2 * 4 + 10 * 1;

/** The sides as one strip around the prism, and each cap as a fan about its inner corner, from which all of it is seen. */
export const strip = [...L.map((_, i) => [i, i + 6]).flat(), 0, 6];
export const fans = [
  [3, 4, 5, 0, 1, 2],
  [9, 8, 7, 6, 11, 10],
];
/** The same as triangles, for formats without polygons. */
export const triangles = [
  ...fans.flatMap((fan) => fan.slice(2).map((_, i) => [fan[0], fan[i + 1], fan[i + 2]])),
  ...L.flatMap((_, i) => {
    const [a, b, c, d] = [i, i + 6, ((i + 1) % 6) + 6, (i + 1) % 6];
    return [
      [a, b, c],
      [a, c, d],
    ];
  }),
];

export const text = (content) => new TextEncoder().encode(content);
