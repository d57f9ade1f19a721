/**
 * A game profile: everything one game needs, as a JSON document. No code knows a game by name; what a
 * class of object *does* is composed from the parts of `core/src/part/`.
 *
 * Lengths are in game units unless a name says metres. Map space is right-handed with z up.
 */

import { BankLayoutSchema } from '../bank/layout.ts';
import { EffectSchema } from '../effect/document.ts';
import { InsidePath } from './insidePath.ts';
import { Type, type Static } from '@sinclair/typebox';
import { PrefabSchema } from '../document/schema.ts';
import { PART_IDS } from '../part/parts.ts';
import { ModelSchema, TableSchema } from '../table/schema.ts';
import { ContestTypeSchema, MemorySchema, SpeechSchema } from '../talk/schema.ts';
import { InstallSchema, LogPatternSchema, ProgramSchema, StepSchema } from './toolchain.ts';
import { Keyed } from '../keyed.ts';

const Id = Type.String({ pattern: '^[a-z][a-z0-9_]*$' });
const Vector = Type.Tuple([Type.Number(), Type.Number(), Type.Number()]);
const closed = { additionalProperties: false };

export const PROPERTY_TYPES = [
  'number',
  'text',
  'boolean',
  'choice',
  'colour',
  'vector',
  'angle', // degrees, 0 to 360
  'direction', // unit vector
  'list', // texts
  'model',
  'material',
  'sound',
  'texture',
  'subtitle',
  'object', // id of an object of the map
  'path', // id of a path of the map
  'script', // name of a global Lua function
  'record', // key of a row of `table`
  'talk', // name of a conversation
  'effect', // name of an effect
  'mood', // name of a mood of the map
  'bed', // name of a sound bed of the map
  'sequence', // id of a movement sequence of the map
] as const;

export const PropertySchema = Type.Object(
  {
    id: Id,
    label: Type.String(),
    type: Type.Union(PROPERTY_TYPES.map((t) => Type.Literal(t))),
    description: Type.Optional(Type.String()),
    unit: Type.Optional(Type.String()),
    min: Type.Optional(Type.Number()),
    max: Type.Optional(Type.Number()),
    choices: Type.Optional(Type.Array(Type.String())),
    default: Type.Union([Type.Number(), Type.String(), Type.Boolean(), Vector, Type.Array(Type.String())]),
    table: Type.Optional(Type.String({ description: 'Of a `record`: the table that its row is from.' })),
    /** Ids of classes that an `object` may be of. */
    of: Type.Optional(Type.Array(Id)),
    symbols: Type.Optional(Type.Boolean({ description: 'Of a `texture`: a symbol that ships with the application may stand there as well.' })),
  },
  closed,
);

const NamedEntry = Type.Object({ id: Id, label: Type.String() }, closed);

export const ObjectClassSchema = Type.Object(
  {
    id: Id,
    label: Type.String(),
    group: Type.String(),
    description: Type.String(),
    icon: Type.String({ description: 'Name of a Bootstrap icon.' }),
    parts: Type.Array(Type.Union(PART_IDS.map((part) => Type.Literal(part)))),
    size: Type.Unsafe<[number, number, number]>({
      ...Vector,
      description: 'Extent x, y, z about the position; the position is the centre of its bottom.',
    }),
    useEvent: Type.Optional(Id),
    series: Type.Optional(Type.String({ description: 'Property that numbers the objects of this class from 0 without gaps.' })),
    pairs: Type.Optional(Type.String({ description: 'Property that names the other of a pair: entry and exit. Both have to name each other.' })),
    hangs: Type.Optional(Type.Boolean({ description: 'Need not stand on anything.' })),
    usedIn: Type.Optional(Type.Array(Type.String(), { description: 'Stock maps that show it in use.' })),
    properties: Type.Array(PropertySchema),
    events: Type.Array(NamedEntry),
    actions: Type.Array(NamedEntry),
  },
  closed,
);

/** A machine or system that the game runs on, as far as a package is another one there. */
export const PlatformSchema = Type.Object(
  {
    id: Id,
    title: Type.String(),
    maxTexture: Type.Optional(Type.Integer({ minimum: 1, description: 'Pixels along the longer side of a texture.' })),
    lineEnds: Type.Optional(Type.Union([Type.Literal('lf'), Type.Literal('crlf')])),
    maxPath: Type.Optional(Type.Integer({ minimum: 1, description: 'Characters of a path within the package.' })),
  },
  closed,
);

export const MaterialTypeSchema = Type.Object(
  {
    id: Id,
    label: Type.String(),
    description: Type.String(),
    drawn: Type.Boolean(),
    lit: Type.Boolean(),
    opaque: Type.Boolean({ description: 'Stops light and hides what lies behind.' }),
    seals: Type.Boolean({ description: 'Keeps the outside out.' }),
    collides: Type.Boolean({ description: 'Stops players.' }),
    sky: Type.Optional(Type.Boolean()),
    decal: Type.Optional(Type.Boolean({ description: 'Made to lie on other surfaces: what decals are of.' })),
    divides: Type.Optional(Type.Boolean({ description: 'Its solids only split the cells of visibility.' })),
  },
  closed,
);

const NameRule = Type.Object({ pattern: Type.String(), maxLength: Type.Integer(), description: Type.String() }, closed);

const CommandLine = Type.String({ maxLength: 400 });

/** How the game is started with a mod, what its log says, and what it can be told while it runs. */
export const LaunchSchema = Type.Object(
  {
    program: Type.String({ maxLength: 400, description: 'The file that is run; {game} is the install.' }),
    arguments: Type.Array(CommandLine, { description: 'One each; {game}, {mod} and {map} are replaced. No shell reads them.' }),
    folder: Type.String({ maxLength: 400, description: 'Where it is run; {game} is the install.' }),
    log: Type.Array(LogPatternSchema, {
      description: 'Lines of its log that are findings, the first that fits: a text with {file}, {line} and {message} in it.',
    }),
    commands: Type.Object(
      { reload: Type.Optional(CommandLine), map: Type.Optional(CommandLine), quit: CommandLine },
      { ...closed, description: 'What is written to it to load scripts anew, to load {map}, and to end.' },
    ),
  },
  closed,
);
export type Launch = Static<typeof LaunchSchema>;

export const ProfileSchema = Type.Object(
  {
    format: Type.Literal(1),
    id: Id,
    version: Type.Optional(Type.String({ description: 'Version of the profile itself, like 1.2.0.' })),
    title: Type.String(),
    description: Type.String(),
    unit: Type.Object({ name: Type.String(), plural: Type.String(), metres: Type.Number({ exclusiveMinimum: 0 }) }, closed),
    grid: Type.Object({ default: Type.Number(), min: Type.Number(), max: Type.Number() }, closed),
    band: Type.Object({ bottom: Type.Number(), top: Type.Number() }, closed),
    shellThickness: Type.Number(),
    player: Type.Object(
      {
        height: Type.Number(),
        radius: Type.Number(),
        eyeHeight: Type.Number(),
        stepHeight: Type.Number(),
        walkSpeed: Type.Number({ description: 'units per second' }),
        runSpeed: Type.Number({ description: 'units per second' }),
        jumpSpeed: Type.Number({ description: 'units per second' }),
        gravity: Type.Number({ description: 'units per second squared' }),
        reach: Type.Number(),
        maxSlope: Type.Optional(
          Type.Number({ minimum: 0, exclusiveMaximum: 90, description: 'Steepest ground that is walked on, degrees; 45 without it.' }),
        ),
        crouchHeight: Type.Optional(Type.Number({ exclusiveMinimum: 0, description: 'Height while crouching; without it nobody can.' })),
        mass: Type.Optional(Type.Number({ exclusiveMinimum: 0, description: 'Kilograms that press on what the player stands on; 75 without it.' })),
        strength: Type.Optional(
          Type.Object(
            {
              push: Type.Number({ minimum: 0, description: 'Newtons with which the player pushes things along.' }),
              lift: Type.Number({ minimum: 0, description: 'Kilograms that the player carries.' }),
              throw: Type.Number({ minimum: 0, description: 'Newton seconds that a throw gives to a thing.' }),
            },
            { ...closed, description: 'What the player can do to things that move; without it nothing.' },
          ),
        ),
        health: Type.Optional(Type.Number({ exclusiveMinimum: 0, description: 'Points of health; without it nothing hurts.' })),
      },
      closed,
    ),
    maxPlayers: Type.Optional(Type.Integer({ minimum: 1, maximum: 64, description: 'Who may play in one run; 8 without it.' })),
    naming: Type.Object({ crate: NameRule, file: NameRule, object: NameRule }, closed),
    models: Type.Object(
      {
        unit: Type.String({ description: 'Unit assumed for files that state none: a key of LENGTH_UNITS or "game".' }),
        upAxis: Type.Union([Type.Literal('y'), Type.Literal('z')]),
        maxTriangles: Type.Integer(),
        maxMaterials: Type.Integer(),
        maxSize: Type.Number(),
        maxBones: Type.Optional(Type.Integer()),
        lods: Type.Optional(
          Type.Array(Type.Number({ exclusiveMinimum: 0, exclusiveMaximum: 1 }), { description: 'Share of the triangles of each level of detail.' }),
        ),
        collision: Type.Optional(Type.Union(['none', 'box', 'hull', 'parts', 'exact'].map((shape) => Type.Literal(shape as 'none')))),
      },
      closed,
    ),
    textures: Type.Object({ maxSize: Type.Integer(), powerOfTwo: Type.Boolean(), unitsPerRepeat: Type.Number() }, closed),
    sounds: Type.Object(
      {
        format: Type.Union([Type.Literal('wav'), Type.Literal('ogg')]),
        sampleRate: Type.Integer(),
        channels: Type.Integer({ minimum: 1, maximum: 2 }),
        loudness: Type.Number({ description: 'Programme loudness that sounds are brought to, LUFS (ITU-R BS.1770).' }),
        truePeak: Type.Number({ description: 'Ceiling of the true peak, dBTP.' }),
        maxSeconds: Type.Number(),
      },
      closed,
    ),
    surfaces: Type.Array(
      Type.Object(
        {
          id: Id,
          label: Type.String(),
          footstep: Type.Optional(Type.String({ description: 'Sound of a step, from the base pack.' })),
          friction: Type.Number({ minimum: 0 }),
          absorbs: Type.Optional(
            Type.Number({
              minimum: 0,
              maximum: 1,
              description: 'Share of the sound that it takes, in the middle of what is heard (500 Hz to 1 kHz); 0.04 without it.',
            }),
          ),
          loss: Type.Optional(
            Type.Number({ minimum: 0, maximum: 120, description: 'Decibels that a wall of it takes from sound that goes through; 45 without it.' }),
          ),
        },
        closed,
      ),
      { description: 'Kinds of surface that a material can be of.' },
    ),
    placeholders: Type.Array(Type.String(), { description: 'Stock assets that stand in for something unfinished: paths, or names of materials.' }),
    sealed: Type.Boolean(),
    lighting: Type.Object(
      {
        skyColour: Type.String(),
        skyIntensity: Type.Number({ description: 'Radiance of the sky; 1 lights a matt white floor in the open to 1.' }),
        luxel: Type.Object({ draft: Type.Number(), preview: Type.Number(), final: Type.Number() }, closed),
      },
      closed,
    ),
    example: Type.Optional(Type.String({ description: 'Name of the crate that ships as an example of this game.' })),
    defaultMaterial: Type.String({ description: 'Material of new solids; from the base pack.' }),
    materialTypes: Type.Array(MaterialTypeSchema),
    classes: Type.Array(ObjectClassSchema),
    required: Type.Array(Type.Object({ class: Id, min: Type.Integer(), max: Type.Optional(Type.Integer()), reason: Type.String() }, closed)),
    prefabs: Type.Optional(Keyed(Type.String({ pattern: '^[a-z][a-z0-9_]*$' }), PrefabSchema, { description: 'Prefabs that come with the game.' })),
    requiredPrefabs: Type.Optional(Type.Array(Type.Object({ prefab: Id, reason: Type.String() }, closed))),
    minThickness: Type.Optional(Type.Number({ description: 'Solids thinner than this let players or light through.' })),
    budgets: Type.Optional(
      Type.Object(
        {
          solids: Type.Integer(),
          triangles: Type.Integer(),
          textures: Type.Integer(),
          lights: Type.Integer(),
          objects: Type.Integer(),
          packageBytes: Type.Integer(),
          things: Type.Optional(Type.Integer({ description: 'Things that are scattered on the ground.' })),
        },
        { ...closed, description: 'What one map may have before the game stutters.' },
      ),
    ),
    ground: Type.Optional(
      Type.Object(
        {
          materials: Type.Array(Type.String(), { minItems: 1, maxItems: 8, description: 'What new ground is covered with; the first everywhere.' }),
          spacing: Type.Number({ exclusiveMinimum: 0, description: 'Distance of its samples, in units.' }),
        },
        { ...closed, description: 'What new ground is like.' },
      ),
    ),
    zoneUses: Type.Optional(
      Type.Array(
        Type.Object(
          {
            id: Id,
            label: Type.String(),
            description: Type.String(),
            partner: Type.Optional(Type.String({ description: 'Use of the other of a pair: an entrance and an exit name each other.' })),
            icon: Type.Optional(Type.Boolean({ description: 'It stands on the player’s map and needs a picture.' })),
            leaves: Type.Optional(Type.Boolean({ description: 'Vehicles leave it along its direction, so that there has to be room.' })),
            returns: Type.Optional(Type.Boolean({ description: 'Sends whoever comes into it back to where they last were right.' })),
          },
          closed,
        ),
        { description: 'What zones are for in this game.' },
      ),
    ),
    mapPicture: Type.Optional(
      Type.Object(
        { sides: Type.Array(Type.Integer({ minimum: 64, maximum: 4096 }), { minItems: 1, description: 'Longer sides of the pictures, in pixels.' }) },
        { ...closed, description: 'The game shows its players a drawn map.' },
      ),
    ),
    banks: Type.Optional(
      Type.Array(Type.Object({ file: Type.String({ ...InsidePath, description: 'Path in the install.' }), layout: BankLayoutSchema }, closed), {
        description: 'Binary banks of the game, with how they lie in their files.',
      }),
    ),
    tables: Type.Optional(Type.Array(TableSchema, { maxItems: 64, description: 'Game data that crates have rows of.' })),
    contestModels: Type.Optional(Type.Array(ModelSchema, { maxItems: 16, description: 'How contests are decided.' })),
    riders: Type.Optional(
      Type.Object(
        {
          table: Id,
          by: Type.Optional(
            Type.String({ pattern: Id.pattern, description: 'Property of a vehicle that names the row who rides it against the player.' }),
          ),
          nerve: Type.String({ description: 'Formula: what the speed that a steady driver dares in bends is multiplied by.' }),
          vehicle: Keyed(Id, Type.String(), { description: 'Properties of the vehicle that is ridden, as formulas over the row.' }),
        },
        { ...closed, description: 'Rows of a table race.' },
      ),
    ),
    contests: Type.Optional(Type.Array(ContestTypeSchema, { maxItems: 32 })),
    effects: Type.Optional(
      Type.Object(
        {
          particles: Type.Integer({ minimum: 1, description: 'Particles of one effect at once.' }),
          overdraw: Type.Number({
            exclusiveMinimum: 0,
            description: 'Layers over each other where an effect covers the picture, seen from as near as a player comes.',
          }),
          screens: Type.Number({ exclusiveMinimum: 0, description: 'What is drawn of one effect from there, in whole pictures.' }),
          bytes: Type.Integer({ minimum: 1, description: 'Memory of its particles and pictures.' }),
          templates: Type.Array(Type.Object({ id: Id, label: Type.String(), effect: EffectSchema }, closed), {
            maxItems: 32,
            description: 'What a new effect may begin as.',
          }),
        },
        { ...closed, description: 'What one effect may cost, and what there is to begin with.' },
      ),
    ),
    speech: Type.Optional(SpeechSchema),
    memory: Type.Optional(MemorySchema),
    sight: Type.Optional(
      Type.Object(
        {
          step: Type.Number({ exclusiveMinimum: 0, description: 'Units of a step of sight.' }),
          most: Type.Integer({ minimum: 1, description: 'Most steps that somebody sees.' }),
          height: Type.Number({ exclusiveMinimum: 0, description: 'Height of the eyes, in units.' }),
          walls: Type.Boolean({ description: 'Whether walls stop sight in the game: where they do not, people see through them.' }),
        },
        { ...closed, description: 'How the game works out what people see.' },
      ),
    ),
    mapIcons: Type.Optional(Type.Array(Type.Integer(), { description: 'Sides, in pixels, in which the game wants pictures of places on its map.' })),
    scripts: Type.Object(
      {
        main: Type.String(),
        startup: Type.String(),
        api: Type.Array(Type.Object({ name: Type.String(), signature: Type.String(), description: Type.String() }, closed)),
      },
      closed,
    ),
    install: InstallSchema,
    preparation: Type.Optional(Type.Array(StepSchema, { description: 'What has to be done once before the game can be modded.' })),
    programs: Type.Optional(Type.Array(ProgramSchema, { description: 'Programs of the game that run at import, after a build and at launch.' })),
    launch: Type.Optional(LaunchSchema),
    package: Type.Object(
      {
        thumbnailWidth: Type.Integer(),
        thumbnailHeight: Type.Integer(),
        maxBytes: Type.Integer(),
        platforms: Type.Optional(
          Type.Array(PlatformSchema, { description: 'What the game runs on; each gets a package of its own from one build.' }),
        ),
      },
      closed,
    ),
  },
  closed,
);

export type Profile = Static<typeof ProfileSchema>;
export type Platform = Static<typeof PlatformSchema>;
export type ObjectClass = Static<typeof ObjectClassSchema>;
export type PropertyDefinition = Static<typeof PropertySchema> & { type: string };
export type MaterialType = Static<typeof MaterialTypeSchema>;

export const classOf = (profile: Profile, id: string): ObjectClass | undefined => profile.classes.find((c) => c.id === id);

export const materialType = (profile: Profile, id: string): MaterialType | undefined => profile.materialTypes.find((t) => t.id === id);
