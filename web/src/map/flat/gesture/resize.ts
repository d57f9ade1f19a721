import { transformMembers } from '@violet-crate/core/map/member/arrange';
import type { MapEdit } from '@violet-crate/core/document/edit';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { resize as resized } from '../../editing/edits.ts';
import { ghostOf } from '../../member/ghostOf.ts';
import { dragHandle, handleAt, scaleOf, type Handle, type Rect } from '../projection/handles.ts';
import { gesture, type Scene } from './gesture.ts';
import { drawRectangle } from './rectangle.ts';

interface Resize {
  handle: Handle;
  rect: Rect;
}

function edit({ doc: { map, view }, projection }: Scene, { rect }: Resize): MapEdit {
  const { solids } = view.selection;
  if (solids.length > 1) return transformMembers(map, view.selection, scaleOf(projection.frame!.rect, rect), 'scale')!;
  return resized(map, solids[0], projection.resized(shapeOf(map.solids[solids[0]]).box, rect));
}

/** Resizes a solid by the handles around it, or scales several. */
export const resize = gesture<Resize>({
  id: 'resize',
  begin({ projection: { frame } }, { at, sheet, canvas }) {
    if (!frame || !frame.resizes.includes(true)) return null;
    const found = handleAt(frame.rect, sheet, canvas, at);
    if (!found) return null;
    return { state: { handle: [frame.resizes[0] ? found[0] : 0, frame.resizes[1] ? found[1] : 0], rect: frame.rect } };
  },
  drag(state, { doc: { profile }, projection }, { at, sheet }) {
    const to = projection.snapped(at, sheet.scale);
    return { ...state, rect: dragHandle(projection.frame!.rect, state.handle, to, profile.grid.min) };
  },
  commit: (state, scene) => ({ edit: edit(scene, state) }),
  ghost: (state, scene) => ghostOf(edit(scene, state), scene.doc),
  draw: (pen, { rect }) => drawRectangle(pen, rect, false, `${rect.max[0] - rect.min[0]} × ${rect.max[1] - rect.min[1]}`),
});
