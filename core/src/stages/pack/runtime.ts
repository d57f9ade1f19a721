/** `map.json`, which the game reads beside the GLB: objects, signals, paths (docs/formats.md). */

import { Type, type Static } from '@sinclair/typebox';
import { MapObjectSchema, MapSettingsSchema, PathSchema, SignalSchema, type GameMap } from '../../document/schema.ts';

const closed = { additionalProperties: false };
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

export type RuntimeMap = Static<typeof RuntimeMapSchema>;

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
