import { freshId } from '@violet-crate/core/document/edit';
import { freeName } from '@violet-crate/core/crate/naming';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { arrow } from '../../editing/arrow.ts';
import { gesture } from './gesture.ts';

interface Leader {
  about: Point2;
  text: Point2;
}

/** Drags from what a note is about to where its text stands; its words are typed in the inspector. */
export const drawNote = gesture<Leader>({
  id: 'note',
  begin({ projection }, { at, sheet }) {
    const about = projection.snapped(at, sheet.scale);
    return { state: { about, text: about } };
  },
  drag: ({ about }, { projection }, { at, sheet }) => ({ about, text: projection.snapped(at, sheet.scale) }),
  commit({ about, text }, { doc: { map }, projection }) {
    const id = freshId(map.notes, 'n');
    const name = freeName(
      'note',
      Object.values(map.notes).map((note) => note.name),
    );
    const to = { name, text: 'Note', position: projection.pointAt(text), points: [projection.pointAt(about)] };
    return {
      edit: { name: 'write note', changes: [{ of: 'notes', id, to }] },
      selection: { kind: 'notes', ids: [id] },
      view: { tool: 'select', panel: 'properties' },
    };
  },
  ghost: ({ about, text }, { projection }) => ({ solids: [], lines: [[projection.pointAt(text), projection.pointAt(about)]] }),
  draw({ context, place, colours }, { about, text }) {
    context.strokeStyle = colours.warm;
    context.lineWidth = 1.5;
    arrow(context, place(text), place(about));
  },
});
