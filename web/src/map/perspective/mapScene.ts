/** The map as a three.js scene for editing: flat textured polygons, marks for objects, models for props. */

import {
  AmbientLight,
  BoxGeometry,
  BufferAttribute,
  BufferGeometry,
  CapsuleGeometry,
  Color,
  DirectionalLight,
  DoubleSide,
  EdgesGeometry,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  PointLight,
  SpotLight,
  type Object3D,
} from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { findMaterial, type CrateWorld } from '@violet-crate/core/crate/world';
import { modelOf, objectBox } from '@violet-crate/core/map/objectBox';
import { mapLights, mapSuns } from '@violet-crate/core/map/lights';
import type { GameMap, MapObject, Solid } from '@violet-crate/core/document/schema';
import { lerp, type Vec3 } from '@violet-crate/core/math/vec3';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import { materialType, type Profile } from '@violet-crate/core/profile/schema';
import { loadModel, previewTexture } from '../../three/assets3d.ts';
import type { AssetSource } from '../../api/assetUrl.ts';
import type { Ghost } from '../editing/ghost.ts';
import { LINE_KINDS, memberLook } from '../member/members.ts';
import { lookOf } from '../../part/looks.ts';
import { solidGeometries } from '../../three/solidGeometry.ts';
import { freeTree } from '../../three/stage3d.ts';
import { shapeOf } from '@violet-crate/core/solid/shape';
import type { Selection } from '../../state/viewSlice.ts';

export interface SceneColours {
  warm: string;
  violet: string;
  clear: string;
}

/** Solids of neighbouring numbers share a chunk: an edit makes only the chunks anew that hold what changed. */
const CHUNK = 48;
const chunkOf = (id: string): string => id.replace(/\d+$/, (n) => String(Math.floor(Number(n) / CHUNK)));

export interface SolidsLook {
  /** Whether a solid is shown. */
  shown(id: string): boolean;
  /** Also draw what the game never draws, faintly. */
  undrawn: boolean;
}

/** All solids, one mesh per chunk and material. */
export class SolidsScene {
  readonly group = new Group();
  private chunks = new Map<string, { of: unknown[]; group: Group }>();
  private context: unknown[] = [];
  /** Chunks that the last update made anew. */
  rebuilt = 0;

  /** `context` is whatever else changes how solids look; when a part of it changes all are made anew. */
  update(world: CrateWorld, solids: Record<string, Solid>, source: AssetSource, look: SolidsLook, context: unknown[], onTexture: () => void): void {
    const all = context.length !== this.context.length || context.some((value, i) => value !== this.context[i]);
    this.context = context;
    const members = new Map<string, string[]>();
    for (const id in solids) {
      if (!look.shown(id)) continue;
      const key = chunkOf(id);
      const list = members.get(key);
      if (list) list.push(id);
      else members.set(key, [id]);
    }
    for (const [key, chunk] of this.chunks) {
      if (members.has(key)) continue;
      this.drop(chunk.group);
      this.chunks.delete(key);
    }
    this.rebuilt = 0;
    for (const [key, ids] of members) {
      const of = ids.flatMap((id): unknown[] => [id, solids[id]]);
      const known = this.chunks.get(key);
      if (known && !all && known.of.length === of.length && known.of.every((value, i) => value === of[i])) continue;
      if (known) this.drop(known.group);
      const group = chunkGroup(world, solids, ids, source, look, onTexture);
      this.chunks.set(key, { of, group });
      this.group.add(group);
      this.rebuilt++;
    }
  }

  private drop(group: Group): void {
    freeTree(group);
    this.group.remove(group);
  }
}

function chunkGroup(
  world: CrateWorld,
  solids: Record<string, Solid>,
  ids: readonly string[],
  source: AssetSource,
  look: SolidsLook,
  onTexture: () => void,
): Group {
  const group = new Group();
  const { profile } = world;
  for (const [name, geometry] of solidGeometries(
    world,
    ids.map((id) => solids[id]),
    look.undrawn,
  )) {
    const found = findMaterial(world, name);
    const texture = found ? previewTexture(source, found.material, onTexture) : null;
    const type = found && materialType(profile, found.material.type);
    const colour = texture ? '#ffffff' : (found?.material.colour ?? '#ff6a5a');
    const material = type?.sky ? new MeshBasicMaterial({ color: colour }) : new MeshLambertMaterial({ color: colour, map: texture });
    material.side = DoubleSide;
    if (type && !type.drawn) Object.assign(material, { transparent: true, opacity: 0.18, depthWrite: false });
    else if (type && !type.opaque && !type.sky) Object.assign(material, { transparent: true, opacity: 0.65 });
    group.add(new Mesh(geometry, material));
  }
  return group;
}

/** Objects by id; each is made anew only when it changed. */
export class ObjectsScene {
  readonly group = new Group();
  private known = new Map<string, { of: MapObject; group: Group }>();
  private context: unknown[] = [];

  update(objects: Record<string, MapObject>, shown: (id: string) => boolean, make: (object: MapObject) => Group, context: unknown[]): void {
    const all = context.some((value, i) => value !== this.context[i]);
    this.context = context;
    for (const [id, entry] of this.known) {
      if (!all && objects[id] === entry.of && shown(id)) continue;
      freeTree(entry.group);
      this.group.remove(entry.group);
      this.known.delete(id);
    }
    for (const id in objects) {
      if (this.known.has(id) || !shown(id)) continue;
      const group = make(objects[id]);
      group.userData.object = id;
      this.known.set(id, { of: objects[id], group });
      this.group.add(group);
    }
  }
}

/** A fixed key light and fill, so that faces of different directions differ. */
export function editingLights(): Object3D[] {
  const key = new DirectionalLight('#fff2e0', 1.9);
  key.position.set(3, 6, 2);
  const fill = new DirectionalLight('#b9a6f2', 0.9);
  fill.position.set(-4, 2, -5);
  return [new AmbientLight('#ffffff', 1.1), key, fill];
}

export function objectGroup(
  world: CrateWorld,
  object: MapObject,
  source: AssetSource,
  colours: SceneColours,
  onLoad: (model: Object3D) => void,
): Group {
  const { profile } = world;
  const m = profile.unit.metres;
  const group = new Group();
  const model = modelOf(profile, object);
  if (model !== '') {
    void loadModel(source, model).then((loaded) => {
      if (!loaded) return;
      loaded.position.set(...toGltf(object.position, m));
      loaded.rotation.y = (object.turn * Math.PI) / 180;
      group.add(loaded);
      onLoad(loaded);
    });
    return group;
  }
  const box = objectBox(world, object);
  const [w, d, h] = boxSize(box).map((v) => v * m);
  const body = lookOf(profile, object.class, 'body');
  const colour = body?.colour?.(object) || colours[lookOf(profile, object.class, 'colour') ?? 'violet'];
  const geometry = new BoxGeometry(w, h, d);
  const centre = toGltf(boxCentre(box), m);
  if (body !== null) {
    const material = {
      color: new Color(colour),
      emissive: new Color(body?.glows ? colour : '#000'),
      opacity: body?.opacity ?? 0.9,
      transparent: true,
    };
    const mesh = new Mesh(geometry, new MeshLambertMaterial(material));
    mesh.position.set(...centre);
    group.add(mesh);
  }
  const edges = new LineSegments(new EdgesGeometry(geometry), new LineBasicMaterial({ color: colour }));
  edges.position.set(...centre);
  group.add(edges);
  return group;
}

/** Outlines of what is selected, which show through everything. */
export function selectionGroup(world: CrateWorld, map: GameMap, whole: GameMap, selection: Selection, colour: string): Group {
  const group = new Group();
  const m = world.profile.unit.metres;
  const points: number[] = [];
  const edge = (a: Vec3, b: Vec3) => points.push(...toGltf(a, m), ...toGltf(b, m));
  const ofCopies = (id: string) => selection.copies.some((copy) => id.startsWith(`${copy}_`));
  const solids = [...selection.solids, ...(selection.copies.length > 0 ? Object.keys(whole.solids).filter(ofCopies) : [])];
  const faces = new Set(selection.faces.map((f) => `${f.solid}/${f.face}`));
  for (const id of solids) {
    if (!whole.solids[id]) continue;
    const named = selection.faces.some((f) => f.solid === id);
    for (const { face, winding } of shapeOf(whole.solids[id]).polygons) {
      if (named && !faces.has(`${id}/${face}`)) continue;
      winding.forEach((p, i) => edge(p, winding[(i + 1) % winding.length]));
    }
  }
  for (const kind of LINE_KINDS)
    for (const id of selection[kind]) if (map[kind][id]) for (const [a, b] of memberLook(kind).lines?.(map[kind][id] as never) ?? []) edge(a, b);
  const objects = [...selection.objects, ...(selection.copies.length > 0 ? Object.keys(whole.objects).filter(ofCopies) : [])];
  for (const id of objects) {
    if (!whole.objects[id]) continue;
    const box = objectBox(world, whole.objects[id]);
    const [w, d, h] = boxSize(box).map((v) => v * m);
    const edges = new LineSegments(new EdgesGeometry(new BoxGeometry(w, h, d)), new LineBasicMaterial({ color: colour, depthTest: false }));
    edges.position.set(...toGltf(boxCentre(box), m));
    group.add(edges);
  }
  if (points.length > 0) {
    const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(points), 3));
    group.add(new LineSegments(geometry, new LineBasicMaterial({ color: colour, depthTest: false })));
  }
  return group;
}

/** What is being drawn or dragged on a sheet, through everything. */
export function ghostGroup(ghost: Ghost, metres: number, colour: string): Group {
  const points: number[] = [];
  const edge = (a: Vec3, b: Vec3) => points.push(...toGltf(a, metres), ...toGltf(b, metres));
  for (const solid of ghost.solids)
    for (const { winding } of shapeOf(solid).polygons) winding.forEach((p, i) => edge(p, winding[(i + 1) % winding.length]));
  for (const line of ghost.lines) for (let i = 1; i < line.length; i++) edge(line[i - 1], line[i]);
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(points), 3));
  return new Group().add(new LineSegments(geometry, new LineBasicMaterial({ color: colour, depthTest: false })));
}

/** Arrows of signals, and members that are lines. */
export function linksGroup(whole: GameMap, metres: number, colours: SceneColours): Group {
  const group = new Group();
  const lines = (points: number[], colour: string) => {
    if (points.length === 0) return;
    const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(points), 3));
    group.add(new LineSegments(geometry, new LineBasicMaterial({ color: colour, depthTest: false, transparent: true, opacity: 0.7 })));
  };
  const signals: number[] = [];
  for (const { from, to } of Object.values(whole.signals)) {
    const [a, b] = [whole.objects[from], 'object' in to ? whole.objects[to.object] : undefined];
    if (!a || !b) continue;
    signals.push(...toGltf(a.position, metres), ...toGltf(b.position, metres));
    // The head of the arrow: two short lines a tenth of the way back.
    const back = lerp(b.position, a.position, 0.1);
    const aside = (b.position[1] - a.position[1]) * 0.04;
    const along = (b.position[0] - a.position[0]) * 0.04;
    for (const side of [1, -1])
      signals.push(...toGltf(b.position, metres), ...toGltf([back[0] - aside * side, back[1] + along * side, back[2]], metres));
  }
  lines(signals, colours.clear);
  const ways = LINE_KINDS.filter((kind) => !memberLook(kind).solid).flatMap((kind) =>
    Object.values(whole[kind]).flatMap((member) =>
      (memberLook(kind).lines?.(member as never) ?? []).flatMap(([a, b]) => [...toGltf(a, metres), ...toGltf(b, metres)]),
    ),
  );
  lines(ways, colours.violet);
  return group;
}

/** The lights of the map as three.js knows them: a preview without shadows, of the lights nearest to where one looks. */
export function previewLights(profile: Profile, map: GameMap, near: Vec3, hour: number, most = 10): Group {
  const group = new Group();
  const m = profile.unit.metres;
  const lights = mapLights(profile, map)
    .map((light) => ({ light, away: Math.hypot(...light.position.map((v, i) => v - near[i])) }))
    .sort((a, b) => a.away - b.away)
    .slice(0, most);
  for (const { light } of lights) {
    const colour = new Color().setRGB(...light.colour);
    // Candela as they are: three.js divides by the square of the distance in metres.
    if (light.cone) {
      const spot = new SpotLight(colour, light.intensity, light.reach * m, Math.acos(light.cone.outer), 0.4);
      spot.position.set(...toGltf(light.position, m));
      spot.target.position.set(...toGltf([0, 1, 2].map((i) => light.position[i] + light.cone!.direction[i] * 32) as Vec3, m));
      group.add(spot, spot.target);
    } else {
      const point = new PointLight(colour, light.intensity, light.reach * m);
      point.position.set(...toGltf(light.position, m));
      group.add(point);
    }
  }
  const [sky] = [new Color(map.settings.skyColour)];
  // Height of the sun over the day, for the preview only: noon is 60° up, 6 and 18 o'clock lie on the horizon.
  const day = Math.sin(((hour - 6) / 12) * Math.PI);
  group.add(new AmbientLight(sky, 0.12 + 0.35 * Math.max(0, day)));
  for (const sun of mapSuns(profile, map)) {
    const directional = new DirectionalLight(new Color().setRGB(...sun.colour), Math.max(0, day) * sun.intensity);
    const angle = ((hour - 12) / 12) * Math.PI;
    const [x, y, z] = sun.towards;
    directional.position.set(
      ...toGltf([x * Math.cos(angle) - y * Math.sin(angle), x * Math.sin(angle) + y * Math.cos(angle), z * Math.max(0.05, day)], 100),
    );
    group.add(directional);
  }
  return group;
}

/** A figure as large as the player, standing at a point. */
export function playerFigure(profile: Profile, colour: string): Group {
  const m = profile.unit.metres;
  const { radius, height } = profile.player;
  const group = new Group();
  const mesh = new Mesh(
    new CapsuleGeometry(radius * m, (height - radius * 2) * m, 4, 10),
    new MeshBasicMaterial({ color: colour, transparent: true, opacity: 0.55 }),
  );
  mesh.position.y = (height / 2) * m;
  group.add(mesh);
  return group;
}

/** The trail of a leak as a line that shows through everything. */
export function trailGroup(trail: readonly (readonly [number, number, number])[], metres: number, colour: string): Group {
  const points = trail.slice(1).flatMap((p, i) => [...toGltf([...trail[i]], metres), ...toGltf([...p], metres)]);
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(points), 3));
  const group = new Group();
  group.add(new LineSegments(geometry, new LineBasicMaterial({ color: colour, depthTest: false })));
  return group;
}
