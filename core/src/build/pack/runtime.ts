/** The JSON files that the game reads beside the GLB: `map.json` and `collision.json` (docs/formats.md). */

import { Type, type Static } from '@sinclair/typebox';
import { MapObjectSchema, MapSettingsSchema, PathSchema, SignalSchema, type GameMap, type Solid } from '../../map/schema.ts';
import { solidPolygons } from '../../solid/solid.ts';

const closed = { additionalProperties: false };
const Plane = Type.Tuple([Type.Number(), Type.Number(), Type.Number(), Type.Number()]);

export const CollisionSchema = Type.Object(
  {
    format: Type.Literal(1),
    /** Planes as nx, ny, nz, d: the solid is where n·p <= d for all. Map space, units. */
    solids: Type.Array(Type.Object({ id: Type.String(), planes: Type.Array(Plane) }, closed)),
  },
  closed,
);

const Bounds = Type.Object(
  { min: Type.Tuple([Type.Number(), Type.Number(), Type.Number()]), max: Type.Tuple([Type.Number(), Type.Number(), Type.Number()]) },
  closed,
);

export const RuntimeMapSchema = Type.Object(
  {
    format: Type.Literal(1),
    name: Type.String(),
    profile: Type.String(),
    settings: MapSettingsSchema,
    objects: Type.Record(Type.String(), MapObjectSchema),
    signals: Type.Record(Type.String(), SignalSchema),
    paths: Type.Record(Type.String(), PathSchema),
    scripts: Type.Array(Type.String()),
    /** Bounds of every model that an object uses, in units, z up. */
    models: Type.Record(Type.String(), Bounds),
  },
  closed,
);

export type Collision = Static<typeof CollisionSchema>;
export type RuntimeMap = Static<typeof RuntimeMapSchema>;

export function collisionOf(solids: Record<string, Solid>, collides: (material: string) => boolean): Collision {
  const list: Collision['solids'] = [];
  for (const [id, solid] of Object.entries(solids)) {
    if (!solid.faces.some((face) => collides(face.material))) continue;
    list.push({
      id,
      planes: solidPolygons(solid).map(({ face }) => [...solid.faces[face].normal, solid.faces[face].distance] as [number, number, number, number]),
    });
  }
  return { format: 1, solids: list };
}

export function runtimeMap(name: string, map: GameMap, scripts: string[], models: RuntimeMap['models']): RuntimeMap {
  return {
    format: 1,
    name,
    profile: map.profile,
    settings: map.settings,
    objects: map.objects,
    signals: map.signals,
    paths: map.paths,
    scripts,
    models,
  };
}
