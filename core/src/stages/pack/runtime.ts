/** `map.json`, which the game reads beside the GLB: objects, signals, paths (docs/formats.md). */

import { Type, type Static } from '@sinclair/typebox';
import { MapObjectSchema, MapSettingsSchema, PathSchema, RouteSchema, SequenceStepSchema, SignalSchema } from '../../document/schema.ts';
import type { PackingInputs } from './inputs.ts';

const closed = { additionalProperties: false };
const Bounds = Type.Object(
  { min: Type.Tuple([Type.Number(), Type.Number(), Type.Number()]), max: Type.Tuple([Type.Number(), Type.Number(), Type.Number()]) },
  closed,
);
const Body = Type.Object(
  {
    mass: Type.Number({ description: 'Kilograms.' }),
    friction: Type.Number(),
    hulls: Type.Array(Type.Array(Type.Number()), { description: 'Corners of each convex part: x, y, z in turn, about the origin.' }),
  },
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
    routes: Type.Record(Type.String(), RouteSchema),
    /** Movement sequences; the last step of each is its end mark, which is written here and cannot be forgotten. */
    sequences: Type.Optional(
      Type.Record(
        Type.String(),
        Type.Object(
          { name: Type.String(), steps: Type.Array(Type.Union([SequenceStepSchema, Type.Object({ do: Type.Literal('end') }, closed)])) },
          closed,
        ),
      ),
    ),
    scripts: Type.Array(Type.String()),
    /** Bounds of every model that an object uses, in units, z up. */
    models: Type.Record(Type.String(), Bounds),
    /** Models that physics moves, in units, z up. */
    bodies: Type.Record(Type.String(), Body),
  },
  closed,
);

export type RuntimeMap = Static<typeof RuntimeMapSchema>;

export function runtimeMap(
  { name, map, scripts, models }: Pick<PackingInputs, 'name' | 'map' | 'scripts' | 'models'>,
  bodies: RuntimeMap['bodies'],
): RuntimeMap {
  return {
    format: 1,
    name,
    profile: map.profile,
    settings: map.settings,
    objects: map.objects,
    signals: map.signals,
    paths: map.paths,
    routes: map.routes,
    sequences: Object.fromEntries(
      Object.entries(map.sequences).map(([id, { name, steps }]) => [id, { name, steps: [...steps, { do: 'end' as const }] }]),
    ),
    scripts: Object.keys(scripts).sort(),
    models: Object.fromEntries(Object.entries(models).flatMap(([path, { bounds }]) => (bounds ? [[path, bounds]] : []))),
    bodies,
  };
}
