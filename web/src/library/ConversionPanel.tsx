import { useState, type ReactNode } from 'react';
import type { LibraryEntry } from '@violet-crate/core/library/library';
import { message, sendJson } from '../api/http.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';

type Draft = Record<string, unknown>;

interface Props {
  entry: LibraryEntry;
  /** The fields, given the draft and how to change it. */
  children(draft: Draft, set: (change: Draft) => void): ReactNode;
}

/** The settings of a conversion. *Convert again* uses the kept source; nothing else of the asset is lost. */
export function ConversionPanel({ entry, children }: Props) {
  const view = useAppSelector((s) => s.crate.view)!;
  const [draft, setDraft] = useState<Draft>(entry.record!.options);
  const [problem, setProblem] = useState('');
  const folder = entry.record!.origin?.path.split('/').slice(0, -1).join('/') ?? '';
  const send = (all: boolean) => {
    setProblem('');
    sendJson('POST', `/api/crates/${view.id}/assets/reconvert`, { path: entry.id, options: draft, ...(all ? { folder: true } : {}) }).catch((error) =>
      setProblem(message(error)),
    );
  };
  return (
    <section className="panel">
      <header>
        <h2>Conversion</h2>
      </header>
      <div className="body">
        <div className="settings">{children(draft, (change) => setDraft({ ...draft, ...change }))}</div>
        {problem && (
          <div className="severity blocker text-wrap mt-2" role="alert">
            {problem}
          </div>
        )}
        <div className="d-flex gap-2 mt-3 flex-wrap">
          <button className="btn btn-primary" onClick={() => send(false)}>
            <Icon name="arrow-repeat" /> Convert again
          </button>
          <button
            className="btn btn-quiet"
            onClick={() => send(true)}
            title={
              folder
                ? `All of this kind from ${folder}, now and from now on`
                : 'All of this kind that were dropped without a folder, now and from now on'
            }
          >
            The same for all of its folder
          </button>
        </div>
      </div>
    </section>
  );
}
