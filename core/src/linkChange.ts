/** Orders about what a crate is linked with, as fixes of findings and the links page give them; `link/change.ts` carries them out. */

import { Type, type Static } from '@sinclair/typebox';

const closed = { additionalProperties: false };
/** Path of a file, or `material:NAME`. */
const Entry = Type.String({ minLength: 1, maxLength: 240 });

export const LinkChangeSchema = Type.Union([
  Type.Object({ do: Type.Literal('rename'), entry: Entry, name: Type.String({ minLength: 1, maxLength: 120 }) }, closed),
  Type.Object({ do: Type.Literal('replace'), from: Entry, to: Entry }, { ...closed, description: 'Has all that use one use another; both stay.' }),
  Type.Object({ do: Type.Literal('merge'), into: Entry, from: Type.Array(Entry, { minItems: 1, maxItems: 200 }) }, closed),
  Type.Object({ do: Type.Literal('remove'), entries: Type.Array(Entry, { minItems: 1, maxItems: 2000 }) }, closed),
  Type.Object({ do: Type.Literal('keep'), entry: Entry, reason: Type.String({ minLength: 1, maxLength: 300 }) }, closed),
  Type.Object(
    {
      do: Type.Literal('split'),
      material: Type.String(),
      name: Type.String({ minLength: 1, maxLength: 120 }),
      map: Type.String(),
      solids: Type.Array(Type.String()),
    },
    { ...closed, description: 'Some solids get a material of their own, which is the same at first.' },
  ),
]);

export type LinkChange = Static<typeof LinkChangeSchema>;
