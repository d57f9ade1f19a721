import { useState } from 'react';
import { parametersOf, type BuildParameters } from '@violet-crate/core/stages/contract/parameters';
import { QUALITIES, type BuildStage, type Quality } from '@violet-crate/core/stages/contract/stage';
import { message, sendJson } from '../api/http.ts';
import { isActive } from '../state/jobsSlice.ts';
import type { Build, Job } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';
import { preferredHere } from '../state/preferencesSlice.ts';
import { useAppSelector } from '../state/store.ts';
import './build.css';
import { BuildHistory } from './BuildHistory.tsx';
import { BuildLog } from './BuildLog.tsx';
import { BuildResult } from './BuildResult.tsx';
import { ExpertSheet } from './ExpertSheet.tsx';
import { RunningBuild } from './RunningBuild.tsx';

const EXPLAIN: Record<Quality, string> = {
  draft: 'Seconds: coarse light, quick visibility, for trying out.',
  preview: 'Some more seconds: light as it will be, a little soft.',
  final: 'A minute or more: fine light, for publishing.',
};

/** Stage 6: what to build and how, progress by stage, what came out and whether it still holds. */
export function BuildPage() {
  const { view, builds, profile } = useAppSelector((s) => s.crate);
  const openMap = useAppSelector((s) => s.map.name);
  const [chosenMap, setChosenMap] = useState('');
  const [chosenBuild, setChosenBuild] = useState('');
  const unsaved = useAppSelector((s) => s.map.unsaved.length > 0);
  const jobs = useAppSelector((s) => s.jobs.byId);
  // What was built last is what one most likely builds again.
  const preferred = useAppSelector((s) => preferredHere(s).quality);
  const [quality, setQuality] = useState<Quality>((builds?.[0]?.quality as Quality | undefined) ?? (preferred as Quality));
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
  const { maps } = view;
  const mapName = maps.includes(chosenMap) ? chosenMap : openMap;
  const ofMap = builds?.filter((build) => build.map === mapName) ?? [];
  const latest: Build | undefined = ofMap[0];
  const shown = ofMap.find((build) => build.id === chosenBuild) ?? latest;
  // A job that has ended without a build has a log too, and is what one wants to read about.
  const told = job && !chosenBuild && (!latest || job.createdAt > latest.createdAt) ? job : jobs[shown?.id ?? ''];
  const changed = Object.keys(given).length;
  const send = (order: Record<string, unknown>) => {
    setProblem('');
    void askToNotify();
    setChosenBuild('');
    sendJson('POST', `/api/crates/${view.id}/builds`, order).catch((error) => setProblem(message(error)));
  };
  const start = (map = mapName) => send({ map, quality, ...(changed > 0 ? { parameters: given } : {}), ...(anyway ? { anyway } : {}) });
  // One stage belongs to the build that it brings up to date, whatever is chosen above.
  const only = (stage: BuildStage) => latest && send({ map: latest.map, quality: latest.quality, parameters: latest.parameters ?? {}, only: stage });
  return (
    <div className="page">
      <h1>Build</h1>
      <p className="lead">Turns the map into what the game loads. Stages whose inputs have not changed come from the cache.</p>
      {maps.length > 1 && (
        <div className="btn-group mb-3" role="radiogroup" aria-label="Map">
          {maps.map((map) => (
            <button
              key={map}
              className={`btn btn-quiet ${map === mapName ? 'active' : ''}`}
              role="radio"
              aria-checked={map === mapName}
              onClick={() => setChosenMap(map)}
            >
              {map}
            </button>
          ))}
        </div>
      )}
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
          <button className="btn btn-primary px-4" onClick={() => start()} disabled={unsaved || active}>
            <Icon name="layers-fill" /> Build {mapName}
          </button>
          {maps.length > 1 && (
            <button
              className="btn btn-quiet"
              onClick={() => maps.forEach((map) => start(map))}
              disabled={unsaved || active}
              title="One after another, as there is room for them"
            >
              <Icon name="collection" /> Build all {maps.length} maps
            </button>
          )}
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
          <RunningBuild key={one.id} job={one} />
        ))}
        {problem && <div className="px-3 pb-3 severity blocker">{problem}</div>}
        {!active && job && ['failed', 'cancelled', 'interrupted'].includes(job.state) && (!latest || job.createdAt > latest.createdAt) && (
          <div className="px-3 pb-3" role="alert" data-job-state={job.state}>
            <span className="stamp stale">
              <Icon name="exclamation-triangle" /> The last build was {job.state}
            </span>{' '}
            {job.error?.message ??
              (job.state === 'interrupted' ? 'The server stopped while it ran. Nothing needs repair; finished stages come from the cache.' : '')}{' '}
            <button className="btn btn-quiet btn-sm" onClick={() => start()}>
              <Icon name="play" /> Go on from the last finished stage
            </button>
          </div>
        )}
      </section>
      {shown ? (
        <BuildResult
          key={shown.id}
          build={shown}
          unsaved={unsaved}
          crateId={view.id}
          busy={Boolean(active) || unsaved || shown !== latest}
          onOnly={only}
        />
      ) : (
        !active && <div className="empty">Not built yet. A draft takes a few seconds and is enough for a first walk.</div>
      )}
      {ofMap.length > 1 && <BuildHistory builds={ofMap} crateId={view.id} shown={shown!.id} onShow={setChosenBuild} />}
      {told && told.log.length > 0 && <BuildLog name={mapName} lines={told.log} />}
    </div>
  );
}

/** Asks once whether the end of long builds may be told while other windows are in front. */
async function askToNotify(): Promise<void> {
  if ('Notification' in window && Notification.permission === 'default') await Notification.requestPermission().catch(() => undefined);
}
