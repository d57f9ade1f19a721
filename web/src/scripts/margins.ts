/** Margins of the editor: log points, and how often lines ran. */

import { RangeSet, StateEffect, StateField, type Extension } from '@codemirror/state';
import { gutter, GutterMarker, type EditorView } from '@codemirror/view';

export interface Margins {
  /** Expressions of log points by line. */
  logs: ReadonlyMap<number, string>;
  /** Lines that can run, and how often they did; null where nothing was measured. */
  covered: { able: readonly number[]; ran: ReadonlyMap<number, number> } | null;
}

export const setMargins = StateEffect.define<Margins>();

class Word extends GutterMarker {
  constructor(
    private readonly text: string,
    private readonly title: string,
    override readonly elementClass: string,
  ) {
    super();
  }
  override eq(other: Word): boolean {
    return this.text === other.text && this.title === other.title;
  }
  override toDOM(): Node {
    const node = document.createElement('span');
    node.textContent = this.text;
    node.title = this.title;
    return node;
  }
}

const NONE: Margins = { logs: new Map(), covered: null };
const margins = StateField.define<Margins>({
  create: () => NONE,
  update: (value, transaction) => transaction.effects.reduce((now, effect) => (effect.is(setMargins) ? effect.value : now), value),
});

const short = (times: number): string => (times < 1000 ? String(times) : times < 1e6 ? `${Math.round(times / 1000)}k` : '1M+');

/** @param pressed a line's margin was clicked */
export function scriptMargins(pressed: (line: number) => void): Extension {
  const marks = (view: EditorView, of: Iterable<[number, Word]>) =>
    RangeSet.of(
      [...of].filter(([line]) => line >= 1 && line <= view.state.doc.lines).map(([line, mark]) => mark.range(view.state.doc.line(line).from)),
      true,
    );
  return [
    margins,
    gutter({
      class: 'cm-logs',
      renderEmptyElements: true,
      markers: (view) =>
        marks(
          view,
          [...view.state.field(margins).logs].map(([line, text]) => [line, new Word('◆', `Log point: ${text}`, 'cm-log')]),
        ),
      initialSpacer: () => new Word('◆', '', ''),
      domEventHandlers: {
        mousedown(view, block) {
          pressed(view.state.doc.lineAt(block.from).number);
          return true;
        },
      },
    }),
    gutter({
      class: 'cm-covered',
      markers: (view) => {
        const { covered } = view.state.field(margins);
        if (!covered) return RangeSet.empty;
        return marks(
          view,
          covered.able.map((line) => {
            const times = covered.ran.get(line);
            return [line, times ? new Word(short(times), `Ran ${times} times`, 'cm-ran') : new Word('–', 'Never ran', 'cm-never')];
          }),
        );
      },
    }),
  ];
}
