import type { Box3 } from '@violet-crate/core/math/box3';
import { boxSize } from '@violet-crate/core/math/box3';
import { drawLabel } from '../../../common/sheet.ts';
import { drawShape } from '../../editing/edits.ts';
import { rectOf, type Rect } from '../projection/handles.ts';
import { gesture, type Scene } from './gesture.ts';
import { drawRectangle } from './rectangle.ts';

/** The box of a rectangle, null where it is too small for anything, or why none can be drawn here. */
function boxOf({ doc, projection }: Scene, rect: Rect): Box3 | null | string {
  const least = doc.profile.grid.min;
  if (rect.max[0] - rect.min[0] < least || rect.max[1] - rect.min[1] < least) return null;
  return projection.box(rect);
}

/** Draws the shape of the tool into a rectangle. */
export const drawSolid = gesture<Rect>({
  id: 'draw',
  begin({ projection }, { at, sheet }) {
    const corner = projection.snapped(at, sheet.scale);
    return { state: rectOf(corner, corner) };
  },
  drag: (_rect, { projection }, { at, from, sheet }) => rectOf(projection.snapped(from, sheet.scale), projection.snapped(at, sheet.scale)),
  commit(rect, scene) {
    const box = boxOf(scene, rect);
    if (typeof box === 'string') return { refusal: box };
    if (!box) return null;
    const { map, view, profile } = scene.doc;
    const made = drawShape(map, scene.shape.id, scene.values, box, view.material || profile.defaultMaterial);
    return { ...made, view: { tool: 'select', mode: 'solids' } };
  },
  ghost(rect, scene) {
    const box = boxOf(scene, rect);
    return box && typeof box !== 'string' ? { solids: scene.shape.make(box, scene.values, ''), lines: [] } : null;
  },
  draw(pen, rect, scene) {
    const { profile } = scene.doc;
    const box = boxOf(scene, rect);
    const size = box && typeof box !== 'string' ? boxSize(box) : null;
    const metres = size?.map((v) => (v * profile.unit.metres).toFixed(2)).join(' × ');
    drawRectangle(pen, rect, false, size ? `${size.join(' × ')} ${profile.unit.plural} (${metres} m)` : '');
    const note = size && scene.shape.note?.(box as Box3, scene.values, profile);
    if (!note) return;
    const [x, y] = pen.place([rect.min[0], rect.max[1]]);
    const { clear, warm, ground } = pen.colours;
    drawLabel(pen.context, `${note.good ? '✓' : '!'} ${note.says}`, x, y - 26, note.good ? clear : warm, ground);
  },
});
