/**
 * An effect as a file (`effects/NAME.effect.json`): emitters that throw out particles. Lengths are units of the game,
 * times seconds, angles degrees; the frame is the object's own, right-handed with z up, +x where it looks.
 */

import { Type, type Static } from '@sinclair/typebox';
import { readDocument } from '../document/readDocument.ts';
import { UnreadableInput } from '../unreadable.ts';

const closed = { additionalProperties: false };
const Length = Type.Number({ minimum: -1e6, maximum: 1e6 });
const Point = Type.Unsafe<[number, number, number]>(Type.Tuple([Length, Length, Length]));
/** Least and most of what chance draws from. */
const range = (least: number, most: number) => {
  const number = Type.Number({ minimum: least, maximum: most });
  return Type.Unsafe<[number, number]>(Type.Tuple([number, number], { description: 'The least and the most; chance draws between them.' }));
};
const Share = Type.Number({ minimum: 0, maximum: 1 });
const Asset = Type.String({ maxLength: 200 });
const Name = Type.String({ minLength: 1, maxLength: 60 });

/** Particles that an emitter may have at once, whoever asks for more. */
export const MOST_PARTICLES = 100_000;
export const MOST_EMITTERS = 16;
export const MOST_KEYS = 16;

/** Straight lines between keys; before the first and after the last the value stays. Times go from 0 to 1. */
export const CurveSchema = Type.Array(Type.Unsafe<[number, number]>(Type.Tuple([Share, Type.Number({ minimum: -1e6, maximum: 1e6 })])), {
  minItems: 1,
  maxItems: MOST_KEYS,
  description: 'Keys [when, value], when from 0 to 1.',
});
export type Curve = Static<typeof CurveSchema>;

export const GradientSchema = Type.Array(Type.Object({ at: Share, colour: Type.String({ pattern: '^#[0-9a-fA-F]{6}$' }), alpha: Share }, closed), {
  minItems: 1,
  maxItems: MOST_KEYS,
  description: 'Colours over life; between them light is mixed, not bytes.',
});
export type Gradient = Static<typeof GradientSchema>;

const FromSchema = Type.Union([
  Type.Object({ shape: Type.Literal('point') }, closed),
  Type.Object({ shape: Type.Literal('box'), size: Point }, closed),
  Type.Object({ shape: Type.Literal('sphere'), radius: Type.Number({ minimum: 0, maximum: 1e5 }), shell: Type.Boolean() }, closed),
  Type.Object({ shape: Type.Literal('model'), model: Asset }, closed),
  Type.Object({ shape: Type.Literal('path'), points: Type.Array(Point, { minItems: 2, maxItems: 64 }) }, closed),
]);

const ForcesSchema = Type.Object(
  {
    gravity: Type.Number({ minimum: -10, maximum: 10, description: 'How many times the game’s gravity.' }),
    drag: Type.Number({ minimum: 0, maximum: 100, description: 'Of the air, per second: the share of speed lost in a short while.' }),
    wind: Type.Number({ minimum: 0, maximum: 1, description: 'Share of the map’s wind that the air has here. It acts through drag.' }),
    turbulence: Type.Optional(
      Type.Object(
        {
          speed: Type.Number({ minimum: 0, maximum: 1e5, description: 'Of the air, units per second at most. It acts through drag.' }),
          size: Type.Number({ exclusiveMinimum: 0, maximum: 1e5, description: 'Of its eddies, in units.' }),
          pace: Type.Number({ minimum: 0, maximum: 100, description: 'Eddies that pass in a second.' }),
        },
        closed,
      ),
    ),
    vortex: Type.Optional(
      Type.Object(
        {
          spin: Type.Number({ minimum: -1e5, maximum: 1e5, description: 'Along the circle about z, units per second squared.' }),
          pull: Type.Number({ minimum: -1e5, maximum: 1e5, description: 'Towards the axis, units per second squared.' }),
          radius: Type.Number({ exclusiveMinimum: 0, maximum: 1e5, description: 'Where it has faded to nothing.' }),
        },
        closed,
      ),
    ),
    attractor: Type.Optional(
      Type.Object(
        { at: Point, pull: Type.Number({ minimum: -1e5, maximum: 1e5 }), reach: Type.Number({ exclusiveMinimum: 0, maximum: 1e5 }) },
        closed,
      ),
    ),
  },
  closed,
);

const GroundSchema = Type.Object(
  {
    against: Type.Union([Type.Literal('none'), Type.Literal('plane'), Type.Literal('depth')], {
      description: 'Nothing; a level plane; or what of the map lies below, as deep as it is.',
    }),
    height: Length,
    bounce: Share,
    friction: Share,
    dies: Type.Boolean({ description: 'At the first touch.' }),
  },
  closed,
);

const Blend = Type.Union([Type.Literal('over'), Type.Literal('add')]);
const DrawSchema = Type.Union([
  Type.Object(
    {
      as: Type.Literal('sprite'),
      picture: Asset,
      columns: Type.Integer({ minimum: 1, maximum: 32 }),
      rows: Type.Integer({ minimum: 1, maximum: 32 }),
      rate: Type.Number({ minimum: 0, maximum: 120, description: 'Pictures of the sheet a second; 0 shows all of them once in a life.' }),
      blend: Blend,
      lit: Type.Boolean({ description: 'Takes the light of its place; otherwise it glows by itself.' }),
      stretch: Type.Number({ minimum: 0, maximum: 1, description: 'Seconds of its way that it is drawn out by.' }),
    },
    closed,
  ),
  Type.Object({ as: Type.Literal('ribbon'), picture: Asset, blend: Blend, lit: Type.Boolean() }, closed),
  Type.Object({ as: Type.Literal('nothing') }, closed),
]);

export const EmitterSchema = Type.Object(
  {
    name: Name,
    most: Type.Integer({ minimum: 1, maximum: MOST_PARTICLES, description: 'Particles at once.' }),
    rate: CurveSchema,
    bursts: Type.Array(
      Type.Object(
        {
          at: Type.Number({ minimum: 0, maximum: 600 }),
          count: Type.Integer({ minimum: 1, maximum: MOST_PARTICLES }),
          times: Type.Integer({ minimum: 1, maximum: 1000 }),
          every: Type.Number({ minimum: 0.01, maximum: 600 }),
        },
        closed,
      ),
      { maxItems: 16 },
    ),
    from: FromSchema,
    at: Point,
    direction: Point,
    spread: Type.Number({ minimum: 0, maximum: 180, description: 'Half the angle of the cone about the direction.' }),
    speed: range(-1e5, 1e5),
    inherit: Type.Number({ minimum: 0, maximum: 1, description: 'Share of the speed of what it is on that it is born with.' }),
    life: range(0.02, 120),
    frame: Type.Union([Type.Literal('map'), Type.Literal('object')], { description: 'Stays where it is, or goes along with the object.' }),
    forces: ForcesSchema,
    ground: GroundSchema,
    size: Type.Object({ from: range(0, 1e4), over: CurveSchema }, closed),
    colour: GradientSchema,
    turn: Type.Object({ start: range(-360, 360), rate: range(-3600, 3600) }, closed),
    draw: DrawSchema,
    light: Type.Optional(
      Type.Object(
        {
          colour: Type.String({ pattern: '^#[0-9a-fA-F]{6}$' }),
          intensity: Type.Number({ minimum: 0, maximum: 1e5, description: 'Candela of each.' }),
          reach: Type.Number({ exclusiveMinimum: 0, maximum: 1e5 }),
          most: Type.Integer({ minimum: 1, maximum: 4, description: 'Particles that shine, the oldest first.' }),
        },
        closed,
      ),
    ),
    sounds: Type.Optional(Type.Object({ birth: Asset, death: Asset, volume: Share }, closed)),
    children: Type.Optional(
      Type.Object(
        {
          emitter: Name,
          when: Type.Union([Type.Literal('death'), Type.Literal('touch')]),
          count: Type.Integer({ minimum: 1, maximum: 1000 }),
          inherit: Share,
        },
        closed,
      ),
    ),
  },
  closed,
);
export type Emitter = Static<typeof EmitterSchema>;

export const EffectSchema = Type.Object(
  {
    format: Type.Literal(1),
    title: Type.String({ maxLength: 120 }),
    seconds: Type.Number({ minimum: 0.05, maximum: 600, description: 'Length of one round.' }),
    loop: Type.Boolean(),
    warmUp: Type.Number({ minimum: 0, maximum: 30, description: 'Seconds that have passed when it is first seen.' }),
    seed: Type.Integer({ minimum: 0, maximum: 0xffffffff }),
    levels: Type.Array(Type.Object({ beyond: Type.Number({ minimum: 0, maximum: 1e6 }), share: Share }, closed), {
      maxItems: 4,
      description: 'Share of the particles that are born beyond a distance of whoever looks, the nearest first.',
    }),
    emitters: Type.Array(EmitterSchema, { minItems: 1, maxItems: MOST_EMITTERS }),
  },
  closed,
);
export type Effect = Static<typeof EffectSchema>;

export const EFFECT_FOLDER = 'effects/';
const ENDING = '.effect.json';
export const effectPath = (name: string): string => `${EFFECT_FOLDER}${name}${ENDING}`;
export const isEffect = (path: string): boolean => path.startsWith(EFFECT_FOLDER) && path.endsWith(ENDING);
export const effectName = (path: string): string => path.slice(path.lastIndexOf('/') + 1, -ENDING.length);

/** @throws UnreadableInput with the emitter and the field that are wrong, and why */
export function readEffect(text: string, path: string): Effect {
  let effect: Effect;
  try {
    effect = readDocument(text, EffectSchema, path);
  } catch (error) {
    if (!(error instanceof UnreadableInput) || error.code !== 'document-schema') throw error;
    const message = error.message.replace(
      /: \/emitters\/(\d+)\/([^:]*):/,
      (_, n, field) => `: emitter ${Number(n) + 1}, ${String(field).replaceAll('/', ' ')}:`,
    );
    throw new UnreadableInput(
      'effect',
      message,
      { file: path },
      `An emitter has at most ${MOST_PARTICLES.toLocaleString('en')} particles, and all numbers are finite. The form is in docs/formats.md.`,
    );
  }
  const problem = effectProblem(effect);
  if (problem) throw new UnreadableInput('effect', `${path}: ${problem.says}`, { file: path }, problem.hint);
  return effect;
}

/** What no field by itself can be blamed for; null where there is nothing. */
export function effectProblem({ emitters, levels }: Effect): { says: string; hint: string } | null {
  const names = new Set<string>();
  for (const { name } of emitters) {
    if (names.has(name)) return { says: `two emitters are called "${name}".`, hint: 'Give one of them another name: children are found by it.' };
    names.add(name);
  }
  for (const one of emitters) {
    const unordered = rangesOf(one).find(({ range: [least, most] }) => least > most);
    if (unordered)
      return { says: `emitter "${one.name}": ${unordered.words} goes from ${unordered.range.join(' to ')}.`, hint: 'The least comes first.' };
    for (const [words, times] of [
      ['rate', one.rate.map(([t]) => t)],
      ['size', one.size.over.map(([t]) => t)],
      ['colour', one.colour.map(({ at }) => at)],
    ] as const)
      if (times.some((t, i) => i > 0 && t < times[i - 1]))
        return { says: `emitter "${one.name}": the keys of its ${words} are not in the order of their times.`, hint: 'Put earlier keys first.' };
    if (one.children && !names.has(one.children.emitter))
      return {
        says: `emitter "${one.name}" has children of "${one.children.emitter}", which there is not.`,
        hint: 'Name one of the effect’s emitters.',
      };
    if (emitters.some(({ name, frame }) => name === one.children?.emitter && frame !== one.frame))
      return {
        says: `emitter "${one.name}" and its children "${one.children!.emitter}" are in different frames.`,
        hint: 'Have both stay in the map, or both go along with the object.',
      };
  }
  const circle = circleOf(emitters);
  if (circle)
    return {
      says: `emitters beget each other without end: ${circle.join(' → ')}.`,
      hint: 'Take the children out of one of them: every particle would make more of itself for ever.',
    };
  if (levels.some(({ beyond }, i) => i > 0 && beyond <= levels[i - 1].beyond))
    return { says: 'its levels are not in the order of their distances.', hint: 'Put the nearest first.' };
  return null;
}

const rangesOf = (one: Emitter): { words: string; range: readonly [number, number] }[] => [
  { words: 'life', range: one.life },
  { words: 'speed', range: one.speed },
  { words: 'size', range: one.size.from },
  { words: 'the turn at birth', range: one.turn.start },
  { words: 'the rate of turning', range: one.turn.rate },
];

/** Each emitter has one kind of children, so that a way from one is a line. */
function circleOf(emitters: readonly Emitter[]): string[] | null {
  const next = new Map(emitters.map(({ name, children }) => [name, children?.emitter]));
  for (const { name } of emitters) {
    const way = [name];
    for (let at = next.get(name); at !== undefined; at = next.get(at)) {
      const met = way.indexOf(at);
      if (met >= 0) return [...way.slice(met), at];
      way.push(at);
    }
  }
  return null;
}

/** An emitter a few lines, so that differences of versions are read. */
export function writeEffect(effect: Effect): string {
  const { emitters, ...head } = effect;
  const lines = Object.entries(head).map(([key, value]) => `  ${JSON.stringify(key)}: ${JSON.stringify(value)},`);
  const blocks = emitters.map((one) => {
    const fields = Object.entries(one).filter(([, value]) => value !== undefined);
    return `    {\n${fields.map(([key, value]) => `      ${JSON.stringify(key)}: ${JSON.stringify(value)}`).join(',\n')}\n    }`;
  });
  return `{\n${lines.join('\n')}\n  "emitters": [\n${blocks.join(',\n')}\n  ]\n}\n`.normalize('NFC');
}

/** What a new emitter is: a slow fountain of soft dots. @param size of one of them, in units */
export const newEmitter = (name: string, size: number): Emitter => ({
  name,
  most: 200,
  rate: [[0, 40]],
  bursts: [],
  from: { shape: 'point' },
  at: [0, 0, 0],
  direction: [0, 0, 1],
  spread: 15,
  speed: [size * 8, size * 12],
  inherit: 0,
  life: [1, 1.5],
  frame: 'map',
  forces: { gravity: 0, drag: 0.5, wind: 0 },
  ground: { against: 'none', height: 0, bounce: 0.3, friction: 0.2, dies: false },
  size: {
    from: [size * 0.8, size * 1.2],
    over: [
      [0, 1],
      [1, 1],
    ],
  },
  colour: [
    { at: 0, colour: '#ffffff', alpha: 1 },
    { at: 1, colour: '#ffffff', alpha: 0 },
  ],
  turn: { start: [0, 0], rate: [0, 0] },
  draw: { as: 'sprite', picture: '', columns: 1, rows: 1, rate: 0, blend: 'over', lit: false, stretch: 0 },
});

export const newEffect = (title: string, size: number): Effect => ({
  format: 1,
  title,
  seconds: 2,
  loop: true,
  warmUp: 0,
  seed: 1,
  levels: [],
  emitters: [newEmitter('Main', size)],
});

/** Paths of all pictures, models and sounds that an effect names. */
export function assetsOf({ emitters }: Effect): { kind: 'texture' | 'model' | 'sound'; path: string; emitter: string; what: string }[] {
  return emitters.flatMap(({ name: emitter, draw, from, sounds }) =>
    [
      { kind: 'texture' as const, path: draw.as === 'nothing' ? '' : draw.picture, emitter, what: 'its picture' },
      { kind: 'model' as const, path: from.shape === 'model' ? from.model : '', emitter, what: 'where it comes from' },
      { kind: 'sound' as const, path: sounds?.birth ?? '', emitter, what: 'sound at birth' },
      { kind: 'sound' as const, path: sounds?.death ?? '', emitter, what: 'sound at death' },
    ].filter(({ path }) => path !== ''),
  );
}
