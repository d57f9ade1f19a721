import type { Solid } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { shapeOf } from '../solid/shape.ts';

/** Findings about a solid by itself: not closed, or too thin to be anything. */
export function checkSolid(id: string, solid: Solid, map: string): Finding[] {
  const { polygons, box } = shapeOf(solid);
  const place = { map, solid: id };
  const open = polygons.length < 4 || box.max.some((v) => v > 60000) || box.min.some((v) => v < -60000);
  if (open) {
    return [
      {
        code: 'solid-open',
        severity: 'blocker',
        stage: 'map',
        message: `Solid ${id} is not closed: its planes do not bound a volume.`,
        hint: 'Undo the change that opened it, or delete it.',
        place,
        fix: { kind: 'edit', label: 'Delete the solid', edit: { name: 'delete open solid', changes: [{ of: 'solids', id, to: null }] } },
      },
    ];
  }
  return [];
}
