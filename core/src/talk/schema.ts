/** What a profile says about talk: its contests and what each needs said, and what the game remembers. */

import { Type, type Static } from '@sinclair/typebox';

const Id = Type.String({ pattern: '^[a-z][a-z0-9_]*$', maxLength: 40 });
const closed = { additionalProperties: false };

export const ContestTypeSchema = Type.Object(
  {
    id: Id,
    label: Type.String(),
    description: Type.Optional(Type.String()),
    model: Type.Optional(Type.Unsafe<string>({ ...Id, description: 'How it is decided; without one, the player decides.' })),
    texts: Type.Array(Type.Object({ id: Id, label: Type.String(), most: Type.Optional(Type.Integer({ minimum: 1 })) }, closed), {
      description: 'All of these have to be there, and no others: the game reads as many as it expects.',
    }),
    goesOn: Type.Boolean({ description: 'Whether the talk goes on when it was won; otherwise it ends there.' }),
  },
  closed,
);

/** Texts as the game shows them. */
export const SpeechSchema = Type.Object(
  {
    letters: Type.Optional(Type.String({ description: 'All characters that it can show.' })),
    line: Type.Integer({ minimum: 1, description: 'Characters of a line.' }),
    lines: Type.Integer({ minimum: 1, description: 'Lines that are seen at once.' }),
    choices: Type.Integer({ minimum: 1, description: 'Most that can be chosen from.' }),
    languages: Type.Optional(Type.Array(Type.String({ description: 'BCP 47' }), { description: 'Beside the one it is written in.' })),
  },
  closed,
);

/** A flag is on or off; a value is a number. Both are kept by number in the game. */
export const MemorySchema = Type.Object(
  {
    flags: Type.Tuple([Type.Integer({ minimum: 0 }), Type.Integer({ minimum: 0 })], { description: 'First and last number for crates.' }),
    values: Type.Tuple([Type.Integer({ minimum: 0 }), Type.Integer({ minimum: 0 })]),
    range: Type.Tuple([Type.Integer(), Type.Integer()], { description: 'What a value can be.' }),
    game: Type.Array(
      Type.Object(
        { name: Id, number: Type.Integer({ minimum: 0 }), kind: Type.Union([Type.Literal('flag'), Type.Literal('value')]), label: Type.String() },
        closed,
      ),
      { description: 'What the game itself remembers, which crates read and may set.' },
    ),
  },
  closed,
);

export type ContestType = Static<typeof ContestTypeSchema>;
export type Speech = Static<typeof SpeechSchema>;
export type Memory = Static<typeof MemorySchema>;
