import { useState } from 'react';
import { Link } from 'react-router';
import { message, remove, sendJson } from '../api/http.ts';
import type { CrateView, FolderState } from '../api/types.ts';
import { FolderPicker } from '../common/FolderPicker.tsx';
import { time } from '../common/format.ts';
import { FolderStamp } from '../common/FolderStamp.tsx';
import { Icon } from '../common/Icon.tsx';
import { folderChanged } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { SideChoice } from '../common/SideChoice.tsx';

/** The folder that the crate lives in: both are kept equal, and what cannot be is settled here. */
export function FolderPanel({ view }: { view: CrateView }) {
  const dispatch = useAppDispatch();
  const folder = useAppSelector((s) => s.crate.folder);
  const [choosing, setChoosing] = useState(false);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState('');
  const at = `/api/crates/${view.id}/folder`;
  const attempt = (work: Promise<FolderState | null>) => {
    setBusy(true);
    work
      .then((next) => {
        dispatch(folderChanged(next));
        setProblem('');
      })
      .catch((error) => setProblem(message(error)))
      .finally(() => setBusy(false));
  };
  const send = (method: 'PUT' | 'POST', path: string, body: object) =>
    attempt(sendJson<{ folder: FolderState }>(method, at + path, body).then((answer) => answer.folder));
  return (
    <section className="mb-3" aria-label="Folder of the crate">
      {folder ? (
        <>
          <div className="d-flex gap-2 align-items-baseline flex-wrap">
            <FolderStamp folder={folder} />
            <span className="flex-grow-1">
              lives in <code>{folder.folder}</code>
              {folder.equalAt && <span className="faint"> · equal {time(folder.equalAt)}</span>}
            </span>
            <button className="btn btn-quiet btn-sm" disabled={busy} onClick={() => send('POST', '/look', {})}>
              <Icon name="arrow-clockwise" /> Look again
            </button>
            <button className="btn btn-quiet btn-sm" disabled={busy} onClick={() => attempt(remove(at).then(() => null))}>
              <Icon name="x-lg" /> Part from it
            </button>
            <Link className="btn btn-quiet btn-sm" role="button" to={`/crates/${view.id}/versions`}>
              <Icon name="clock-history" /> Versions
            </Link>
          </div>
          {folder.problem && (
            <div className="severity blocker text-wrap mt-2" role="alert">
              {folder.problem}
              {folder.vanished && (
                <button className="btn btn-quiet btn-sm ms-2" onClick={() => send('POST', '/vanished', {})}>
                  I meant it; remove them
                </button>
              )}
            </div>
          )}
          {folder.refused.map(({ path, reason }) => (
            <div key={path} className="severity warning text-wrap mt-1">
              <Icon name="exclamation-triangle" /> {path}: {reason}
            </div>
          ))}
          {folder.conflicts.map(({ path, what, members }) => (
            <SideChoice
              key={path}
              path={path}
              what={what}
              members={members.map((key) => ({ key, label: key }))}
              sides={[
                ['crate', 'as here'],
                ['folder', 'as in the folder'],
              ]}
              busy={busy}
              settle={(side, chosen) => send('POST', '/settle', { path, side, members: chosen })}
            />
          ))}
        </>
      ) : (
        <div className="d-flex gap-2 align-items-baseline flex-wrap">
          <span className="flex-grow-1 faint">Bound to a folder, the crate can be worked on with other programs and kept under version control.</span>
          <button className="btn btn-quiet" disabled={busy} onClick={() => setChoosing(true)}>
            <Icon name="folder-symlink" /> Bind to a folder …
          </button>
        </div>
      )}
      {problem && (
        <div className="severity blocker text-wrap mt-2" role="alert">
          {problem}
        </div>
      )}
      {choosing && (
        <FolderPicker
          title="Folder for this crate"
          take="Keep equal with this folder"
          hint="An empty folder, or a new one: type its path. It is made if it is not there."
          close={() => setChoosing(false)}
          choose={(path) => {
            setChoosing(false);
            send('PUT', '', { folder: path });
          }}
        />
      )}
    </section>
  );
}
