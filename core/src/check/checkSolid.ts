import type { Solid } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { shapeOf } from '../solid/shape.ts';

/** How far maps reach from their origin each way, in units: within the square that windings begin as (`WORLD_HALF`). */
const REACH = 60_000;

/** Findings about a solid by itself: not closed, or out of reach. */
export function checkSolid(id: string, solid: Solid, map: string): Finding[] {
  const { polygons, box } = shapeOf(solid);
  const place = { map, solid: id };
  const open = polygons.length < 4 || box.max.some((v) => v > REACH) || box.min.some((v) => v < -REACH);
  if (open) {
    return [
      {
        code: 'solid-open',
        severity: 'blocker',
        stage: 'map',
        message: `Solid ${id} is not closed: its planes bound no volume within ${REACH.toLocaleString('en')} units of the origin.`,
        hint: 'Undo the change that opened or enlarged it, or delete it.',
        place,
        fix: { kind: 'edit', label: 'Delete the solid', edit: { name: 'delete open solid', changes: [{ of: 'solids', id, to: null }] } },
      },
    ];
  }
  return [];
}
