import { useEffect, useRef, useState } from 'react';
import { MergeView } from '@codemirror/merge';
import { EditorState } from '@codemirror/state';
import { EditorView, lineNumbers } from '@codemirror/view';
import { getJson, message } from '../api/http.ts';
import { Busy } from './Busy.tsx';
import './textHistory.css';

interface Version {
  version: number;
  savedAt: string;
}

interface Props {
  crateId: string;
  path: string;
  source: string;
  /** Makes it what it was. */
  onRestore(source: string): void;
}

/** What a text of the crate (a script, a table, a conversation) was before, with what differs from what it is now. */
export function TextHistory({ crateId, path, source, onRestore }: Props) {
  const [versions, setVersions] = useState<readonly Version[] | null>(null);
  const [chosen, setChosen] = useState<number | null>(null);
  const [text, setText] = useState<string | null>(null);
  const [trouble, setTrouble] = useState('');
  const base = `/api/crates/${crateId}/script-versions`;
  useEffect(() => {
    setVersions(null);
    setChosen(null);
    getJson<Version[]>(`${base}?path=${encodeURIComponent(path)}`)
      .then((list) => {
        setVersions(list);
        setChosen(list[0]?.version ?? null);
      })
      .catch((error) => setTrouble(message(error)));
  }, [base, path]);
  useEffect(() => {
    setText(null);
    if (chosen === null) return;
    getJson<{ source: string }>(`${base}/${chosen}`)
      .then((answer) => setText(answer.source))
      .catch((error) => setTrouble(message(error)));
  }, [base, chosen]);
  if (trouble)
    return (
      <p className="severity blocker p-3" role="alert">
        {trouble}
      </p>
    );
  if (!versions) return <Busy what="Looking for what it was" />;
  if (versions.length === 0) return <p className="faint p-3 mb-0">Nothing yet: what this was is kept whenever it is changed.</p>;
  return (
    <div className="text-history">
      <div className="d-flex gap-2 align-items-center p-2 border-bottom">
        <label className="small text-nowrap" htmlFor="version">
          What it was until
        </label>
        <select
          id="version"
          className="form-select form-select-sm w-auto"
          value={chosen ?? ''}
          onChange={(event) => setChosen(Number(event.target.value))}
        >
          {versions.map(({ version, savedAt }) => (
            <option key={version} value={version}>
              {new Date(savedAt).toLocaleString('en')}
            </option>
          ))}
        </select>
        <span className="faint small flex-grow-1">Left as it was, right as it is now.</span>
        <button className="btn btn-quiet btn-sm" disabled={text === null || text === source} onClick={() => text !== null && onRestore(text)}>
          Make it that again
        </button>
      </div>
      {text === null ? <Busy what="Reading" /> : <Differences before={text} now={source} />}
    </div>
  );
}

function Differences({ before, now }: { before: string; now: string }) {
  const host = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const extensions = [lineNumbers(), EditorView.editable.of(false), EditorState.readOnly.of(true), EditorView.lineWrapping];
    const view = new MergeView({
      a: { doc: before, extensions: [...extensions, EditorView.contentAttributes.of({ 'aria-label': 'As it was', tabindex: '0' })] },
      b: { doc: now, extensions: [...extensions, EditorView.contentAttributes.of({ 'aria-label': 'As it is', tabindex: '0' })] },
      parent: host.current!,
      collapseUnchanged: { margin: 3, minSize: 6 },
    });
    return () => view.destroy();
  }, [before, now]);
  return <div ref={host} className="flex-grow-1 overflow-auto" />;
}
