import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import { BUILD_STAGES, type BuildStage } from '@violet-crate/core/stages/contract/stage';
import type { Build } from '../api/types.ts';
import { Contained } from '../common/Contained.tsx';
import { bytes, time } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { FindingRow } from '../common/FindingRow.tsx';
import { COUNT_WORDS, STAGE_WORK } from './stages.ts';

const ResultViewer = lazy(() => import('./ResultViewer.tsx').then((m) => ({ default: m.ResultViewer })));

const STATE_WORDS: Record<string, [icon: string, tone: string, word: string]> = {
  ran: ['check-circle', 'clear', 'ran'],
  fresh: ['recycle', 'clear', 'from cache'],
  failed: ['x-octagon', 'blocked', 'stopped'],
  skipped: ['dash-circle', 'open', 'not run'],
};

/** Reasons that are listed; the rest is counted. */
const REASONS = 4;

interface Props {
  build: Build;
  unsaved: boolean;
  crateId: string;
  /** Nothing can be started now. */
  busy: boolean;
  onOnly(stage: BuildStage): void;
}

export function BuildResult({ build, unsaved, crateId, busy, onOnly }: Props) {
  const [viewing, setViewing] = useState(false);
  const findings = build.stages.flatMap((stage) => stage.findings);
  const stale = !build.fresh || unsaved;
  return (
    <section className="panel mb-3" data-build-ok={build.ok} data-build-fresh={!stale}>
      <header>
        {build.picture && (
          <img className="build-picture" src={`/api/crates/${crateId}/builds/${build.id}/picture`} alt={`${build.map} from its first start`} />
        )}
        <h2>
          {build.map}, {build.quality}, {time(build.createdAt)}
        </h2>
        <span className={`stamp ${!build.ok ? 'blocked' : stale ? 'stale' : 'clear'}`}>
          <Icon name={!build.ok ? 'x-octagon' : stale ? 'clock-history' : 'check-circle'} />{' '}
          {!build.ok ? 'stopped' : stale ? 'stale: the crate was changed since' : 'fresh'}
        </span>
        {build.ok && (
          <>
            <button className={`btn btn-quiet ${viewing ? 'active' : ''}`} aria-expanded={viewing} onClick={() => setViewing(!viewing)}>
              <Icon name="eye" /> Look at it
            </button>
            <Link className="btn btn-warm" to={`/crates/${crateId}/trial`}>
              <Icon name="person-walking" /> Test run
            </Link>
          </>
        )}
      </header>
      {viewing && (
        <Suspense fallback={<div className="empty">Loading the viewer …</div>}>
          <Contained what="The result">
            <ResultViewer build={build} crateId={crateId} />
          </Contained>
        </Suspense>
      )}
      {BUILD_STAGES.map((name) => (
        <StageRow key={name} name={name} build={build} busy={busy} onOnly={onOnly} />
      ))}
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

function StageRow({ name, build, busy, onOnly }: { name: BuildStage; build: Build; busy: boolean; onOnly(stage: BuildStage): void }) {
  const stage = build.stages.find((s) => s.stage === name);
  const freshness = build.freshness.find((f) => f.stage === name);
  const [icon, tone, word] = STATE_WORDS[stage?.state ?? 'skipped'] ?? STATE_WORDS.skipped;
  const reasons = freshness?.reasons ?? [];
  const counts = Object.entries(stage?.counts ?? {})
    .map(([key, n]) => `${n.toLocaleString()} ${COUNT_WORDS[key] ?? key}`)
    .join('\n');
  return (
    <div className="stage-row build-stage" data-stage-name={name} data-fresh={reasons.length === 0}>
      <strong className="text-capitalize" title={STAGE_WORK[name]}>
        {name}
      </strong>
      <span className={`stamp ${tone}`}>
        <Icon name={icon} /> {word}
      </span>
      <span>
        <span className="faint" title={counts || undefined}>
          {stage?.summary}
        </span>
        {reasons.length > 0 && (
          <span className="stamp stale d-block">
            <Icon name="clock-history" /> out of date: {reasons.slice(0, REASONS).join(', ')}
            {reasons.length > REASONS && ` and ${reasons.length - REASONS} more`}
          </span>
        )}
      </span>
      <span className="text-end small mono">
        {stage && stage.state !== 'skipped' ? `${stage.milliseconds} ms` : ''}
        {stage && stage.memory > 0 && <span className="faint d-block">{bytes(stage.memory)}</span>}
      </span>
      {name !== 'check' && name !== 'packing' ? (
        <button
          className="btn btn-quiet btn-sm"
          disabled={busy}
          onClick={() => onOnly(name)}
          title={`Run ${name} and what it needs; the rest from the cache`}
        >
          Only this
        </button>
      ) : (
        <span />
      )}
    </div>
  );
}
