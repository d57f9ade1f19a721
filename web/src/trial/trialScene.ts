/** A built map as the game would show it: lightmapped GLB, textures by material name, objects that move. */

import type { Quaternion } from 'three';
import { Color, Scene, type Texture, type WebGLRenderer } from 'three';
import type { ProbeGrid } from '@violet-crate/core/stages/lighting/probes';
import { groupsSeenFrom, sectorAt, type VisibilityFile } from '@violet-crate/core/stages/pack/visibilityBin';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { GameMap, MapObject, MapSettings, Mood } from '@violet-crate/core/document/schema';
import { numberOf } from '@violet-crate/core/part/part';
import { hasPart } from '@violet-crate/core/profile/parts';
import { Wind } from '@violet-crate/core/trial/wind';
import type { EffectSound } from '@violet-crate/core/effect/play';
import { mapSuns } from '@violet-crate/core/map/lights';
import { posePoint } from '@violet-crate/core/math/pose';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { ShownObject, TrialState } from '@violet-crate/core/trial/apart';
import type { ShownSolid } from '@violet-crate/core/trial/liveMap';
import type { TrialBody, TrialThing } from '../part/look.ts';
import { looksOf } from '../part/looks.ts';
import { loadModel } from '../three/assets3d.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { BuiltGround, type ReadBuilt } from '../three/builtGround.ts';
import { BuiltMap } from '../three/builtMap.ts';
import { EffectsScene, type EffectOrder } from '../three/effectsScene.ts';
import { skyFloor, topOf } from '@violet-crate/core/map/depthBelow';
import { daylightLamps, Falling, fogOf, type FloorAt } from '../three/daylight.ts';
import { MoodScene } from '../three/moodScene.ts';
import { lightAt, lightByProbes } from '../three/probeLit.ts';
import { freeTree } from '../three/stage3d.ts';
import type { GhostTrack } from './ghosts.ts';
import { LiveSolids } from './liveSolids.ts';
import { RideView } from './rideView.ts';

/** Width of the columns in which roofs are looked for, metres. */
const ROOF_CELL = 0.5;
/** Edges of what is not lit yet. */
const UNBUILT = '#e5b45c';

export class TrialScene {
  readonly scene = new Scene();
  /** What is drawn of every object that is shown; an object that was edited is another value. */
  private readonly shown = new Map<string, { item: ShownObject; bodies: { body: TrialBody; placed: Quaternion }[] }>();
  private live: LiveSolids | null = null;
  private readonly built: BuiltMap;
  private sky: Texture | null = null;
  private readonly m: number;
  private ground: BuiltGround | null = null;
  private falling: Falling | null = null;
  readonly ride: RideView;
  private readonly effects: EffectsScene;
  private readonly wind: Wind;
  private effectTime = 0;
  /** Number of the mood that the build is lit for. */
  litMood = 1;
  private mood: Mood | null = null;
  private moods: MoodScene | null = null;

  constructor(
    private readonly world: CrateWorld,
    private readonly objects: ReadonlyMap<string, ShownObject>,
    private readonly source: AssetSource,
    private readonly renderer: WebGLRenderer,
    private readonly lookup: { visibility: VisibilityFile; probes: ProbeGrid | null },
    /** The map has ground under an open sky. */
    private readonly open: boolean,
    /** The map with what copies of prefabs stand for. */
    private readonly whole: GameMap,
  ) {
    this.m = world.profile.unit.metres;
    this.built = new BuiltMap(world, source, renderer, open);
    this.ride = new RideView(this.m);
    this.effects = new EffectsScene(source);
    this.wind = new Wind(() => this.mood ?? whole.settings.weather);
    this.scene.add(this.effects.group);
  }

  async load(glb: ArrayBuffer, light: ArrayBuffer | undefined, settings: MapSettings, read: ReadBuilt): Promise<void> {
    const { skyColour, skyIntensity, skyMaterial } = settings;
    this.scene.background = new Color(skyColour);
    const sky = skyMaterial ? await this.built.skyOf(skyMaterial) : null;
    if (sky) {
      this.sky = sky;
      this.scene.background = sky;
      this.scene.backgroundIntensity = skyIntensity;
    }
    this.scene.add(await this.built.load(glb, light));
    if (this.open) await this.loadGround(settings, read);
    this.live = new LiveSolids(this.built, this.lookup.probes, this.m, UNBUILT);
    this.scene.add(this.live.group);
    await Promise.all([...this.objects.values()].map((item) => this.addObject(item)));
  }

  /** Ground, daylight and weather of a map in the open. */
  private async loadGround(settings: MapSettings, read: ReadBuilt): Promise<void> {
    const ground = new BuiltGround(this.world, this.source, this.renderer, this.built);
    if (await ground.load(read)) {
      this.ground = ground;
      this.scene.add(ground.group);
    }
    if (settings.moods?.length) {
      this.scene.add(this.ride.group);
      return;
    }
    this.scene.add(daylightLamps(mapSuns(this.world.profile, { objects: this.placed() }), settings), this.ride.group);
    this.scene.fog = fogOf(settings.weather, this.m);
    if (settings.weather) {
      this.falling = new Falling(this.scene, this.m, this.floorAt);
      this.falling.set({ ...settings.weather, heavy: 1 });
    }
  }

  /** Lets effects go on to a time of the run; after a pause or a jump they just go on. */
  passEffects({ time, eye }: Pick<TrialState, 'time' | 'eye'>, heard: (sound: EffectSound) => void): void {
    const passed = Math.max(0, Math.min(0.1, time - this.effectTime));
    this.effectTime = time;
    const orders = new Map<string, EffectOrder>();
    for (const { id, object, properties, pose, gone } of this.objects.values()) {
      if (gone || !hasPart(this.world.profile, object.class, 'effect')) continue;
      orders.set(id, {
        effect: String(properties.effect ?? ''),
        position: posePoint(pose, object.position, object.position),
        turn: object.turn,
        running: properties.running === true,
        started: numberOf(properties.started),
        bursts: numberOf(properties.bursts),
      });
    }
    if (orders.size === 0 && !this.effects.any) return;
    this.effects.follow(this.world, this.whole, orders, (at) => (this.lookup.probes ? lightAt(this.lookup.probes, at, [0, 0, 1]) : [1, 1, 1]));
    this.effects.advance(passed, this.world.profile.player.gravity, this.wind.at(time), eye, heard);
  }

  /** Particles of all effects that live now. */
  get particles(): number {
    return this.effects.particles;
  }

  /** What rain and snow come down on: solids and ground that lie open to the sky. */
  private readonly floorAt: FloorAt = (x, z) => {
    this.roofs ??= skyFloor(this.whole, topOf(this.whole), ROOF_CELL / this.m);
    const height = this.roofs(x / this.m, -z / this.m);
    return height === null ? null : height * this.m;
  };
  private roofs: ReturnType<typeof skyFloor> | null = null;

  /** Time and weather as the run has them. Answers what the picture's exposure is multiplied by. */
  passMood({ mood, eye }: Pick<TrialState, 'mood' | 'eye'>, seconds: number): number {
    if (!mood) return 1;
    const { place, moods = [] } = this.whole.settings;
    // A map in the open has lamps for its props; elsewhere they are lit by what was built.
    this.moods ??= new MoodScene(this.scene, this.m, this.open, this.floorAt);
    if (JSON.stringify(mood) !== JSON.stringify(this.mood)) {
      this.mood = mood;
      this.moods.set(mood, place);
      this.scene.background = null;
    }
    this.moods.update(toGltf(eye, this.m), seconds);
    // What is built is lit for one mood: in another, in the open, the picture is as much darker as its sky and sun are.
    const built = moods[this.litMood - 1];
    const share = this.open && built ? MoodScene.brightness(mood, place) / Math.max(0.001, MoodScene.brightness(built, place)) : 1;
    return this.moods.exposure * Math.min(2, Math.max(0.05, share));
  }

  private placed(): Record<string, MapObject> {
    return Object.fromEntries([...this.objects].map(([id, { object }]) => [id, object]));
  }

  /** What follows the eye and what is ridden. @param seconds since the last call */
  follow(state: Pick<TrialState, 'ride' | 'race' | 'eye'>, below: (at: Vec3) => number | null, seconds: number): void {
    this.ground?.update(state.eye);
    this.falling?.update(toGltf(state.eye, this.m), seconds);
    const item = state.ride && this.objects.get(state.ride.id);
    const at: Vec3 = item ? posePoint(item.pose, item.object.position, item.object.position) : [0, 0, 0];
    this.ride.update(state.ride, at, item ? below(at) : null, state.race?.time ?? null);
  }

  /** Has the best runs ride along. */
  async rideAgainst(tracks: readonly GhostTrack[], id: string): Promise<void> {
    const model = this.objects.get(id)?.properties.model;
    if (tracks.length > 0 && typeof model === 'string') this.ride.race(tracks, await loadModel(this.source, model));
  }

  /** Leaves out what cannot be seen from a point, in map units. Answers how many pieces of the map are drawn, and how many there are. */
  showFrom(eye: Vec3): { drawn: number; all: number } {
    let drawn = 0;
    groupsSeenFrom(this.lookup.visibility, eye).forEach((seen, group) => {
      const node = this.built.groups.get(group);
      if (!node) return;
      node.visible = seen;
      if (seen) drawn++;
    });
    return { drawn, all: this.built.groups.size };
  }

  /** Number of the sector of a point; -1 where it lies in none. */
  sectorAt(point: Vec3): number {
    return this.lookup.visibility.planes.length > 0 ? sectorAt(this.lookup.visibility, point) : -1;
  }

  private async addObject(item: ShownObject): Promise<void> {
    const entry = { item, bodies: [] as { body: TrialBody; placed: Quaternion }[] };
    this.shown.set(item.id, entry);
    const looks = looksOf(this.world.profile, item.object.class);
    const thing: TrialThing = {
      item,
      box: item.box,
      profile: this.world.profile,
      metres: this.m,
      texture: (material) => this.built.textureOf(String(material)),
      brightness: (at) => lightAt(this.lookup.probes, at, [0, 0, 1]),
      model: async (path) => {
        const model = await loadModel(this.source, path);
        if (model && !this.open) lightByProbes(model, this.lookup.probes, this.m);
        return model;
      },
    };
    const bodies = looks.flatMap((look) => look.trialExtra?.(thing) ?? []);
    for (const look of looks) {
      const body = await look.trialBody?.(thing);
      if (!body) continue;
      bodies.push(body);
      break;
    }
    // It may have been edited again, or removed, while its model was loaded.
    if (this.shown.get(item.id) !== entry) {
      bodies.forEach(({ node }) => freeTree(node));
      return;
    }
    for (const body of bodies) {
      this.scene.add(body.node);
      entry.bodies.push({ body, placed: body.node.quaternion.clone() });
    }
  }

  private dropObject(id: string): void {
    for (const { body } of this.shown.get(id)?.bodies ?? []) {
      this.scene.remove(body.node);
      freeTree(body.node);
    }
    this.shown.delete(id);
  }

  /** Solids that were edited while the run goes on. */
  editSolids(world: CrateWorld, solids: Readonly<Record<string, ShownSolid>>): void {
    void this.live?.edit(world, solids);
  }

  /** Puts everything where the simulation has it now. */
  update(): void {
    for (const id of this.shown.keys()) if (!this.objects.has(id)) this.dropObject(id);
    for (const item of this.objects.values()) {
      if (this.shown.get(item.id)?.item === item) continue;
      this.dropObject(item.id);
      void this.addObject(item);
    }
    for (const { item, bodies } of this.shown.values()) for (const one of bodies) this.place(item, one.body, one.placed);
  }

  private place(item: ShownObject, body: TrialBody, placed: Quaternion): void {
    if (body.update) return body.update(item);
    const { pose, object, gone } = item;
    body.node.visible = !gone;
    body.node.position.set(...toGltf(posePoint(pose, object.position, body.rest), this.m));
    const [x, y, z, w] = pose.turn;
    body.node.quaternion.set(x, z, 0 - y, w).multiply(placed);
  }

  dispose(): void {
    this.ground?.dispose();
    this.ride.dispose();
    this.effects.dispose();
    this.moods?.dispose();
    this.falling?.dispose();
    freeTree(this.scene);
    this.sky?.dispose();
    this.built.dispose();
  }
}
