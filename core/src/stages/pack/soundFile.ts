/** `sound.json`: how sound goes through the map, as `SoundCells` of `core/src/bed/space.ts`; an opening is a, b, least x, y, z, most x, y, z. */

import type { SoundCells } from '../../bed/space.ts';
import { boxOfPoints } from '../../math/box3.ts';
import type { Vec3 } from '../../math/vec3.ts';
import { flattenBsp } from '../sealing/bsp.ts';
import type { SealingOutput, SealTree } from '../sealing/stage.ts';

export interface SoundFile {
  format: 1;
  planes: number[];
  children: number[];
  cellOf: number[];
  cells: number;
  openings: number[][];
}

/** Cells that objects reach, and what is open between them. */
export function soundFile({ tree, output }: { tree: SealTree; output: Pick<SealingOutput, 'inside'> }): SoundFile {
  const { planes, children, solid } = flattenBsp(tree.bsp);
  const cell = new Map(output.inside.map((leaf, i) => [leaf, i]));
  const round = (v: number) => Math.round(v * 100) / 100;
  return {
    format: 1,
    planes,
    children,
    cellOf: solid.map((_, leaf) => cell.get(leaf) ?? -1),
    cells: output.inside.length,
    openings: tree.portals.flatMap(({ a, b, winding }) => {
      const [from, to] = [cell.get(a), cell.get(b)];
      if (from === undefined || to === undefined) return [];
      const { min, max } = boxOfPoints(winding);
      return [[from, to, ...min.map(round), ...max.map(round)]];
    }),
  };
}

export const soundCells = ({ planes, children, cellOf, cells, openings }: SoundFile): SoundCells => ({
  planes,
  children,
  cellOf,
  cells,
  openings: openings.map(([a, b, ...box]) => ({ a, b, box: { min: box.slice(0, 3) as Vec3, max: box.slice(3, 6) as Vec3 } })),
});
