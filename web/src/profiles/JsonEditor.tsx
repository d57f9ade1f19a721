import { useEffect, useRef } from 'react';
import { json } from '@codemirror/lang-json';
import { linter, lintGutter, type Diagnostic } from '@codemirror/lint';
import { Annotation, EditorState } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { basicSetup } from 'codemirror';
import { loadProfile } from '@violet-crate/core/profile/load';
import { UnreadableInput } from '@violet-crate/core/unreadable';

/** Marks a change that did not come from typing. */
const OUTSIDE = Annotation.define<boolean>();

/** What is wrong with a profile's text, at its line. */
export function profileProblems(text: string, lines: { from: number; to: number }[]): Diagnostic[] {
  try {
    loadProfile(text, 'the profile');
    return [];
  } catch (error) {
    if (!(error instanceof UnreadableInput)) throw error;
    const at = lines[Math.min(lines.length, Math.max(1, error.place.line ?? 1)) - 1];
    return [{ from: at.from, to: at.to, severity: 'error', message: error.hint ? `${error.message} ${error.hint}` : error.message }];
  }
}

/** A profile as JSON, with what is wrong at its line. */
export function JsonEditor({ text, readOnly, onChange }: { text: string; readOnly: boolean; onChange(text: string): void }) {
  const host = useRef<HTMLDivElement>(null);
  const editor = useRef<EditorView | null>(null);
  const now = useRef(onChange);
  const first = useRef(text);
  useEffect(() => {
    now.current = onChange;
  });
  useEffect(() => {
    const view = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: first.current,
        extensions: [
          basicSetup,
          json(),
          lintGutter(),
          linter(({ state: { doc } }) =>
            profileProblems(
              doc.toString(),
              Array.from({ length: doc.lines }, (_, i) => doc.line(i + 1)),
            ),
          ),
          EditorState.readOnly.of(readOnly),
          EditorView.contentAttributes.of({ 'aria-label': 'Profile as JSON' }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged && !update.transactions.some((one) => one.annotation(OUTSIDE))) now.current(update.state.doc.toString());
          }),
        ],
      }),
    });
    editor.current = view;
    return () => view.destroy();
  }, [readOnly]);
  useEffect(() => {
    const view = editor.current;
    if (!view || view.state.doc.toString() === text) return;
    view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text }, annotations: OUTSIDE.of(true) });
  }, [text]);
  return <div ref={host} className="editor json-editor" />;
}
