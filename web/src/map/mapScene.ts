/** The map as a three.js scene for editing: flat textured polygons, marks for objects, models for props. */

import {
  AmbientLight,
  BoxGeometry,
  BufferAttribute,
  BufferGeometry,
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
  type Object3D,
} from 'three';
import { toGltf } from '@violet-crate/core/build/pack/mapGlb';
import { findMaterial, type CrateWorld } from '@violet-crate/core/crate/world';
import { classBox, objectBox } from '@violet-crate/core/map/objectBox';
import { projectPoint } from '@violet-crate/core/map/projection';
import type { MapObject } from '@violet-crate/core/map/schema';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import { hasPart, materialType } from '@violet-crate/core/profile/schema';
import { loadModel, previewTexture, type AssetSource } from '../three/assets3d.ts';
import { shapeOf } from '@violet-crate/core/solid/shape';
import type { Selection } from './viewSlice.ts';

/** What a triangle of the scene belongs to. */
export interface FaceOwner {
  solid: string;
  face: number;
}

export interface SceneColours {
  warm: string;
  violet: string;
  clear: string;
}

/** Builds all solids as one mesh per material; `owners` of a mesh tell whose each triangle is. */
export function solidsGroup(world: CrateWorld, mapName: string, source: AssetSource, onTexture: () => void): Group {
  const group = new Group();
  const { profile } = world;
  const m = profile.unit.metres;
  const batches = new Map<string, { positions: number[]; normals: number[]; uvs: number[]; owners: FaceOwner[] }>();
  for (const [id, solid] of Object.entries(world.crate.maps[mapName].solids)) {
    for (const { face, winding } of shapeOf(solid).polygons) {
      const { material, ...projection } = solid.faces[face];
      const found = findMaterial(world, material);
      const type = found && materialType(profile, found.material.type);
      if (type && !type.drawn) continue;
      let batch = batches.get(material);
      if (!batch) batches.set(material, (batch = { positions: [], normals: [], uvs: [], owners: [] }));
      const normal = toGltf(projection.normal, 1);
      for (let i = 2; i < winding.length; i++) {
        for (const corner of [0, i - 1, i]) {
          batch.positions.push(...toGltf(winding[corner], m));
          batch.normals.push(...normal);
          batch.uvs.push(...projectPoint(projection, winding[corner], found?.material.unitsPerRepeat ?? 64));
        }
        batch.owners.push({ solid: id, face });
      }
    }
  }
  for (const [name, batch] of batches) {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(Float32Array.from(batch.positions), 3));
    geometry.setAttribute('normal', new BufferAttribute(Float32Array.from(batch.normals), 3));
    geometry.setAttribute('uv', new BufferAttribute(Float32Array.from(batch.uvs), 2));
    const found = findMaterial(world, name);
    const texture = found ? previewTexture(source, found.material, onTexture) : null;
    const type = found && materialType(profile, found.material.type);
    const colour = texture ? '#ffffff' : (found?.material.colour ?? '#ff6a5a');
    const material = type?.sky ? new MeshBasicMaterial({ color: colour }) : new MeshLambertMaterial({ color: colour, map: texture });
    material.side = DoubleSide;
    if (type && !type.opaque && !type.sky) Object.assign(material, { transparent: true, opacity: 0.65 });
    const mesh = new Mesh(geometry, material);
    mesh.userData.owners = batch.owners;
    group.add(mesh);
  }
  return group;
}

/** A fixed key light and fill, so that faces of different directions differ. */
export function editingLights(): Object3D[] {
  const key = new DirectionalLight('#fff2e0', 1.9);
  key.position.set(3, 6, 2);
  const fill = new DirectionalLight('#b9a6f2', 0.9);
  fill.position.set(-4, 2, -5);
  return [new AmbientLight('#ffffff', 1.1), key, fill];
}

export function objectGroup(world: CrateWorld, object: MapObject, source: AssetSource, colours: SceneColours, onLoad: () => void): Group {
  const { profile } = world;
  const m = profile.unit.metres;
  const group = new Group();
  const model = object.properties.model;
  if (hasPart(profile, object.class, 'model') && typeof model === 'string' && model !== '') {
    void loadModel(source, model).then((loaded) => {
      if (!loaded) return;
      loaded.position.set(...toGltf(object.position, m));
      loaded.rotation.y = (object.turn * Math.PI) / 180;
      group.add(loaded);
      onLoad();
    });
    return group;
  }
  const box = hasPart(profile, object.class, 'model') ? objectBox(world, object) : classBox(profile, object);
  const [w, d, h] = boxSize(box).map((v) => v * m);
  const light = hasPart(profile, object.class, 'light');
  const see = hasPart(profile, object.class, 'volume') || hasPart(profile, object.class, 'water');
  const colour = light
    ? String(object.properties.colour ?? colours.warm)
    : hasPart(profile, object.class, 'water')
      ? '#4f9aa0'
      : hasPart(profile, object.class, 'start')
        ? colours.clear
        : colours.violet;
  const geometry = new BoxGeometry(w, h, d);
  const centre = toGltf(boxCentre(box), m);
  if (!hasPart(profile, object.class, 'volume')) {
    const mesh = new Mesh(
      geometry,
      new MeshLambertMaterial({
        color: new Color(colour),
        emissive: new Color(light ? colour : '#000'),
        transparent: true,
        opacity: see ? 0.4 : 0.9,
      }),
    );
    mesh.position.set(...centre);
    group.add(mesh);
  }
  const edges = new LineSegments(new EdgesGeometry(geometry), new LineBasicMaterial({ color: colour }));
  edges.position.set(...centre);
  group.add(edges);
  return group;
}

/** Outlines of what is selected: edges of solids, boxes of objects. */
export function selectionGroup(world: CrateWorld, mapName: string, selection: Selection | null, colour: string): Group {
  const group = new Group();
  if (!selection) return group;
  const m = world.profile.unit.metres;
  const map = world.crate.maps[mapName];
  const points: number[] = [];
  for (const id of selection.ids) {
    if (selection.kind === 'solids' && map.solids[id]) {
      for (const { face, winding } of shapeOf(map.solids[id]).polygons) {
        if (selection.face !== undefined && selection.face !== face) continue;
        winding.forEach((p, i) => points.push(...toGltf(p, m), ...toGltf(winding[(i + 1) % winding.length], m)));
      }
    } else if (selection.kind === 'objects' && map.objects[id]) {
      const box = objectBox(world, map.objects[id]);
      const [w, d, h] = boxSize(box).map((v) => v * m);
      const edges = new LineSegments(new EdgesGeometry(new BoxGeometry(w, h, d)), new LineBasicMaterial({ color: colour, depthTest: false }));
      edges.position.set(...toGltf(boxCentre(box), m));
      group.add(edges);
    }
  }
  if (points.length > 0) {
    const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(points), 3));
    group.add(new LineSegments(geometry, new LineBasicMaterial({ color: colour, depthTest: false })));
  }
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
