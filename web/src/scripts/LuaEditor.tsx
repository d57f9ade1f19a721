import { useEffect, useRef } from 'react';
import { autocompletion } from '@codemirror/autocomplete';
import { basicSetup } from 'codemirror';
import { HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language';
import { lua } from '@codemirror/legacy-modes/mode/lua';
import { lintGutter, linter } from '@codemirror/lint';
import { Annotation, EditorState } from '@codemirror/state';
import { EditorView, hoverTooltip, keymap } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { foldByIndent, luaCompletions, luaFindings, luaHover, type ScriptSurroundings } from './luaHelp.ts';
import { scriptMargins, setMargins, type Margins } from './margins.ts';

const COLOURS = HighlightStyle.define([
  { tag: tags.keyword, color: 'var(--vc-violet)', fontWeight: '600' },
  { tag: tags.string, color: 'var(--vc-warm)' },
  { tag: tags.comment, color: 'var(--vc-faint)', fontStyle: 'italic' },
  { tag: tags.number, color: 'var(--vc-clear)' },
  { tag: tags.standard(tags.variableName), color: 'var(--vc-clear)' },
]);

/** Marks a change that did not come from typing. */
const OUTSIDE = Annotation.define<boolean>();

interface Props {
  path: string;
  source: string;
  line?: number;
  /** What the script is read against. */
  around: ScriptSurroundings;
  margins?: Margins;
  onChange(source: string): void;
  onSave(): void;
  /** The margin of a line was clicked. */
  onMargin?(line: number): void;
  /** Where the caret is, as an offset. */
  onCaret?(offset: number): void;
}

/** A Lua editor that says what is wrong or odd as one types. A text that was changed elsewhere replaces its own. */
export function LuaEditor({ path, source, line, around, margins, onChange, onSave, onMargin, onCaret }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const editor = useRef<EditorView | null>(null);
  const now = useRef({ around, onChange, onSave, onMargin, onCaret });
  useEffect(() => {
    now.current = { around, onChange, onSave, onMargin, onCaret };
  });

  useEffect(() => {
    const view = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: source,
        extensions: [
          keymap.of([{ key: 'Mod-s', preventDefault: true, run: () => (now.current.onSave(), true) }]),
          scriptMargins((at) => now.current.onMargin?.(at)),
          basicSetup,
          StreamLanguage.define(lua),
          syntaxHighlighting(COLOURS),
          foldByIndent,
          autocompletion({ override: [(context) => luaCompletions(path, now.current.around, context)] }),
          hoverTooltip((_, offset) => tooltip(luaHover(path, now.current.around, offset))),
          lintGutter(),
          linter((v) => luaFindings(path, now.current.around, v.state.doc.toString()), { delay: 150 }),
          EditorView.contentAttributes.of({ 'aria-label': `Script ${path}`, tabindex: '0' }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged && !update.transactions.some((t) => t.annotation(OUTSIDE))) now.current.onChange(update.state.doc.toString());
            if (update.selectionSet || update.docChanged) now.current.onCaret?.(update.state.selection.main.head);
          }),
        ],
      }),
    });
    editor.current = view;
    return () => view.destroy();
    // A new file makes a new editor; its own edits must not.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [path]);

  useEffect(() => {
    const view = editor.current;
    // Its own edits come back as `source`; anything else was changed by a snippet or a renaming.
    if (!view || view.state.doc.toString() === source) return;
    view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: source }, annotations: OUTSIDE.of(true) });
  }, [source, path]);

  useEffect(() => {
    if (margins) editor.current?.dispatch({ effects: setMargins.of(margins) });
  }, [margins, path]);

  useEffect(() => {
    const view = editor.current;
    if (!view || !line) return;
    const at = view.state.doc.line(Math.min(line, view.state.doc.lines)).from;
    view.dispatch({ selection: { anchor: at }, effects: EditorView.scrollIntoView(at, { y: 'center' }) });
    view.focus();
  }, [line, path]);

  return <div ref={host} className="h-100 overflow-hidden" />;
}

function tooltip(told: ReturnType<typeof luaHover>) {
  if (!told) return null;
  return {
    pos: told.from,
    end: told.to,
    above: true,
    create() {
      const dom = document.createElement('div');
      dom.className = 'lua-hover';
      for (const text of told.lines) dom.appendChild(document.createElement('div')).textContent = text;
      return { dom };
    },
  };
}
