/** A test run in a picture: the loop between the run, its scene and sound, the keys, and whoever shows the words. */

import { ReinhardToneMapping, Vector3 } from 'three';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { TrialStep } from '@violet-crate/core/document/schema';
import { expandMap } from '@violet-crate/core/map/prefab';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Navmesh } from '@violet-crate/core/stages/navigation/navmesh';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { ShownRide, TrialCommand, TrialState } from '@violet-crate/core/trial/apart';
import type { ConsoleLine } from '@violet-crate/core/trial/console';
import type { Fields } from '@violet-crate/core/trial/fields';
import type { RaceState } from '@violet-crate/core/trial/race';
import type { Standing } from '@violet-crate/core/trial/rivals';
import type { LiveMap } from '@violet-crate/core/trial/liveMap';
import type { Intent } from '@violet-crate/core/trial/move';
import type { Walk } from '@violet-crate/core/trial/walk';
import type { ShownTalk } from '@violet-crate/core/trial/talking';
import type { Offer } from '@violet-crate/core/trial/players';
import { TIME_STEP } from '@violet-crate/core/trial/world';
import { fileUrl, type AssetSource } from '../api/assetUrl.ts';
import { request } from '../api/http.ts';
import { preferredHere } from '../state/preferencesSlice.ts';
import { store } from '../state/store.ts';
import type { Build } from '../api/types.ts';
import { Stage3d } from '../three/stage3d.ts';
import { Captions } from './captions.ts';
import { lookDirection, readIntent, readRide, turnTowards } from './controls.ts';
import { EVERY, keepGhost, loadGhosts, type GhostTrack } from './ghosts.ts';
import { loadRun } from './loadRun.ts';
import { LiveLamps } from './liveLamps.ts';
import type { Overlay, TrialOverlays } from './overlays.ts';
import { Figures } from './figures.ts';
import { nameOfPlayer } from './sharedRun.ts';
import { RunClock } from './runClock.ts';
import { MapSound } from '../sound/mapSound.ts';
import { TrialAudio } from './trialAudio.ts';
import type { Hang, TrialRun } from './trialRun.ts';
import type { TrialScene } from './trialScene.ts';

/** What is said of a run beside its picture. */
export interface Shown {
  feet: Vec3;
  yaw: number;
  flying: boolean;
  /** Share of the player's health; null where the game counts none. */
  health: number | null;
  offer: Offer | null;
  talk: ShownTalk | null;
  lines: ConsoleLine[];
  ended: TrialRun['ended'];
  /** Why it was ended from outside. */
  reason: string;
  demonstration: string;
  /** Subtitles of what plays. */
  words: string;
  /** How far a jump carries, where that is shown. */
  reach: string;
  /** Particles of all effects that live now. */
  particles: number;
  /** Name of the mood that the map is in; empty where it has none. */
  mood: string;
  /** Names of the sound areas that are heard, the loudest first. */
  heard: string;
  /** Names of the others who play. */
  others: string[];
  ride: ShownRide | null;
  race: RaceState | null;
  standings: Standing[];
  driven: boolean;
  /** Seconds of the best run of this race on this machine. */
  best: number | null;
}

export interface StageOwner {
  shown(shown: Shown): void;
  /** The run has begun. */
  began(): void;
  /** It is over, or was left; told once. */
  over(run: TrialRun): void;
  /** It has not come back for a while, or has again (null). */
  hangs(hang: Hang | null): void;
}

export interface StageSetting {
  world: CrateWorld;
  build: Build;
  source: AssetSource;
  /** Played back instead of being walked. */
  walk?: Walk;
  /** A run on the server that several play in. */
  shared?: string;
}

/** Of the picture, where no mood says otherwise. */
const EXPOSURE = 1.5;
/** Milliseconds between two words about the run. */
const TELL_EVERY = 120;

/** Of all sounds, as the user prefers it: 0 to 1. */
const loudness = (): number => Number(store.getState().preferences.values.volume) / 100;

export class TrialStage {
  readonly keys = new Set<string>();
  readonly clock = new RunClock();
  private readonly stage: Stage3d;
  private readonly audio: TrialAudio;
  private readonly captions: Captions;
  private beds: MapSound | null = null;
  private run: TrialRun | null = null;
  private scene: TrialScene | null = null;
  private readonly figures: Figures;
  private live: LiveMap | null = null;
  private overlays: TrialOverlays | null = null;
  private lamps: LiveLamps | null = null;
  private ground: Navmesh | null = null;
  /** From where it is kept what is drawn, so that one can glide out and look at it. */
  private kept: Vec3 | null = null;
  /** What the overlay of the reach says. */
  private reach = '';
  private yaw = 0;
  private pitch = -0.05;
  private frame = 0;
  private gone = false;
  private told = 0;
  private lines = 0;
  private ended = false;
  private fields: Fields | null = null;
  private ghosts: GhostTrack[] = [];
  private readonly track: number[] = [];
  private ghostKept = false;
  private chase = true;
  /** Where the chasing camera is, scene space; null before it has a place. */
  private camera: Vector3 | null = null;

  constructor(
    host: HTMLElement,
    private readonly setting: StageSetting,
    private readonly owner: StageOwner,
  ) {
    const { world } = setting;
    const bytes = (path: string) => this.bytes(path);
    this.captions = new Captions(async (path) => new Uint8Array(await bytes(path)));
    this.figures = new Figures(world.profile);
    this.audio = new TrialAudio(bytes, world.profile.unit.metres, loudness);
    this.stage = new Stage3d(host, '#000');
    this.stage.renderer.toneMapping = ReinhardToneMapping;
    this.stage.renderer.toneMappingExposure = EXPOSURE;
    this.stage.camera.near = 0.03;
    this.stage.camera.fov = Number(preferredHere(store.getState()).trialView);
  }

  private async bytes(path: string): Promise<ArrayBuffer> {
    return (await request(fileUrl(this.setting.source, path))).arrayBuffer();
  }

  /** Loads the build and begins. @throws Error with `findings` where it cannot */
  async begin(): Promise<void> {
    const { world, build, source, walk, shared } = this.setting;
    const loaded = await loadRun(
      world,
      build,
      source,
      this.stage.renderer,
      { walk, shared, hangs: (hang) => this.owner.hangs(hang) },
      () => !this.gone,
    );
    if (!loaded) return;
    const { scene } = loaded.scene;
    this.lamps = new LiveLamps(world.profile, loaded.run.inputs?.map.objects ?? {});
    this.stage.scene.add(scene, this.figures.group, this.lamps.group);
    this.stage.scene.background = scene.background;
    this.stage.scene.backgroundIntensity = scene.backgroundIntensity;
    Object.assign(this, {
      run: loaded.run,
      scene: loaded.scene,
      live: loaded.live,
      overlays: loaded.overlays,
      ground: loaded.navigation,
      yaw: loaded.yaw,
      fields: loaded.fields,
    });
    const whole = expandMap(world.crate.maps[build.map], world.profile);
    if (MapSound.any(world, whole)) this.beds = new MapSound(this.audio.begin(), (path) => this.bytes(path), world, whole, loaded.sound);
    const { ride, race } = loaded.run.state!;
    if (ride) this.yaw = ride.heading;
    if (ride && race) {
      this.ghosts = loadGhosts(source.view.id, build.map);
      void loaded.scene.rideAgainst(this.ghosts, ride.id);
    }
    // A run on the server is that of the build; edits reach it with the next one.
    if (shared === undefined) this.follow(world);
    this.owner.began();
    let last = performance.now();
    let frames = 0;
    const tick = (now: number) => {
      this.frame = requestAnimationFrame(tick);
      if (!this.stage.due(last, now)) return;
      const passed = (now - last) / 1000;
      last = now;
      if (++frames % 6 === 0) this.stage.keepFluent(passed);
      this.tick(passed, now);
    };
    this.frame = requestAnimationFrame(tick);
  }

  /** Where players walk; null where the build left that out. */
  get navigation(): Navmesh | null {
    return this.ground;
  }

  get running(): TrialRun | null {
    return this.run;
  }

  /** Takes the map as it is now into the run. */
  follow(world: CrateWorld): void {
    if (this.setting.shared === undefined) this.lamps?.follow(world.crate.maps[this.setting.build.map]?.objects ?? {});
    const change = this.setting.shared === undefined ? this.live?.follow(world) : null;
    if (!change || !this.run) return;
    this.run.edit(change.edit);
    this.scene?.editSolids(world, change.shown);
  }

  /** Shows what lies behind the picture. */
  overlay(wanted: ReadonlySet<Overlay>): void {
    this.overlays?.show(wanted);
    this.kept = wanted.has('drawn') ? (this.kept ?? this.run?.state?.eye ?? null) : null;
  }

  /** What is seen now, as a PNG data URL. */
  picture = (width: number, height: number): string => this.stage.picture(width, height);

  operate = (): void => this.run?.operate(this.look());
  answer = (choice: number): void => this.run?.answer(choice);
  fling = (): void => this.run?.fling(this.look());
  glide = (): void => this.run?.glide();
  /** From behind the vehicle, or from its seat. */
  changeView = (): void => {
    this.chase = !this.chase;
    this.camera = null;
  };
  drive = (on: boolean): void => this.run?.drive(on);
  command = (command: TrialCommand): void => this.run?.command(command);
  demonstrate = (steps: TrialStep[]): void => this.run?.demonstrate(steps);

  /** @param dx, dy movement of the pointer in pixels */
  turn(dx: number, dy: number): void {
    const turn = (0.0024 * Number(store.getState().preferences.values.lookSpeed)) / 100;
    // A gesture lets browsers give sound.
    if (this.beds) this.audio.begin();
    this.yaw -= dx * turn;
    this.pitch = Math.max(-1.5, Math.min(1.5, this.pitch - dy * turn));
  }

  dispose(): void {
    this.gone = true;
    cancelAnimationFrame(this.frame);
    this.beds?.dispose();
    this.audio.dispose();
    if (this.run) this.tellOver(this.run);
    this.run?.end();
    this.overlays?.dispose();
    this.scene?.dispose();
    this.run = null;
    this.stage.dispose();
  }

  private look = (): Vec3 => lookDirection({ yaw: this.yaw, pitch: this.pitch });

  private tick(passed: number, now: number): void {
    const { run, scene } = this;
    const state = run?.state;
    if (!run || !scene || !state) return;
    this.clock.pass(passed, state.demonstration !== null);
    if (!run.waiting && !run.ended) {
      const intents = this.due(state);
      if (intents.length > 0) run.advance(intents, this.look());
    }
    if (state.played) this.lookAlong(state.played.look);
    this.audio.listen(state.eye, this.look());
    this.beds?.update(state.time, state.eye, this.look(), state.mood, loudness());
    for (const played of run.takeSounds()) {
      void this.audio.play(played);
      if (played.subtitles) void this.captions.begin(played.subtitles, state.time);
    }
    scene.update();
    scene.follow(state, (at) => this.fields?.under(at)?.height ?? null, passed);
    scene.passEffects(state, ({ sound, volume, at }) => void this.audio.play({ sound, volume, subtitles: '', at }));
    this.stage.renderer.toneMappingExposure = EXPOSURE * scene.passMood(state, passed);
    this.stage.scene.background = scene.scene.background;
    this.stage.scene.fog = scene.scene.fog;
    this.keepTrack(state);
    this.figures.update(state.players);
    const { drawn, all } = scene.showFrom(this.kept ?? state.eye);
    this.reach = this.overlays?.update(state, now) ?? '';
    if (this.kept) {
      const sector = scene.sectorAt(this.kept);
      this.reach += ` ${drawn} of ${all} pieces of the map are drawn, as from ${this.kept.map(Math.round).join(', ')}${sector >= 0 ? ` in sector ${sector}` : ''}.`;
    }
    this.placeCamera(state, passed);
    this.stage.drawNow();
    if (now - this.told > TELL_EVERY || run.lines.length !== this.lines || (run.ended && !this.ended)) this.tell(run, now);
    if (run.ended) this.tellOver(run);
  }

  /** In the eye of whoever walks; of a ride from behind, above the ground, or from the seat. */
  private placeCamera(state: TrialState, passed: number): void {
    const { metres } = this.setting.world.profile.unit;
    const { camera } = this.stage;
    const { ride } = state;
    if (!ride || state.flying) {
      const eye = toGltf(state.eye, metres);
      const ahead = toGltf(this.look(), 1);
      camera.position.set(...eye);
      camera.lookAt(eye[0] + ahead[0], eye[1] + ahead[1], eye[2] + ahead[2]);
      return;
    }
    const feet = new Vector3(...toGltf(state.feet, metres));
    const ahead = new Vector3(Math.cos(ride.heading), 0, -Math.sin(ride.heading));
    if (!this.chase) {
      camera.position
        .copy(feet)
        .add(new Vector3(0, 1.05, 0))
        .addScaledVector(ahead, -0.2);
      camera.lookAt(
        feet
          .clone()
          .addScaledVector(ahead, 10)
          .add(new Vector3(0, 0.4, 0)),
      );
      return;
    }
    const wanted = feet
      .clone()
      .addScaledVector(ahead, -7.5)
      .add(new Vector3(0, 2.9, 0));
    // It hangs back a little, and never goes below the ground.
    this.camera = this.camera && this.camera.distanceTo(wanted) < 30 ? this.camera.lerp(wanted, 1 - Math.exp(-6 * Math.min(0.1, passed))) : wanted;
    const below = this.fields?.under([this.camera.x / metres, -this.camera.z / metres, state.feet[2]]);
    if (below) this.camera.y = Math.max(this.camera.y, below.height * metres + 1.3);
    camera.position.copy(this.camera);
    camera.lookAt(
      feet
        .clone()
        .addScaledVector(ahead, 5)
        .add(new Vector3(0, 1.2, 0)),
    );
  }

  /** Where the ride goes, for those who ride against it later. */
  private keepTrack(state: TrialState): void {
    const { ride, race, feet } = state;
    if (!ride || race?.time === null || race?.time === undefined || state.driven || this.setting.walk) return;
    while (this.track.length / 4 <= race.time / EVERY && !race.finished) this.track.push(...feet, ride.heading);
    if (!race.finished || this.ghostKept) return;
    this.ghostKept = true;
    keepGhost(this.setting.source.view.id, this.setting.build.map, { seconds: race.time, track: this.track });
  }

  /** What the player wants in the steps that are due. */
  private due(state: NonNullable<TrialRun['state']>): Intent[] {
    const intents: Intent[] = [];
    const walk = state.demonstration?.walk;
    for (let due = this.clock.take(); due > 0; due--) {
      if (state.ride && !state.flying && !walk) {
        intents.push({ ...readRide(this.keys, state.ride.heading), look: [Math.cos(state.ride.heading), Math.sin(state.ride.heading), 0] });
        this.yaw = state.ride.heading;
        continue;
      }
      const { intent, turn } = readIntent(this.keys, this.yaw, this.pitch, state.flying);
      if (!walk) this.yaw += turn * TIME_STEP;
      else if (walk[0] !== 0 || walk[1] !== 0) this.yaw = turnTowards(this.yaw, Math.atan2(walk[1], walk[0]));
      intents.push({ ...intent, look: this.look() });
    }
    return intents;
  }

  private lookAlong([x, y, z]: Vec3): void {
    this.yaw = Math.atan2(y, x);
    this.pitch = Math.asin(Math.max(-1, Math.min(1, z)));
  }

  private tell(run: TrialRun, now: number): void {
    const state = run.state!;
    this.told = now;
    this.lines = run.lines.length;
    this.owner.shown({
      feet: state.feet,
      yaw: this.yaw,
      flying: state.flying,
      health: state.health && state.health.now / state.health.full,
      talk: state.talk,
      offer: state.offer,
      lines: [...run.lines],
      ended: run.ended,
      reason: run.stopped?.message ?? '',
      demonstration: state.demonstration ? `step ${state.demonstration.step}` : state.played ? 'walk played back' : '',
      words: this.captions.words(state.time),
      reach: this.reach,
      particles: this.scene?.particles ?? 0,
      mood: state.mood?.name ?? '',
      heard: (this.beds?.heard ?? [])
        .map(({ id, gain }) => `${run.objects.get(id)?.object.name ?? id} ${Math.round(20 * Math.log10(gain))} dB`)
        .join(', '),
      others: state.players.map(nameOfPlayer),
      ride: state.ride,
      race: state.race,
      standings: state.standings,
      driven: state.driven,
      best: this.ghosts[0]?.seconds ?? null,
    });
  }

  private tellOver(run: TrialRun): void {
    if (this.ended) return;
    this.ended = true;
    if (document.pointerLockElement) document.exitPointerLock();
    this.owner.over(run);
  }
}
