import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { LinkGraph } from '@violet-crate/core/link/graph';
import { preflight, type PreflightPoint } from '@violet-crate/core/release/preflight';
import { message } from '../api/http.ts';
import type { CrateView } from '../api/types.ts';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAssetSource } from '../common/useLibrary.ts';
import { useAppSelector } from '../state/store.ts';
import { selectWorld } from '../state/world.ts';
import { walksAmong } from '@violet-crate/core/trial/walkFiles';
import type { Explored, WalksPlayed } from './checkWalks.ts';

const STATES: Record<PreflightPoint['state'], [icon: string, tone: string]> = {
  met: ['check-circle', 'clear'],
  note: ['info-circle', 'open'],
  warning: ['exclamation-triangle', 'stale'],
  blocker: ['x-octagon', 'blocked'],
};

const walksOf = (view: CrateView, map: string): string[] =>
  walksAmong(
    view.files.map(({ path }) => path),
    map,
  );

/** By build: what its walks and the explorer came to. It outlives the page, and no build. */
const tried = new Map<string, { walks?: WalksPlayed; explored?: Explored }>();

/** All points of the check before publishing, as they are now. @param tries how often something was tried: that is remembered beside the page */
export function usePreflight(tries = 0): PreflightPoint[] {
  const world = useAppSelector(selectWorld);
  const findings = useAppSelector((s) => s.checks.findings);
  const { builds, packages, view } = useAppSelector((s) => s.crate);
  return useMemo(() => {
    if (!world || !view) return [];
    const { mainMap } = world.crate.manifest;
    const good = builds?.find(({ ok, map }) => ok && map === mainMap);
    const { walks, explored } = (good?.fresh && tried.get(good.id)) || {};
    return preflight({
      world,
      graph: new LinkGraph(world),
      findings,
      builds: Object.fromEntries(
        (builds ?? [])
          .filter(({ ok }) => ok)
          .reverse()
          .map((build) => [build.map, build]),
      ),
      walks: { all: walksOf(view, mainMap), passed: walks?.passed ?? [], failed: walks?.failed ?? [] },
      explored: explored ?? null,
      packageBytes: packages?.[0]?.bytes ?? null,
    });
    // `tries` says that `tried` has become another.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [world, view, findings, builds, packages, tries]);
}

/** The check before publishing: every point with its state in a shape and a word, and the way to where it is mended. */
export function CheckStep({ crateId }: { crateId: string }) {
  const navigate = useNavigate();
  const world = useAppSelector(selectWorld);
  const source = useAssetSource();
  const { builds, view } = useAppSelector((s) => s.crate);
  const [tries, setTries] = useState(0);
  const [busy, setBusy] = useState<'' | 'walks' | 'explorer'>('');
  const [problem, setProblem] = useState('');
  const points = usePreflight(tries);
  const build = builds?.find((one) => one.ok && one.fresh && one.map === view?.manifest.mainMap);
  const all = view ? walksOf(view, view.manifest.mainMap) : [];
  const go = async (what: 'walks' | 'explorer') => {
    setBusy(what);
    setProblem('');
    try {
      // With Lua and physics, which the page needs for nothing else.
      const { checkByExploring, checkWalks } = await import('./checkWalks.ts');
      const known = tried.get(build!.id);
      if (what === 'walks') tried.set(build!.id, { ...known, walks: await checkWalks(world!, build!, source!) });
      else tried.set(build!.id, { ...known, explored: await checkByExploring(world!, build!, source!) });
      setTries(tries + 1);
    } catch (error) {
      setProblem(message(error));
    }
    setBusy('');
  };
  const open = points.filter(({ state }) => state !== 'met').length;
  return (
    <section className="panel">
      <header>
        <h2>Before it goes out</h2>
        <span className="faint">{open === 0 ? 'All is met.' : `${plural(open, 'point')} open`}</span>
      </header>
      <ul className="preflight">
        {points.map(({ id, title, state, message: text, at }) => (
          <li key={id} data-point={id} data-state={state}>
            <span className={`stamp ${STATES[state][1]}`}>
              <Icon name={STATES[state][0]} /> {state}
            </span>
            <div>
              <strong>{title}</strong>
              <div className="faint">{text}</div>
            </div>
            <div className="text-end text-nowrap">
              {id === 'walks' && build && all.length > 0 && (
                <button className="btn btn-quiet btn-sm py-0" disabled={busy !== ''} onClick={() => void go('walks')}>
                  {busy === 'walks' ? 'Playing …' : 'Play them'}
                </button>
              )}
              {id === 'explorer' && build && (
                <button className="btn btn-quiet btn-sm py-0" disabled={busy !== ''} onClick={() => void go('explorer')}>
                  {busy === 'explorer' ? 'Trying …' : 'Let it try'}
                </button>
              )}{' '}
              {state !== 'met' && at !== 'publish' && (
                <button className="btn btn-quiet btn-sm py-0" onClick={() => void navigate(`/crates/${crateId}/${at}`)}>
                  Go there
                </button>
              )}
            </div>
          </li>
        ))}
      </ul>
      {problem && (
        <div className="severity blocker text-wrap p-3" role="alert">
          {problem}
        </div>
      )}
    </section>
  );
}
