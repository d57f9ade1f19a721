/** `crate.json`: what a crate is called, whose work is in it, and how its assets came to be. */

import { Type, type Static } from '@sinclair/typebox';
import { ASSET_KINDS } from './assetKind.ts';
import { Version } from './version.ts';
import { Keyed } from '../keyed.ts';

const closed = { additionalProperties: false };

export const CreditSchema = Type.Object({ author: Type.String(), work: Type.String(), licence: Type.String() }, closed);

/** What players choose by, beside title and description. */
export const AboutSchema = Type.Object(
  {
    tags: Type.Optional(Type.Array(Type.String({ minLength: 1, maxLength: 30 }), { maxItems: 12 })),
    players: Type.Optional(Type.Tuple([Type.Integer({ minimum: 1, maximum: 99 }), Type.Integer({ minimum: 1, maximum: 99 })])),
    minutes: Type.Optional(Type.Integer({ minimum: 1, maximum: 6000 })),
    difficulty: Type.Optional(Type.Union(['easy', 'medium', 'hard'].map((word) => Type.Literal(word as 'easy' | 'medium' | 'hard')))),
    languages: Type.Optional(Type.Array(Type.String({ pattern: '^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$', description: 'BCP 47' }), { maxItems: 40 })),
  },
  closed,
);

/** Crates of a workshop that have to be there: by name, with the versions that do (ranges as semver.org’s precedence orders them). */
export const RequiresSchema = Keyed(Type.String({ pattern: '^[a-z][a-z0-9_]*$' }), Type.String({ minLength: 1, maxLength: 80 }));

/** The moving preview of a release. */
export const PreviewSchema = Type.Object(
  {
    path: Type.String({ minLength: 1, maxLength: 200, description: 'Name of the path of the main map that the camera goes along.' }),
    seconds: Type.Number({ minimum: 1, maximum: 8 }),
  },
  closed,
);

/** Whose work one file is. */
export const ClaimSchema = Type.Object(
  {
    author: Type.Optional(Type.String({ maxLength: 200 })),
    work: Type.Optional(Type.String({ maxLength: 200 })),
    source: Type.Optional(Type.String({ maxLength: 400, description: 'Where it is from: an address or words.' })),
    licence: Type.Optional(Type.String({ maxLength: 200, description: 'SPDX expression.' })),
  },
  closed,
);

export const CrateMaterialSchema = Type.Object(
  {
    name: Type.String(),
    type: Type.String({ description: 'Id of a material type of the profile.' }),
    texture: Type.Optional(Type.String({ description: 'Path of a KTX2 file in the crate or the base pack.' })),
    colour: Type.String({ pattern: '^#[0-9a-fA-F]{6}$', description: 'Mean colour, #rrggbb (sRGB).' }),
    unitsPerRepeat: Type.Number({ exclusiveMinimum: 0 }),
    normal: Type.Optional(Type.String({ description: 'Path of its normal map.' })),
    packed: Type.Optional(Type.String({ description: 'Path of occlusion, roughness and metalness in red, green and blue.' })),
    emissionMap: Type.Optional(Type.String({ description: 'Path of its emission.' })),
    roughness: Type.Optional(Type.Number({ minimum: 0, maximum: 1 })),
    metalness: Type.Optional(Type.Number({ minimum: 0, maximum: 1 })),
    luxel: Type.Optional(
      Type.Number({ exclusiveMinimum: 0, description: 'What the luxel is multiplied by on its faces: 0.5 lights twice as finely.' }),
    ),
    emission: Type.Optional(Type.Number({ minimum: 0, description: 'Radiance it gives off, in the units of the sky’s.' })),
    surface: Type.Optional(Type.String({ description: 'Id of a kind of surface of the profile.' })),
  },
  closed,
);

/** Where a file came from, so that a change of it is noticed. */
const OriginSchema = Type.Object(
  {
    path: Type.String({ description: 'Path as given: within a dropped or watched folder, or on disk.' }),
    sha256: Type.String(),
    pack: Type.Optional(Type.String({ description: 'Title of the pack it came with.' })),
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
    vertices: Type.Optional(Type.Integer()),
    /** Models: the pivot in the world of the source, game units, z up. */
    pivotAt: Type.Optional(Type.Tuple([Type.Number(), Type.Number(), Type.Number()])),
    slots: Type.Optional(
      Type.Array(
        Type.Object(
          {
            slot: Type.String(),
            material: Type.String({ description: 'Name of a material, empty where the model keeps its own.' }),
            by: Type.Union([Type.Literal('hand'), Type.Literal('name'), Type.Literal('likeness'), Type.Literal('none')]),
          },
          closed,
        ),
      ),
    ),
    lods: Type.Optional(
      Type.Array(
        Type.Object(
          {
            triangles: Type.Integer(),
            target: Type.Number(),
            error: Type.Number({ description: 'Metres.' }),
            switchDistance: Type.Number({ description: 'Metres.' }),
          },
          closed,
        ),
      ),
    ),
    collision: Type.Optional(
      Type.Object(
        {
          kind: Type.String(),
          parts: Type.Integer(),
          volume: Type.Number({ description: 'Cubic metres.' }),
          meshVolume: Type.Union([Type.Number(), Type.Null()], { description: 'Cubic metres; null where the model is not closed.' }),
          mass: Type.Number({ description: 'Kilograms.' }),
        },
        closed,
      ),
    ),
    movable: Type.Optional(Type.Boolean()),
    clips: Type.Optional(Type.Array(Type.String())),
    bones: Type.Optional(Type.Integer()),
    variantOf: Type.Optional(Type.String()),
    variant: Type.Optional(Type.String()),
    shape: Type.Optional(Type.String({ description: 'Models: hash of the mesh, whatever its order and materials.' })),
    repeats: Type.Optional(Type.Number({ description: 'Models: repeats of a picture per unit of length, by the mean of its texture coordinates.' })),
    look: Type.Optional(Type.String({ description: 'Textures: difference hash of 64 bits; alike pictures differ in few.' })),
    /** Textures: step across the border when repeated, over that inside. */
    seam: Type.Optional(Type.Number()),
    /** Subtitles. */
    cues: Type.Optional(Type.Integer()),
    /** Sounds; subtitles: when the last ends. */
    seconds: Type.Optional(Type.Number()),
    sampleRate: Type.Optional(Type.Integer()),
    channels: Type.Optional(Type.Integer()),
    loudness: Type.Optional(Type.Union([Type.Number(), Type.Null()], { description: 'LUFS; null for silence.' })),
    truePeak: Type.Optional(Type.Union([Type.Number(), Type.Null()], { description: 'dBTP; null for silence.' })),
    origin: Type.Optional(OriginSchema),
    credit: Type.Optional(ClaimSchema),
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
    version: Version,
    profile: Type.String(),
    mainMap: Type.String(),
    authors: Type.Array(Type.String()),
    credits: Type.Array(CreditSchema),
    materials: Type.Array(CrateMaterialSchema),
    assets: Type.Record(Type.String(), AssetRecordSchema),
    importRules: Type.Optional(
      Type.Array(
        Type.Object(
          {
            folder: Type.String({ description: 'Folder of the source; empty for files without one.' }),
            kind: Type.Union(ASSET_KINDS.map((kind) => Type.Literal(kind))),
            options: Type.Record(Type.String(), Type.Unknown()),
          },
          closed,
        ),
        { description: 'Settings for all files of a folder.' },
      ),
    ),
    licence: Type.Optional(Type.String({ maxLength: 200, description: 'SPDX expression under which the whole goes out.' })),
    about: Type.Optional(AboutSchema),
    requires: Type.Optional(RequiresSchema),
    preview: Type.Optional(PreviewSchema),
    ledger: Type.Optional(
      Type.Record(Type.String(), ClaimSchema, { description: 'Whose work files are, by path, where somebody has said so by hand.' }),
    ),
    kept: Type.Optional(
      Type.Record(Type.String(), Type.String({ maxLength: 300 }), {
        description: 'Why something stays that links say could go, by path of the file or material:NAME.',
      }),
    ),
    scriptOrigins: Type.Optional(
      Type.Record(Type.String(), OriginSchema, {
        description: 'Files that scripts and effects came from, by path in the crate; the hash is that of the text as it came in.',
      }),
    ),
  },
  closed,
);

export type About = Static<typeof AboutSchema>;
export type Claim = Static<typeof ClaimSchema>;
export type Credit = Static<typeof CreditSchema>;
export type CrateMaterial = Static<typeof CrateMaterialSchema>;
export type Origin = Static<typeof OriginSchema>;
export type AssetRecord = Static<typeof AssetRecordSchema>;
export type CrateManifest = Static<typeof CrateManifestSchema>;
