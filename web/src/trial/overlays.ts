/** What lies behind the picture of a run: shapes that collide, volumes, the floor that is walked on, probes, names, reach. */

import {
  BufferAttribute,
  BufferGeometry,
  CanvasTexture,
  Group,
  LineBasicMaterial,
  LineSegments,
  Points,
  PointsMaterial,
  Sprite,
  SpriteMaterial,
  type ColorRepresentation,
  type Object3D,
} from 'three';
import type { Box3 } from '@violet-crate/core/math/box3';
import { add, addScaled, type Vec3 } from '@violet-crate/core/math/vec3';
import { factOf } from '@violet-crate/core/profile/parts';
import type { Profile } from '@violet-crate/core/profile/schema';
import { solidPolygons } from '@violet-crate/core/solid/solid';
import type { ProbeGrid } from '@violet-crate/core/stages/lighting/probes';
import type { Navmesh } from '@violet-crate/core/stages/navigation/navmesh';
import type { Collision, CollisionSolid } from '@violet-crate/core/stages/pack/collisionBin';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { posePoint } from '@violet-crate/core/math/pose';
import type { ShownObject, TrialState } from '@violet-crate/core/trial/apart';
import { obstacleFromBox, obstacleFromPlanes } from '@violet-crate/core/trial/collide';
import { jumpLandings } from '@violet-crate/core/trial/landings';
import { Surround } from '@violet-crate/core/trial/surround';
import { TIME_STEP } from '@violet-crate/core/trial/world';
import { freeTree } from '../three/stage3d.ts';

export const OVERLAYS = [
  ['collision', 'Collision shapes'],
  ['normals', 'Normals of their faces'],
  ['volumes', 'Volumes'],
  ['floor', 'Walkable floor'],
  ['probes', 'Light probes'],
  ['names', 'Names'],
  ['reach', 'Reach of a jump'],
  ['drawn', 'What is drawn from here, kept'],
] as const;
export type Overlay = (typeof OVERLAYS)[number][0];

export interface OverlaySources {
  profile: Profile;
  collision: Collision;
  probes: ProbeGrid | null;
  navigation: Navmesh | null;
  objects: ReadonlyMap<string, ShownObject>;
}

const COLOURS: Record<Exclude<Overlay, 'names' | 'drawn'>, ColorRepresentation> = {
  collision: '#7fd6c2',
  normals: '#f0a3d8',
  volumes: '#e5b45c',
  floor: '#9fd46b',
  probes: '#ffffff',
  reach: '#ff9d6b',
};
/** Directions in which jumps are tried, and milliseconds between two looks. */
const DIRECTIONS = 48;
const LOOK_EVERY = 500;

export class TrialOverlays {
  readonly group = new Group();
  private readonly parts = new Map<Overlay, Object3D>();
  private readonly surround: Surround;
  private readonly m: number;
  private looked = 0;
  private from = '';

  constructor(private readonly sources: OverlaySources) {
    this.m = sources.profile.unit.metres;
    this.surround = new Surround(sources.profile.player.height * 2);
    for (const { id, planes, surfaces } of sources.collision.solids) this.surround.set(id, [obstacleFromPlanes(id, planes, surfaces)]);
  }

  /** Shows these and no others. */
  show(wanted: ReadonlySet<Overlay>): void {
    for (const [id] of OVERLAYS) {
      const known = this.parts.get(id);
      if (!wanted.has(id)) {
        if (known) this.drop(id, known);
      } else if (!known) this.put(id, this.make(id));
    }
  }

  /** Follows what moves. Answers what is to be said of the reach, or empty. */
  update(state: TrialState, now: number): string {
    if (this.parts.has('volumes')) this.renew('volumes');
    const names = this.parts.get('names');
    if (names) this.placeNames(names);
    return this.parts.has('reach') ? this.look(state, now) : '';
  }

  dispose(): void {
    freeTree(this.group);
  }

  private said = '';

  private look({ feet, ground, flying }: TrialState, now: number): string {
    const from = feet.map(Math.round).join();
    if (now - this.looked < LOOK_EVERY || from === this.from) return this.said;
    this.looked = now;
    this.from = from;
    if (!ground || flying) return (this.said = 'Stand on something to see how far a jump carries.');
    const { player, unit } = this.sources.profile;
    const fixed = [...this.sources.objects.values()].flatMap((item) =>
      item.gone || factOf(this.sources.profile, item.object.class, 'hollow') ? [] : [obstacleFromBox(item.id, this.boxNow(item))],
    );
    const near = (box: Box3) => [...this.surround.near(box), ...fixed.filter((o) => touches(o.box, box))];
    const landings = jumpLandings(feet, near, player, DIRECTIONS, TIME_STEP);
    const points: Vec3[] = [];
    landings.forEach(({ at }, i) => {
      const next = landings[(i + 1) % landings.length].at;
      if (!at) return;
      if (next) points.push(add(at, [0, 0, 1]), add(next, [0, 0, 1]));
      points.push(add(at, [0, 0, 1]), add(at, [0, 0, 10]));
    });
    const known = this.parts.get('reach');
    if (known) this.drop('reach', known);
    this.put('reach', this.lines(points, COLOURS.reach));
    const far = landings.map(({ at }) => (at ? Math.hypot(at[0] - feet[0], at[1] - feet[1]) : 0));
    const pits = landings.filter(({ at }) => at === null).length;
    return (this.said = `From here a running jump carries up to ${Math.round(Math.max(...far))} ${unit.plural}${pits > 0 ? '; in some directions it ends in nothing' : ''}.`);
  }

  private make(id: Overlay): Object3D {
    const { collision, probes, navigation, objects } = this.sources;
    if (id === 'collision') return this.lines(collision.solids.flatMap(edgesOf), COLOURS.collision);
    if (id === 'normals')
      return this.lines(
        collision.solids.flatMap((solid) => normalsOf(solid, this.sources.profile.player.radius)),
        COLOURS.normals,
      );
    if (id === 'volumes') return this.lines(this.volumeEdges(), COLOURS.volumes);
    if (id === 'floor') return this.lines(navigation ? floorEdges(navigation) : [], COLOURS.floor);
    if (id === 'probes') return this.probePoints(probes);
    if (id === 'names') {
      const group = new Group();
      for (const item of objects.values()) group.add(nameSprite(item.id, item.object.name));
      return group;
    }
    if (id === 'reach') this.from = '';
    return new Group();
  }

  private volumeEdges(): Vec3[] {
    return [...this.sources.objects.values()].flatMap((item) =>
      !item.gone && factOf(this.sources.profile, item.object.class, 'hollow') ? boxEdges(this.boxNow(item)) : [],
    );
  }

  private boxNow({ box, pose }: ShownObject): Box3 {
    return { min: add(box.min, pose.offset), max: add(box.max, pose.offset) };
  }

  private renew(id: Overlay): void {
    const known = this.parts.get(id);
    if (known) this.drop(id, known);
    this.put(id, this.make(id));
  }

  private placeNames(names: Object3D): void {
    for (const sprite of names.children) {
      const item = this.sources.objects.get(String(sprite.userData.id));
      sprite.visible = item !== undefined && !item.gone;
      if (!item) continue;
      const [x, y] = [0, 1].map((k) => (item.box.min[k] + item.box.max[k]) / 2);
      sprite.position.set(...toGltf(posePoint(item.pose, item.object.position, [x, y, item.box.max[2] + 6]), this.m));
    }
  }

  private put(id: Overlay, object: Object3D): void {
    this.parts.set(id, object);
    this.group.add(object);
  }

  private drop(id: Overlay, object: Object3D): void {
    this.parts.delete(id);
    this.group.remove(object);
    freeTree(object);
  }

  private lines(points: readonly Vec3[], colour: ColorRepresentation): LineSegments {
    return new LineSegments(this.geometry(points), new LineBasicMaterial({ color: colour, transparent: true, opacity: 0.85, depthTest: true }));
  }

  private probePoints(grid: ProbeGrid | null): Points {
    const points: Vec3[] = [];
    if (grid)
      grid.free.forEach((free, i) => {
        const [nx, ny] = grid.counts;
        const at = [i % nx, Math.floor(i / nx) % ny, Math.floor(i / (nx * ny))];
        if (free) points.push(at.map((n, k) => grid.origin[k] + n * grid.spacing) as Vec3);
      });
    return new Points(this.geometry(points), new PointsMaterial({ color: COLOURS.probes, size: 6, sizeAttenuation: false }));
  }

  private geometry(points: readonly Vec3[]): BufferGeometry {
    const array = new Float32Array(points.length * 3);
    points.forEach((point, i) => array.set(toGltf(point, this.m), i * 3));
    return new BufferGeometry().setAttribute('position', new BufferAttribute(array, 3));
  }
}

const touches = (a: Box3, b: Box3): boolean => [0, 1, 2].every((k) => a.min[k] <= b.max[k] && a.max[k] >= b.min[k]);

/** Faces of a solid of a build: its planes are all that it has. */
function facesOf({ planes }: CollisionSolid): { normal: Vec3; winding: Vec3[] }[] {
  const faces = planes.map(([x, y, z, distance]) => ({ normal: [x, y, z] as Vec3, distance }));
  return solidPolygons({ faces } as never).map(({ face, winding }) => ({ normal: faces[face].normal, winding }));
}

/** Pairs of points. */
const edgesOf = (solid: CollisionSolid): Vec3[] =>
  facesOf(solid).flatMap(({ winding }) => winding.flatMap((point, i) => [point, winding[(i + 1) % winding.length]]));

function normalsOf(solid: CollisionSolid, length: number): Vec3[] {
  return facesOf(solid).flatMap(({ normal, winding }) => {
    const middle = winding.reduce((sum, point) => addScaled(sum, point, 1 / winding.length), [0, 0, 0] as Vec3);
    return [middle, addScaled(middle, normal, length)];
  });
}

function boxEdges({ min, max }: Box3): Vec3[] {
  const corner = (i: number): Vec3 => [i & 1 ? max[0] : min[0], i & 2 ? max[1] : min[1], i & 4 ? max[2] : min[2]];
  return [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [1, 2, 4].flatMap((bit) => (i & bit ? [] : [corner(i), corner(i | bit)])));
}

/** Outlines of the polygons, a little above the floor. */
function floorEdges({ vertices, polygons }: Navmesh): Vec3[] {
  return polygons.flatMap(({ corners }) =>
    corners.flatMap((corner, i) => [corner, corners[(i + 1) % corners.length]].map((v): Vec3 => add(vertices[v], [0, 0, 1]))),
  );
}

/** A name that faces the eye and is as large however far it is. */
export function nameSprite(id: string, text: string): Sprite {
  const canvas = document.createElement('canvas');
  const context = canvas.getContext('2d')!;
  const font = '22px sans-serif';
  context.font = font;
  canvas.width = Math.ceil(context.measureText(text).width) + 16;
  canvas.height = 32;
  context.font = font;
  context.fillStyle = 'rgb(20 12 26 / 0.8)';
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.fillStyle = '#f4eefb';
  context.fillText(text, 8, 23);
  const sprite = new Sprite(new SpriteMaterial({ map: new CanvasTexture(canvas), sizeAttenuation: false, depthTest: true }));
  sprite.scale.set((canvas.width / canvas.height) * 0.04, 0.04, 1);
  sprite.userData.id = id;
  return sprite;
}
