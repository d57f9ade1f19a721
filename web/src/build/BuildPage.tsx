import { useState } from 'react';
import { parametersOf, type BuildParameters } from '@violet-crate/core/build/parameters';
import { QUALITIES, type BuildStage, type Quality } from '@violet-crate/core/build/stage';
import { message, request, sendJson } from '../api/http.ts';
import { isActive } from '../api/jobsSlice.ts';
import type { Job } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../store.ts';
import './build.css';
import { BuildHistory } from './BuildHistory.tsx';
import { BuildLog } from './BuildLog.tsx';
import { BuildResult } from './BuildResult.tsx';
import { ExpertSheet } from './ExpertSheet.tsx';
import { STAGE_WORK } from './stages.ts';

const EXPLAIN: Record<Quality, string> = {
  draft: 'Seconds: coarse light, quick visibility, for trying out.',
  preview: 'Some more seconds: light as it will be, a little soft.',
  final: 'A minute or more: fine light, for publishing.',
};

/** Stage 6: what to build and how, progress by stage, what came out and whether it still holds. */
export function BuildPage() {
  const { view, builds, profile } = useAppSelector((s) => s.crate);
  const mapName = useAppSelector((s) => s.map.name);
  const unsaved = useAppSelector((s) => s.map.unsaved.length > 0);
  const jobs = useAppSelector((s) => s.jobs.byId);
  // What was built last is what one most likely builds again.
  const [quality, setQuality] = useState<Quality>((builds?.[0]?.quality as Quality | undefined) ?? 'preview');
  const [given, setGiven] = useState<Partial<BuildParameters>>({});
  const [expert, setExpert] = useState(false);
  const [anyway, setAnyway] = useState(false);
  const [problem, setProblem] = useState('');
  if (!view || !profile) return null;
  const own = Object.values(jobs)
    .filter((job) => job.kind === 'build' && job.crateId === view.id)
    .sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1));
  const job: Job | undefined = own[0];
  const active = job && isActive(job);
  const latest = builds?.[0];
  const changed = Object.keys(given).length;
  const send = (order: Record<string, unknown>) => {
    setProblem('');
    void askToNotify();
    sendJson('POST', `/api/crates/${view.id}/builds`, order).catch((error) => setProblem(message(error)));
  };
  const start = () => send({ map: mapName, quality, ...(changed > 0 ? { parameters: given } : {}), ...(anyway ? { anyway } : {}) });
  // One stage belongs to the build that it brings up to date, whatever is chosen above.
  const only = (stage: BuildStage) => latest && send({ map: latest.map, quality: latest.quality, parameters: latest.parameters ?? {}, only: stage });
  return (
    <div className="page">
      <h1>Build</h1>
      <p className="lead">Turns the map into what the game loads. Stages whose inputs have not changed come from the cache.</p>
      <section className="panel mb-3">
        <div className="body d-flex gap-3 align-items-center flex-wrap">
          <div className="btn-group" role="radiogroup" aria-label="Quality">
            {QUALITIES.map((q) => (
              <button
                key={q}
                className={`btn btn-quiet ${q === quality ? 'active' : ''}`}
                role="radio"
                aria-checked={q === quality}
                onClick={() => setQuality(q)}
              >
                {q}
              </button>
            ))}
          </div>
          <span className="faint flex-grow-1">{EXPLAIN[quality]}</span>
          <button className={`btn btn-quiet ${expert ? 'active' : ''}`} aria-expanded={expert} onClick={() => setExpert(!expert)}>
            <Icon name="sliders" /> Parameters{changed > 0 ? ` · ${changed} changed` : ''}
          </button>
          <button className="btn btn-primary px-4" onClick={start} disabled={unsaved || active}>
            <Icon name="layers-fill" /> Build {mapName}
          </button>
        </div>
        {expert && (
          <ExpertSheet
            defaults={parametersOf(quality, profile)}
            given={given}
            onChange={setGiven}
            unit={profile.unit.plural}
            anyway={anyway}
            onAnyway={setAnyway}
          />
        )}
        {own.filter(isActive).map((one) => (
          <Running key={one.id} job={one} />
        ))}
        {problem && <div className="px-3 pb-3 severity blocker">{problem}</div>}
        {!active && job && ['failed', 'cancelled', 'interrupted'].includes(job.state) && (!latest || job.createdAt > latest.createdAt) && (
          <div className="px-3 pb-3" role="alert" data-job-state={job.state}>
            <span className="stamp stale">
              <Icon name="exclamation-triangle" /> The last build was {job.state}
            </span>{' '}
            {job.error?.message ??
              (job.state === 'interrupted' ? 'The server stopped while it ran. Nothing needs repair; finished stages come from the cache.' : '')}{' '}
            <button className="btn btn-quiet btn-sm" onClick={start}>
              <Icon name="play" /> Go on from the last finished stage
            </button>
          </div>
        )}
      </section>
      {latest ? (
        <BuildResult key={latest.id} build={latest} unsaved={unsaved} crateId={view.id} busy={Boolean(active) || unsaved} onOnly={only} />
      ) : (
        !active && <div className="empty">Not built yet. A draft takes a few seconds and is enough for a first walk.</div>
      )}
      {builds && builds.length > 1 && <BuildHistory builds={builds} />}
      {job && job.log.length > 0 && <BuildLog name={mapName} lines={job.log} />}
    </div>
  );
}

/** A build that is queued, running or paused. */
function Running({ job }: { job: Job }) {
  const send = (what: string) => void request(`/api/jobs/${job.id}/${what}`, { method: 'POST' });
  const percent = Math.round(job.progress * 100);
  return (
    <div className="px-3 pb-3" role="status" data-job-state={job.state}>
      <div className="progress" role="progressbar" aria-label="Build" aria-valuenow={percent} aria-valuemin={0} aria-valuemax={100}>
        <div className="progress-bar" style={{ width: `${job.progress * 100}%` }} />
      </div>
      <div className="small mt-1 d-flex align-items-center gap-2">
        <span className="flex-grow-1">
          {job.label}:{' '}
          {job.state === 'queued'
            ? 'waiting for its turn'
            : job.state === 'paused'
              ? 'paused; finished stages are kept'
              : `${job.step}, ${STAGE_WORK[job.step as BuildStage] ?? ''}`}{' '}
          · {percent} %
        </span>
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

/** Asks once whether the end of long builds may be told while other windows are in front. */
async function askToNotify(): Promise<void> {
  if ('Notification' in window && Notification.permission === 'default') await Notification.requestPermission().catch(() => undefined);
}
