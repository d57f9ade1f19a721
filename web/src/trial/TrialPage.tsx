import { useCallback, useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { ReinhardToneMapping } from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { Finding } from '@violet-crate/core/finding';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Intent } from '@violet-crate/core/trial/move';
import { TIME_STEP, type Offer } from '@violet-crate/core/trial/world';
import type { ConsoleLine } from '@violet-crate/core/trial/console';
import { message, request } from '../api/http.ts';
import type { Build } from '../api/types.ts';
import { selectWorld } from '../state/world.ts';
import { trialFound } from '../state/checksSlice.ts';
import { Icon } from '../common/Icon.tsx';
import { isTyping } from '../common/isTyping.ts';
import { store, useAppDispatch, useAppSelector } from '../state/store.ts';
import { fileUrl, type AssetSource } from '../api/assetUrl.ts';
import { Stage3d } from '../three/stage3d.ts';
import { ConsolePanel } from './ConsolePanel.tsx';
import { lookDirection, readIntent, turnTowards } from './controls.ts';
import { RunClock } from './runClock.ts';
import { ScriptPanel } from './ScriptPanel.tsx';
import { TimeBar } from './TimeBar.tsx';
import { Captions } from './captions.ts';
import { loadRun, type LoadedRun } from './loadRun.ts';
import { trialEnded } from '../state/trialRunSlice.ts';
import { TrialAudio } from './trialAudio.ts';
import type { TrialRun } from './trialRun.ts';

interface Active extends LoadedRun {
  pitch: number;
}

interface Shown {
  feet: Vec3;
  yaw: number;
  flying: boolean;
  /** Share of the player's health; null where the game counts none. */
  health: number | null;
  offer: Offer | null;
  lines: ConsoleLine[];
  ended: TrialRun['ended'];
  /** Why it was ended from outside. */
  reason: string;
  demonstration: string;
  /** Subtitles of what plays. */
  words: string;
}

/** Stage 7: the built map in first person, with its signals and scripts running. */
export function TrialPage() {
  const { view, builds } = useAppSelector((s) => s.crate);
  const build = builds?.find((b) => b.ok);
  const [ticket, setTicket] = useState(0);
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
  return <Walk key={`${build.id}/${ticket}`} build={build} again={() => setTicket(ticket + 1)} />;
}

function Walk({ build, again }: { build: Build; again(): void }) {
  const dispatch = useAppDispatch();
  const view = useAppSelector((s) => s.crate.view)!;
  const profile = useAppSelector((s) => s.crate.profile)!;
  const host = useRef<HTMLDivElement>(null);
  const run = useRef<Active | null>(null);
  const keys = useRef(new Set<string>());
  const [clock] = useState(() => new RunClock());
  const [time, setTime] = useState({ paused: false, speed: 1 });
  const [problem, setProblem] = useState('');
  const [loaded, setLoaded] = useState(false);
  const [started, setStarted] = useState(false);
  const [shown, setShown] = useState<Shown | null>(null);
  const [panel, setPanel] = useState<Panel>('console');
  const stale = !build.fresh;

  const operate = useCallback(() => {
    const active = run.current;
    if (active) active.run.operate(lookDirection(active));
  }, []);

  useEffect(() => {
    const stage = new Stage3d(host.current!, '#000');
    stage.renderer.toneMapping = ReinhardToneMapping;
    stage.renderer.toneMappingExposure = 1.5;
    stage.camera.near = 0.03;
    stage.camera.fov = 72;
    let gone = false;
    let frame = 0;
    let audio: TrialAudio | null = null;

    const begin = async () => {
      const world = selectWorld(store.getState());
      if (!world) return;
      const source: AssetSource = { view, profileId: profile.id };
      const loaded = await loadRun(world, build, source, stage.renderer, () => !gone);
      if (!loaded) return;
      const { scene } = loaded.scene;
      stage.scene.add(scene);
      stage.scene.background = scene.background;
      stage.scene.backgroundIntensity = scene.backgroundIntensity;
      run.current = { ...loaded, pitch: -0.05 };
      setLoaded(true);
      play(source);
    };

    const play = (source: AssetSource) => {
      let last = performance.now();
      let frames = 0;
      let told = 0;
      let lines = 0;
      let ended = false;
      const bytes = async (path: string) => (await request(fileUrl(source, path))).arrayBuffer();
      const captions = new Captions(async (path) => new Uint8Array(await bytes(path)));
      audio = new TrialAudio(bytes, profile.unit.metres);
      const tick = (now: number) => {
        frame = requestAnimationFrame(tick);
        const active = run.current;
        const state = active?.run.state;
        if (!active || !state) return;
        const frameTime = (now - last) / 1000;
        last = now;
        const { demonstration } = state;
        clock.pass(frameTime, demonstration !== null);
        if (++frames % 6 === 0) stage.keepFluent(frameTime);
        if (!active.run.waiting && !active.run.ended) {
          const intents: Intent[] = [];
          for (let due = clock.take(); due > 0; due--) {
            const { intent, turn } = readIntent(keys.current, active.yaw, active.pitch, state.flying);
            if (!demonstration) active.yaw += turn * TIME_STEP;
            else if (demonstration.walk[0] !== 0 || demonstration.walk[1] !== 0)
              active.yaw = turnTowards(active.yaw, Math.atan2(demonstration.walk[1], demonstration.walk[0]));
            intents.push({ ...intent, look: lookDirection(active) });
          }
          if (intents.length > 0) active.run.advance(intents, lookDirection(active));
        }
        audio?.listen(state.eye, lookDirection(active));
        for (const played of active.run.takeSounds()) {
          void audio?.play(played);
          if (played.subtitles) void captions.begin(played.subtitles, state.time);
        }
        active.scene.update();
        active.scene.showFrom(state.eye);
        const eye = toGltf(state.eye, profile.unit.metres);
        const ahead = toGltf(lookDirection(active), 1);
        stage.camera.position.set(...eye);
        stage.camera.lookAt(eye[0] + ahead[0], eye[1] + ahead[1], eye[2] + ahead[2]);
        stage.drawNow();
        const over = active.run.ended;
        if (now - told > 120 || active.run.lines.length !== lines || (over && !ended)) {
          told = now;
          lines = active.run.lines.length;
          setShown({
            feet: state.feet,
            yaw: active.yaw,
            flying: state.flying,
            health: state.health && state.health.now / state.health.full,
            offer: state.offer,
            lines: [...active.run.lines],
            ended: over,
            reason: active.run.stopped?.message ?? '',
            demonstration: demonstration ? `step ${demonstration.step}` : '',
            words: captions.words(state.time),
          });
        }
        if (over && !ended) {
          ended = true;
          if (document.pointerLockElement) document.exitPointerLock();
          dispatch(trialFound(active.run.findings));
          dispatch(trialEnded({ buildId: build.id, ended: over }));
        }
      };
      frame = requestAnimationFrame(tick);
    };

    begin().catch((error: Error & { findings?: Finding[] }) => {
      setProblem(message(error));
      if (!gone && error.findings) dispatch(trialFound(error.findings));
    });
    return () => {
      gone = true;
      cancelAnimationFrame(frame);
      audio?.dispose();
      const active = run.current;
      if (active) {
        dispatch(trialFound(active.run.findings));
        dispatch(trialEnded({ buildId: build.id, ended: active.run.ended ?? 'left' }));
        active.run.end();
        active.scene.dispose();
      }
      run.current = null;
      stage.dispose();
    };
    // A run belongs to one build; changes of the crate while walking do not restart it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [build.id]);

  const pass = useCallback(
    (change: Partial<Pick<RunClock, 'paused' | 'speed'>>) => {
      Object.assign(clock, change);
      setTime({ paused: clock.paused, speed: clock.speed });
    },
    [clock],
  );
  const pause = useCallback(() => pass({ paused: !clock.paused }), [pass, clock]);
  const step = useCallback(() => {
    clock.once();
    pass({});
  }, [pass, clock]);

  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      if (isTyping(event.target) || event.ctrlKey || event.altKey || event.metaKey || !run.current) return;
      const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      if (key === 'q' && !event.repeat) operate();
      else if (key === 'f' && !event.repeat) run.current.run.fling(lookDirection(run.current));
      else if (key === 'g' && !event.repeat) run.current.run.glide();
      else if (key === 'p' && !event.repeat) pause();
      else if (key === 'o') step();
      else if (/^(w|a|s|d|c| |Shift|Arrow\w+)$/.test(key)) keys.current.add(key);
      else return;
      setStarted(true);
      event.preventDefault();
    };
    const up = (event: KeyboardEvent) => keys.current.delete(event.key.length === 1 ? event.key.toLowerCase() : event.key);
    const release = () => keys.current.clear();
    const look = (event: MouseEvent) => {
      const active = run.current;
      if (!active || document.pointerLockElement !== host.current) return;
      active.yaw -= event.movementX * 0.0024;
      active.pitch = Math.max(-1.5, Math.min(1.5, active.pitch - event.movementY * 0.0024));
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
  }, [operate, pause, step]);

  // Scripts that are changed while it runs, here or by a renaming, are taken into the run.
  const scripts = useAppSelector((s) => s.crate.scripts);
  const running = useRef(scripts);
  useEffect(() => {
    if (!loaded || scripts === running.current) return;
    const timer = setTimeout(() => {
      running.current = scripts;
      run.current?.run.reload(scripts);
    }, RELOAD_DELAY);
    return () => clearTimeout(timer);
  }, [scripts, loaded]);

  const enter = () => {
    setStarted(true);
    if (document.pointerLockElement === host.current) operate();
    else void Promise.resolve(host.current?.requestPointerLock?.()).catch(() => {});
  };
  const evaluate = (text: string) => run.current?.run.evaluate(text);
  const demonstrate = () => {
    const active = run.current;
    const world = selectWorld(store.getState());
    if (!active || !world) return;
    setStarted(true);
    active.run.demonstrate(world.crate.maps[build.map]?.settings.trial ?? []);
  };
  const steps = useAppSelector((s) => s.map.map?.settings.trial.length ?? 0);

  return (
    <div className="trial">
      <h1 className="visually-hidden">Test run</h1>
      <div className="stage">
        <div ref={host} className="w-100 h-100" onClick={enter} data-testid="trial-stage" />
        <div className="aim" />
        {shown && (
          <div
            className="hud"
            data-testid="trial-hud"
            data-feet={shown.feet.map((v) => v.toFixed(2)).join(',')}
            data-yaw={shown.yaw.toFixed(4)}
            data-ended={shown.ended ?? ''}
          >
            {shown.feet.map((v) => Math.round(v)).join(', ')} · facing {((Math.round((shown.yaw * 180) / Math.PI) % 360) + 360) % 360}°
            {shown.flying && ' · gliding'}
            {shown.health !== null && shown.health < 1 && ` · health ${Math.ceil(shown.health * 100)} %`}
            {shown.demonstration && ` · ${shown.demonstration}`}
          </div>
        )}
        {loaded && !shown?.ended && <TimeBar {...time} onPause={pause} onStep={step} onSpeed={(speed) => pass({ speed })} />}
        {shown?.offer && !shown.ended && (
          <div className="offer">
            <kbd>Q</kbd> or click: {shown.offer.does} {shown.offer.name}
            {shown.offer.does === 'set down' && (
              <>
                , <kbd>F</kbd>: throw it
              </>
            )}
          </div>
        )}
        {shown?.words && (
          <div className="captions" role="status" data-testid="captions">
            {shown.words}
          </div>
        )}
        {problem && (
          <div className="overlay">
            <div role="alert">
              <h2>The test run could not start</h2>
              {problem}
            </div>
          </div>
        )}
        {!loaded && !problem && (
          <div className="overlay">
            <div role="status">
              <Icon name="arrow-repeat" className="turning" /> Loading the built map …
            </div>
          </div>
        )}
        {loaded && !started && (
          <div className="overlay" onClick={enter}>
            <div>
              <h2>Walk through {build.map}</h2>
              <p className="mb-2">
                Click to look around with the mouse, or use the keyboard alone. <kbd>W A S D</kbd> or <kbd>arrows</kbd> walk, <kbd>Q</kbd> operates
                and picks up, <kbd>F</kbd> throws, <kbd>Space</kbd> jumps, <kbd>C</kbd> crouches, <kbd>G</kbd> glides, <kbd>P</kbd> pauses,{' '}
                <kbd>O</kbd> takes one step, <kbd>Esc</kbd> frees the pointer.
              </p>
              {stale && (
                <p className="severity warning text-wrap">
                  <Icon name="clock-history" /> The crate was changed after this build.
                </p>
              )}
              <button className="btn btn-primary">Start walking</button>
            </div>
          </div>
        )}
        {shown?.ended && (
          <div className="overlay">
            <div role="status">
              <h2>{ENDINGS[shown.ended]}</h2>
              <p>
                {shown.ended === 'won' && shown.lines.findLast((l) => l.kind === 'system')?.text}
                {shown.ended === 'fell' && 'The start point is named in the findings below, with what to do.'}
                {shown.ended === 'died' && 'Where and how is named in the findings below, with what to do.'}
                {shown.ended === 'stopped' && shown.reason}
              </p>
              <button className="btn btn-primary" onClick={again}>
                Start again
              </button>
            </div>
          </div>
        )}
      </div>
      <aside className={`beside-${panel}`}>
        <div className="d-flex gap-2 align-items-center pe-2 py-1 border-bottom">
          <div role="tablist" aria-label="Panels" className="panel-tabs flex-grow-1 border-0">
            {PANELS.map(([id, label]) => (
              <button key={id} role="tab" aria-selected={panel === id} onClick={() => setPanel(id)}>
                {label}
              </button>
            ))}
          </div>
          {steps > 0 && (
            <button className="btn btn-quiet btn-sm text-nowrap" onClick={demonstrate} disabled={!loaded || !!shown?.demonstration || !!shown?.ended}>
              Show trial steps
            </button>
          )}
          <button className="btn btn-quiet btn-sm" onClick={again}>
            Restart
          </button>
        </div>
        {panel === 'console' ? (
          <ConsolePanel crateId={view.id} lines={shown?.lines ?? NO_LINES} onRun={loaded && !shown?.ended ? evaluate : undefined} />
        ) : (
          <ScriptPanel />
        )}
      </aside>
    </div>
  );
}

const PANELS = [
  ['console', 'Console'],
  ['script', 'Script'],
] as const;
type Panel = (typeof PANELS)[number][0];

/** Milliseconds after the last change of a script before it is loaded into the run. */
const RELOAD_DELAY = 700;

const NO_LINES: readonly ConsoleLine[] = [];
const ENDINGS = { won: 'The run is won', fell: 'Fell out of the world', died: 'Lost all health', stopped: 'The run was ended' };
