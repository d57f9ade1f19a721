/** What the packing is made from, beside what the other stages made. */

import { hasPart } from '../../profile/parts.ts';
import type { Lying } from '../../decal/throwing.ts';
import { assetRecord, findFile, findMaterial, type CrateWorld } from '../../crate/world.ts';
import type { GameMap, MapObject, Solid } from '../../document/schema.ts';
import { MATERIAL_PICTURES } from '../../library/usage.ts';
import { litLights } from '../../map/lights.ts';
import { wears } from '../../map/member/collider.ts';
import { collidersOf } from '../../map/member/members.ts';
import { isMovable } from '../../map/movable.ts';
import { modelOf } from '../../map/objectBox.ts';
import type { Box3 } from '../../math/box3.ts';
import type { Light } from '../../part/lightSource.ts';
import type { MaterialType } from '../../profile/schema.ts';
import type { BuildParameters } from '../contract/parameters.ts';
import { PLAIN_FRICTION } from './bodies.ts';
import { formOf, pick } from '../surface/form.ts';
import { collides, withDecals, type BuildMaterial, type MaterialContext } from '../surface/materials.ts';
import { own } from '../../own.ts';

/** A file of the crate's own; stock ones must not travel. */
export interface OwnFile {
  path: string;
  sha256: string;
}

export interface PackedMaterial extends Pick<BuildMaterial, 'type' | 'albedo' | 'emission'> {
  roughness?: number;
  metalness?: number;
  pictures: Partial<Record<(typeof MATERIAL_PICTURES)[number], OwnFile>>;
}

export interface PackingInputs {
  name: string;
  /** What players meet, as `map.json` has it. */
  map: Pick<GameMap, 'profile' | 'settings' | 'objects' | 'signals' | 'paths' | 'routes' | 'sequences'>;
  /** Whether sound areas need to know how sound goes. */
  beds: boolean;
  metresPerUnit: number;
  materials: Record<string, PackedMaterial>;
  types: Record<string, Pick<MaterialType, 'opaque' | 'lit' | 'sky'>>;
  /** Without what only people see of them. */
  lying: Record<string, Lying>;
  /** Lit lights and the paths of models, by the ids of their objects. */
  lights: Record<string, Light>;
  shown: Record<string, string>;
  /** By path; `file` where it is the crate's own. */
  models: Record<string, { bounds?: Box3; file?: OwnFile }>;
  /** Of models that physics moves, by path: kilograms, the friction of their surface, and what their file holds. */
  bodies: Record<string, { mass: number; friction: number; sha256: string }>;
  /** Forms of what stops players, and the kind of surface of each of their faces, empty where none is stated. */
  collision: Record<string, { solid: Solid; surfaces: string[] }>;
  /** Lua by path. The map only names them, but they travel with it and make a build of it another one. */
  scripts: Record<string, string>;
  parameters: Pick<BuildParameters, 'embed'>;
}

/** @param world one whose prefabs are laid out @param onSurfaces materials of what is no decal */
export function packingInputs(world: CrateWorld, name: string, onSurfaces: MaterialContext, parameters: PackingInputs['parameters']): PackingInputs {
  const { profile, crate } = world;
  const map = crate.maps[name];
  const context = withDecals(world, map, onSurfaces);
  const files = new Map(crate.files.map((file) => [file.path, file]));
  const ownFile = (path: string | undefined): OwnFile | undefined => {
    const file = path === undefined ? undefined : files.get(path);
    return file && pick(file, 'path', 'sha256');
  };
  const shown = Object.entries(map.objects).flatMap(([id, object]): [string, string][] => {
    const model = modelOf(profile, object);
    return model ? [[id, model]] : [];
  });
  const stops = collides(world);
  const surfaceOf = (material: string): string => findMaterial(world, material)?.material.surface ?? '';
  return {
    name,
    map: pick(map, 'profile', 'settings', 'objects', 'signals', 'paths', 'routes', 'sequences'),
    beds: Object.values(map.objects).some((object) => hasPart(profile, object.class, 'bed')),
    metresPerUnit: profile.unit.metres,
    materials: Object.fromEntries(
      Object.entries(context.materials).map(([material, { type, albedo, emission }]) => {
        const told = findMaterial(world, material)?.material;
        const pictures = Object.fromEntries(MATERIAL_PICTURES.flatMap((key) => [[key, ownFile(told?.[key])] as const]).filter(([, file]) => file));
        return [material, { type, albedo, emission, ...(told ? pick(told, 'roughness', 'metalness') : {}), pictures }];
      }),
    ),
    types: Object.fromEntries(
      Object.values(context.materials).flatMap(({ type }) =>
        context.types[type] ? [[type, pick(context.types[type], 'opaque', 'lit', 'sky')]] : [],
      ),
    ),
    lying: Object.fromEntries(
      [
        ...Object.entries(map.decals).map(([id, decal]): [string, Lying] => [id, pick(decal, ...DECAL_DRAWN)]),
        ...Object.entries(map.overlays).map(([id, overlay]): [string, Lying] => [id, pick(overlay, ...OVERLAY_DRAWN)]),
      ].filter(([, { material }]) => own(context.materials, material)),
    ),
    lights: Object.fromEntries(litLights(profile, map).map(({ id, light }) => [id, light])),
    shown: Object.fromEntries(shown),
    models: Object.fromEntries(
      shown.map(([, path]) => {
        const [bounds, file] = [assetRecord(world, path)?.bounds, ownFile(path)];
        return [path, { ...(bounds ? { bounds } : {}), ...(file ? { file } : {}) }];
      }),
    ),
    bodies: movableBodies(world, Object.values(map.objects)),
    collision: Object.fromEntries(
      collidersOf(map).flatMap((collider) =>
        wears(collider, stops)
          ? [[collider.id, { solid: formOf(collider.solid), surfaces: collider.solid.faces.map(({ material }) => surfaceOf(material)) }]]
          : [],
      ),
    ),
    scripts: crate.scripts,
    parameters,
  };
}

const DECAL_DRAWN = ['material', 'position', 'normal', 'turn', 'size', 'depth', 'soft', 'limit', 'fade', 'order', 'tint'] as const;

const OVERLAY_DRAWN = ['material', 'form', 'points', 'normal', 'width', 'repeat', 'depth', 'ends', 'limit', 'order', 'tint'] as const;

/** Mass and friction by model, of objects that physics moves. A model's friction is that of its first material with a surface. */
function movableBodies(world: CrateWorld, objects: readonly MapObject[]): PackingInputs['bodies'] {
  const bodies: PackingInputs['bodies'] = {};
  for (const object of objects) {
    if (!isMovable(world, object)) continue;
    const path = modelOf(world.profile, object);
    const record = assetRecord(world, path)!;
    const surfaces = (record.slots ?? []).flatMap(({ material }) => findMaterial(world, material)?.material.surface ?? []);
    const friction = world.profile.surfaces.find(({ id }) => id === surfaces[0])?.friction ?? PLAIN_FRICTION;
    bodies[path] = { mass: record.collision!.mass, friction, sha256: findFile(world, path)?.sha256 ?? '' };
  }
  return bodies;
}
