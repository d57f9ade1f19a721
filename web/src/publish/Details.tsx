import { useState } from 'react';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { message, sendJson } from '../api/http.ts';
import { Icon } from '../common/Icon.tsx';
import { manifestChanged, refreshPackages } from '../state/crateSlice.ts';
import { useAppDispatch } from '../state/store.ts';

/** Title, version, description, authors and credits: what people will read. */
export function Details({ manifest, crateId }: { manifest: CrateManifest; crateId: string }) {
  const dispatch = useAppDispatch();
  const [draft, setDraft] = useState({
    title: manifest.title,
    description: manifest.description,
    version: manifest.version,
    authors: manifest.authors.join(', '),
    credits: manifest.credits,
  });
  const [note, setNote] = useState<{ tone: string; text: string } | null>(null);
  const set = (change: Partial<typeof draft>) => {
    setDraft({ ...draft, ...change });
    setNote(null);
  };
  const save = async () => {
    const body = {
      ...draft,
      authors: draft.authors
        .split(',')
        .map((a) => a.trim())
        .filter(Boolean),
      credits: draft.credits.filter((c) => c.author.trim() !== ''),
    };
    try {
      dispatch(manifestChanged(await sendJson<CrateManifest>('PATCH', `/api/crates/${crateId}`, body)));
      await dispatch(refreshPackages(crateId));
      setNote({ tone: 'clear', text: 'Saved' });
    } catch (error) {
      setNote({ tone: 'blocked', text: message(error) });
    }
  };
  return (
    <form
      className="panel"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <header>
        <h2>What people will read</h2>
      </header>
      <div className="body">
        <div className="row g-2">
          <div className="col-8">
            <label className="form-label" htmlFor="pub-title">
              Title
            </label>
            <input id="pub-title" className="form-control" value={draft.title} onChange={(e) => set({ title: e.target.value })} required />
          </div>
          <div className="col-4">
            <label className="form-label" htmlFor="pub-version">
              Version
            </label>
            <input id="pub-version" className="form-control mono" value={draft.version} onChange={(e) => set({ version: e.target.value })} required />
          </div>
        </div>
        <label className="form-label mt-2" htmlFor="pub-description">
          Description
        </label>
        <textarea
          id="pub-description"
          className="form-control"
          rows={4}
          value={draft.description}
          onChange={(e) => set({ description: e.target.value })}
        />
        <label className="form-label mt-2" htmlFor="pub-authors">
          Authors
        </label>
        <input
          id="pub-authors"
          className="form-control"
          value={draft.authors}
          onChange={(e) => set({ authors: e.target.value })}
          placeholder="Names, with commas between"
        />
        <div className="d-flex align-items-center mt-3 mb-1">
          <span className="form-label m-0 flex-grow-1">Credits for the work of others</span>
          <button
            type="button"
            className="btn btn-quiet btn-sm"
            onClick={() => set({ credits: [...draft.credits, { author: '', work: '', licence: '' }] })}
          >
            <Icon name="plus-lg" /> Add
          </button>
        </div>
        {draft.credits.map((credit, i) => {
          const change = (part: Partial<typeof credit>) => set({ credits: draft.credits.map((c, k) => (k === i ? { ...c, ...part } : c)) });
          return (
            <div className="d-flex gap-1 mb-1" key={i}>
              <input
                className="form-control"
                aria-label={`Author of credit ${i + 1}`}
                placeholder="Author"
                value={credit.author}
                onChange={(e) => change({ author: e.target.value })}
              />
              <input
                className="form-control"
                aria-label={`Work of credit ${i + 1}`}
                placeholder="Work"
                value={credit.work}
                onChange={(e) => change({ work: e.target.value })}
              />
              <input
                className="form-control"
                aria-label={`Licence of credit ${i + 1}`}
                placeholder="Licence"
                value={credit.licence}
                onChange={(e) => change({ licence: e.target.value })}
              />
              <button
                type="button"
                className="btn btn-quiet"
                aria-label={`Remove credit ${i + 1}`}
                onClick={() => set({ credits: draft.credits.filter((_, k) => k !== i) })}
              >
                <Icon name="x-lg" />
              </button>
            </div>
          );
        })}
        {draft.credits.length === 0 && <div className="form-text">None. Models, textures or sounds by others belong here.</div>}
        <div className="d-flex align-items-center gap-3 mt-3">
          <button className="btn btn-primary">
            <Icon name="check-lg" /> Save details
          </button>
          {note && (
            <span className={`stamp ${note.tone}`} role="status">
              {note.text}
            </span>
          )}
        </div>
      </div>
    </form>
  );
}
