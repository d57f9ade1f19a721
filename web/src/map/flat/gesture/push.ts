import { pushFace } from '@violet-crate/core/solid/cut';
import { drawLabel } from '../../../common/sheet.ts';
import { emptySelection } from '../../../state/viewSlice.ts';
import type { FacePick } from '../projection/projection.ts';
import { gesture, type Outcome, type Scene } from './gesture.ts';

interface Push extends FacePick {
  by: number;
}

const pushed = ({ doc: { map } }: Scene, { solid, face, by }: Push) => pushFace(map.solids[solid], face, by);

/** Selects a face; one that stands across the sheet is pushed or pulled by a drag. */
export const push = gesture<Push | null>({
  id: 'push',
  begin({ doc: { view }, projection }, pointer) {
    if (view.mode !== 'faces') return null;
    const picked = projection.pickFace(pointer);
    if (!picked) return null;
    const known = view.selection.faces.some((f) => f.solid === picked.solid && f.face === picked.face);
    const faces = pointer.shift ? [...view.selection.faces, picked] : [picked];
    const outcome: Outcome = { selection: { ...emptySelection, solids: [...new Set(faces.map((f) => f.solid))], faces } };
    return { state: projection.pushes(picked) ? { ...picked, by: 0 } : null, outcome: known ? undefined : outcome };
  },
  drag(state, { doc: { map, snap }, projection }, { at, from }) {
    if (!state) return null;
    const n = projection.flat(map.solids[state.solid].faces[state.face].normal);
    return { ...state, by: snap((at[0] - from[0]) * n[0] + (at[1] - from[1]) * n[1]) };
  },
  commit(state, scene) {
    if (!state || state.by === 0) return null;
    const next = pushed(scene, state);
    return typeof next === 'string' ? { refusal: next } : { edit: { name: 'push face', changes: [{ of: 'solids', id: state.solid, to: next }] } };
  },
  ghost(state, scene) {
    const next = state && pushed(scene, state);
    return next && typeof next !== 'string' ? { solids: [next], lines: [] } : null;
  },
  draw({ context, pointer: [x, y], colours }, state, scene) {
    if (!state) return;
    const next = pushed(scene, state);
    drawLabel(context, typeof next === 'string' ? next : `${state.by > 0 ? '+' : ''}${state.by}`, x + 14, y - 14, colours.warm, colours.ground);
  },
});
