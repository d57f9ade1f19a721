import { useNavigate } from 'react-router';
import type { BuildStage } from '@violet-crate/core/stages/contract/stage';
import { request } from '../api/http.ts';
import type { Job } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';
import { viewChanged } from '../state/viewSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { STAGE_WORK } from './stages.ts';

const WAITING: Partial<Record<Job['state'], string>> = { queued: 'waiting for its turn', paused: 'paused; finished stages are kept' };

/** The step in words; a job that has not begun has none yet. */
const stepWords = (step: string): string => {
  const work = STAGE_WORK[step as BuildStage];
  return step === '' ? 'waiting for its turn' : work ? `${step}, ${work}` : step;
};

/** A build that is queued, running or paused. */
export function RunningBuild({ job }: { job: Job }) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const picture = useAppSelector((s) => s.jobs.pictures[job.id]);
  const mapName = useAppSelector((s) => s.map.name);
  const send = (what: string) => void request(`/api/jobs/${job.id}/${what}`, { method: 'POST' });
  const percent = Math.round(job.progress * 100);
  const watch = () => {
    dispatch(viewChanged({ builtLight: true }));
    void navigate(`/crates/${job.crateId}/map`);
  };
  return (
    <div className="px-3 pb-3" role="status" data-job-state={job.state}>
      <div className="progress" role="progressbar" aria-label={job.label} aria-valuenow={percent} aria-valuemin={0} aria-valuemax={100}>
        <div className="progress-bar" style={{ width: `${job.progress * 100}%` }} />
      </div>
      <div className="small mt-1 d-flex align-items-center gap-2">
        <span className="flex-grow-1">
          {job.label}: {WAITING[job.state] ?? stepWords(job.step)}
          {job.step !== '' && ` · ${percent} %`}
        </span>
        {picture?.map === mapName && (
          <button className="btn btn-quiet btn-sm" onClick={watch} title="The map with its light as far as it is known">
            <Icon name="brightness-high" /> Watch the light
          </button>
        )}
        {job.state === 'paused' ? (
          <button className="btn btn-quiet btn-sm" onClick={() => send('resume')}>
            <Icon name="play" /> Resume
          </button>
        ) : (
          <button className="btn btn-quiet btn-sm" onClick={() => send('pause')}>
            <Icon name="pause" /> Pause
          </button>
        )}
        <button className="btn btn-quiet btn-sm" onClick={() => send('cancel')}>
          <Icon name="x-circle" /> Cancel
        </button>
      </div>
    </div>
  );
}
