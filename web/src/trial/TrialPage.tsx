import { useCallback, useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import wasmUri from 'wasmoon/dist/glue.wasm?url';
import { ReinhardToneMapping } from 'three';
import { toGltf } from '@violet-crate/core/build/pack/gltfSpace';
import { decodeCollision } from '@violet-crate/core/build/pack/collisionBin';
import { decodeProbes } from '@violet-crate/core/build/pack/probesBin';
import type { RuntimeMap } from '@violet-crate/core/build/pack/runtime';
import { decodeVisibilityFile } from '@violet-crate/core/build/pack/visibilityBin';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { TrialDriver } from '@violet-crate/core/trial/driver';
import { TIME_STEP, TrialWorld, type ConsoleLine } from '@violet-crate/core/trial/world';
import { message, request } from '../api/http.ts';
import type { Build } from '../api/types.ts';
import { crateWorld } from '../checks/background.ts';
import { trialFound } from '../checks/checksSlice.ts';
import { Icon } from '../common/Icon.tsx';
import { isTyping } from '../shell/CrateFrame.tsx';
import { store, useAppDispatch, useAppSelector } from '../store.ts';
import { fileUrl, type AssetSource } from '../three/assets3d.ts';
import { Stage3d } from '../three/stage3d.ts';
import { readIntent } from './controls.ts';
import { trialEnded } from './trialRunSlice.ts';
import { TrialScene } from './trialScene.ts';

interface Run {
  world: TrialWorld;
  driver: TrialDriver | null;
  yaw: number;
  pitch: number;
}

interface Shown {
  feet: Vec3;
  yaw: number;
  flying: boolean;
  offer: string;
  lines: ConsoleLine[];
  ended: TrialWorld['ended'];
  demonstration: string;
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
  return <TrialRun key={`${build.id}/${ticket}`} build={build} again={() => setTicket(ticket + 1)} />;
}

function TrialRun({ build, again }: { build: Build; again(): void }) {
  const dispatch = useAppDispatch();
  const view = useAppSelector((s) => s.crate.view)!;
  const profile = useAppSelector((s) => s.crate.profile)!;
  const host = useRef<HTMLDivElement>(null);
  const run = useRef<Run | null>(null);
  const keys = useRef(new Set<string>());
  const [problem, setProblem] = useState('');
  const [loaded, setLoaded] = useState(false);
  const [started, setStarted] = useState(false);
  const [shown, setShown] = useState<Shown | null>(null);
  const stale = !build.fresh;

  const operate = useCallback(() => {
    const active = run.current;
    if (!active) return;
    const item = active.world.usable(lookDirection(active));
    if (item) active.world.use(item);
  }, []);

  useEffect(() => {
    const stage = new Stage3d(host.current!, '#000');
    stage.renderer.toneMapping = ReinhardToneMapping;
    stage.renderer.toneMappingExposure = 1.5;
    stage.camera.near = 0.03;
    stage.camera.fov = 72;
    let scene: TrialScene | null = null;
    let gone = false;
    let frame = 0;

    const begin = async () => {
      const world = crateWorld(store.getState());
      if (!world) return;
      const source: AssetSource = { view, profileId: profile.id };
      const file = async (name: string) => request(`/api/crates/${view.id}/builds/${build.id}/files/maps/${build.map}/${name}`);
      const binary = async (name: string) => new Uint8Array(await (await file(name)).arrayBuffer());
      const has = (name: string) => build.artefacts.some((artefact) => artefact.path.endsWith(`/${name}`));
      if (!has('collision.bin')) throw new Error('This build was made by an earlier version. Build the map again.');
      const [glb, light, map, collision, visibility, probes] = await Promise.all([
        file('map.glb').then((r) => r.arrayBuffer()),
        has('lightmap.ktx2') ? file('lightmap.ktx2').then((r) => r.arrayBuffer()) : undefined,
        file('map.json').then((r) => r.json() as Promise<RuntimeMap>),
        binary('collision.bin').then(decodeCollision),
        binary('visibility.bin').then(decodeVisibilityFile),
        has('probes.bin') ? binary('probes.bin').then(decodeProbes) : null,
      ]);
      const trial = await TrialWorld.begin({ profile, map, collision, scripts: world.crate.scripts, wasmUri });
      if (gone) return trial.stop();
      scene = new TrialScene(world, trial, source, stage.renderer, { visibility, probes });
      await scene.load(glb, light, map.settings);
      if (gone) return;
      stage.scene.add(scene.scene);
      stage.scene.background = scene.scene.background;
      stage.scene.backgroundIntensity = scene.scene.backgroundIntensity;
      const start = trial.objects.find((o) => o.object.position.every((v, i) => v === trial.walker.feet[i]));
      run.current = { world: trial, driver: null, yaw: ((start?.object.turn ?? 0) * Math.PI) / 180, pitch: -0.05 };
      setLoaded(true);
      play(source);
    };

    const play = (source: AssetSource) => {
      let last = performance.now();
      let spare = 0;
      let frames = 0;
      let told = 0;
      let lines = 0;
      let ended = false;
      const tick = (now: number) => {
        frame = requestAnimationFrame(tick);
        const active = run.current;
        if (!active || !scene) return;
        const frameTime = (now - last) / 1000;
        last = now;
        // Slow frames are made up for, a hidden tab's hours are not. Nobody steers a demonstration, so it may take longer steps.
        spare += Math.min(active.driver ? 2 : 0.25, frameTime);
        if (++frames % 6 === 0) stage.keepFluent(frameTime);
        const { world } = active;
        while (spare >= TIME_STEP) {
          spare -= TIME_STEP;
          if (active.driver) {
            const intent = active.driver.tick(world);
            if (intent.move[0] !== 0 || intent.move[1] !== 0) active.yaw = turnTowards(active.yaw, Math.atan2(intent.move[1], intent.move[0]));
            world.step(intent);
            if (active.driver.done) finishDemonstration(active);
          } else {
            const { intent, turn } = readIntent(keys.current, active.yaw, active.pitch, world.walker.flying);
            active.yaw += turn * TIME_STEP;
            world.step(intent);
          }
        }
        for (const { sound, volume } of world.sounds.splice(0)) void playSound(fileUrl(source, sound), volume);
        scene.update();
        scene.showFrom(world.eye());
        const eye = toGltf(world.eye(), profile.unit.metres);
        const ahead = toGltf(lookDirection(active), 1);
        stage.camera.position.set(...eye);
        stage.camera.lookAt(eye[0] + ahead[0], eye[1] + ahead[1], eye[2] + ahead[2]);
        stage.drawNow();
        if (now - told > 120 || world.console.length !== lines) {
          told = now;
          lines = world.console.length;
          const offered = world.usable(lookDirection(active));
          setShown({
            feet: [...world.walker.feet],
            yaw: active.yaw,
            flying: world.walker.flying,
            offer: offered?.object.name ?? '',
            lines: world.console.slice(-200),
            ended: world.ended,
            demonstration: active.driver ? `step ${active.driver.results.length + 1}` : '',
          });
        }
        if (world.ended && !ended) {
          ended = true;
          if (document.pointerLockElement) document.exitPointerLock();
          dispatch(trialFound([...world.findings]));
          dispatch(trialEnded({ buildId: build.id, ended: world.ended }));
        }
      };
      frame = requestAnimationFrame(tick);
    };

    const finishDemonstration = (active: Run) => {
      const failed = active.driver!.results.find((result) => !result.ok);
      active.world.print('system', failed ? `The demonstration stopped: ${failed.detail}` : 'The demonstration is over.');
      active.driver = null;
    };

    begin().catch((error) => setProblem(message(error)));
    return () => {
      gone = true;
      cancelAnimationFrame(frame);
      const active = run.current;
      if (active) {
        dispatch(trialFound([...active.world.findings]));
        dispatch(trialEnded({ buildId: build.id, ended: active.world.ended ?? 'left' }));
        active.world.stop();
      }
      run.current = null;
      scene?.dispose();
      stage.dispose();
    };
    // A run belongs to one build; changes of the crate while walking do not restart it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [build.id]);

  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      if (isTyping(event.target) || event.ctrlKey || event.altKey || event.metaKey || !run.current) return;
      const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      if (key === 'q' && !event.repeat) operate();
      else if (key === 'g' && !event.repeat) {
        const { walker } = run.current.world;
        walker.flying = !walker.flying;
        run.current.world.print('system', walker.flying ? 'Gliding: solids do not stop you.' : 'On foot again.');
      } else if (/^(w|a|s|d| |Shift|Arrow\w+)$/.test(key)) keys.current.add(key);
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
  }, [operate]);

  const enter = () => {
    setStarted(true);
    if (document.pointerLockElement === host.current) operate();
    else void Promise.resolve(host.current?.requestPointerLock?.()).catch(() => {});
  };
  const demonstrate = () => {
    const active = run.current;
    const world = crateWorld(store.getState());
    if (!active || !world) return;
    setStarted(true);
    active.driver = new TrialDriver(profile, world.crate.maps[build.map]?.settings.trial ?? [], true);
    active.world.print('system', 'Walking the map’s trial steps.');
  };
  const steps = useAppSelector((s) => s.map.map?.settings.trial.length ?? 0);

  return (
    <div className="trial">
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
            {shown.feet.map((v) => Math.round(v)).join(', ')} · facing {Math.round(((((shown.yaw * 180) / Math.PI) % 360) + 360) % 360)}°
            {shown.flying && ' · gliding'}
            {shown.demonstration && ` · ${shown.demonstration}`}
          </div>
        )}
        {shown?.offer && !shown.ended && (
          <div className="offer">
            <kbd>Q</kbd> or click: operate {shown.offer}
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
                Click to look around with the mouse, or use the keyboard alone. <kbd>W A S D</kbd> or <kbd>arrows</kbd> walk, <kbd>Q</kbd> operates,{' '}
                <kbd>Space</kbd> jumps, <kbd>G</kbd> glides, <kbd>Esc</kbd> frees the pointer.
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
              <h2>{shown.ended === 'won' ? 'The run is won' : 'Fell out of the world'}</h2>
              <p>
                {shown.ended === 'won'
                  ? shown.lines.findLast((l) => l.kind === 'system')?.text
                  : 'The start point is named in the findings below, with what to do.'}
              </p>
              <button className="btn btn-primary" onClick={again}>
                Start again
              </button>
            </div>
          </div>
        )}
      </div>
      <aside>
        <div className="p-2 border-bottom d-flex gap-2 align-items-center">
          <h2 className="m-0 flex-grow-1">Console</h2>
          {steps > 0 && (
            <button className="btn btn-quiet btn-sm" onClick={demonstrate} disabled={!loaded || !!shown?.demonstration || !!shown?.ended}>
              Show trial steps
            </button>
          )}
          <button className="btn btn-quiet btn-sm" onClick={again}>
            Restart
          </button>
        </div>
        <div className="console" role="log" aria-label="Console of the test run">
          {shown?.lines.map((line, i) => (
            <div key={i} className={line.kind}>
              {line.time.toFixed(1)} {line.text}
            </div>
          ))}
          {shown?.lines.length === 0 && <div className="faint">What scripts print and signals do appears here.</div>}
        </div>
      </aside>
    </div>
  );
}

function lookDirection({ yaw, pitch }: Run): Vec3 {
  return [Math.cos(yaw) * Math.cos(pitch), Math.sin(yaw) * Math.cos(pitch), Math.sin(pitch)];
}

/** Turns by at most 3 radians per second, the short way round. */
function turnTowards(from: number, to: number): number {
  const difference = Math.atan2(Math.sin(to - from), Math.cos(to - from));
  const most = 3 * TIME_STEP;
  return from + Math.max(-most, Math.min(most, difference));
}

async function playSound(url: string, volume: number): Promise<void> {
  const audio = new Audio(url);
  audio.volume = Math.max(0, Math.min(1, volume));
  // Browsers refuse sound before the first gesture; that is theirs to decide.
  await audio.play().catch(() => {});
}
