import { useEffect, useRef } from 'react';
import { basicSetup } from 'codemirror';
import { HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language';
import { lua } from '@codemirror/legacy-modes/mode/lua';
import { lintGutter, linter } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
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

/** A Lua editor that shows the first syntax error as one types. `path` decides when the text is replaced. */
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
          EditorView.contentAttributes.of({ 'aria-label': `Script ${path}` }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) callbacks.current.onChange(update.state.doc.toString());
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
    if (!view || !line) return;
    const at = view.state.doc.line(Math.min(line, view.state.doc.lines)).from;
    view.dispatch({ selection: { anchor: at }, effects: EditorView.scrollIntoView(at, { y: 'center' }) });
    view.focus();
  }, [line, path]);

  return <div ref={host} className="h-100 overflow-hidden" />;
}
