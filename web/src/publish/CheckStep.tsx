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
import type { WalksPlayed } from './checkWalks.ts';

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

/** By build: what its walks came to. It outlives the page, and no build. */
const played = new Map<string, WalksPlayed>();

/** All points of the check before publishing, as they are now. @param walks how often walks were played: they are remembered beside the page */
export function usePreflight(walks = 0): PreflightPoint[] {
  const world = useAppSelector(selectWorld);
  const findings = useAppSelector((s) => s.checks.findings);
  const { builds, packages, view } = useAppSelector((s) => s.crate);
  return useMemo(() => {
    if (!world || !view) return [];
    const { mainMap } = world.crate.manifest;
    const good = builds?.find(({ ok, map }) => ok && map === mainMap);
    const known = good?.fresh ? played.get(good.id) : undefined;
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
      walks: { all: walksOf(view, mainMap), passed: known?.passed ?? [], failed: known?.failed ?? [] },
      packageBytes: packages?.[0]?.bytes ?? null,
    });
    // `walks` says that `played` has become another.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [world, view, findings, builds, packages, walks]);
}

/** The check before publishing: every point with its state in a shape and a word, and the way to where it is mended. */
export function CheckStep({ crateId }: { crateId: string }) {
  const navigate = useNavigate();
  const world = useAppSelector(selectWorld);
  const source = useAssetSource();
  const { builds, view } = useAppSelector((s) => s.crate);
  const [walks, setWalks] = useState(0);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState('');
  const points = usePreflight(walks);
  const build = builds?.find((one) => one.ok && one.fresh && one.map === view?.manifest.mainMap);
  const all = view ? walksOf(view, view.manifest.mainMap) : [];
  const play = async () => {
    setBusy(true);
    setProblem('');
    try {
      // With Lua and physics, which the page needs for nothing else.
      const { checkWalks } = await import('./checkWalks.ts');
      played.set(build!.id, await checkWalks(world!, build!, source!));
      setWalks(walks + 1);
    } catch (error) {
      setProblem(message(error));
    }
    setBusy(false);
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
                <button className="btn btn-quiet btn-sm py-0" disabled={busy} onClick={() => void play()}>
                  {busy ? 'Playing …' : 'Play them'}
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
