import { useState } from 'react';
import type { RequiredProposal } from '@violet-crate/core/link/required';
import { splitRequired } from '@violet-crate/core/crate/lock';
import { own } from '@violet-crate/core/own';
import { message, sendJson } from '../api/http.ts';
import type { CrateEditEntry } from '../api/types.ts';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { crateChanged } from '../state/crateEditsSlice.ts';
import { manifestChanged, refreshFiles, refreshFreshness, refreshStock } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** Other crates of the workshop that this one is made with: which versions do, which one is taken, and what a newer one would change. */
export function RequiredCrates({ crateId }: { crateId: string }) {
  const dispatch = useAppDispatch();
  const { requires = {} } = useAppSelector((s) => s.crate.view!.manifest);
  const required = useAppSelector((s) => s.crate.required);
  const base = useAppSelector((s) => s.crate.base);
  const [proposal, setProposal] = useState<RequiredProposal | null>(null);
  const [busy, setBusy] = useState('');
  const [problem, setProblem] = useState('');
  const [added, setAdded] = useState({ name: '', range: '*' });
  const locked = required?.lock.crates ?? {};
  const names = [...new Set([...Object.keys(requires), ...Object.keys(locked)])].sort();

  const work = async (what: string, does: () => Promise<void>) => {
    setBusy(what);
    setProblem('');
    await does().catch((error) => setProblem(message(error)));
    setBusy('');
  };
  const setRequires = (next: Record<string, string>) =>
    work('Saving', async () => {
      dispatch(manifestChanged(await sendJson<CrateManifest>('PATCH', `/api/crates/${crateId}`, { requires: next })));
      setProposal(null);
    });
  const look = () =>
    work('Asking the workshop', async () => {
      setProposal(await sendJson<RequiredProposal>('POST', `/api/crates/${crateId}/required/look`, {}));
    });
  const take = () =>
    work('Taking them', async () => {
      const { edit } = await sendJson<{ edit: CrateEditEntry | null }>('POST', `/api/crates/${crateId}/required/take`, { crates: proposal!.crates });
      dispatch(crateChanged({ edit, leftOut: [] }));
      setProposal(null);
      await dispatch(refreshFiles(crateId));
      void dispatch(refreshFreshness(crateId));
    });
  const fetchMissing = () =>
    work('Fetching', async () => {
      await sendJson('POST', `/api/crates/${crateId}/required/fetch`, {});
      await dispatch(refreshStock(crateId));
    });
  const filesOf = (name: string) => base?.files.filter(({ path }) => splitRequired(path)?.name === name).length ?? 0;

  return (
    <section className="required">
      <p className="faint">
        What other crates hold can be used here as the game’s own can, from <code>mods/NAME/</code>. It stays as it is, and does not travel: players
        get it from the workshop together with this crate.
      </p>
      {names.length > 0 && (
        <table className="table panel align-middle">
          <thead>
            <tr>
              <th>Crate</th>
              <th>Versions that do</th>
              <th>Made with</th>
              <th>Here</th>
              <th></th>
            </tr>
          </thead>
          <tbody>
            {names.map((name) => {
              const range = own(requires, name);
              const one = own(locked, name);
              const missing = required?.missing.includes(name);
              return (
                <tr key={name}>
                  <td className="mono">{name}</td>
                  <td className="mono">{range ?? <span className="faint">needed by another</span>}</td>
                  <td>{one ? one.version : <span className="faint">not chosen yet</span>}</td>
                  <td>
                    {!one ? '' : missing ? 'not on this machine' : plural(filesOf(name), 'file')}
                    {missing && (
                      <button className="btn btn-quiet btn-sm ms-2" disabled={busy !== ''} onClick={() => void fetchMissing()}>
                        <Icon name="download" /> Fetch
                      </button>
                    )}
                  </td>
                  <td className="text-end">
                    {range !== undefined && (
                      <button
                        className="btn btn-quiet btn-sm"
                        aria-label={`Do not require ${name}`}
                        disabled={busy !== ''}
                        onClick={() => void setRequires(Object.fromEntries(Object.entries(requires).filter(([other]) => other !== name)))}
                      >
                        <Icon name="x-lg" />
                      </button>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <form
        className="d-flex gap-2 mb-3"
        onSubmit={(event) => {
          event.preventDefault();
          void setRequires({ ...requires, [added.name.trim()]: added.range.trim() || '*' }).then(() => setAdded({ name: '', range: '*' }));
        }}
      >
        <input
          className="form-control form-control-sm mono w-auto"
          aria-label="Name of a crate on the workshop"
          placeholder="its name on the workshop"
          pattern="[a-z][a-z0-9_]*"
          title="Small letters, digits and underlines"
          required
          value={added.name}
          onChange={(event) => setAdded({ ...added, name: event.target.value })}
        />
        <input
          className="form-control form-control-sm mono w-auto"
          aria-label="Versions that do"
          placeholder="^1.2.0"
          value={added.range}
          onChange={(event) => setAdded({ ...added, range: event.target.value })}
        />
        <button className="btn btn-quiet btn-sm" disabled={busy !== ''}>
          <Icon name="plus-lg" /> Require it
        </button>
        {names.length > 0 && (
          <button type="button" className="btn btn-primary btn-sm ms-auto" disabled={busy !== ''} onClick={() => void look()}>
            <Icon name="arrow-repeat" /> Look for versions
          </button>
        )}
      </form>
      {busy && <p role="status">{busy} …</p>}
      {problem && (
        <p role="alert" className="severity blocker text-wrap">
          {problem}
        </p>
      )}
      {proposal &&
        (proposal.changes.length === 0 ? (
          <p role="status">All are the newest that suit everybody.</p>
        ) : (
          <div className="panel p-3" role="region" aria-label="Other versions">
            <ul className="mb-2">
              {proposal.changes.map(({ name, from, to }) => (
                <li key={name}>
                  <span className="mono">{name}</span>{' '}
                  {from === null ? `${to}, new` : to === null ? `${from} goes: nothing requires it` : `${from} → ${to}`}
                </li>
              ))}
            </ul>
            {proposal.means.length > 0 ? (
              <>
                <p className="mb-1">What that changes in what this crate uses:</p>
                <ul className="mb-2">
                  {proposal.means.map((sentence) => (
                    <li key={sentence}>{sentence}</li>
                  ))}
                </ul>
              </>
            ) : (
              <p className="mb-2">Nothing that this crate uses becomes another one by that.</p>
            )}
            <button className="btn btn-primary btn-sm" disabled={busy !== ''} onClick={() => void take()}>
              <Icon name="check-lg" /> Take them
            </button>
          </div>
        ))}
    </section>
  );
}
