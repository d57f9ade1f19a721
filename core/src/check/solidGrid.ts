import type { GameMap } from '../document/schema.ts';
import type { Box3 } from '../math/box3.ts';
import { BoxGrid } from '../math/boxGrid.ts';
import type { Profile } from '../profile/schema.ts';
import { shapeOf } from '../solid/shape.ts';

/** Side of the cells, in heights of the player. */
const CELL = 4;

/** Boxes of all solids of a map, to be asked for those near a place. */
export function solidGrid({ player }: Profile, { solids }: Pick<GameMap, 'solids'>): BoxGrid<Box3> {
  const grid = new BoxGrid<Box3>(player.height * CELL);
  for (const solid of Object.values(solids)) {
    const { box } = shapeOf(solid);
    grid.add(box, box);
  }
  return grid;
}
