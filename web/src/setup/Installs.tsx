import { useCallback, useEffect, useState } from 'react';
import { getJson, message, remove, sendJson } from '../api/http.ts';
import type { CrateView, FoundGame, Game } from '../api/types.ts';
import { FolderPicker } from '../common/FolderPicker.tsx';
import { Icon } from '../common/Icon.tsx';

/** The installs of the crate's game: which one it is made with, and others that could be. */
export function Installs({ view, onChange }: { view: CrateView; onChange(): void }) {
  const [installs, setInstalls] = useState<FoundGame[]>([]);
  const [choosing, setChoosing] = useState(false);
  const [problem, setProblem] = useState('');
  const { profile } = view.manifest;
  const load = useCallback(
    () =>
      getJson<Game[]>('/api/games')
        .then((games) => setInstalls(games.find((game) => game.profile.id === profile)?.installs ?? []))
        .catch((error) => setProblem(message(error))),
    [profile],
  );
  useEffect(() => void load(), [load, view.install]);
  const attempt = (work: Promise<unknown>) =>
    void work
      .then(() => {
        setProblem('');
        onChange();
        return load();
      })
      .catch((error) => setProblem(message(error)));
  return (
    <div className="body">
      <fieldset>
        <legend className="form-label">This crate is made with</legend>
        {installs.map(({ id, folder, version, how }) => (
          <div key={id} className="d-flex gap-2 align-items-baseline mb-1">
            <label className="d-flex gap-2 flex-grow-1">
              <input
                type="radio"
                className="form-check-input"
                name="install"
                checked={id === view.install}
                onChange={() => attempt(sendJson('PUT', `/api/crates/${view.id}/game`, { install: id }))}
              />
              <span>
                <strong>{version ?? 'no version'}</strong> <code>{folder}</code> <span className="faint">{how}</span>
              </span>
            </label>
            {how.startsWith('chosen by you') && (
              <button className="btn btn-quiet btn-sm" onClick={() => attempt(remove(`/api/games/${profile}/installs/${id}`))}>
                <Icon name="x-lg" /> Forget
              </button>
            )}
          </div>
        ))}
        {installs.length === 0 && <p className="faint m-0">No install of this game was found. Choose its folder, or get it from the depot below.</p>}
      </fieldset>
      <button className="btn btn-quiet mt-2" onClick={() => setChoosing(true)}>
        <Icon name="folder2-open" /> Choose a folder …
      </button>
      {problem && (
        <div className="severity blocker text-wrap mt-2" role="alert">
          {problem}
        </div>
      )}
      {choosing && (
        <FolderPicker
          title="Folder that the game lies in"
          take="Take this folder"
          close={() => setChoosing(false)}
          choose={(folder) => {
            setChoosing(false);
            attempt(sendJson('POST', `/api/games/${profile}/installs`, { folder }));
          }}
        />
      )}
    </div>
  );
}
