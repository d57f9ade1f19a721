/**
 * What stands in the perspective, and its camera. The scene follows its inputs: `update` takes all of them, and each thing
 * in it is made anew only where something that it reads is another value than before. Scene space is glTF's, in metres
 * (see `stages/pack/gltfSpace`); places that come in or go out are in map units.
 */

import { AmbientLight, Color, Group, NoToneMapping, Plane, PointLight, ReinhardToneMapping, SpotLight, Vector3, type PerspectiveCamera } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { lyingOf } from '@violet-crate/core/decal/throwing';
import type { Band, GameMap, Mood, Solid } from '@violet-crate/core/document/schema';
import { numberOf } from '@violet-crate/core/part/part';
import { hasPart } from '@violet-crate/core/profile/parts';
import { Wind } from '@violet-crate/core/trial/wind';
import { membersBox } from '@violet-crate/core/map/member/members';
import { boxCentre, boxOfPoints, type Box3 } from '@violet-crate/core/math/box3';
import { addScaled, type Vec3 } from '@violet-crate/core/math/vec3';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { groundsOf } from '@violet-crate/core/terrain/ground';
import { rayGround } from '@violet-crate/core/terrain/ray';
import type { ProbeGrid } from '@violet-crate/core/stages/lighting/probes';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { AssetSource } from '../../api/assetUrl.ts';
import { lookOf } from '../../part/looks.ts';
import { preferredHere } from '../../state/preferencesSlice.ts';
import { store } from '../../state/store.ts';
import { isEmpty, isShown, type ViewState } from '../../state/viewSlice.ts';
import { lightByProbes } from '../../three/probeLit.ts';
import { freeTree, type Stage3d } from '../../three/stage3d.ts';
import type { CameraPlace } from '../editing/camera.ts';
import { currentGhost, onGhost } from '../editing/ghost.ts';
import type { SheetColours } from '../editing/useDocument.ts';
import type { BuiltGround } from '../../three/builtGround.ts';
import { routesGroup } from '../route/routeScene.ts';
import { GroundScene } from '../ground/groundScene.ts';
import { skyFloor, topOf } from '@violet-crate/core/map/depthBelow';
import { MoodScene } from '../../three/moodScene.ts';
import { EffectsScene, type EffectOrder } from '../../three/effectsScene.ts';
import { DecalsScene } from './decalsScene.ts';
import { FlyCamera } from './fly.ts';
import {
  editingLights,
  ghostGroup,
  linksGroup,
  objectGroup,
  ObjectsScene,
  playerFigure,
  previewLights,
  selectionGroup,
  SolidsScene,
  trailGroup,
} from './mapScene.ts';
import { pickPerspective, pointerRay, type Hit, type PointerAt, type Ray } from './perspectivePick.ts';

export interface PerspectiveInputs {
  world: CrateWorld;
  source: AssetSource;
  mapName: string;
  /** The map that is edited. */
  map: GameMap;
  /** The same with what copies of prefabs stand for. */
  whole: GameMap;
  /** Solids to draw: those of `whole`, and what stands around an opened prefab. */
  solids: Record<string, Solid>;
  view: ViewState;
  band: Band;
  colours: SheetColours;
  /** The map as it was built stands in the solids' place. */
  stands: boolean;
  /** Light for props as it was built; null while there is none. */
  probes: ProbeGrid | null;
}

/** What the scene needs of its canvas. */
export type Picture = Pick<Stage3d, 'scene' | 'camera' | 'renderer' | 'draw' | 'picture'>;

/** One thing of the scene that follows its inputs. */
interface Follower {
  /** What it is made from. */
  reads(inputs: PerspectiveInputs): readonly unknown[];
  apply(scene: PerspectiveScene, inputs: PerspectiveInputs): void;
}

/** As in the game: no marks, the sky behind. */
const asGame = ({ view }: PerspectiveInputs): boolean => view.look === 'game';
/** The mood that is looked at, or null. */
const moodOf = ({ map, view }: Pick<PerspectiveInputs, 'map' | 'view'>): Mood | null =>
  map.settings.moods?.find(({ name }) => name === view.mood) ?? null;
const metresOf = ({ world }: PerspectiveInputs): number => world.profile.unit.metres;

/** Replaces what a group holds and frees the old. */
export function refill(group: Group, ...next: readonly Group[]): void {
  freeTree(group);
  group.clear();
  if (next.length > 0) group.add(...next);
}

/** Width of the columns in which roofs are looked for, metres. */
const ROOF_CELL = 0.5;
const EMPTY_BOX: Box3 = { min: [-256, -256, 0], max: [256, 256, 128] };

/** In the order in which they are brought up to date. */
const FOLLOWERS: readonly Follower[] = [
  {
    // Where the camera first stands: above a corner, looking over everything.
    reads: ({ source }) => [source.view.id],
    apply(scene, { whole, band }) {
      const boxes = [...Object.values(whole.solids).map((solid) => shapeOf(solid).box), ...groundsOf(whole).map(({ box }) => box)];
      const { min, max } = boxes.length > 0 ? boxOfPoints(boxes.flatMap((box) => [box.min, box.max])) : EMPTY_BOX;
      const size = Math.max(max[0] - min[0], max[1] - min[1]);
      const target: Vec3 = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, band.bottom];
      scene.goTo({ target, position: [target[0] - size * 0.35, target[1] - size * 0.75, target[2] + size * 0.75] });
    },
  },
  {
    reads: (i) => [asGame(i) ? i.map.settings.skyColour : i.colours.sunken],
    apply: (scene, i) => (scene.picture.scene.background = new Color(asGame(i) ? i.map.settings.skyColour : i.colours.sunken)),
  },
  {
    reads: (i) => [i.view.fieldOfView, i.view.far, metresOf(i)],
    apply({ camera }, i) {
      camera.fov = i.view.fieldOfView;
      camera.far = i.view.far * metresOf(i);
      camera.updateProjectionMatrix();
    },
  },
  { reads: ({ view }) => [view.fly], apply: (scene, { view }) => scene.fly(view.fly) },
  {
    // What only this view hides is among the inputs; what else the view holds is not.
    reads: (i) => {
      const { source, mapName, solids, world, view } = i;
      return [solids, mapName, source, world.base, world.crate.manifest.materials, view.hidden, view.hiddenLayers, view.hideUnseen, asGame(i)];
    },
    apply(scene, i) {
      const { source, mapName, solids, world, view } = i;
      const look = { shown: (id: string) => isShown(view, 'solids', id, solids[id].layer), undrawn: !view.hideUnseen && !asGame(i) };
      const context = [mapName, source, world.base, world.crate.manifest.materials, look.undrawn];
      scene.solidsScene.update(world, solids, source, look, context, scene.draw);
    },
  },
  {
    reads: (i) => [
      i.map.decals,
      i.map.overlays,
      i.map.terrains,
      i.map.tiles,
      i.whole.solids,
      i.source,
      i.world.base,
      i.world.crate.manifest.materials,
      i.view.hidden,
      i.view.hiddenLayers,
    ],
    apply: (scene, { map }) => scene.showDecals(lyingOf(map)),
  },
  {
    reads: (i) => [i.map.terrains, i.map.tiles, i.source, i.world.base, i.world.crate.manifest.materials, i.stands],
    apply: (scene) => scene.showGround(),
  },
  {
    reads: (i) => [i.whole.objects, i.source, i.colours, i.probes, i.view.hidden, i.view.hiddenLayers, asGame(i)],
    apply(scene, i) {
      const { world, whole, source, colours, view, probes } = i;
      const shown = (id: string) => {
        const object = whole.objects[id];
        // As in the game, only what has a body or gives light is there.
        return isShown(view, 'objects', id, object.layer) && (!asGame(i) || lookOf(world.profile, object.class, 'inGame') === true);
      };
      const make = (object: GameMap['objects'][string]) =>
        objectGroup(world, object, source, colours, (model) => {
          if (probes) lightByProbes(model, probes, metresOf(i));
          scene.draw();
        });
      scene.objects.update(whole.objects, shown, make, [source, colours, probes]);
    },
  },
  {
    reads: (i) => [i.whole, i.source, i.world.crate.data, i.view.playEffects, i.view.hidden, i.view.hiddenLayers, i.map.settings, i.view.mood],
    apply: (scene) => scene.showEffects(),
  },
  {
    reads: (i) => [i.map, i.whole, i.view.selection, i.view.trail, i.colours, asGame(i)],
    apply({ marks }, i) {
      const { world, map, whole, view, colours } = i;
      refill(
        marks,
        selectionGroup(world, map, whole, view.selection, colours.warm),
        ...(view.trail ? [trailGroup(view.trail, metresOf(i), colours.warm)] : []),
      );
      marks.visible = !asGame(i);
    },
  },
  {
    reads: (i) => [i.whole, i.view.showSignals && !asGame(i), i.colours],
    apply({ links }, i) {
      refill(links, ...(i.view.showSignals && !asGame(i) ? [linksGroup(i.whole, metresOf(i), i.colours)] : []));
    },
  },
  {
    reads: (i) => [i.map.routes, i.map.terrains, i.map.tiles, i.view.jumpSpeed, i.colours, asGame(i)],
    apply: ({ routes }, i) => refill(routes, ...(asGame(i) ? [] : [routesGroup(i.map, i.world.profile, i.view.jumpSpeed, i.colours)])),
  },
  {
    reads: (i) => [moodOf(i), i.map.settings.place, i.whole.solids, i.whole.tiles],
    apply: (scene, i) => scene.showMood(moodOf(i)),
  },
  {
    reads: (i) => [i.whole, i.view.lit || asGame(i), i.view.hour, i.stands, moodOf(i)],
    apply(scene, i) {
      if (moodOf(i)) {
        // Sky, sun and moon are the mood's; of the map come its lamps.
        const lamps = previewLights(i.world.profile, i.whole, scene.place().target, i.view.hour);
        return refill(scene.lights, new Group().add(...lamps.children.filter((lamp) => lamp instanceof PointLight || lamp instanceof SpotLight)));
      }
      // What was built has its light in it.
      if (i.stands) return refill(scene.lights, new Group().add(new AmbientLight('#fff', 0.12)));
      if (!i.view.lit && !asGame(i)) return refill(scene.lights, new Group().add(...editingLights()));
      refill(scene.lights, previewLights(i.world.profile, i.whole, scene.place().target, i.view.hour));
    },
  },
  {
    reads: (i) => [i.view.cutAway && !asGame(i), i.band.top],
    apply({ picture }, i) {
      const cut = i.view.cutAway && !asGame(i);
      picture.renderer.clippingPlanes = cut ? [new Plane(new Vector3(0, -1, 0), (i.band.top - 0.5) * metresOf(i))] : [];
    },
  },
  {
    reads: (i) => [i.view.figure, i.world.profile, i.colours],
    apply: ({ figure }, i) => refill(figure, ...(i.view.figure ? [playerFigure(i.world.profile, i.colours.clear)] : [])),
  },
  {
    // Only a new request moves the camera, not what else became of the map since.
    reads: ({ view }) => [view.focus?.count],
    apply(scene, i) {
      const { focus } = i.view;
      if (!focus) return;
      const target = new Vector3(...toGltf(focus.point, metresOf(i)));
      const away = scene.camera.position.clone().sub(scene.controls.target);
      away.setLength(Math.min(away.length(), focus.frame ? Math.max(focus.frame * 1.6, 48) * metresOf(i) : 320 * metresOf(i)));
      scene.look(target, target.clone().add(away));
    },
  },
  {
    // Following keeps the selection where it was in the picture while it moves.
    reads: ({ map, view }) => (view.follow ? [map, view.selection] : [null, null]),
    apply(scene, i) {
      const { map, view, world } = i;
      const box = view.follow && !isEmpty(view.selection) ? membersBox(map, world.profile, view.selection) : null;
      if (!box) return;
      const target = new Vector3(...toGltf(boxCentre(box), metresOf(i)));
      scene.look(target, scene.camera.position.clone().add(target).sub(scene.controls.target));
    },
  },
  { reads: ({ colours }) => [colours], apply: (scene) => scene.showGhost() },
];

export class PerspectiveScene {
  readonly controls: OrbitControls;
  readonly solidsScene = new SolidsScene();
  readonly decals = new DecalsScene();
  readonly objects = new ObjectsScene();
  readonly ground = new GroundScene(() => this.draw());
  readonly marks = new Group();
  readonly links = new Group();
  readonly routes = new Group();
  readonly lights = new Group();
  readonly figure = new Group();
  /** Where what is dragged is drawn. */
  readonly draft = new Group();
  readonly ghost = new Group();
  /** Where the map as it was built comes to stand. */
  readonly built = new Group();
  private effects: { scene: EffectsScene; source: AssetSource } | null = null;
  private playing = 0;
  private moods: MoodScene | null = null;
  private inputs: PerspectiveInputs | null = null;
  private readonly read = new Map<Follower, readonly unknown[]>();
  private flight: FlyCamera | null = null;
  private brushing = false;
  private builtGround: BuiltGround | null = null;
  private readonly offGhost: () => void;

  /**
   * @param host the element that is watched while flying
   * @param onFlight told with every move: metres per second, null where the flight ends
   */
  constructor(
    readonly picture: Picture,
    private readonly host: HTMLElement,
    private readonly onFlight: (speed: number | null) => void,
  ) {
    this.controls = new OrbitControls(picture.camera, picture.renderer.domElement);
    this.controls.addEventListener('change', this.draw);
    // What is near the eye is drawn more finely: looked at again when the view comes to rest.
    this.controls.addEventListener('end', () => this.showGround());
    const { marks, links, routes, lights, figure, draft, ghost, built } = this;
    picture.scene.add(
      this.solids,
      this.decals.group,
      this.ground.group,
      this.objects.group,
      marks,
      links,
      routes,
      lights,
      figure,
      draft,
      ghost,
      built,
    );
    this.offGhost = onGhost(() => this.showGhost());
  }

  get camera(): PerspectiveCamera {
    return this.picture.camera;
  }

  get solids(): Group {
    return this.solidsScene.group;
  }

  /** Solids and decals as they are edited, or not: where the map stands as it was built. */
  showEdited(visible: boolean): void {
    this.solids.visible = visible;
    this.decals.group.visible = visible;
  }

  readonly draw = (): void => this.picture.draw();

  /** Brings up to date whatever reads something that is another value than at the last update. */
  update(inputs: PerspectiveInputs): void {
    this.inputs = inputs;
    for (const follower of FOLLOWERS) {
      const [next, last] = [follower.reads(inputs), this.read.get(follower)];
      if (last?.every((value, i) => value === next[i])) continue;
      this.read.set(follower, next);
      follower.apply(this, inputs);
      this.draw();
    }
  }

  private get metres(): number {
    return this.inputs ? metresOf(this.inputs) : 1;
  }

  place(): CameraPlace {
    const back = (p: Vector3): Vec3 => [p.x / this.metres, -p.z / this.metres, p.y / this.metres];
    return { position: back(this.camera.position), target: back(this.controls.target) };
  }

  goTo({ position, target }: CameraPlace): void {
    this.look(new Vector3(...toGltf(target, this.metres)), new Vector3(...toGltf(position, this.metres)));
  }

  /** Turns the camera to a point, both in scene space. */
  look(target: Vector3, from: Vector3): void {
    this.controls.target.copy(target);
    this.camera.position.copy(from);
    this.controls.update();
    this.draw();
  }

  /** Flying and turning about share the camera; the target stays ahead so that one can go on from there. */
  fly(wanted: boolean): void {
    this.controls.enabled = !wanted;
    this.flight?.dispose();
    this.flight = null;
    if (!wanted) return this.onFlight(null);
    const { flySpeed, lookSpeed } = preferredHere(store.getState());
    const told = (speed: number) => {
      const ahead = new Vector3(0, 0, -6).applyQuaternion(this.camera.quaternion);
      this.controls.target.copy(this.camera.position).add(ahead);
      this.onFlight(speed);
      this.draw();
    };
    this.flight = new FlyCamera(this.camera, this.host, told, { speed: Number(flySpeed), turn: (0.004 * Number(lookSpeed)) / 100 });
    this.onFlight(this.flight.speed);
    this.host.focus();
  }

  /** Stops and lets go on the turning of the view. */
  hold(held: boolean): void {
    this.controls.enabled = !held && !this.flight;
  }

  /** Puts the ground of a build in the place of the one that is edited; null takes it away. */
  stand(ground: BuiltGround | null): void {
    if (this.builtGround) this.picture.scene.remove(this.builtGround.group);
    this.builtGround = ground;
    if (ground) this.picture.scene.add(ground.group);
    this.showGround();
  }

  /** The ground as it is, or as the brush has it now; as it was built where that is shown. */
  showGround(): void {
    if (!this.inputs) return;
    this.builtGround?.update(this.place().position);
    const { world, source, map, stands } = this.inputs;
    const brushed = currentGhost()?.ground;
    const grounds = stands && this.builtGround ? [] : groundsOf(map).map((ground) => (ground.id === brushed?.ground.id ? brushed.ground : ground));
    this.ground.update(world, source, grounds, this.place().position, brushed?.tiles ?? null);
    this.draw();
  }

  /** Where the pointer meets the ground; null where it does not. */
  groundAt(event: PointerAt): Vec3 | null {
    if (!this.inputs) return null;
    const { origin, direction } = this.rayAt(event);
    let nearest = Infinity;
    for (const ground of groundsOf(this.inputs.map)) nearest = Math.min(nearest, rayGround(ground, origin, direction) ?? Infinity);
    return nearest < Infinity ? addScaled(origin, direction, nearest) : null;
  }

  /** @param lying the decals and overlays of the map, or as they are while one is dragged */
  showDecals(lying: ReturnType<typeof lyingOf>): void {
    if (!this.inputs) return;
    const { map, whole, source, world, view } = this.inputs;
    const shown = (id: string) => isShown(view, 'points' in lying[id] ? 'overlays' : 'decals', id, lying[id].layer);
    const look = { world, source, shown, onTexture: this.draw, grounds: groundsOf(map) };
    this.decals.update(lying, whole.solids, look, [source, world.base, world.crate.manifest.materials]);
    this.draw();
  }

  /** Effects where their objects are: as they are after a while, or moving where that is wanted. */
  showEffects(): void {
    if (!this.inputs) return;
    const { world, whole, source, view } = this.inputs;
    if (this.effects?.source !== source) {
      this.effects?.scene.dispose();
      this.effects?.scene.group.removeFromParent();
      this.effects = { scene: new EffectsScene(source, () => this.showEffects()), source };
      this.picture.scene.add(this.effects.scene.group);
    }
    const orders = new Map<string, EffectOrder>();
    for (const [id, { class: of, properties, position, turn, layer }] of Object.entries(whole.objects)) {
      if (!hasPart(world.profile, of, 'effect') || !isShown(view, 'objects', id, layer)) continue;
      orders.set(id, {
        effect: String(properties.effect ?? ''),
        position,
        turn,
        // One that waits for its signal is shown all the same: where it would be, and what it would look like.
        running: true,
        started: numberOf(properties.started),
        bursts: 0,
      });
    }
    const { scene } = this.effects;
    scene.follow(world, whole, orders, () => [0.8, 0.8, 0.8]);
    this.passEffects(0.5);
    cancelAnimationFrame(this.playing);
    this.playing = 0;
    if (!view.playEffects || (!scene.any && !this.moods)) return;
    let last = performance.now();
    const tick = (now: number) => {
      this.playing = requestAnimationFrame(tick);
      this.passEffects(Math.min(0.1, (now - last) / 1000));
      last = now;
    };
    this.playing = requestAnimationFrame(tick);
  }

  /** Sky, light and weather of a mood, without a build; null takes them away. */
  showMood(mood: Mood | null): void {
    // Where there was none, the tone of the picture is not this one's to set: built light has its own.
    if (!mood && !this.moods) return;
    const { renderer, scene } = this.picture;
    this.moods?.dispose();
    this.moods = null;
    renderer.toneMapping = mood ? ReinhardToneMapping : NoToneMapping;
    renderer.toneMappingExposure = mood ? mood.exposure * 1.5 : 1;
    if (!mood || !this.inputs) return;
    const { whole, map } = this.inputs;
    const m = this.metres;
    const floor = skyFloor(whole, topOf(whole), ROOF_CELL / m);
    this.moods = new MoodScene(scene, m, true, (x, z) => {
      const height = floor(x / m, -z / m);
      return height === null ? null : height * m;
    });
    this.moods.set(mood, map.settings.place);
    this.moods.update(this.camera.position.toArray(), 0.02);
    // What falls and drifts moves with the effects.
    if (this.inputs.view.playEffects) this.showEffects();
    this.draw();
  }

  private effectTime = 0;

  private passEffects(seconds: number): void {
    if (!this.inputs || !this.effects) return;
    const { world, map } = this.inputs;
    this.effectTime += seconds;
    const weather = moodOf(this.inputs) ?? map.settings.moods?.[0] ?? map.settings.weather;
    const wind = new Wind(() => weather).at(this.effectTime);
    this.moods?.update(this.camera.position.toArray(), seconds);
    this.effects.scene.advance(seconds, world.profile.player.gravity, wind, this.place().position);
    this.draw();
  }

  /** What is being drawn or dragged on any sheet. */
  showGhost(): void {
    const ghost = currentGhost();
    if (ghost?.ground || this.brushing) this.showGround();
    this.brushing = Boolean(ghost?.ground);
    refill(this.ghost, ...(ghost && this.inputs ? [ghostGroup(ghost, this.metres, this.inputs.colours.warm)] : []));
    this.draw();
  }

  rayAt(event: PointerAt): Ray {
    return pointerRay(event, this.host, this.camera, this.metres);
  }

  /** What lies under the pointer, nearest first. */
  pick(event: PointerAt): Hit[] {
    return this.inputs ? pickPerspective(this.rayAt(event), this.inputs) : [];
  }

  /** Puts the player's figure where the pointer meets a solid; takes it away elsewhere. */
  standAt(event: PointerAt): void {
    const point = this.pick(event).find(({ solid }) => solid)?.point ?? this.groundAt(event);
    this.figure.visible = Boolean(point);
    if (point) this.figure.position.set(...toGltf(point, this.metres));
    this.draw();
  }

  /** The view as a PNG data URL without marks. */
  takePicture(width: number, height: number): string {
    const marks = [this.marks, this.links, this.routes, this.figure, this.draft, this.ghost].filter((group) => group.visible);
    for (const group of marks) group.visible = false;
    const url = this.picture.picture(width, height);
    for (const group of marks) group.visible = true;
    this.draw();
    return url;
  }

  dispose(): void {
    this.offGhost();
    cancelAnimationFrame(this.playing);
    this.effects?.scene.dispose();
    this.moods?.dispose();
    this.ground.dispose();
    this.flight?.dispose();
    this.controls.dispose();
  }
}
