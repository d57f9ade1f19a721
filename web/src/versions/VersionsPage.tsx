import { useCallback, useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { mapPath } from '@violet-crate/core/crate/contents';
import { getJson, message, sendJson } from '../api/http.ts';
import type { ChangedFile, Commit, VersionsState } from '../api/types.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { bytes, plural } from '../common/format.ts';
import { SideChoice } from '../common/SideChoice.tsx';
import { FolderStamp } from '../common/FolderStamp.tsx';
import { Icon } from '../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { selected, viewChanged } from '../state/viewSlice.ts';
import { ChangeList } from './ChangeList.tsx';
import { CommitList } from './CommitList.tsx';
import './versions.css';

/** The crate's folder under version control: what has changed, what was committed, branches and the way back. */
export function VersionsPage() {
  const { view, folder } = useAppSelector((s) => s.crate);
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const [state, setState] = useState<VersionsState | null>(null);
  const [log, setLog] = useState<Commit[]>([]);
  const [draft, setDraft] = useState<string | null>(null);
  const [fresh, setFresh] = useState('');
  const [other, setOther] = useState('');
  /** Path of the map whose history is shown; empty for everything. */
  const [of, setOf] = useState('');
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState('');
  const at = `/api/crates/${view?.id}/versions`;

  const show = useCallback(
    async (next: VersionsState) => {
      setState(next);
      if (next.repository) setLog(await getJson<Commit[]>(`${at}/commits${of && `?path=${encodeURIComponent(of)}`}`));
    },
    [at, of],
  );
  const attempt = useCallback(
    (work: Promise<VersionsState>, then: () => void = () => {}) => {
      setBusy(true);
      work
        .then(show)
        .then(() => {
          setProblem('');
          then();
        })
        .catch((error) => setProblem(message(error)))
        .finally(() => setBusy(false));
    },
    [show],
  );
  // What the folder holds may have become another thing.
  useEffect(() => {
    if (view) attempt(getJson<VersionsState>(at));
  }, [view, at, folder?.equalAt, attempt]);

  if (!view) return null;
  const post = (path: string, body: object, then?: () => void) => attempt(sendJson<VersionsState>('POST', at + path, body), then);
  const showOnPlan = ({ difference }: ChangedFile) => {
    const { objects = [], solids = [] } = difference?.touched ?? {};
    const [kind, ids] = objects.length > 0 ? (['objects', objects] as const) : (['solids', solids] as const);
    dispatch(selected({ kind, ids: [...ids] }));
    dispatch(viewChanged({ tool: 'select' }));
    void navigate(`/crates/${view.id}/map`);
  };
  return (
    <div className="page">
      <h1>Versions</h1>
      <p className="lead">The crate’s folder under the git of this machine. Maps are compared and merged member by member, not line by line.</p>
      {problem && <Trouble retry={() => attempt(getJson<VersionsState>(at))}>{problem}</Trouble>}
      {!state && !problem && <Busy what="Looking at the folder" />}
      {state?.problem && (
        <div className="empty">
          <h2>No versions yet</h2>
          <p>{state.problem}</p>
          <Link className="btn btn-primary" role="button" to={`/crates/${view.id}/setup`}>
            Go to Set-up
          </Link>
        </div>
      )}
      {state?.untrusted && (
        <div className="empty">
          <h2>This repository was not made here</h2>
          <p>
            Git reads settings and hooks of the folder, and runs the programs that they name. Violet Crate has git run none of them. Read what is
            there, and trust the folder if you know where it is from.
          </p>
          {state.untrusted.settings.length === 0 ? (
            <p>It names no programs and no other places.</p>
          ) : (
            <ul className="list-unstyled text-start mono small">
              {state.untrusted.settings.map((one) => (
                <li key={one} className="text-break">
                  {one}
                </li>
              ))}
            </ul>
          )}
          <button className="btn btn-primary" disabled={busy} onClick={() => post('/trust', { hash: state.untrusted!.hash })}>
            Trust this repository
          </button>
        </div>
      )}
      {state && !state.problem && !state.untrusted && !state.repository && (
        <div className="empty">
          <h2>The folder is not under version control</h2>
          <p>Every version that you commit can be looked at and had back, and several people can work on one crate.</p>
          <button className="btn btn-primary" disabled={busy} onClick={() => post('', {})}>
            <Icon name="clock-history" /> Keep versions from now on
          </button>
        </div>
      )}
      {state?.repository && (
        <div className="row g-3">
          <div className="col-lg-6">
            <section className="panel mb-3" aria-label="Changes">
              <header>
                <h2>Changes</h2>
                <span className={`stamp ${state.changes.length === 0 ? 'clear' : 'notes'}`}>
                  <Icon name={state.changes.length === 0 ? 'check-circle' : 'pencil'} />{' '}
                  {state.changes.length === 0 ? 'all committed' : plural(state.changes.length, 'file')}
                </span>
              </header>
              <div className="body">
                {state.merging && (
                  <div className="d-flex align-items-center gap-2 mb-2" role="status">
                    <span className="flex-grow-1">
                      A merge is under way. {state.conflicts.length > 0 ? 'Settle what both sides changed' : 'All of it is settled'}, then commit.
                    </span>
                    <button
                      className="btn btn-quiet btn-sm text-nowrap"
                      disabled={busy}
                      onClick={() => attempt(sendJson('DELETE', `${at}/merge`, {}))}
                    >
                      Give it up
                    </button>
                  </div>
                )}
                {state.conflicts.map(({ path, members }) => (
                  <SideChoice
                    key={path}
                    path={path}
                    what={`${path} was changed on both branches${members.length > 0 ? `; ${plural(members.length, 'member')} of it to something else on each` : ''}.`}
                    members={members}
                    sides={[
                      ['ours', `as on ${state.branch}`],
                      ['theirs', 'as on the other branch'],
                    ]}
                    busy={busy}
                    settle={(side, chosen) => post('/settle', { path, side, members: chosen })}
                  />
                ))}
                <ChangeList changes={state.changes} show={showOnPlan} />
                {state.conflicts.length === 0 && (state.changes.length > 0 || state.merging) && (
                  <form
                    onSubmit={(event) => {
                      event.preventDefault();
                      post('/commits', { message: (draft ?? state.draft).trim() }, () => setDraft(null));
                    }}
                  >
                    <label className="form-label" htmlFor="commit-message">
                      Message, drafted from what has changed
                    </label>
                    <textarea
                      id="commit-message"
                      className="form-control mb-2"
                      rows={4}
                      value={draft ?? state.draft}
                      onChange={(event) => setDraft(event.target.value)}
                    />
                    <button className="btn btn-primary" disabled={busy || (draft ?? state.draft).trim() === ''}>
                      <Icon name="check2" /> Commit
                    </button>
                  </form>
                )}
              </div>
            </section>
            <section className="panel" aria-label="Branches">
              <header>
                <h2>Branches</h2>
                {folder && <FolderStamp folder={folder} />}
              </header>
              <div className="body d-flex flex-column gap-2">
                <div className="d-flex gap-2">
                  <select
                    className="form-select"
                    aria-label="Branch"
                    value={state.branch}
                    disabled={busy}
                    onChange={(event) => post('/branch', { branch: event.target.value, fresh: false })}
                  >
                    {[...new Set([state.branch, ...state.branches])].map((name) => (
                      <option key={name}>{name}</option>
                    ))}
                  </select>
                </div>
                <form
                  className="input-group"
                  onSubmit={(event) => {
                    event.preventDefault();
                    post('/branch', { branch: fresh.trim(), fresh: true }, () => setFresh(''));
                  }}
                >
                  <input
                    className="form-control"
                    aria-label="Name of a new branch"
                    placeholder="night-version"
                    value={fresh}
                    onChange={(event) => setFresh(event.target.value)}
                  />
                  <button className="btn btn-quiet" disabled={busy || fresh.trim() === ''}>
                    Begin a branch
                  </button>
                </form>
                {state.branches.length > 1 && (
                  <div className="input-group">
                    <select className="form-select" aria-label="Branch to merge" value={other} onChange={(event) => setOther(event.target.value)}>
                      <option value="">which one?</option>
                      {state.branches
                        .filter((name) => name !== state.branch)
                        .map((name) => (
                          <option key={name}>{name}</option>
                        ))}
                    </select>
                    <button
                      className="btn btn-quiet"
                      disabled={busy || other === ''}
                      onClick={() => post('/merge', { branch: other }, () => setOther(''))}
                    >
                      <Icon name="sign-merge-left" /> Merge into {state.branch}
                    </button>
                  </div>
                )}
                {state.driver ? (
                  <span className="faint small">
                    <Icon name="check-circle" /> git merges maps of this folder member by member.
                  </span>
                ) : (
                  <button className="btn btn-warm" disabled={busy} onClick={() => post('/driver', {})}>
                    Have git merge maps member by member
                  </button>
                )}
                {state.large.map(({ path, bytes: size }) => (
                  <div key={path} className="severity warning text-wrap small">
                    <Icon name="exclamation-triangle" /> {path} has {bytes(size)}: every version of it stays in the history. Keep it elsewhere, or use
                    git’s large file storage.
                  </div>
                ))}
              </div>
            </section>
          </div>
          <section className="col-lg-6" aria-label="History">
            <div className="panel h-100">
              <header>
                <h2>History</h2>
                <select
                  className="form-select form-select-sm w-auto"
                  aria-label="History of"
                  value={of}
                  onChange={(event) => setOf(event.target.value)}
                >
                  <option value="">of everything</option>
                  {view.maps.map((name) => (
                    <option key={name} value={mapPath(name)}>
                      of {name}
                    </option>
                  ))}
                </select>
              </header>
              <CommitList
                key={`${state.branch} ${of} ${log[0]?.hash ?? ''}`}
                at={at}
                path={of}
                commits={log}
                busy={busy}
                restore={(hash, path) => post('/restore', { hash, path })}
              />
            </div>
          </section>
        </div>
      )}
    </div>
  );
}
