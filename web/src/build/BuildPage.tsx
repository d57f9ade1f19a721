import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { BUILD_STAGES, QUALITIES, type Quality } from '@violet-crate/core/build/stage';
import { message, request, sendJson } from '../api/http.ts';
import { isActive } from '../api/jobsSlice.ts';
import type { Build, Job } from '../api/types.ts';
import { Chart, type ChartOption } from '../common/Chart.tsx';
import { bytes, time } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { FindingRow } from '../shell/FindingRow.tsx';
import { useAppSelector } from '../store.ts';
import { themeColour } from '../theme/theme.ts';

const EXPLAIN: Record<Quality, string> = {
  draft: 'Seconds: coarse light, for trying out.',
  preview: 'Some more seconds: light as it will be, a little soft.',
  final: 'A minute or more: fine light, for publishing.',
};

const STATE_WORDS: Record<string, [icon: string, tone: string, word: string]> = {
  done: ['check-circle', 'clear', 'done'],
  reused: ['recycle', 'clear', 'from cache'],
  failed: ['x-octagon', 'blocked', 'stopped'],
  skipped: ['dash-circle', 'open', 'not run'],
};

const STAGE_WORK: Record<string, string> = {
  check: 'all findings of map, scripts and links',
  geometry: 'faces that other solids hide are removed',
  sealing: 'is the inside closed off from the void?',
  lighting: 'lightmap with shadows, sky and one bounce',
  packing: 'map, collision and objects for the game',
};

/** Stage 6: one button, progress by stage, the log, and what came out. */
export function BuildPage() {
  const { view, builds } = useAppSelector((s) => s.crate);
  const mapName = useAppSelector((s) => s.map.name);
  const unsaved = useAppSelector((s) => s.map.unsaved.length > 0);
  const jobs = useAppSelector((s) => s.jobs.byId);
  const [quality, setQuality] = useState<Quality>('preview');
  const [problem, setProblem] = useState('');
  if (!view) return null;
  const own = Object.values(jobs)
    .filter((job) => job.kind === 'build' && job.crateId === view.id)
    .sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1));
  const job: Job | undefined = own[0];
  const active = job && isActive(job);
  const latest = builds?.[0];
  const start = () => {
    setProblem('');
    sendJson('POST', `/api/crates/${view.id}/builds`, { map: mapName, quality }).catch((error) => setProblem(message(error)));
  };
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
          {active ? (
            <button className="btn btn-quiet" onClick={() => void request(`/api/jobs/${job.id}/cancel`, { method: 'POST' })}>
              <Icon name="x-circle" /> Cancel
            </button>
          ) : (
            <button className="btn btn-primary px-4" onClick={start} disabled={unsaved}>
              <Icon name="layers-fill" /> Build {mapName}
            </button>
          )}
        </div>
        {active && (
          <div className="px-3 pb-3" role="status">
            <div
              className="progress"
              role="progressbar"
              aria-label="Build"
              aria-valuenow={Math.round(job.progress * 100)}
              aria-valuemin={0}
              aria-valuemax={100}
            >
              <div className="progress-bar" style={{ width: `${job.progress * 100}%` }} />
            </div>
            <div className="small mt-1">
              {job.state === 'queued' ? 'Waiting for its turn' : `${job.step}: ${STAGE_WORK[job.step] ?? ''}`} · {Math.round(job.progress * 100)} %
            </div>
          </div>
        )}
        {problem && <div className="px-3 pb-3 severity blocker">{problem}</div>}
        {!active && job && ['failed', 'cancelled', 'interrupted'].includes(job.state) && (!latest || job.createdAt > latest.createdAt) && (
          <div className="px-3 pb-3" role="alert" data-job-state={job.state}>
            <span className="stamp stale">
              <Icon name="exclamation-triangle" /> The last build was {job.state}
            </span>{' '}
            {job.error?.message ??
              (job.state === 'interrupted'
                ? 'The server stopped while it ran. Nothing needs repair; finished stages come from the cache. Build again.'
                : '')}
          </div>
        )}
      </section>
      {latest ? (
        <BuildResult build={latest} unsaved={unsaved} crateId={view.id} />
      ) : (
        !active && <div className="empty">Not built yet. A draft takes a few seconds and is enough for a first walk.</div>
      )}
      {builds && builds.length > 1 && <History builds={builds} />}
      {job && job.log.length > 0 && (
        <section className="panel mt-3">
          <header>
            <h2>Log</h2>
            <a
              className="btn btn-quiet btn-sm"
              download={`${mapName}-build.log`}
              href={`data:text/plain;charset=utf-8,${encodeURIComponent(job.log.join('\n'))}`}
            >
              <Icon name="download" /> Download
            </a>
          </header>
          <div className="body">
            <pre className="log">{job.log.join('\n')}</pre>
          </div>
        </section>
      )}
    </div>
  );
}

function BuildResult({ build, unsaved, crateId }: { build: Build; unsaved: boolean; crateId: string }) {
  const findings = build.stages.flatMap((stage) => stage.findings);
  const stale = !build.fresh || unsaved;
  return (
    <section className="panel mb-3" data-build-ok={build.ok} data-build-fresh={!stale}>
      <header>
        <h2>
          {build.map}, {build.quality}, {time(build.createdAt)}
        </h2>
        <span className={`stamp ${!build.ok ? 'blocked' : stale ? 'stale' : 'clear'}`}>
          <Icon name={!build.ok ? 'x-octagon' : stale ? 'clock-history' : 'check-circle'} />{' '}
          {!build.ok ? 'stopped' : stale ? 'stale: the crate was changed since' : 'fresh'}
        </span>
        {build.ok && (
          <Link className="btn btn-warm" to={`/crates/${crateId}/trial`}>
            <Icon name="person-walking" /> Test run
          </Link>
        )}
      </header>
      {BUILD_STAGES.map((name) => {
        const stage = build.stages.find((s) => s.stage === name);
        const [icon, tone, word] = STATE_WORDS[stage?.state ?? 'skipped'];
        return (
          <div className="stage-row" key={name}>
            <strong className="text-capitalize">{name}</strong>
            <span className={`stamp ${tone}`}>
              <Icon name={icon} /> {word}
            </span>
            <span className="faint">{stage?.summary}</span>
            <span className="text-end small mono">{stage && stage.state !== 'skipped' ? `${stage.milliseconds} ms` : ''}</span>
          </div>
        );
      })}
      {findings.map((finding) => (
        <FindingRow key={finding.code + finding.message} finding={finding} />
      ))}
      {build.artefacts.length > 0 && (
        <div className="p-2 px-3 small faint">
          {build.artefacts.map((file) => (
            <span key={file.path} className="me-3">
              <a href={`/api/crates/${crateId}/builds/${build.id}/files/${file.path}`} download>
                {file.path}
              </a>{' '}
              {bytes(file.bytes)}
            </span>
          ))}
        </div>
      )}
    </section>
  );
}

/** Time per stage of the last builds, to see what became slower. */
function History({ builds }: { builds: Build[] }) {
  const option = useMemo((): ChartOption => {
    const last = builds.slice(0, 8).reverse();
    const ink = themeColour('--vc-faint');
    const colours = [themeColour('--vc-faint'), themeColour('--vc-clear'), '#7d8ff0', themeColour('--vc-violet'), themeColour('--vc-warm')];
    return {
      grid: { left: 110, right: 12, top: 28, bottom: 24 },
      legend: { textStyle: { color: ink }, top: 0, itemHeight: 10 },
      tooltip: { trigger: 'axis', axisPointer: { type: 'shadow' } },
      xAxis: { type: 'value', name: 'ms', axisLabel: { color: ink }, splitLine: { lineStyle: { color: themeColour('--vc-line') } } },
      yAxis: { type: 'category', data: last.map((b) => `${b.quality} ${new Date(b.createdAt).toLocaleTimeString()}`), axisLabel: { color: ink } },
      series: BUILD_STAGES.map((stage, i) => ({
        name: stage,
        type: 'bar',
        stack: 'all',
        barMaxWidth: 18,
        itemStyle: { color: colours[i] },
        data: last.map((b) =>
          b.stages.find((s) => s.stage === stage)?.state === 'skipped' ? 0 : (b.stages.find((s) => s.stage === stage)?.milliseconds ?? 0),
        ),
      })),
    };
  }, [builds]);
  return (
    <section className="panel">
      <header>
        <h2>Time per stage, last builds</h2>
      </header>
      <div className="body">
        <Chart option={option} height={60 + Math.min(8, builds.length) * 26} label="Milliseconds per stage of the last builds" />
      </div>
    </section>
  );
}
