import { useEffect, useRef } from 'react';
import { basicSetup } from 'codemirror';
import { HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language';
import { lua } from '@codemirror/legacy-modes/mode/lua';
import { lintGutter, linter } from '@codemirror/lint';
import { Annotation, EditorState } from '@codemirror/state';
import { EditorView, keymap } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { luaDiagnostics } from './luaLint.ts';

const COLOURS = HighlightStyle.define([
  { tag: tags.keyword, color: 'var(--vc-violet)', fontWeight: '600' },
  { tag: tags.string, color: 'var(--vc-warm)' },
  { tag: tags.comment, color: 'var(--vc-faint)', fontStyle: 'italic' },
  { tag: tags.number, color: 'var(--vc-clear)' },
  { tag: tags.standard(tags.variableName), color: 'var(--vc-clear)' },
]);

/** Marks a change that did not come from typing. */
const OUTSIDE = Annotation.define<boolean>();

/** A Lua editor that shows the first syntax error as one types. A text that was changed elsewhere replaces its own. */
export function LuaEditor({
  path,
  source,
  line,
  onChange,
  onSave,
}: {
  path: string;
  source: string;
  line?: number;
  onChange(source: string): void;
  onSave(): void;
}) {
  const host = useRef<HTMLDivElement>(null);
  const editor = useRef<EditorView | null>(null);
  const callbacks = useRef({ onChange, onSave });
  useEffect(() => {
    callbacks.current = { onChange, onSave };
  });

  useEffect(() => {
    const view = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: source,
        extensions: [
          keymap.of([{ key: 'Mod-s', preventDefault: true, run: () => (callbacks.current.onSave(), true) }]),
          basicSetup,
          StreamLanguage.define(lua),
          syntaxHighlighting(COLOURS),
          lintGutter(),
          linter((v) => luaDiagnostics(v.state.doc.toString()), { delay: 150 }),
          EditorView.contentAttributes.of({ 'aria-label': `Script ${path}`, tabindex: '0' }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged && !update.transactions.some((t) => t.annotation(OUTSIDE))) callbacks.current.onChange(update.state.doc.toString());
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
    const view = editor.current;
    if (!view || !line) return;
    const at = view.state.doc.line(Math.min(line, view.state.doc.lines)).from;
    view.dispatch({ selection: { anchor: at }, effects: EditorView.scrollIntoView(at, { y: 'center' }) });
    view.focus();
  }, [line, path]);

  return <div ref={host} className="h-100 overflow-hidden" />;
}
