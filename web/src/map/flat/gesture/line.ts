import type { Point2 } from '@violet-crate/core/solid/shape';
import { straight } from '../../../common/sheet.ts';
import { arrow } from '../../editing/arrow.ts';
import { cutSolids } from '../../editing/cutting.ts';
import { gesture, type Gesture, type Outcome, type Scene } from './gesture.ts';

export interface Line {
  from: Point2;
  to: Point2;
}

const isLine = ({ from, to }: Line): boolean => from[0] !== to[0] || from[1] !== to[1];

/** A gesture that drags a line; lines prefer the axes, unless Shift is held. */
const drags = (id: string, commit: (line: Line, scene: Scene) => Outcome | null): Gesture<Line> => ({
  id,
  begin({ projection }, { at, sheet }) {
    const from = projection.snapped(at, sheet.scale);
    return { state: { from, to: from } };
  },
  drag({ from }, { projection }, { at, sheet, shift }) {
    const to = projection.snapped(at, sheet.scale);
    return { from, to: shift ? to : straight(from, to) };
  },
  commit: (line, scene) => (isLine(line) ? commit(line, scene) : null),
  draw({ context, place, colours }, { from, to }) {
    context.strokeStyle = colours.warm;
    context.lineWidth = 2;
    arrow(context, place(from), place(to));
  },
});

export const sectionLine = gesture(drags('section', (section) => ({ view: { section, tool: 'select' } })));

/** Cuts what is selected, or what the line crosses. */
export const cutLine = gesture<Line>({
  ...drags('cut', ({ from, to }, { doc: { map, view }, projection }) => {
    const targets = view.selection.solids.length > 0 ? view.selection.solids : projection.crossed(from, to);
    const made = cutSolids(map, targets, projection.plane(from, to), view.keep);
    return made ? { ...made, view: { tool: 'select' } } : { refusal: 'The line crosses no solid.' };
  }),
  /** The line itself, and in the plan the upright plane through it over the height of the band. */
  ghost(line, { doc: { band }, projection }) {
    if (!isLine(line)) return null;
    const [a, b] = [projection.pointAt(line.from), projection.pointAt(line.to)];
    if (projection.id === 'section') return { solids: [], lines: [[a, b]] };
    const at = (p: typeof a, z: number): typeof a => [p[0], p[1], z];
    const { bottom, top } = band;
    return { solids: [], lines: [[at(a, bottom), at(b, bottom), at(b, top), at(a, top), at(a, bottom)]] };
  },
});
