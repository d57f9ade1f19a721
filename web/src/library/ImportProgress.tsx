import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { message, request } from '../api/http.ts';
import { isActive } from '../state/jobsSlice.ts';
import type { ImportedFile, Job } from '../api/types.ts';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { FindingRow } from '../common/FindingRow.tsx';
import { useAppSelector } from '../state/store.ts';

const ICONS: Record<ImportedFile['state'], string> = {
  waiting: 'hourglass',
  converting: 'arrow-repeat',
  done: 'check-circle',
  failed: 'x-octagon-fill',
  unchanged: 'dash-circle',
  skipped: 'skip-forward',
};

/** Batches on their way, and what became of the last one: one summary, however many files there were. */
export function ImportProgress() {
  const view = useAppSelector((s) => s.crate.view);
  const jobs = useAppSelector((s) => s.jobs.byId);
  const [closed, setClosed] = useState<ReadonlySet<string>>(new Set());
  const own = Object.values(jobs)
    .filter((job) => job.kind === 'convert' && job.crateId === view?.id)
    .sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1));
  const active = own.filter(isActive);
  const last = own.find((job) => !isActive(job));
  const shown =
    active.length > 0
      ? active
      : last && (last.state === 'failed' || filesOf(last).some((f) => f.state !== 'done') || filesOf(last).length > 1)
        ? [last]
        : [];
  return shown
    .filter((job) => !closed.has(job.id))
    .map((job) => <Batch key={job.id} job={job} onClose={() => setClosed(new Set([...closed, job.id]))} />);
}

export const filesOf = (job: Job): ImportedFile[] => (job.result?.files as ImportedFile[] | undefined) ?? [];

function Batch({ job, onClose }: { job: Job; onClose(): void }) {
  const [, setParams] = useSearchParams();
  const [open, setOpen] = useState(false);
  const [problem, setProblem] = useState('');
  const files = filesOf(job);
  const count = (state: ImportedFile['state']) => files.filter((file) => file.state === state).length;
  const running = isActive(job);
  const parts = [
    running
      ? `${files.filter((f) => f.state !== 'waiting' && f.state !== 'converting').length} of ${files.length}`
      : count('done') > 0
        ? `${plural(count('done'), 'file')} imported`
        : '',
    count('failed') > 0 ? `${count('failed')} failed` : '',
    count('unchanged') > 0 ? `${count('unchanged')} unchanged` : '',
    count('skipped') > 0 ? `${count('skipped')} left out` : '',
  ].filter(Boolean);
  const failures = files.filter((file) => file.error);
  return (
    <section className="batch" aria-label="Import" data-job-state={job.state}>
      <div className="d-flex gap-2 align-items-center">
        <Icon name={running ? 'arrow-repeat' : job.state === 'done' ? 'check2-circle' : 'x-octagon'} className={running ? 'turning' : ''} />
        <strong className="text-truncate">{job.label}</strong>
        <span className="flex-grow-1 small" role="status">
          {job.state === 'cancelled'
            ? 'cancelled; what was done stays'
            : job.state === 'interrupted'
              ? 'interrupted; import it again'
              : parts.join(' · ')}
        </span>
        {files.length > 1 && (
          <button className="btn btn-quiet btn-sm" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? 'Hide files' : 'Show files'}
          </button>
        )}
        {running ? (
          <button
            className="btn btn-quiet btn-sm"
            onClick={() => request(`/api/jobs/${job.id}/cancel`, { method: 'POST' }).catch((error) => setProblem(message(error)))}
          >
            Cancel
          </button>
        ) : (
          <button className="btn btn-quiet btn-sm" aria-label="Close this summary" onClick={onClose}>
            <Icon name="x-lg" />
          </button>
        )}
      </div>
      {problem && <div className="severity blocker">{problem}</div>}
      {running && (
        <div
          className="progress my-1"
          role="progressbar"
          aria-label={job.label}
          aria-valuenow={Math.round(job.progress * 100)}
          aria-valuemin={0}
          aria-valuemax={100}
        >
          <div className="progress-bar" style={{ width: `${Math.max(3, job.progress * 100)}%` }} />
        </div>
      )}
      {!open && failures.map((file) => <FindingRow key={file.file} finding={file.error!} />)}
      {!running && job.error && <FindingRow finding={job.error} />}
      {open && (
        <ul className="files">
          {files.map((file) => (
            <li key={file.file} data-state={file.state}>
              <Icon name={ICONS[file.state]} className={file.state === 'converting' ? 'turning' : ''} />
              <span className="mono text-truncate">{file.file}</span>
              <span className="faint flex-grow-1">
                {file.error
                  ? file.error.message
                  : file.reason
                    ? file.reason
                    : file.findings
                      ? `${file.state}, ${plural(file.findings, 'finding')}`
                      : file.state}
              </span>
              {file.path && (
                <button className="btn btn-link btn-sm p-0" onClick={() => setParams({ file: file.path! })}>
                  Show
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
