/** The edits that the map workspace makes, as values. */

import { freeName } from '@violet-crate/core/crate/naming';
import { newObject } from '@violet-crate/core/crate/template';
import { freshId, type Change, type MapEdit } from '@violet-crate/core/map/edit';
import type { GameMap, MapObject, Signal, Solid } from '@violet-crate/core/map/schema';
import type { Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { classOf, hasPart, type ObjectClass, type Profile } from '@violet-crate/core/profile/schema';
import { block, roomShell } from '@violet-crate/core/solid/primitives';
import { moveSolid, resizeSolid } from '@violet-crate/core/solid/solid';
import { insideOutline, shapeOf } from '@violet-crate/core/solid/shape';
import type { Selection } from './viewSlice.ts';

export interface Made {
  edit: MapEdit;
  selection: Selection;
}

function addSolids(map: GameMap, solids: Solid[], name: string): Made {
  const taken = new Set<string>();
  const changes = solids.map((to): Change => {
    const id = freshId(map.solids, 's', taken);
    taken.add(id);
    return { of: 'solids', id, to };
  });
  return { edit: { name, changes }, selection: { kind: 'solids', ids: [...taken] } };
}

export const drawSolid = (map: GameMap, box: Box3, material: string): Made => addSolids(map, [block(box, material)], 'draw solid');

export const drawRoom = (map: GameMap, inner: Box3, thickness: number, material: string): Made =>
  addSolids(map, roomShell(inner, thickness, material), 'draw room');

/** Moves what is selected; null when nothing would move. */
export function moveSelection(map: GameMap, selection: Selection, by: Vec3): MapEdit | null {
  if (by.every((v) => v === 0)) return null;
  const changes = selection.ids.flatMap((id): Change[] => {
    if (selection.kind === 'solids') {
      const solid = map.solids[id];
      return solid ? [{ of: 'solids', id, to: moveSolid(solid, by) }] : [];
    }
    const object = map.objects[id];
    return object
      ? [{ of: 'objects', id, to: { ...object, position: [object.position[0] + by[0], object.position[1] + by[1], object.position[2] + by[2]] } }]
      : [];
  });
  return changes.length > 0 ? { name: `move ${selection.kind}`, changes } : null;
}

export const resize = (map: GameMap, id: string, to: Box3): MapEdit => ({
  name: 'resize solid',
  changes: [{ of: 'solids', id, to: resizeSolid(map.solids[id], to) }],
});

/** Deletes what is selected, and the signals from or to deleted objects. */
export function deleteSelection(map: GameMap, selection: Selection): MapEdit {
  const gone = new Set(selection.ids);
  const changes: Change[] = selection.ids.map((id) => ({ of: selection.kind, id, to: null }));
  if (selection.kind === 'objects') {
    for (const [id, signal] of Object.entries(map.signals)) {
      if (gone.has(signal.from) || ('object' in signal.to && gone.has(signal.to.object))) changes.push({ of: 'signals', id, to: null });
    }
  }
  return { name: `delete ${selection.kind}`, changes };
}

export function duplicate(map: GameMap, selection: Selection, by: Vec3): Made | null {
  if (selection.kind === 'solids')
    return addSolids(
      map,
      selection.ids.flatMap((id) => (map.solids[id] ? [moveSolid(map.solids[id], by)] : [])),
      'duplicate solids',
    );
  const taken = new Set<string>();
  const names = Object.values(map.objects).map((o) => o.name);
  const changes = selection.ids.flatMap((id): Change[] => {
    const object = map.objects[id];
    if (!object) return [];
    const fresh = freshId(map.objects, 'o', taken);
    taken.add(fresh);
    const name = freeName(object.name, names);
    names.push(name);
    return [
      {
        of: 'objects',
        id: fresh,
        to: { ...object, name, position: [object.position[0] + by[0], object.position[1] + by[1], object.position[2] + by[2]] },
      },
    ];
  });
  return changes.length > 0 ? { edit: { name: 'duplicate objects', changes }, selection: { kind: 'objects', ids: [...taken] } } : null;
}

/** Height of the highest surface under a point of the plan that lies below `ceiling`; `otherwise` where there is none. */
export function surfaceUnder(map: GameMap, x: number, y: number, ceiling: number, otherwise: number): number {
  let best = -Infinity;
  for (const solid of Object.values(map.solids)) {
    const { box, outline } = shapeOf(solid);
    if (box.max[2] < ceiling && box.max[2] > best && insideOutline(outline, [x, y])) best = box.max[2];
  }
  return best === -Infinity ? otherwise : best;
}

/** Places an object: lights hang below the band's top, all else stands on the floor, starts a little above it. */
export function placeObject(
  map: GameMap,
  profile: Profile,
  classId: string,
  at: [number, number],
  band: { bottom: number; top: number },
  asset?: { kind: 'model' | 'sound'; path: string },
): Made {
  const floor = surfaceUnder(map, at[0], at[1], band.top - profile.grid.default, band.bottom);
  const hangs = hasPart(profile, classId, 'light') && !hasPart(profile, classId, 'use');
  const lift = hasPart(profile, classId, 'start') ? profile.player.height / 28 : 0;
  const z = hangs ? Math.max(floor, band.top - profile.grid.default * 2) : floor + lift;
  const name = freeName(
    classId,
    Object.values(map.objects).map((o) => o.name),
  );
  const id = freshId(map.objects, 'o');
  const object: MapObject = newObject(profile, classId, name, [at[0], at[1], z]);
  // The class says which of its properties takes a file of that kind.
  const property = asset && classOf(profile, classId)?.properties.find((p) => p.type === asset.kind);
  if (asset && property) object.properties = { ...object.properties, [property.id]: asset.path };
  return { edit: { name: `place ${classId}`, changes: [{ of: 'objects', id, to: object }] }, selection: { kind: 'objects', ids: [id] } };
}

export const changeObject = (map: GameMap, id: string, change: Partial<MapObject>, name: string): MapEdit => ({
  name,
  changes: [{ of: 'objects', id, to: { ...map.objects[id], ...change } }],
});

/** A material on one face, or on all faces of solids. */
export function paint(map: GameMap, ids: readonly string[], face: number | undefined, material: string): MapEdit {
  return {
    name: `paint ${material}`,
    changes: ids.flatMap((id): Change[] => {
      const solid = map.solids[id];
      if (!solid) return [];
      return [{ of: 'solids', id, to: { ...solid, faces: solid.faces.map((f, i) => (face === undefined || i === face ? { ...f, material } : f)) } }];
    }),
  };
}

export const connectSignal = (map: GameMap, signal: Signal): MapEdit => ({
  name: 'connect signal',
  changes: [{ of: 'signals', id: freshId(map.signals, 'g'), to: signal }],
});

/** The plainest class that shows a model or plays a sound. */
export const classFor = (profile: Profile, kind: 'model' | 'sound'): ObjectClass | undefined =>
  profile.classes
    .filter((c) => c.properties.some((p) => p.type === kind))
    .sort((a, b) => a.parts.length - b.parts.length || a.properties.length - b.properties.length)[0];
