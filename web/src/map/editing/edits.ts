/** The edits that the map workspace makes, as values. */

import { freeName } from '@violet-crate/core/crate/naming';
import { newObject } from '@violet-crate/core/profile/newObject';
import { copyMembers, transformMembers } from '@violet-crate/core/map/member/arrange';
import { type Members } from '@violet-crate/core/document/members';
import { freshId, type Change, type MapEdit } from '@violet-crate/core/document/edit';
import { keysOf } from '@violet-crate/core/document/record';
import { groundHeight } from '@violet-crate/core/map/onGround';
import type { Face, GameMap, MapObject, Signal, Solid } from '@violet-crate/core/document/schema';
import type { Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { placingOf } from '@violet-crate/core/profile/parts';
import { classOf, type ObjectClass, type Profile } from '@violet-crate/core/profile/schema';
import { insideOutline, shapeOf } from '@violet-crate/core/solid/shape';
import { makeShape, shapeById, type ShapeValues } from '@violet-crate/core/solid/shapes';
import { resizeSolid } from '@violet-crate/core/solid/solid';
import { translation } from '@violet-crate/core/solid/transform';
import { chosen, type Selection } from '../../state/viewSlice.ts';

export interface Made {
  edit: MapEdit;
  selection: Selection;
}

/** Puts solids in place of others; what is new is selected. */
export function replaceSolids(map: GameMap, gone: readonly string[], solids: readonly Solid[], name: string): Made {
  const taken = new Set<string>();
  const changes: Change[] = gone.map((id) => ({ of: 'solids', id, to: null }));
  for (const to of solids) {
    const id = freshId(map.solids, 's', taken);
    taken.add(id);
    changes.push({ of: 'solids', id, to });
  }
  return { edit: { name, changes }, selection: chosen({ kind: 'solids', ids: [...taken] }) };
}

export const drawShape = (map: GameMap, shape: string, values: ShapeValues, box: Box3, material: string): Made =>
  replaceSolids(map, [], makeShape(shape, box, values, material), `draw ${shapeById(shape).label.toLowerCase()}`);

/** Moves what is selected; null when nothing would move. */
export const moveSelection = (map: GameMap, members: Members, by: Vec3): MapEdit | null => transformMembers(map, members, translation(by), 'move');

export const resize = (map: GameMap, id: string, to: Box3): MapEdit => ({
  name: 'resize solid',
  changes: [{ of: 'solids', id, to: resizeSolid(map.solids[id], to) }],
});

export function duplicate(map: GameMap, profile: Profile, members: Members, by: Vec3): Made | null {
  const made = copyMembers(map, profile, members, [translation(by)], 'duplicate');
  return made && { edit: made.edit, selection: chosen(made.members as Partial<Selection>) };
}

/** Height of the highest surface under a point of the plan that lies below `ceiling`; `otherwise` where there is none. */
export function surfaceUnder(map: GameMap, x: number, y: number, ceiling: number, otherwise: number): number {
  const ground = groundHeight(map, x, y);
  const floored = keysOf(map.terrains).length > 0;
  // Over ground the ceiling counts from there.
  ceiling += ground;
  let best = floored ? ground : -Infinity;
  for (const id in map.solids) {
    const { box, outline } = shapeOf(map.solids[id]);
    if (box.max[2] < ceiling && box.max[2] > best && x >= box.min[0] && x <= box.max[0] && insideOutline(outline, [x, y])) best = box.max[2];
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
  const placing = placingOf(profile, classId);
  const lift = placing === 'clear' ? profile.player.height / 28 : 0;
  const z = placing === 'ceiling' ? Math.max(floor, groundHeight(map, at[0], at[1]) + band.top - profile.grid.default * 2) : floor + lift;
  const name = freeName(
    classId,
    Object.values(map.objects).map((o) => o.name),
  );
  const id = freshId(map.objects, 'o');
  const object: MapObject = newObject(profile, classId, name, [at[0], at[1], z]);
  const objectClass = classOf(profile, classId);
  // The class says which of its properties takes a file of that kind.
  const property = asset && objectClass?.properties.find((p) => p.type === asset.kind);
  if (asset && property) object.properties = { ...object.properties, [property.id]: asset.path };
  // A member of a series takes the next ordinal.
  const { series } = objectClass ?? {};
  if (series) {
    const taken = Object.values(map.objects).filter((o) => o.class === classId);
    const next = taken.length === 0 ? 0 : Math.max(...taken.map((o) => Number(o.properties[series] ?? 0))) + 1;
    object.properties = { ...object.properties, [series]: next };
    object.name = freeName(
      `${classId}_${next}`,
      Object.values(map.objects).map((o) => o.name),
    );
  }
  return { edit: { name: `place ${classId}`, changes: [{ of: 'objects', id, to: object }] }, selection: chosen({ kind: 'objects', ids: [id] }) };
}

export const changeObject = (map: GameMap, id: string, change: Partial<MapObject>, name: string): MapEdit => ({
  name,
  changes: [{ of: 'objects', id, to: { ...map.objects[id], ...change } }],
});

/** A change to faces: those of `faces`, or all of `solids` where none are named. */
export function changeFaces(
  map: GameMap,
  target: { solids: readonly string[]; faces?: readonly { solid: string; face: number }[] },
  change: (face: Face, solid: string, index: number) => Face,
  name: string,
): MapEdit | null {
  const named = target.faces ?? [];
  const ids = named.length > 0 ? [...new Set(named.map((f) => f.solid))] : target.solids;
  const changes = ids.flatMap((id): Change[] => {
    const solid = map.solids[id];
    if (!solid) return [];
    const chosen = new Set(named.filter((f) => f.solid === id).map((f) => f.face));
    const faces = solid.faces.map((face, i) => (named.length === 0 || chosen.has(i) ? change(face, id, i) : face));
    return faces.some((face, i) => face !== solid.faces[i]) ? [{ of: 'solids', id, to: { ...solid, faces } }] : [];
  });
  return changes.length > 0 ? { name, changes } : null;
}

/** A material on faces, or on all faces of solids. */
export const paint = (map: GameMap, target: Parameters<typeof changeFaces>[1], material: string): MapEdit | null =>
  changeFaces(map, target, (face) => (face.material === material ? face : { ...face, material }), `paint ${material}`);

export const connectSignal = (map: GameMap, signal: Signal): MapEdit => ({
  name: 'connect signal',
  changes: [{ of: 'signals', id: freshId(map.signals, 'g'), to: signal }],
});

/** The plainest class that shows a model or plays a sound. */
export const classFor = (profile: Profile, kind: 'model' | 'sound'): ObjectClass | undefined =>
  profile.classes
    .filter((c) => c.properties.some((p) => p.type === kind))
    .sort((a, b) => a.parts.length - b.parts.length || a.properties.length - b.properties.length)[0];
