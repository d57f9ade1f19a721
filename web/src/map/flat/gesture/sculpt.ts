/** Works on the ground with the brush: a stroke goes on while the press lasts, and is one edit in the end. */

import { BRUSHES } from '@violet-crate/core/terrain/brush/brush';
import type { Stroke } from '@violet-crate/core/terrain/brush/stroke';
import { ringOnGround } from '@violet-crate/core/terrain/ray';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { beginStroke, strokeEdit } from '../../ground/strokes.ts';
import { gesture, type Outcome, type Scene } from './gesture.ts';

interface Sculpting {
  /** Null where it was refused. */
  stroke: Stroke | null;
  at: Point2;
}

const finish = ({ stroke }: Sculpting, { doc }: Scene): Outcome | null => stroke && strokeEdit(stroke, BRUSHES[doc.view.brush].label);

export const sculpt = gesture<Sculpting>({
  id: 'sculpt',
  begin({ doc: { map, view } }, { at }) {
    const stroke = beginStroke(map, view, at);
    return typeof stroke === 'string' ? { state: { stroke: null, at }, outcome: { refusal: stroke } } : { state: { stroke, at } };
  },
  drag({ stroke }, _scene, { at }) {
    stroke?.to(...at);
    // The same stroke in another value: it is shown anew.
    return { stroke, at };
  },
  commit: finish,
  click: finish,
  ghost: ({ stroke, at }, { doc: { view } }) =>
    stroke && {
      solids: [],
      lines: [ringOnGround(stroke.ground, at[0], at[1], view.brushSettings.radius)],
      ground: { ground: stroke.ground, tiles: stroke.touched },
    },
});
