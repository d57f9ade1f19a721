/** What of a map has changed against a run of it: edits flow into the run without a build. */

import { assetRecord, findMaterial, type CrateWorld } from '../crate/world.ts';
import type { MapObject, MapPath, Signal, Solid } from '../document/schema.ts';
import { wears } from '../map/member/collider.ts';
import { collidersOf } from '../map/member/members.ts';
import { isMovable } from '../map/movable.ts';
import { modelOf } from '../map/objectBox.ts';
import { expandMap } from '../map/prefab.ts';
import { own } from '../own.ts';
import { boxHull, PLAIN_FRICTION } from '../stages/pack/bodies.ts';
import { collisionSolid, type Collision, type CollisionSolid } from '../stages/pack/collisionBin.ts';
import type { RuntimeMap } from '../stages/pack/runtime.ts';
import { collides } from '../stages/surface/materials.ts';

export interface LiveEdit {
  /** Objects as they are now, null for those that are gone. */
  objects: Record<string, MapObject | null>;
  /** Objects begin anew instead of going on with what they were doing. */
  anew?: true;
  /** What stops players. */
  solids: Record<string, CollisionSolid | null>;
  /** All of them, where any has changed. */
  signals: Record<string, Signal> | null;
  paths: Record<string, MapPath> | null;
  /** Of models that no object of the run had. */
  models: RuntimeMap['models'];
  bodies: RuntimeMap['bodies'];
  /** What cannot be changed while it runs, and why. */
  left: string[];
}

/** A solid of the run before and after an edit, for whoever shows it. */
export interface ShownSolid {
  before: Solid | null;
  after: Solid | null;
}

/** The build and the run may be of different engines, whose sines differ in the last digit: what is turned is then not quite the same. */
const DIGITS = 1e-9;

function same(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a === 'number' && typeof b === 'number') return Math.abs(a - b) <= DIGITS * Math.max(1, Math.abs(a));
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null || Array.isArray(a) !== Array.isArray(b)) return false;
  const [ours, theirs] = [a, b].map((one) => Object.entries(one).filter(([, value]) => value !== undefined));
  return (
    ours.length === theirs.length &&
    ours.every(([key, value]) => own(b as Record<string, unknown>, key) !== undefined && same(value, (b as Record<string, unknown>)[key]))
  );
}

export class LiveMap {
  private objects: Record<string, MapObject>;
  private signals: Record<string, Signal>;
  private paths: Record<string, MapPath>;
  private readonly solids = new Map<string, { of: Solid; stops: CollisionSolid }>();
  private settings: string;

  constructor(
    private readonly map: RuntimeMap,
    collision: Collision,
  ) {
    this.objects = map.objects;
    this.signals = map.signals;
    this.paths = map.paths;
    this.settings = skyOf(map);
    for (const solid of collision.solids) this.solids.set(solid.id, { of: solidOf(solid), stops: solid });
  }

  /** The edit that brings the run up to the map as it is now, or null where it is. */
  follow(world: CrateWorld): { edit: LiveEdit; shown: Record<string, ShownSolid> } | null {
    const document = own(world.crate.maps, this.map.name);
    if (!document) return null;
    const now = expandMap(document, world.profile);
    const edit: LiveEdit = { objects: {}, solids: {}, signals: null, paths: null, models: {}, bodies: {}, left: [] };
    const shown: Record<string, ShownSolid> = {};
    for (const id in this.objects) if (!own(now.objects, id)) edit.objects[id] = null;
    for (const [id, object] of Object.entries(now.objects)) {
      if (same(own(this.objects, id), object)) continue;
      edit.objects[id] = object;
      this.modelFor(world, object, edit);
    }
    this.objects = now.objects;
    if (this.signals !== now.signals && !same(this.signals, now.signals)) edit.signals = now.signals;
    this.signals = now.signals;
    if (this.paths !== now.paths && !same(this.paths, now.paths)) edit.paths = now.paths;
    this.paths = now.paths;
    this.followSolids(world, edit, shown, now);
    const settings = skyOf(now);
    if (settings !== this.settings) edit.left.push('The sky is as it was built; it changes with the next build.');
    this.settings = settings;
    const nothing = [edit.objects, edit.solids].every((of) => Object.keys(of).length === 0) && !edit.signals && !edit.paths && edit.left.length === 0;
    return nothing ? null : { edit, shown };
  }

  private followSolids(world: CrateWorld, edit: LiveEdit, shown: Record<string, ShownSolid>, now: Parameters<typeof collidersOf>[0]): void {
    const stops = collides(world);
    const surfaceOf = (material: string): string => findMaterial(world, material)?.material.surface ?? '';
    const there = new Set<string>();
    for (const collider of collidersOf(now)) {
      if (!wears(collider, stops)) continue;
      const { id, solid } = collider;
      there.add(id);
      const known = this.solids.get(id);
      if (known?.of === solid) continue;
      const collision = collisionSolid(
        id,
        solid,
        solid.faces.map(({ material }) => surfaceOf(material)),
      );
      this.solids.set(id, { of: solid, stops: collision });
      if (known && same(known.stops, collision)) continue;
      edit.solids[id] = collision;
      shown[id] = { before: known?.of ?? null, after: solid };
    }
    for (const [id, { of }] of this.solids) {
      if (there.has(id)) continue;
      edit.solids[id] = null;
      shown[id] = { before: of, after: null };
      this.solids.delete(id);
    }
  }

  /** Bounds and shape of a model that the build did not have. */
  private modelFor(world: CrateWorld, object: MapObject, edit: LiveEdit): void {
    const model = modelOf(world.profile, object);
    const record = model === '' ? undefined : assetRecord(world, model);
    if (!record?.bounds) return;
    if (!own(this.map.models, model)) edit.models[model] = record.bounds;
    if (!isMovable(world, object) || own(this.map.bodies, model) || own(edit.bodies, model)) return;
    edit.bodies[model] = { mass: record.collision!.mass, friction: PLAIN_FRICTION, hulls: [boxHull(record.bounds)] };
    edit.left.push(`${object.name} moves as a box until the next build, which takes the collision shape of ${model}.`);
  }
}

const skyOf = ({ settings }: Pick<RuntimeMap, 'settings'>): string =>
  JSON.stringify([settings.skyColour, settings.skyIntensity, settings.skyMaterial ?? null]);

const solidOf = ({ planes }: CollisionSolid): Solid => ({
  faces: planes.map(([x, y, z, distance]) => ({ normal: [x, y, z], distance, material: '' })),
});
