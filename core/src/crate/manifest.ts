/** `crate.json`: what a crate is called, whose work is in it, and how its assets came to be. */

import { Type, type Static } from '@sinclair/typebox';

const closed = { additionalProperties: false };

export const CreditSchema = Type.Object({ author: Type.String(), work: Type.String(), licence: Type.String() }, closed);

export const CrateMaterialSchema = Type.Object(
  {
    name: Type.String(),
    type: Type.String({ description: 'Id of a material type of the profile.' }),
    texture: Type.Optional(Type.String({ description: 'Path of a KTX2 file in the crate or the base pack.' })),
    colour: Type.String({ description: 'Mean colour, #rrggbb (sRGB).' }),
    unitsPerRepeat: Type.Number({ exclusiveMinimum: 0 }),
  },
  closed,
);

/** How a converted file was made, so that it can be made again with other settings. */
export const AssetRecordSchema = Type.Object(
  {
    source: Type.String({ description: 'Path of the file it was converted from.' }),
    options: Type.Record(Type.String(), Type.Unknown()),
    /** Models: extent in game units about the origin, z up. */
    bounds: Type.Optional(
      Type.Object(
        { min: Type.Tuple([Type.Number(), Type.Number(), Type.Number()]), max: Type.Tuple([Type.Number(), Type.Number(), Type.Number()]) },
        closed,
      ),
    ),
    triangles: Type.Optional(Type.Integer()),
    width: Type.Optional(Type.Integer()),
    height: Type.Optional(Type.Integer()),
  },
  closed,
);

export const CrateManifestSchema = Type.Object(
  {
    format: Type.Literal(1),
    name: Type.String({ minLength: 1 }),
    title: Type.String({ minLength: 1 }),
    description: Type.String(),
    version: Type.String({ pattern: '^\\d+\\.\\d+\\.\\d+$' }),
    profile: Type.String(),
    mainMap: Type.String(),
    authors: Type.Array(Type.String()),
    credits: Type.Array(CreditSchema),
    materials: Type.Array(CrateMaterialSchema),
    assets: Type.Record(Type.String(), AssetRecordSchema),
  },
  closed,
);

export type Credit = Static<typeof CreditSchema>;
export type CrateMaterial = Static<typeof CrateMaterialSchema>;
export type AssetRecord = Static<typeof AssetRecordSchema>;
export type CrateManifest = Static<typeof CrateManifestSchema>;
