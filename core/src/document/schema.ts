/**
 * The map document: plain JSON, one file per map (`maps/NAME.map.json`). Map space is right-handed with
 * z up, in game units. Collections are records by id, so that an edit touches only what it names and a
 * text diff shows only what changed.
 */

import { Type, type Static, type TSchema } from '@sinclair/typebox';

const closed = { additionalProperties: false };
const VectorSchema = Type.Tuple([Type.Number(), Type.Number(), Type.Number()]);
const Ref = Type.String({ minLength: 1 });

export const FaceSchema = Type.Object(
  {
    normal: Type.Unsafe<[number, number, number]>({ ...VectorSchema, description: 'Unit normal, pointing out of the solid.' }),
    distance: Type.Number({ description: 'normal · p for every point p of the plane.' }),
    material: Ref,
    shift: Type.Optional(Type.Tuple([Type.Number(), Type.Number()], { description: 'Offset of the projection, in units.' })),
    scale: Type.Optional(
      Type.Union([Type.Number({ exclusiveMinimum: 0 }), Type.Tuple([Type.Number(), Type.Number()])], {
        description: 'Size of the projection, one number or one per axis (negative: mirrored); 1 is the material’s own.',
      }),
    ),
    axes: Type.Optional(
      Type.Unsafe<[[number, number, number], [number, number, number]]>({
        ...Type.Tuple([VectorSchema, VectorSchema]),
        description: 'Right and up axes of the projection; without them it lies along the world.',
      }),
    ),
    turn: Type.Optional(Type.Number({ description: 'Rotation of the projection in degrees, counter-clockwise seen from outside.' })),
    luxel: Type.Optional(Type.Number({ exclusiveMinimum: 0, description: 'What the luxel is multiplied by here: 0.5 lights twice as finely.' })),
  },
  closed,
);

export const SolidSchema = Type.Object(
  {
    faces: Type.Array(FaceSchema, { minItems: 4 }),
    detail: Type.Optional(Type.Boolean({ description: 'Drawn and solid, but does not seal or split cells.' })),
    label: Type.Optional(Type.String()),
    layer: Type.Optional(Ref),
    tags: Type.Optional(Type.Array(Type.String())),
  },
  closed,
);

export const PropertyValueSchema = Type.Union([Type.Number(), Type.String(), Type.Boolean(), VectorSchema, Type.Array(Type.String())]);

/** What lies on ground does when the ground under it changes. */
const ContactSchema = Type.Optional(
  Type.Union([Type.Literal('follow'), Type.Literal('keep')], {
    description: 'When the ground under it changes: goes up and down with it, or stays as it is and is no finding. Without it, one is asked.',
  }),
);

export const MapObjectSchema = Type.Object(
  {
    class: Ref,
    name: Type.String(),
    position: VectorSchema,
    turn: Type.Number({ description: 'Rotation about z in degrees; 0 looks along +x.' }),
    properties: Type.Record(Type.String(), PropertyValueSchema),
    shape: Type.Optional(
      Type.Unsafe<Static<typeof SolidSchema>>({ ...SolidSchema, description: 'Extent of a volume that is not a box, in map space.' }),
    ),
    layer: Type.Optional(Ref),
    tags: Type.Optional(Type.Array(Type.String())),
    contact: ContactSchema,
    labelAt: Type.Optional(
      Type.Unsafe<[number, number]>(
        Type.Tuple([Type.Number(), Type.Number()], {
          description: 'Where the middle of its label stands on the picture of the map, from the object, in units.',
        }),
      ),
    ),
    script: Type.Optional(
      Type.String({
        maxLength: 200,
        description: 'Path of a script that runs for this object alone: its functions see the object as self, and on_EVENT is called at its events.',
      }),
    ),
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

export const LayerSchema = Type.Object({ name: Type.String() }, closed);

export const PathSchema = Type.Object(
  {
    name: Type.String(),
    points: Type.Array(VectorSchema, { minItems: 2 }),
    loop: Type.Boolean({ description: 'The last point leads back to the first.' }),
    contact: ContactSchema,
    road: Type.Optional(Type.Number({ exclusiveMinimum: 0, description: 'Width of the road that was laid along it, in units.' })),
  },
  closed,
);

/** A text on the sheets with a line that leads to what it is about. */
export const NoteSchema = Type.Object(
  {
    name: Type.String(),
    text: Type.String({ maxLength: 2000 }),
    position: Type.Unsafe<[number, number, number]>({ ...VectorSchema, description: 'Where the text stands.' }),
    points: Type.Array(VectorSchema, { minItems: 1, description: 'Where its line leads; the last point is what it is about.' }),
  },
  closed,
);

/** A picture that is thrown onto what lies within a box: along minus its normal, on every surface that looks its way. */
export const DecalSchema = Type.Object(
  {
    name: Type.String({ maxLength: 60 }),
    material: Type.String(),
    position: Type.Unsafe<[number, number, number]>({ ...VectorSchema, description: 'Its middle, on the surface.' }),
    normal: Type.Unsafe<[number, number, number]>({ ...VectorSchema, description: 'Unit vector away from the surface.' }),
    turn: Type.Number({ description: 'Degrees about the normal, counter-clockwise seen from its tip; at 0 its top is up, on floors along +y.' }),
    size: Type.Unsafe<[number, number]>(
      Type.Array(Type.Number({ exclusiveMinimum: 0, maximum: 65536 }), { minItems: 2, maxItems: 2, description: 'Width and height, in units.' }),
    ),
    depth: Type.Number({ exclusiveMinimum: 0, maximum: 65536, description: 'How far in front of and behind its middle it is thrown, units.' }),
    soft: Type.Number({ minimum: 0, maximum: 1, description: 'Share of its half width and height over which it fades to its edges.' }),
    limit: Type.Number({ minimum: 0, maximum: 90, description: 'Degrees between its normal and that of a surface beyond which it is not seen.' }),
    fade: Type.Number({ minimum: 0, maximum: 90, description: 'Degrees before the limit over which it fades.' }),
    order: Type.Integer({ minimum: -1000, maximum: 1000, description: 'Higher ones lie over lower ones.' }),
    tint: Type.String({ pattern: '^#[0-9a-fA-F]{6}$' }),
    on: Type.Optional(Type.String({ maxLength: 60, description: 'Id of the solid that carries it; it goes where that goes.' })),
    rule: Type.Optional(Type.String({ maxLength: 60, description: 'Rule of wear that made it.' })),
    layer: Type.Optional(Type.String()),
  },
  closed,
);

/** A picture with corners of its own, or a strip along a line, thrown onto surfaces as decals are: signs, road marks, edges of puddles. */
export const OverlaySchema = Type.Object(
  {
    name: Type.String({ maxLength: 60 }),
    material: Type.String(),
    form: Type.Union([Type.Literal('strip'), Type.Literal('area')]),
    points: Type.Array(VectorSchema, { minItems: 2, maxItems: 256, description: 'The line of a strip, or the corners of an area in turn.' }),
    normal: Type.Unsafe<[number, number, number]>({ ...VectorSchema, description: 'Unit vector against which it is thrown.' }),
    width: Type.Number({ exclusiveMinimum: 0, maximum: 65536, description: 'Of a strip, units.' }),
    repeat: Type.Number({
      minimum: 0,
      maximum: 65536,
      description:
        'Units that one repeat of the picture takes: along a strip, both ways in an area. 0 lays one picture over all of it; in an area of four corners, into these.',
    }),
    depth: Type.Number({ exclusiveMinimum: 0, maximum: 65536, description: 'How far in front of and behind its points it is thrown, units.' }),
    ends: Type.Number({ minimum: 0, maximum: 65536, description: 'Units over which a strip fades at its ends.' }),
    limit: Type.Number({ minimum: 0, maximum: 90, description: 'Degrees between its normal and that of a surface beyond which it is not seen.' }),
    order: Type.Integer({ minimum: -1000, maximum: 1000, description: 'Higher ones lie over lower ones, decals among them.' }),
    tint: Type.String({ pattern: '^#[0-9a-fA-F]{6}$' }),
    on: Type.Optional(Type.String({ maxLength: 60, description: 'Id of the solid that carries it; it goes where that goes.' })),
    layer: Type.Optional(Type.String()),
  },
  closed,
);

/** Where wear comes: along outer edges, in inner corners, at the feet of walls, below openings and ledges. */
export const WEAR_PLACES = ['edges', 'corners', 'feet', 'below'] as const;

/** A rule that makes decals. They name it, so that they can be made anew after a change. */
export const WearSchema = Type.Object(
  {
    name: Type.String({ maxLength: 60 }),
    at: Type.Union(WEAR_PLACES.map((place) => Type.Literal(place))),
    material: Type.String({ description: 'Of the decals.' }),
    on: Type.String({ description: 'Material of the surfaces that wear; empty for all.' }),
    spacing: Type.Number({ exclusiveMinimum: 0, description: 'Units between two places along an edge.' }),
    chance: Type.Number({ minimum: 0, maximum: 1, description: 'Share of the places at which something is.' }),
    least: Type.Number({ exclusiveMinimum: 0, description: 'Smallest size, units.' }),
    most: Type.Number({ exclusiveMinimum: 0, description: 'Largest size, units.' }),
    low: Type.Number({ description: 'Units above the floor below it from which on it comes.' }),
    high: Type.Number({ description: 'Units above the floor below it up to which it comes.' }),
    limit: Type.Integer({ minimum: 1, maximum: 5000, description: 'Most decals that it makes.' }),
    seed: Type.Integer({ minimum: 0, maximum: 2147483647 }),
  },
  closed,
);

export const SelectionSetSchema = Type.Object({ name: Type.String(), solids: Type.Array(Ref), objects: Type.Array(Ref) }, closed);

export const BookmarkSchema = Type.Object({ name: Type.String(), position: VectorSchema, target: VectorSchema }, closed);

export const PrefabParameterSchema = Type.Object(
  {
    id: Type.String({ pattern: '^[a-z][a-z0-9_]*$' }),
    label: Type.String(),
    object: Type.String({ description: 'Id of the object within the prefab.' }),
    property: Type.String(),
  },
  closed,
);

/** A placed prefab: everything of the prefab, turned about z and moved; `values` are its parameters. */
export const CopySchema = Type.Object(
  {
    prefab: Ref,
    name: Type.String(),
    position: VectorSchema,
    turn: Type.Number(),
    values: Type.Record(Type.String(), PropertyValueSchema),
    contact: ContactSchema,
  },
  closed,
);

export const PrefabSchema = Type.Object(
  {
    name: Type.String(),
    parameters: Type.Array(PrefabParameterSchema),
    solids: Type.Record(Type.String(), SolidSchema),
    objects: Type.Record(Type.String(), MapObjectSchema),
    signals: Type.Record(Type.String(), SignalSchema),
    copies: Type.Record(Type.String(), CopySchema),
  },
  { ...closed, description: 'Positions are about the prefab’s own origin.' },
);

/** A step of the headless test run. */
export const TrialStepSchema = Type.Union([
  Type.Object({ walkTo: VectorSchema }, closed),
  Type.Object({ use: Type.String({ description: 'Name of the object to operate.' }) }, closed),
  Type.Object({ wait: Type.Number({ minimum: 0, maximum: 120 }) }, closed),
  Type.Object(
    {
      answer: Type.String({
        maxLength: 200,
        description: 'In a talk: a choice by its words, won or lost; everything else that is said is passed by.',
      }),
    },
    closed,
  ),
  Type.Object({ expect: Type.Object({ object: Type.String(), property: Type.String(), equals: PropertyValueSchema }, closed) }, closed),
]);

/** Samples along one side of a tile. Its quads reach to the first samples of the tiles beyond. */
export const TILE = 128;
/** Most samples along one side of a terrain: 4,096 quads and the last edge. */
export const MOST_SAMPLES = 4097;

const Between = Type.Tuple([Type.Number(), Type.Number()]);
const Packed = (what: string) =>
  Type.String({ maxLength: 400_000, pattern: '^[A-Za-z0-9+/]*=*$', description: `${what}; packed as docs/formats.md says.` });

/** Where a rule works. What is left out is not asked. */
const RuleLimits = {
  name: Type.String({ maxLength: 60 }),
  seed: Type.Integer({ minimum: 0, maximum: 0xffffffff }),
  slope: Type.Optional(Type.Unsafe<[number, number]>({ ...Between, description: 'Degrees, from and to.' })),
  height: Type.Optional(Type.Unsafe<[number, number]>({ ...Between, description: 'Units, from and to.' })),
  curvature: Type.Optional(Type.Unsafe<[number, number]>({ ...Between, description: 'From and to; above 0 on crests, below in hollows.' })),
  noise: Type.Optional(
    Type.Object(
      {
        size: Type.Number({ exclusiveMinimum: 0, description: 'Width of a patch, in units.' }),
        share: Type.Number({ minimum: 0, maximum: 1, description: 'How much of the ground the patches cover.' }),
      },
      closed,
    ),
  ),
};

export const PaintRuleSchema = Type.Object(
  { ...RuleLimits, surface: Ref, soft: Type.Number({ minimum: 0, description: 'Degrees and units over which it fades beyond its limits.' }) },
  closed,
);

export const ScatterRuleSchema = Type.Object(
  {
    ...RuleLimits,
    thing: Ref,
    apart: Type.Number({ exclusiveMinimum: 0, description: 'Least distance between two, in units.' }),
    share: Type.Number({ minimum: 0, maximum: 1, description: 'How many of those that fit are kept.' }),
    surfaces: Type.Optional(Type.Array(Ref, { description: 'Surfaces on which they stand; all without it.' })),
    clear: Type.Optional(Type.Number({ minimum: 0, description: 'Distance that is kept from paths, in units.' })),
  },
  closed,
);

/** A ground of heights: its frame, what covers it and what grows on it. Its samples lie in tiles. */
export const TerrainSchema = Type.Object(
  {
    name: Type.String({ maxLength: 60 }),
    origin: Type.Tuple([Type.Number(), Type.Number()], { description: 'Where its first sample lies, x and y.' }),
    spacing: Type.Number({ exclusiveMinimum: 0, description: 'Distance of samples along x and y, in units.' }),
    samples: Type.Tuple([Type.Integer({ minimum: 2, maximum: MOST_SAMPLES }), Type.Integer({ minimum: 2, maximum: MOST_SAMPLES })], {
      description: 'Number of samples along x and y.',
    }),
    range: Type.Unsafe<[number, number]>({ ...Between, description: 'Lowest and highest height that 16-bit samples can have.' }),
    depth: Type.Union([Type.Literal('u16'), Type.Literal('f32')]),
    base: Type.Number({ description: 'Height where no tile is.' }),
    surfaces: Type.Array(Type.Object({ id: Ref, label: Type.String(), material: Ref }, closed), {
      minItems: 1,
      maxItems: 8,
      description: 'What covers it; the first lies wherever no other does.',
    }),
    things: Type.Array(
      Type.Object(
        {
          id: Ref,
          label: Type.String(),
          model: Type.String(),
          size: Type.Unsafe<[number, number]>({ ...Between, description: 'Least and greatest scale.' }),
          sink: Type.Number({ description: 'How deep it stands in the ground, in units.' }),
          lean: Type.Number({ minimum: 0, maximum: 1, description: 'How much it leans with the ground: 0 upright, 1 square to it.' }),
          radius: Type.Number({ minimum: 0, description: 'Radius at which it stops players, in units; 0 lets them through.' }),
          tall: Type.Number({ minimum: 0, description: 'Height to which it stops them, in units.' }),
        },
        closed,
      ),
      { maxItems: 64 },
    ),
    paint: Type.Record(Type.String(), PaintRuleSchema, { description: 'Rules by which it is covered, in the order of their ids.' }),
    scatter: Type.Record(Type.String(), ScatterRuleSchema, { description: 'Rules by which things grow on it.' }),
  },
  closed,
);

/** A square of a terrain, 128 × 128 samples: what one stroke replaces. What is left out is as the terrain says. */
export const TileSchema = Type.Object(
  {
    terrain: Ref,
    x: Type.Integer({ minimum: 0, maximum: 32 }),
    y: Type.Integer({ minimum: 0, maximum: 32 }),
    heights: Type.Optional(Packed('Heights')),
    hand: Type.Optional(Type.Record(Type.String(), Packed('Weights of a surface that were painted'))),
    ruled: Type.Optional(Type.Record(Type.String(), Packed('Weights of a surface that rules gave'))),
    holes: Type.Optional(Packed('Quads that are not there')),
    guard: Type.Optional(Packed('What brushes do not change')),
    placed: Type.Optional(Packed('Things that were set by hand')),
    grown: Type.Optional(Packed('Things that rules made')),
  },
  closed,
);

/** The way of a race: what is passed, in order, and the line that leads through it. */
export const RouteSchema = Type.Object(
  {
    name: Type.String({ maxLength: 60 }),
    start: Type.String({ description: 'Id of the object at which it begins.' }),
    stops: Type.Array(Ref, { description: 'Ids of its checkpoints in order.' }),
    finish: Type.String({ description: 'Id of the object that ends it.' }),
    laps: Type.Integer({ minimum: 1, maximum: 99 }),
    width: Type.Number({ exclusiveMinimum: 0, description: 'Width of its ribbon, in units.' }),
    points: Type.Array(VectorSchema, { minItems: 2, description: 'The line, from start to finish; it lies on the ground.' }),
    branches: Type.Array(
      Type.Object(
        {
          name: Type.String({ maxLength: 60 }),
          after: Type.Integer({ minimum: 0, description: 'Number of the stop after which it leaves; 0 is the start.' }),
          until: Type.Integer({ minimum: 1, description: 'Number of the stop at which it joins again.' }),
          stops: Type.Array(Ref),
          points: Type.Array(VectorSchema, { minItems: 2 }),
        },
        closed,
      ),
    ),
  },
  closed,
);

/** Who does a step of a sequence: an object of the map by its id, or the player. */
export const PLAYER = 'player';
const moves = <D extends string, P extends Record<string, TSchema>>(does: D, fields: P) =>
  Type.Object({ who: Ref, do: Type.Literal(does), wait: Type.Boolean({ description: 'Goes on only when it is done.' }), ...fields }, closed);

export const SequenceStepSchema = Type.Union([
  moves('walk', { to: Type.Unsafe<[number, number, number]>(VectorSchema), run: Type.Optional(Type.Boolean()) }),
  moves('turn', { to: Type.Number({ description: 'Degrees about z; 0 looks along +x.' }) }),
  moves('pause', { seconds: Type.Number({ minimum: 0, maximum: 600 }) }),
  moves('jump', {}),
  moves('show', {}),
  moves('hide', {}),
  moves('sound', { sound: Type.String() }),
  moves('follow', { whom: Ref, gap: Type.Number({ minimum: 0, description: 'Units that are kept between the two.' }) }),
]);

/** Who walks where and when: steps one after the other, several at once where one is not waited for. */
export const SequenceSchema = Type.Object(
  {
    name: Type.String({ maxLength: 60 }),
    steps: Type.Array(SequenceStepSchema, { maxItems: 500 }),
    starts: Type.Array(Type.Unsafe<[number, number, number]>(VectorSchema), {
      maxItems: 8,
      description: 'Where the player may stand when it begins: each is looked at.',
    }),
  },
  closed,
);

const Colour = Type.String({ pattern: '^#[0-9a-fA-F]{6}$' });

/** Time of day and weather that a map can be in. */
export const MoodSchema = Type.Object(
  {
    name: Type.String({ minLength: 1, maxLength: 60 }),
    hour: Type.Number({ minimum: 0, maximum: 24, description: 'Mean solar time.' }),
    skyColour: Type.Unsafe<string>({ ...Colour, description: 'Above.' }),
    horizonColour: Type.Unsafe<string>(Colour),
    skyIntensity: Type.Number({ minimum: 0, maximum: 50 }),
    clouds: Type.Number({ minimum: 0, maximum: 1, description: 'Share of the sky that they cover.' }),
    sunIntensity: Type.Number({ minimum: 0, maximum: 50, description: 'E/π of a surface that faces it, above the air.' }),
    moonIntensity: Type.Number({ minimum: 0, maximum: 10, description: 'The same of the full moon.' }),
    fogColour: Type.Unsafe<string>(Colour),
    fog: Type.Number({ minimum: 0, description: 'Distance at which two thirds are hidden, in units; 0 for none.' }),
    fogHeight: Type.Number({ minimum: 0, description: 'Units upwards in which it thins to a third; 0 for as dense everywhere.' }),
    windFrom: Type.Number({ description: 'Degrees from +x, counter-clockwise.' }),
    wind: Type.Number({ minimum: 0, maximum: 200, description: 'Units a second.' }),
    gusts: Type.Number({ minimum: 0, maximum: 1 }),
    falling: Type.Union([Type.Literal('none'), Type.Literal('snow'), Type.Literal('rain')]),
    heavy: Type.Number({ minimum: 0, maximum: 1, description: 'How much of it falls.' }),
    exposure: Type.Number({ minimum: 0.05, maximum: 20, description: 'What the picture’s brightness is multiplied by.' }),
  },
  closed,
);
export type Mood = Static<typeof MoodSchema>;

/** When a sound of a bed is heard. */
const Heard = {
  sound: Type.String({ maxLength: 200 }),
  volume: Type.Number({ minimum: 0, maximum: 4 }),
  when: Type.Union([Type.Literal('always'), Type.Literal('day'), Type.Literal('night')]),
  weather: Type.Union([Type.Literal('any'), Type.Literal('dry'), Type.Literal('rain'), Type.Literal('snow')]),
};

/** What is heard in areas of a map: sounds that go round and round, and others now and then. */
export const BedSchema = Type.Object(
  {
    name: Type.String({ minLength: 1, maxLength: 60 }),
    fade: Type.Number({ minimum: 0, maximum: 60, description: 'Seconds in which it comes and goes.' }),
    loops: Type.Array(Type.Object(Heard, closed), { maxItems: 8 }),
    shots: Type.Array(
      Type.Object(
        {
          ...Heard,
          every: Type.Unsafe<[number, number]>(
            Type.Tuple([Type.Number({ minimum: 0.1, maximum: 3600 }), Type.Number({ minimum: 0.1, maximum: 3600 })], {
              description: 'Least and most seconds from one to the next.',
            }),
          ),
          most: Type.Integer({ minimum: 1, maximum: 8, description: 'Of it at once.' }),
        },
        closed,
      ),
      { maxItems: 16 },
    ),
  },
  closed,
);
export type Bed = Static<typeof BedSchema>;

export const MapSettingsSchema = Type.Object(
  {
    skyColour: Type.String(),
    skyIntensity: Type.Number({ minimum: 0 }),
    skyMaterial: Type.Optional(Type.String({ description: 'Material of a sky whose picture lights the map instead of the colour.' })),
    luxel: Type.Optional(Type.Number({ exclusiveMinimum: 0, description: 'What the luxel is multiplied by in this map.' })),
    weather: Type.Optional(
      Type.Object(
        {
          windFrom: Type.Number({ description: 'Where the wind comes from: degrees from +x, counter-clockwise.' }),
          wind: Type.Number({ minimum: 0, maximum: 200, description: 'Speed of the wind, in units per second.' }),
          gusts: Type.Number({ minimum: 0, maximum: 1, description: 'Share by which it comes and goes.' }),
          fogColour: Type.String(),
          fog: Type.Number({ minimum: 0, description: 'Distance at which two thirds are hidden, in units; 0 for none.' }),
          falling: Type.Union([Type.Literal('none'), Type.Literal('snow'), Type.Literal('rain')]),
        },
        closed,
      ),
    ),
    moods: Type.Optional(
      Type.Array(MoodSchema, {
        maxItems: 16,
        description: 'Times and weathers that the map can be in; it begins in the first. Without any, sky, suns and weather are as they are.',
      }),
    ),
    beds: Type.Optional(Type.Array(BedSchema, { maxItems: 32, description: 'What its sound areas let one hear, by name.' })),
    place: Type.Optional(
      Type.Object(
        {
          latitude: Type.Number({ minimum: -90, maximum: 90 }),
          day: Type.String({ pattern: '^\\d{4}-\\d{2}-\\d{2}$' }),
        },
        { ...closed, description: 'Where and when: what sun and moon of the moods go by. East is +x, north +y.' },
      ),
    ),
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
    paths: Type.Optional(Type.Record(Type.String(), PathSchema)),
    prefabs: Type.Optional(Type.Record(Type.String(), PrefabSchema)),
    copies: Type.Optional(Type.Record(Type.String(), CopySchema)),
    layers: Type.Optional(Type.Record(Type.String(), LayerSchema)),
    sets: Type.Optional(Type.Record(Type.String(), SelectionSetSchema)),
    bookmarks: Type.Optional(Type.Record(Type.String(), BookmarkSchema)),
    notes: Type.Optional(Type.Record(Type.String(), NoteSchema)),
    decals: Type.Optional(Type.Record(Type.String(), DecalSchema)),
    overlays: Type.Optional(Type.Record(Type.String(), OverlaySchema)),
    wears: Type.Optional(Type.Record(Type.String(), WearSchema)),
    terrains: Type.Optional(Type.Record(Type.String(), TerrainSchema)),
    tiles: Type.Optional(Type.Record(Type.String(), TileSchema)),
    routes: Type.Optional(Type.Record(Type.String(), RouteSchema)),
    sequences: Type.Optional(Type.Record(Type.String(), SequenceSchema)),
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
export type Layer = Static<typeof LayerSchema>;
export type MapPath = Static<typeof PathSchema>;
export type Prefab = Static<typeof PrefabSchema>;
export type Copy = Static<typeof CopySchema>;
export type Contact = MapObject['contact'];
export type Bookmark = Static<typeof BookmarkSchema>;
export type Note = Static<typeof NoteSchema>;
export type Decal = Static<typeof DecalSchema>;
export type Overlay = Static<typeof OverlaySchema>;
export type Wear = Static<typeof WearSchema>;
export type Terrain = Static<typeof TerrainSchema>;
export type Tile = Static<typeof TileSchema>;
export type PaintRule = Static<typeof PaintRuleSchema>;
export type ScatterRule = Static<typeof ScatterRuleSchema>;
export type SequenceStep = Static<typeof SequenceStepSchema>;
export type Sequence = Static<typeof SequenceSchema>;
export type Route = Static<typeof RouteSchema>;
/** A map in memory has all its collections; in a file, empty ones may be left out. */
export type MapFile = Static<typeof MapSchema>;
export type GameMap = Required<MapFile>;

/** Every collection of a map, in the order of the file: what its members are, and how their ids begin. */
export const COLLECTION_TABLE = {
  bands: { schema: BandSchema, prefix: 'b' },
  solids: { schema: SolidSchema, prefix: 's' },
  objects: { schema: MapObjectSchema, prefix: 'o' },
  signals: { schema: SignalSchema, prefix: 'g' },
  paths: { schema: PathSchema, prefix: 'w' },
  prefabs: { schema: PrefabSchema, prefix: 'p' },
  copies: { schema: CopySchema, prefix: 'c' },
  layers: { schema: LayerSchema, prefix: 'l' },
  sets: { schema: SelectionSetSchema, prefix: 't' },
  bookmarks: { schema: BookmarkSchema, prefix: 'k' },
  notes: { schema: NoteSchema, prefix: 'n' },
  decals: { schema: DecalSchema, prefix: 'd' },
  overlays: { schema: OverlaySchema, prefix: 'v' },
  wears: { schema: WearSchema, prefix: 'u' },
  terrains: { schema: TerrainSchema, prefix: 'e' },
  tiles: { schema: TileSchema, prefix: 'i' },
  routes: { schema: RouteSchema, prefix: 'r' },
  sequences: { schema: SequenceSchema, prefix: 'q' },
} as const;

export type Collection = keyof typeof COLLECTION_TABLE;
export const COLLECTIONS = Object.keys(COLLECTION_TABLE) as Collection[];

/** What a member of a collection is. */
export type MemberOf<K extends Collection> = Static<(typeof COLLECTION_TABLE)[K]['schema']>;

/** The map with the collections that its file left out. */
export const completeMap = (map: MapFile): GameMap => ({ ...Object.fromEntries(COLLECTIONS.map((of) => [of, {}])), ...map }) as GameMap;
