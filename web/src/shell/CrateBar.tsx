import { useState } from 'react';
import { Link } from 'react-router';
import { isActive } from '../state/jobsSlice.ts';
import { getJson, message, request, sendJson } from '../api/http.ts';
import { reloaded } from '../state/mapSlice.ts';
import type { GameMap } from '@violet-crate/core/document/schema';
import { FolderStamp } from '../common/FolderStamp.tsx';
import { Icon } from '../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { switchTheme } from '../state/preferencesSlice.ts';

/** The same things were changed elsewhere: what they are, and whose state is to stand. */
function Conflict() {
  const { conflicts, unsaved, name, map } = useAppSelector((s) => s.map);
  const id = useAppSelector((s) => s.crate.view?.id);
  const dispatch = useAppDispatch();
  const [trouble, setTrouble] = useState('');
  const names = conflicts.map((key) => {
    const [collection, member] = key.split('/');
    const found = (map as unknown as Record<string, Record<string, { name?: string }>> | null)?.[collection]?.[member];
    return found?.name ?? member ?? collection;
  });
  const take = async () => dispatch(reloaded(await getJson<{ map: GameMap; revision: number }>(`/api/crates/${id}/maps/${name}`)));
  const settle = async (keepMine: boolean) => {
    try {
      const { revision } = await getJson<{ revision: number }>(`/api/crates/${id}/maps/${name}`);
      if (keepMine) await sendJson('POST', `/api/crates/${id}/maps/${name}/edits`, { base: revision, edits: unsaved, force: true });
      await take();
    } catch (error) {
      setTrouble(message(error));
    }
  };
  return (
    <span className="stamp blocked" role="alert">
      <Icon name="x-octagon" /> Changed elsewhere too, not saved: {names.slice(0, 3).join(', ') || 'the map'}
      {names.length > 3 && ` and ${names.length - 3} more`}. {trouble}
      <button className="btn btn-warm btn-sm py-0" onClick={() => void settle(true)} title={unsaved.map((e) => e.name).join(', ')}>
        Keep mine
      </button>
      <button className="btn btn-quiet btn-sm py-0" onClick={() => void settle(false)}>
        Load the other state
      </button>
    </span>
  );
}

function SavedState() {
  const { saveState, unsaved, foreign } = useAppSelector((s) => s.map);
  if (saveState === 'conflict') return <Conflict />;
  if (saveState === 'retrying')
    return (
      <span className="stamp notes" role="status">
        <Icon name="exclamation-triangle" /> Not saved yet, trying again
      </span>
    );
  return unsaved.length > 0 ? (
    <span className="stamp running" role="status">
      <Icon name="arrow-repeat" className="turning" /> Saving
    </span>
  ) : (
    <span className="stamp clear" role="status">
      <Icon name="check2-circle" /> Saved
      {foreign.count > 0 && <span className="faint ms-2">another page: {foreign.name}</span>}
    </span>
  );
}

function RunningJobs() {
  const jobs = useAppSelector((s) => s.jobs.byId);
  const active = Object.values(jobs).filter(isActive);
  if (active.length === 0) return null;
  const job = active[0];
  return (
    <span className="d-inline-flex align-items-center gap-2 small" role="status">
      <span className="text-truncate" style={{ maxWidth: '14rem' }}>
        {job.label}
        {job.step && `: ${job.step.toLowerCase()}`}
        {active.length > 1 && ` (+${active.length - 1})`}
      </span>
      <progress max={1} value={job.progress} style={{ width: '6rem' }} aria-label={job.label} />
      <button className="btn btn-quiet btn-sm py-0" onClick={() => void request(`/api/jobs/${job.id}/cancel`, { method: 'POST' })}>
        Cancel
      </button>
    </span>
  );
}

export function CrateBar({ openPalette, openKeys }: { openPalette(): void; openKeys(): void }) {
  const { view, profile, folder } = useAppSelector((s) => s.crate);
  const dispatch = useAppDispatch();
  return (
    <header className="bar">
      <Link to="/" className="brand" title="All crates">
        <img src="/icon.svg" width={22} height={22} alt="" /> Violet Crate
      </Link>
      {view && (
        <>
          <span className="faint">/</span>
          <span className="crate-title">{view.manifest.title}</span>
          <span className="faint small text-nowrap">
            {profile?.title} · {view.manifest.version}
          </span>
          <SavedState />
          {folder && (
            <Link to={`/crates/${view.id}/versions`} className="text-decoration-none" title={`Lives in ${folder.folder}`}>
              <FolderStamp folder={folder} />
            </Link>
          )}
        </>
      )}
      <span className="spacer" />
      <RunningJobs />
      <button className="btn btn-quiet" onClick={openPalette}>
        <Icon name="search" /> Commands <kbd>Ctrl+K</kbd>
      </button>
      <Link className="btn btn-quiet" role="button" to="/preferences" aria-label="Preferences">
        <Icon name="sliders" />
      </Link>
      <button className="btn btn-quiet" onClick={openKeys} aria-label="Keys">
        <Icon name="keyboard" />
      </button>
      <button className="btn btn-quiet" aria-label="Switch between dark and light" onClick={() => dispatch(switchTheme())}>
        <Icon name="circle-half" />
      </button>
    </header>
  );
}
