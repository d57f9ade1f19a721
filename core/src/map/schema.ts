/**
 * The map document: plain JSON, one file per map (`maps/NAME.map.json`). Map space is right-handed with
 * z up, in game units. Collections are records by id, so that an edit touches only what it names and a
 * text diff shows only what changed.
 */

import { Type, type Static } from '@sinclair/typebox';

const closed = { additionalProperties: false };
const VectorSchema = Type.Tuple([Type.Number(), Type.Number(), Type.Number()]);
const Ref = Type.String({ minLength: 1 });

export const FaceSchema = Type.Object(
  {
    normal: Type.Unsafe<[number, number, number]>({ ...VectorSchema, description: 'Unit normal, pointing out of the solid.' }),
    distance: Type.Number({ description: 'normal · p for every point p of the plane.' }),
    material: Ref,
    shift: Type.Optional(Type.Tuple([Type.Number(), Type.Number()], { description: 'Offset of the projection, in units.' })),
    scale: Type.Optional(Type.Number({ exclusiveMinimum: 0, description: 'Size of the projection; 1 is the material’s own.' })),
    turn: Type.Optional(Type.Number({ description: 'Rotation of the projection in degrees, counter-clockwise seen from outside.' })),
  },
  closed,
);

export const SolidSchema = Type.Object(
  {
    faces: Type.Array(FaceSchema, { minItems: 4 }),
    detail: Type.Optional(Type.Boolean({ description: 'Drawn and solid, but does not seal or split cells.' })),
    label: Type.Optional(Type.String()),
  },
  closed,
);

export const PropertyValueSchema = Type.Union([Type.Number(), Type.String(), Type.Boolean(), VectorSchema]);

export const MapObjectSchema = Type.Object(
  {
    class: Ref,
    name: Type.String(),
    position: VectorSchema,
    turn: Type.Number({ description: 'Rotation about z in degrees; 0 looks along +x.' }),
    properties: Type.Record(Type.String(), PropertyValueSchema),
  },
  closed,
);

export const SignalSchema = Type.Object(
  {
    from: Type.String({ description: 'Id of the object whose event it is.' }),
    event: Type.String(),
    to: Type.Union([
      Type.Object({ object: Type.String(), action: Type.String() }, closed),
      Type.Object({ script: Type.String({ description: 'Name of a global Lua function.' }) }, closed),
    ]),
    delay: Type.Number({ minimum: 0, description: 'seconds' }),
    value: Type.Optional(Type.String()),
  },
  closed,
);

export const BandSchema = Type.Object({ name: Type.String(), bottom: Type.Number(), top: Type.Number() }, closed);

/** A step of the headless test run. */
export const TrialStepSchema = Type.Union([
  Type.Object({ walkTo: VectorSchema }, closed),
  Type.Object({ use: Type.String({ description: 'Name of the object to operate.' }) }, closed),
  Type.Object({ wait: Type.Number({ minimum: 0, maximum: 120 }) }, closed),
  Type.Object({ expect: Type.Object({ object: Type.String(), property: Type.String(), equals: PropertyValueSchema }, closed) }, closed),
]);

export const MapSettingsSchema = Type.Object(
  {
    skyColour: Type.String(),
    skyIntensity: Type.Number({ minimum: 0 }),
    trial: Type.Array(TrialStepSchema),
  },
  closed,
);

export const MapSchema = Type.Object(
  {
    format: Type.Literal(1),
    profile: Ref,
    settings: MapSettingsSchema,
    bands: Type.Record(Type.String(), BandSchema),
    solids: Type.Record(Type.String(), SolidSchema),
    objects: Type.Record(Type.String(), MapObjectSchema),
    signals: Type.Record(Type.String(), SignalSchema),
  },
  closed,
);

export type Face = Static<typeof FaceSchema>;
export type Solid = Static<typeof SolidSchema>;
export type PropertyValue = Static<typeof PropertyValueSchema>;
export type MapObject = Static<typeof MapObjectSchema>;
export type Signal = Static<typeof SignalSchema>;
export type Band = Static<typeof BandSchema>;
export type TrialStep = Static<typeof TrialStepSchema>;
export type MapSettings = Static<typeof MapSettingsSchema>;
export type GameMap = Static<typeof MapSchema>;
