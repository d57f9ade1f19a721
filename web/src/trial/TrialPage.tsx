import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { Finding } from '@violet-crate/core/finding';
import { classOf, type Profile } from '@violet-crate/core/profile/schema';
import { globalFunctions } from '@violet-crate/core/script/check';
import type { ConsoleLine } from '@violet-crate/core/trial/console';
import type { Delivery } from '@violet-crate/core/trial/signals';
import type { Walk } from '@violet-crate/core/trial/walk';
import { message } from '../api/http.ts';
import type { Build } from '../api/types.ts';
import { selectWorld } from '../state/world.ts';
import { trialFound } from '../state/checksSlice.ts';
import { useTakenPicture } from '../common/useTakenPicture.ts';
import { isTyping } from '../common/isTyping.ts';
import { store, useAppDispatch, useAppSelector } from '../state/store.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { trialEnded } from '../state/trialRunSlice.ts';
import { ChangesPanel } from './ChangesPanel.tsx';
import { isCommand, readCommand, type ConsoleWords } from './consoleCommands.ts';
import { ConsolePanel } from './ConsolePanel.tsx';
import { ExplorePanel } from './ExplorePanel.tsx';
import { GamePanel } from './GamePanel.tsx';
import { OverlayMenu } from './OverlayMenu.tsx';
import type { Overlay } from './overlays.ts';
import type { RunClock } from './runClock.ts';
import { RaceHud } from './RaceHud.tsx';
import { ScriptPanel } from './ScriptPanel.tsx';
import { TimeBar } from './TimeBar.tsx';
import type { SharedRun } from './sharedRun.ts';
import { Together } from './Together.tsx';
import { FirstScreen, HangScreen, LastScreen, LoadingScreen, TroubleScreen } from './screens.tsx';
import { TimelinePanel } from './TimelinePanel.tsx';
import { TrialStage, type Shown } from './trialStage.ts';
import { WalksPanel } from './WalksPanel.tsx';
import { WatchPanel } from './WatchPanel.tsx';
import type { Hang } from './trialRun.ts';

/** Stage 7: the built map in first person, with its signals and scripts running. */
export function TrialPage() {
  const { view, builds } = useAppSelector((s) => s.crate);
  const [params, setParams] = useSearchParams();
  const shared = params.get('run') ?? undefined;
  // A run on the server is that of the build with which it was begun.
  const build = builds?.find((b) => b.ok && (shared === undefined || b.id === params.get('build')));
  /** Signals of the run before, to compare with. */
  const before = useRef<readonly Delivery[]>([]);
  const [{ ticket, walk }, begin] = useState<{ ticket: number; walk?: Walk }>({ ticket: 0 });
  if (!view) return null;
  if (!build)
    return (
      <div className="page">
        <h1>Test run</h1>
        <div className="empty">
          <h2>Nothing to walk through yet</h2>
          <p>The test run uses the built map. A draft takes a few seconds.</p>
          <Link className="btn btn-primary" to={`/crates/${view.id}/build`}>
            Go to Build
          </Link>
        </div>
      </div>
    );
  return (
    <Run
      key={`${build.id}/${ticket}/${shared}`}
      build={build}
      walk={walk}
      shared={shared}
      onShare={(next) => setParams(next === null ? {} : { run: next.run, build: next.build })}
      before={before.current}
      left={(deliveries) => (before.current = deliveries)}
      again={(next) => begin({ ticket: ticket + 1, walk: next })}
    />
  );
}

interface RunProps {
  build: Build;
  /** Played back instead of being walked. */
  walk?: Walk;
  /** A run on the server that several play in. */
  shared?: string;
  /** Goes to such a run, or back to one of one's own. */
  onShare(run: SharedRun | null): void;
  /** Signals of the run before. */
  before: readonly Delivery[];
  /** This run was left, with these signals. */
  left(deliveries: readonly Delivery[]): void;
  /** Begins anew, with a walk to play back or to be walked. */
  again(walk?: Walk): void;
}

function Run({ build, walk, shared, onShare, before, left, again }: RunProps) {
  const dispatch = useAppDispatch();
  const view = useAppSelector((s) => s.crate.view)!;
  const profile = useAppSelector((s) => s.crate.profile)!;
  const map = useAppSelector((s) => s.map.map);
  const source = useMemo<AssetSource>(() => ({ view, profileId: profile.id }), [view, profile.id]);
  const host = useRef<HTMLDivElement>(null);
  const stage = useRef<TrialStage | null>(null);
  const [time, setTime] = useState({ paused: false, speed: 1 });
  const [problem, setProblem] = useState('');
  const [loaded, setLoaded] = useState(false);
  const [hang, setHang] = useState<Hang | null>(null);
  const [started, setStarted] = useState(walk !== undefined);
  const [shown, setShown] = useState<Shown | null>(null);
  const [panel, setPanel] = useState<Panel>('console');
  const [overlays, setOverlays] = useState<ReadonlySet<Overlay>>(new Set());
  const showOverlays = (wanted: ReadonlySet<Overlay>) => {
    setOverlays(wanted);
    stage.current?.overlay(wanted);
  };
  const stale = !build.fresh;

  useEffect(() => {
    const world = selectWorld(store.getState());
    if (!world) return;
    let gone = false;
    const made = new TrialStage(
      host.current!,
      { world, build, source, walk, shared },
      {
        shown: setShown,
        began: () => setLoaded(true),
        hangs: setHang,
        over: (run) => {
          dispatch(trialFound(run.findings));
          dispatch(trialEnded({ buildId: build.id, ended: run.ended ?? 'left' }));
        },
      },
    );
    stage.current = made;
    made.begin().catch((error: Error & { findings?: Finding[] }) => {
      setProblem(message(error));
      if (!gone && error.findings) dispatch(trialFound(error.findings));
    });
    return () => {
      gone = true;
      stage.current = null;
      if (made.running && made.running.deliveries.length > 0) left(made.running.deliveries);
      made.dispose();
    };
    // A run belongs to one build; changes of the crate while walking flow into it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [build.id]);

  const pass = useCallback((change: Partial<Pick<RunClock, 'paused' | 'speed'>>) => {
    const clock = stage.current?.clock;
    if (clock) setTime({ paused: Object.assign(clock, change).paused, speed: clock.speed });
  }, []);
  const pause = useCallback(() => pass({ paused: !stage.current?.clock.paused }), [pass]);
  const step = useCallback(() => {
    stage.current?.clock.once();
    pass({});
  }, [pass]);

  const keep = useTakenPicture(view.id);
  const [taken, setTaken] = useState('');
  const { thumbnailWidth, thumbnailHeight } = profile.package;
  const picture = useCallback(() => {
    const png = stage.current?.picture(thumbnailWidth, thumbnailHeight);
    if (!png) return;
    void keep(png)
      .catch(message)
      .then((word) => {
        setTaken(word);
        setTimeout(() => setTaken(''), 4000);
      });
  }, [keep, thumbnailWidth, thumbnailHeight]);

  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      const { current } = stage;
      if (isTyping(event.target) || event.ctrlKey || event.altKey || event.metaKey || !current?.running) return;
      const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      const { talk } = current.running.state ?? {};
      if (talk && (/^[1-9]$/.test(key) || (talk.answers.length === 1 && (key === 'Enter' || key === 'q')))) {
        if (!event.repeat) current.answer(key === 'Enter' || key === 'q' ? 0 : Number(key) - 1);
        event.preventDefault();
        return;
      }
      const once = { q: current.operate, f: current.fling, g: current.glide, p: pause, v: current.changeView, i: picture }[key];
      if (once) {
        if (event.repeat) return;
        once();
      } else if (key === 'o') step();
      else if (/^(w|a|s|d|c| |Shift|Arrow\w+)$/.test(key)) current.keys.add(key);
      else return;
      setStarted(true);
      event.preventDefault();
    };
    const up = (event: KeyboardEvent) => stage.current?.keys.delete(event.key.length === 1 ? event.key.toLowerCase() : event.key);
    const release = () => stage.current?.keys.clear();
    const look = (event: MouseEvent) => {
      if (document.pointerLockElement === host.current) stage.current?.turn(event.movementX, event.movementY);
    };
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    window.addEventListener('blur', release);
    document.addEventListener('mousemove', look);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
      window.removeEventListener('blur', release);
      document.removeEventListener('mousemove', look);
    };
  }, [pause, step, picture]);

  // Scripts that are changed while it runs, here or by a renaming, are taken into the run.
  const scripts = useAppSelector((s) => s.crate.scripts);
  const running = useRef(scripts);
  useEffect(() => {
    if (!loaded || shared !== undefined || scripts === running.current) return;
    const timer = setTimeout(() => {
      running.current = scripts;
      stage.current?.running?.reload(scripts);
    }, RELOAD_DELAY);
    return () => clearTimeout(timer);
  }, [scripts, loaded, shared]);

  // So is what is edited in the map, here, in another tab or by somebody else.
  useEffect(() => {
    const world = selectWorld(store.getState());
    if (loaded && map && world) stage.current?.follow(world);
  }, [map, loaded]);

  // A choice is made with the pointer as well as with keys, so that it is let go.
  const choosing = (shown?.talk?.answers.length ?? 0) > 1;
  useEffect(() => {
    if (choosing && document.pointerLockElement) document.exitPointerLock();
  }, [choosing]);

  const race = Object.keys(map?.routes ?? {}).length > 0;
  const enter = () => {
    setStarted(true);
    const talk = stage.current?.running?.state?.talk;
    if (talk?.answers.length === 1) stage.current?.answer(0);
    else if (document.pointerLockElement === host.current) stage.current?.operate();
    else void Promise.resolve(host.current?.requestPointerLock?.()).catch(() => {});
  };
  const nameOf = (id: string) => stage.current?.running?.objects.get(id)?.object.name ?? id;
  const words = useMemo(() => wordsOf(profile, map, scripts), [profile, map, scripts]);
  const [told, tell] = useState<readonly ConsoleLine[]>(NO_LINES);
  const say = (kind: ConsoleLine['kind'], texts: readonly string[]) => {
    const time = stage.current?.running?.state?.time ?? 0;
    tell((before) => [...before, ...texts.map((text) => ({ time, kind, text }))]);
  };
  /** Lua, or a command of the console. */
  const evaluate = (text: string) => {
    const { current } = stage;
    if (!isCommand(text)) return current?.running?.evaluate(text);
    const spoken = readCommand(text, words);
    if ('wrong' in spoken) say('error', [spoken.wrong]);
    else if ('help' in spoken) say('system', spoken.help);
    else if ('command' in spoken) current?.command(spoken.command);
    else if ('glide' in spoken) current?.glide();
    else if (spoken.time === 'pause') pause();
    else if (spoken.time === 'step') step();
    else pass(spoken.time);
  };
  const { watches, logPoints } = useAppSelector((s) => s.looking);
  useEffect(() => {
    if (loaded && shared === undefined) stage.current?.running?.watch(watches);
  }, [loaded, watches, shared]);
  useEffect(() => {
    if (loaded && shared === undefined) stage.current?.running?.logAt(logPoints);
  }, [loaded, logPoints, shared]);
  const demonstrate = () => {
    setStarted(true);
    stage.current?.demonstrate(map?.settings.trial ?? []);
  };
  const steps = useAppSelector((s) => s.map.map?.settings.trial.length ?? 0);

  return (
    <div className="trial">
      <h1 className="visually-hidden">Test run</h1>
      <div className="stage">
        <div ref={host} className="w-100 h-100" onClick={enter} data-testid="trial-stage" />
        {!shown?.ride && <div className="aim" />}
        {shown && (
          <div
            className="hud"
            data-testid="trial-hud"
            data-feet={shown.feet.map((v) => v.toFixed(2)).join(',')}
            data-yaw={shown.yaw.toFixed(4)}
            data-ended={shown.ended ?? ''}
            data-particles={shown.particles}
            data-mood={shown.mood}
            data-heard={shown.heard}
          >
            {shown.feet.map((v) => Math.round(v)).join(', ')} · facing {((Math.round((shown.yaw * 180) / Math.PI) % 360) + 360) % 360}°
            {shown.flying && ' · gliding'}
            {shown.health !== null && shown.health < 1 && ` · health ${Math.ceil(shown.health * 100)} %`}
            {shown.demonstration && ` · ${shown.demonstration}`}
          </div>
        )}
        {shown?.ride && started && (
          <RaceHud
            ride={shown.ride}
            race={shown.race}
            standings={shown.standings}
            nameOf={nameOf}
            best={shown.best}
            driven={shown.driven}
            onDrive={(on) => stage.current?.drive(on)}
          />
        )}
        {loaded && !shown?.ended && <OverlayMenu shown={overlays} onChange={showOverlays} />}
        {shown?.reach && <div className="reach">{shown.reach}</div>}
        {loaded && !shown?.ended && shared === undefined && <TimeBar {...time} onPause={pause} onStep={step} onSpeed={(speed) => pass({ speed })} />}
        {shown?.offer && !shown.talk && !shown.ended && !(shown.ride && shown.ride.speed > 1) && (
          <div className="offer">
            <kbd>Q</kbd> or click: {shown.offer.does} {shown.offer.name}
            {shown.offer.does === 'set down' && (
              <>
                , <kbd>F</kbd>: throw it
              </>
            )}
          </div>
        )}
        {shown?.talk && !shown.ended && (
          <div className="talk-panel" role="dialog" aria-label="Conversation">
            {shown.talk.who && <strong>{shown.talk.who}</strong>}
            {shown.talk.text && <p>{shown.talk.text}</p>}
            <ol>
              {shown.talk.answers.map((answer, n) => (
                <li key={n}>
                  <button className="btn btn-quiet btn-sm" onClick={() => stage.current?.answer(n)}>
                    <kbd>{n + 1}</kbd> {answer}
                  </button>
                </li>
              ))}
            </ol>
          </div>
        )}
        {shown?.words && (
          <div className="captions" role="status" data-testid="captions">
            {shown.words}
          </div>
        )}
        {taken && (
          <div className="taken" role="status">
            {taken}
          </div>
        )}
        {problem && <TroubleScreen problem={problem} />}
        {hang && <HangScreen {...hang} />}
        {!loaded && !problem && !hang && <LoadingScreen />}
        {loaded && !started && !hang && (
          <FirstScreen
            map={build.map}
            race={race}
            stale={stale}
            enter={enter}
            letRide={
              shown?.ride
                ? () => {
                    setStarted(true);
                    stage.current?.drive(true);
                  }
                : undefined
            }
          />
        )}
        {shown?.ended && <LastScreen shown={shown} ended={shown.ended} again={() => again()} />}
      </div>
      <aside className={`beside-${panel}`}>
        <div className="border-bottom">
          <div role="tablist" aria-label="Panels" className="panel-tabs w-100">
            {(shared === undefined ? PANELS : PANELS.filter(([id]) => SHARED_PANELS.has(id))).map(([id, label]) => (
              <button key={id} role="tab" aria-selected={panel === id} onClick={() => setPanel(id)}>
                {label}
              </button>
            ))}
          </div>
          <div className="d-flex flex-wrap gap-1 align-items-center p-2">
            {steps > 0 && shared === undefined && (
              <button
                className="btn btn-quiet btn-sm text-nowrap"
                onClick={demonstrate}
                disabled={!loaded || !!shown?.demonstration || !!shown?.ended}
              >
                Show trial steps
              </button>
            )}
            <Together crateId={view.id} map={build.map} shared={shared} others={shown?.others ?? []} onShare={onShare} />
            {shared === undefined && (
              <button className="btn btn-quiet btn-sm text-nowrap" onClick={() => again()}>
                Restart
              </button>
            )}
          </div>
        </div>
        {panel === 'console' && (
          <ConsolePanel
            crateId={view.id}
            lines={told.length > 0 ? [...(shown?.lines ?? NO_LINES), ...told].sort((a, b) => a.time - b.time) : (shown?.lines ?? NO_LINES)}
            onRun={loaded && !shown?.ended && shared === undefined ? evaluate : undefined}
            words={words}
          />
        )}
        {panel === 'script' && <ScriptPanel />}
        {panel === 'watch' && <WatchPanel crateId={view.id} run={loaded ? (stage.current?.running ?? null) : null} />}
        {panel === 'explore' && (
          <ExplorePanel
            map={build.map}
            run={loaded ? (stage.current?.running ?? null) : null}
            ground={stage.current?.navigation ?? null}
            onPlay={again}
          />
        )}
        {panel === 'game' && <GamePanel map={build.map} />}
        {panel === 'timeline' && (
          <TimelinePanel map={build.map} deliveries={stage.current?.running?.deliveries ?? NO_SIGNALS} before={before} nameOf={nameOf} />
        )}
        {panel === 'walks' && <WalksPanel map={build.map} source={source} run={loaded ? (stage.current?.running ?? null) : null} onPlay={again} />}
        {panel === 'changes' && map && <ChangesPanel profile={profile} map={map} run={loaded ? (stage.current?.running ?? null) : null} />}
      </aside>
    </div>
  );
}

const PANELS = [
  ['console', 'Console'],
  ['script', 'Script'],
  ['watch', 'Watch'],
  ['timeline', 'Signals'],
  ['walks', 'Walks'],
  ['explore', 'Explore'],
  ['changes', 'Changes'],
  ['game', 'Game'],
] as const;
type Panel = (typeof PANELS)[number][0];
/** What a run on the server has, too; the others belong to a run of one's own. */
const SHARED_PANELS: ReadonlySet<Panel> = new Set<Panel>(['console', 'timeline', 'game']);

/** Milliseconds after the last change of a script before it is loaded into the run. */
const RELOAD_DELAY = 700;

/** What a line of the console may name. */
function wordsOf(profile: Profile, map: GameMap | null, scripts: Readonly<Record<string, string>>): ConsoleWords {
  const objects = new Map(
    Object.values(map?.objects ?? {}).map(({ name, position, class: id }) => {
      const own = classOf(profile, id);
      const ids = (list: readonly { id: string }[] = []) => list.map((entry) => entry.id);
      return [name, { position, events: ids(own?.events), actions: ids(own?.actions), properties: ids(own?.properties) }] as const;
    }),
  );
  return { objects, functions: [...profile.scripts.api.map(({ name }) => name), ...globalFunctions(scripts)].sort() };
}

const NO_LINES: readonly ConsoleLine[] = [];
const NO_SIGNALS: readonly Delivery[] = [];
