/** Sizes of the grid from the finest to the coarsest, each twice the one before. */
export function gridSizes(min: number, max: number): number[] {
  const sizes: number[] = [];
  for (let g = min; g <= max; g *= 2) sizes.push(g);
  return sizes;
}
