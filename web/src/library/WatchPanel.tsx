import { useState } from 'react';
import { message, remove, sendJson } from '../api/http.ts';
import type { WatchState } from '../api/types.ts';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { watchChanged } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** A folder of this machine whose files the crate's assets are made from: changes are noticed while one works. */
export function WatchPanel({ onClose }: { onClose(): void }) {
  const dispatch = useAppDispatch();
  const { view, watch } = useAppSelector((s) => s.crate);
  const [folder, setFolder] = useState(watch?.folder ?? '');
  const [problem, setProblem] = useState('');
  if (!view) return null;
  const at = `/api/crates/${view.id}/watch`;
  const attempt = (work: Promise<unknown>) => {
    setProblem('');
    work.catch((error) => setProblem(message(error)));
  };
  const set = (path: string, automatic: boolean) =>
    attempt(sendJson<{ watch: WatchState }>('PUT', at, { folder: path, automatic }).then((answer) => dispatch(watchChanged(answer.watch))));
  return (
    <section className="panel m-2" aria-label="Watched folder">
      <header>
        <h2>Watched folder</h2>
        <button className="btn btn-quiet btn-sm" aria-label="Close" onClick={onClose}>
          <Icon name="x-lg" />
        </button>
      </header>
      <form
        className="body"
        onSubmit={(event) => {
          event.preventDefault();
          set(folder.trim(), watch?.automatic ?? false);
        }}
      >
        <label className="form-label" htmlFor="watch-folder">
          Folder on this machine
        </label>
        <div className="input-group mb-2">
          <input
            id="watch-folder"
            className="form-control mono"
            placeholder="/home/me/my_sources"
            value={folder}
            onChange={(event) => setFolder(event.target.value)}
          />
          <button className="btn btn-primary" disabled={folder.trim() === ''}>
            {watch ? 'Watch this instead' : 'Watch'}
          </button>
        </div>
        {problem && (
          <div className="severity blocker text-wrap mb-2" role="alert">
            {problem}
          </div>
        )}
        {watch ? (
          <>
            <div className="form-check mb-2">
              <input
                id="watch-auto"
                type="checkbox"
                className="form-check-input"
                checked={watch.automatic}
                onChange={(event) => set(watch.folder, event.target.checked)}
              />
              <label className="form-check-label" htmlFor="watch-auto">
                Import changed files again at once
              </label>
            </div>
            {watch.problem && <div className="severity blocker text-wrap mb-2">{watch.problem}</div>}
            <div className="d-flex gap-2 flex-wrap align-items-center">
              <button
                type="button"
                className="btn btn-warm"
                disabled={watch.stale.length === 0}
                onClick={() => attempt(sendJson('POST', `${at}/take`, { fresh: false }))}
              >
                <Icon name="arrow-repeat" /> Import {plural(watch.stale.length, 'changed file')} again
              </button>
              <button
                type="button"
                className="btn btn-quiet"
                disabled={watch.fresh.length === 0}
                onClick={() => attempt(sendJson('POST', `${at}/take`, { fresh: true }))}
              >
                <Icon name="plus-lg" /> Import {plural(watch.fresh.length, 'new file')}
              </button>
              <span className="flex-grow-1" />
              <button type="button" className="btn btn-quiet" onClick={() => attempt(remove(at).then(() => dispatch(watchChanged(null))))}>
                Stop watching
              </button>
            </div>
          </>
        ) : (
          <p className="faint m-0">Sources that change there are marked as stale; one click imports them again with the settings they had.</p>
        )}
      </form>
    </section>
  );
}
