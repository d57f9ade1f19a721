import { transformMembers } from '@violet-crate/core/map/member/arrange';
import type { MapEdit } from '@violet-crate/core/document/edit';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { rotation } from '@violet-crate/core/solid/transform';
import { drawLabel } from '../../../common/sheet.ts';
import { ghostOf } from '../../member/ghostOf.ts';
import { isTurnHandle, turnBetween } from '../projection/turnHandle.ts';
import { gesture, type Scene } from './gesture.ts';

interface Turn {
  centre: Point2;
  degrees: number;
}

const turned = ({ doc: { map, view } }: Scene, { centre, degrees }: Turn): MapEdit | null =>
  degrees === 0 ? null : transformMembers(map, view.selection, rotation(2, degrees, [...centre, 0]), 'turn');

/** Turns what is selected by the handle above it, in steps of 15°. */
export const turn = gesture<Turn>({
  id: 'turn',
  begin({ doc: { snap }, projection: { frame } }, { at, sheet, canvas }) {
    if (!frame?.turns || !isTurnHandle(frame.rect, sheet, canvas, at)) return null;
    const { min, max } = frame.rect;
    // On half steps of the grid, so that quarter turns stay on it.
    return { state: { centre: [snap(min[0] + max[0]) / 2, snap(min[1] + max[1]) / 2], degrees: 0 } };
  },
  drag: ({ centre }, _scene, { from, at, shift }) => ({ centre, degrees: turnBetween(centre, from, at, shift) }),
  commit: (state, scene) => ({ edit: turned(scene, state) }),
  ghost: (state, scene) => ghostOf(turned(scene, state), scene.doc),
  draw: ({ context, pointer: [x, y], colours }, { degrees }) => drawLabel(context, `${degrees}°`, x + 14, y - 14, colours.warm, colours.ground),
});
