import { talkFindings } from '@violet-crate/core/trial/talkCoverage';
import { lazy, Suspense, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { Navmesh } from '@violet-crate/core/stages/navigation/navmesh';
import { coverageFindings, coverageSummary, floorFindings, floorWalked } from '@violet-crate/core/trial/coverage';
import type { Exploration } from '@violet-crate/core/trial/explore';
import type { Walk } from '@violet-crate/core/trial/walk';
import { message } from '../api/http.ts';
import { Busy } from '../common/Busy.tsx';
import { FindingList } from '../common/FindingList.tsx';
import { Icon } from '../common/Icon.tsx';
import { trialFound } from '../state/checksSlice.ts';
import { refreshFiles } from '../state/crateSlice.ts';
import { cameBy, shownOnPlan } from '../state/lookingSlice.ts';
import { store, useAppDispatch, useAppSelector } from '../state/store.ts';
import { selectWorld } from '../state/world.ts';
import type { TrialRun } from './trialRun.ts';
import { exploreMap, saveWalk } from './walks.ts';

/** A chart is a large piece of code that a run can begin without. */
const HeatMap = lazy(async () => ({ default: (await import('./HeatMap.tsx')).HeatMap }));

interface Props {
  map: string;
  run: TrialRun | null;
  /** Where players walk. */
  ground?: Navmesh | null;
  /** Begins anew, playing a walk back. */
  onPlay(walk: Walk): void;
}

const SECONDS = [10, 30, 60, 180];
/** Name under which the explorer's way is saved. */
const WAY = 'explored';

/** A player that tries everything by itself; and what its runs, or the walks, came by. */
export function ExplorePanel({ map, run, ground = null, onPlay }: Props) {
  const dispatch = useAppDispatch();
  const { view, profile, scripts } = useAppSelector((s) => s.crate);
  const coverage = useAppSelector((s) => s.looking.coverage);
  const [seconds, setSeconds] = useState(30);
  const [seed, setSeed] = useState(1);
  const [busy, setBusy] = useState(false);
  const [said, setSaid] = useState('');
  const [found, setFound] = useState<Exploration | null>(null);
  const stop = useRef<AbortController | null>(null);
  if (!view || !profile) return null;

  const start = async () => {
    const world = selectWorld(store.getState());
    if (!run?.inputs || !world) return;
    setBusy(true);
    setSaid('');
    setFound(null);
    stop.current = new AbortController();
    try {
      const result = await exploreMap(run.inputs, world, { seconds, seed, stop: stop.current.signal });
      setFound(result);
      dispatch(cameBy({ crateId: view.id, map, data: result.coverage }));
      dispatch(trialFound(result.findings));
    } catch (error) {
      setSaid(message(error));
    }
    setBusy(false);
  };
  const keep = async (walk: Walk) => {
    try {
      await saveWalk(view.id, map, WAY, walk);
      await dispatch(refreshFiles(view.id));
      setSaid(`Saved as the walk ${WAY}.`);
    } catch (error) {
      setSaid(message(error));
    }
  };
  const data = coverage?.crateId === view.id && coverage.map === map ? coverage.data : null;
  const summary = data && run?.inputs ? coverageSummary(profile, run.inputs.map, scripts, data) : null;
  return (
    <div className="trial-list">
      <form
        className="p-2 border-bottom"
        onSubmit={(event) => {
          event.preventDefault();
          void start();
        }}
      >
        <p className="small mb-2">The explorer goes to everything from every start, uses it, and tries again when something has changed.</p>
        <div className="d-flex gap-2 align-items-end">
          <div>
            <label className="small" htmlFor="explore-seconds">
              Time
            </label>
            <select
              id="explore-seconds"
              className="form-select form-select-sm"
              value={seconds}
              onChange={(event) => setSeconds(Number(event.target.value))}
            >
              {SECONDS.map((one) => (
                <option key={one} value={one}>
                  {one} s
                </option>
              ))}
            </select>
          </div>
          <div>
            <label className="small" htmlFor="explore-seed">
              Seed
            </label>
            <input
              id="explore-seed"
              type="number"
              min={1}
              className="form-control form-control-sm"
              style={{ width: '5rem' }}
              value={seed}
              onChange={(event) => setSeed(Math.max(1, Math.round(Number(event.target.value)) || 1))}
            />
          </div>
          {busy ? (
            <button type="button" className="btn btn-quiet btn-sm" onClick={() => stop.current?.abort()}>
              Stop
            </button>
          ) : (
            <button className="btn btn-primary btn-sm" disabled={!run?.inputs}>
              <Icon name="compass" /> Explore
            </button>
          )}
        </div>
      </form>
      <p role="status" className={`small px-2 mb-1 ${busy || said ? 'mt-2' : ''}`}>
        {busy ? `Exploring for ${seconds} s; you can go on playing …` : said}
      </p>
      {found && <Result found={found} onPlay={onPlay} onKeep={keep} />}
      {summary && data ? (
        <>
          <section className="p-2 border-top" aria-labelledby="coverage">
            <h2 id="coverage" className="h6">
              What happened at least once
            </h2>
            <dl className="coverage">
              {(Object.entries(summary) as [string, [number, number]][]).map(([of, [did, all]]) => (
                <div key={of}>
                  <dt>{of}</dt>
                  <dd>
                    <meter min={0} max={Math.max(1, all)} value={did} aria-label={`${of}: ${did} of ${all}`} /> {did} of {all}
                  </dd>
                </div>
              ))}
              {ground && <Floor walked={floorWalked(ground, data)} />}
            </dl>
            <FindingList
              findings={[
                ...coverageFindings(profile, map, run!.inputs!.map, scripts, data),
                ...talkFindings(run!.inputs!.data ?? {}, data),
                ...(ground ? floorFindings(map, ground, data) : []),
              ]}
              empty="All of it happened."
            />
          </section>
          <section className="p-2 border-top" aria-labelledby="heat">
            <h2 id="heat" className="h6">
              Where time was spent
            </h2>
            <Suspense fallback={<Busy what="Drawing" />}>
              <HeatMap data={data} />
            </Suspense>
            <Link className="btn btn-quiet btn-sm mt-2" to={`/crates/${view.id}/map`} onClick={() => dispatch(shownOnPlan(true))}>
              <Icon name="map" /> Show it on the plan
            </Link>
          </section>
        </>
      ) : (
        !busy && <p className="faint p-2 mb-0">Explore, or play all walks: then it says here what never happened.</p>
      )}
    </div>
  );
}

/** How much of the floor somebody was on. */
function Floor({ walked: [did, all] }: { walked: [number, number] }) {
  const share = Math.round((100 * did) / Math.max(1, all));
  return (
    <div>
      <dt>floor</dt>
      <dd>
        <meter min={0} max={100} value={share} aria-label={`floor: ${share} percent`} /> {share} %
      </dd>
    </div>
  );
}

function Result({ found, onPlay, onKeep }: { found: Exploration; onPlay(walk: Walk): void; onKeep(walk: Walk): void }) {
  const { won, states, runs, simulated, complete } = found;
  return (
    <section className="p-2" aria-label="What the explorer found">
      <p className={`severity ${won ? 'clear' : 'warning'} text-wrap mb-1`} data-testid="explored">
        <Icon name={won ? 'check-circle' : 'exclamation-triangle'} /> {won ? 'Won: this order reaches the goal.' : 'The goal was not reached.'}
      </p>
      {won && (
        <>
          <ol className="small mono ps-4 mb-2">
            {won.order.map((step, i) => (
              <li key={i}>{step}</li>
            ))}
          </ol>
          <div className="d-flex gap-2 mb-2">
            <button className="btn btn-quiet btn-sm" onClick={() => onPlay(won.walk)}>
              <Icon name="play" /> Watch it
            </button>
            <button className="btn btn-quiet btn-sm" onClick={() => onKeep(won.walk)}>
              <Icon name="save" /> Keep as a walk
            </button>
          </div>
        </>
      )}
      <p className="faint small">
        {states} states in {runs} runs, {simulated} s of the game{complete ? '; everything was tried.' : '; there was more to try.'}
      </p>
      <FindingList findings={found.findings} empty="It found nothing wrong." />
    </section>
  );
}
