import { Link } from 'react-router';
import { isActive } from '../api/jobsSlice.ts';
import { request } from '../api/http.ts';
import { openCrate } from '../crate/crateSlice.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../store.ts';
import { toggleTheme } from '../theme/theme.ts';

function SavedState() {
  const { saveState, unsaved } = useAppSelector((s) => s.map);
  const id = useAppSelector((s) => s.crate.view?.id);
  const dispatch = useAppDispatch();
  if (saveState === 'conflict')
    return (
      <span className="stamp blocked" role="alert">
        <Icon name="x-octagon" /> Changed elsewhere; not saved.
        <button className="btn btn-warm btn-sm py-0" onClick={() => id && void dispatch(openCrate(id))}>
          Load the other state
        </button>
      </span>
    );
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
  const { view, profile } = useAppSelector((s) => s.crate);
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
        </>
      )}
      <span className="spacer" />
      <RunningJobs />
      <button className="btn btn-quiet" onClick={openPalette}>
        <Icon name="search" /> Commands <kbd>Ctrl+K</kbd>
      </button>
      <button className="btn btn-quiet" onClick={openKeys} aria-label="Keys">
        <Icon name="keyboard" />
      </button>
      <button className="btn btn-quiet" aria-label="Switch between dark and light" onClick={toggleTheme}>
        <Icon name="circle-half" />
      </button>
    </header>
  );
}
