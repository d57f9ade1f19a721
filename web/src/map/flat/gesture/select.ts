import { rectOf, type Rect } from '../projection/handles.ts';
import { marqueed, marqueeMode, type MarqueeMode } from '../projection/marquee.ts';
import type { SheetPointer } from '../projection/pointer.ts';
import { clickOnly, gesture, type Outcome, type Scene } from './gesture.ts';
import { drawRectangle } from './rectangle.ts';

/** Which of the things under the last click was taken: the next click at the same place takes what lies behind it. */
let last = { key: '', index: 0 };

/** A click selects; the next one at the same place what lies behind. Shift adds, Control takes away. */
export function selectAt({ doc: { view }, projection }: Scene, pointer: SheetPointer): Outcome | null {
  const { selection } = view;
  const under = projection.pick(pointer);
  const changes = pointer.shift || pointer.control;
  if (under.length === 0) return changes ? null : { selection: null };
  if (changes) {
    const { kind, id } = under[0];
    const rest = selection[kind].filter((other) => other !== id);
    const known = rest.length < selection[kind].length;
    return { selection: { ...selection, [kind]: pointer.control || known ? rest : [...rest, id], faces: [], corners: [] } };
  }
  const key = `${projection.id} ${under.map(({ id }) => id).join()}`;
  last = { key, index: last.key === key ? (last.index + 1) % under.length : 0 };
  const { kind, id } = under[last.index];
  return { selection: { kind, ids: [id] } };
}

interface Marquee {
  rect: Rect;
  how: MarqueeMode;
}

/** What lies within a rectangle is selected; a click takes what is under it. */
export const marquee = gesture<Marquee>({
  id: 'marquee',
  begin: (_scene, pointer) => ({ state: { rect: rectOf(pointer.at, pointer.at), how: marqueeMode(pointer) } }),
  drag: ({ how }, _scene, { from, at }) => ({ rect: rectOf(from, at), how }),
  commit: ({ rect, how }, { doc, projection }) => ({ selection: marqueed(doc.view.selection, projection.within(rect), how) }),
  click: (_state, scene, pointer) => selectAt(scene, pointer),
  draw: (pen, { rect }) => drawRectangle(pen, rect, true),
});

/** An object property waits for an object to be clicked. */
export const pickTarget = {
  ...clickOnly('pick', ({ doc: { map, view }, projection }, pointer) => {
    const { picking, selection } = view;
    const [id] = selection.objects;
    const object = map.objects[id];
    const target = projection
      .pick(pointer)
      .find((p) => p.kind === 'objects' && map.objects[p.id] && (!picking!.of || picking!.of.includes(map.objects[p.id].class)));
    if (!target || !object) return { refusal: 'Click an object, or press Escape.' };
    const to = { ...object, properties: { ...object.properties, [picking!.property]: target.id } };
    return { edit: { name: `set ${picking!.property}`, changes: [{ of: 'objects', id, to }] }, view: { picking: null } };
  }),
  begin: ({ doc }: Scene) => (doc.view.picking ? { state: null } : null),
};
