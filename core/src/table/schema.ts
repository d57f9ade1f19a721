/** Tables of game data as a profile declares them: what their columns hold, and what is right there. */

import { Type, type Static } from '@sinclair/typebox';

const Id = Type.String({ pattern: '^[a-z][a-z0-9_]*$', maxLength: 40 });
const closed = { additionalProperties: false };
const Named = Type.Object({ id: Id, label: Type.String() }, closed);
const Formula = Type.String({ minLength: 1, maxLength: 400 });

export const COLUMN_TYPES = [
  'number',
  'text',
  'choice',
  'flags', // some of `choices`, each with a sentence
  'picture', // path of a texture
  'sound', // path of a sound
  'reference', // key of a row of `table`, or none
  'rows', // keys of rows of `table`, `least` to `most` of them
  'formula', // worked out, never kept
] as const;

export const ColumnSchema = Type.Object(
  {
    id: Id,
    label: Type.String({ minLength: 1, maxLength: 60 }),
    type: Type.Union(COLUMN_TYPES.map((type) => Type.Literal(type))),
    description: Type.Optional(Type.String({ maxLength: 300 })),
    unit: Type.Optional(Type.String({ maxLength: 30 })),
    least: Type.Optional(Type.Number({ description: 'Of a number its smallest value, of rows and of texts their fewest.' })),
    most: Type.Optional(Type.Number({ description: 'Of a number its largest value, of rows their most, of a text its characters.' })),
    whole: Type.Optional(Type.Boolean({ description: 'Of a number: without a fraction.' })),
    letters: Type.Optional(Type.String({ maxLength: 400, description: 'Of a text: all characters that the game can show.' })),
    choices: Type.Optional(Type.Array(Named, { maxItems: 64, description: 'Of a choice its values, of flags a sentence for each bit.' })),
    table: Type.Optional(Type.Unsafe<string>({ ...Id, description: 'Of a reference and of rows: where they are from.' })),
    formula: Type.Optional(Formula),
    needed: Type.Optional(Type.Boolean({ description: 'A text or reference that has to be there.' })),
  },
  closed,
);

export const TableSchema = Type.Object(
  {
    id: Id,
    label: Type.String({ minLength: 1, maxLength: 60 }),
    description: Type.Optional(Type.String({ maxLength: 400 })),
    key: Type.Unsafe<string>({ ...Id, description: 'Column by which rows are known; a text.' }),
    title: Type.Optional(Type.Unsafe<string>({ ...Id, description: 'Column that people know a row by.' })),
    portrait: Type.Optional(Type.Unsafe<string>({ ...Id, description: 'Column with its picture.' })),
    rows: Type.Optional(Type.Integer({ minimum: 0, maximum: 1_000_000, description: 'The game has exactly so many.' })),
    most: Type.Optional(Type.Integer({ minimum: 0, maximum: 1_000_000, description: 'The game has room for so many.' })),
    used: Type.Optional(Type.Boolean({ description: 'A row that nothing refers to is there for nothing.' })),
    columns: Type.Array(ColumnSchema, { minItems: 1, maxItems: 64 }),
  },
  closed,
);

/**
 * How two rows of a table contend, round by round, until the strength of one is used up: the one whose turn it is tries
 * first. Formulas see the columns of whoever tries as `mine.…` and of the other as `theirs.…`.
 */
export const ModelSchema = Type.Object(
  {
    id: Id,
    label: Type.String(),
    table: Id,
    strength: Type.Unsafe<string>({ ...Formula, description: 'What has to be used up; sees its own columns.' }),
    chance: Type.Unsafe<string>({ ...Formula, description: 'Chance of a try to succeed, 0 to 1.' }),
    least: Type.Unsafe<string>({ ...Formula, description: 'Fewest points that a success takes.' }),
    most: Type.Unsafe<string>({ ...Formula, description: 'Most points that a success takes; all between are as likely.' }),
    rounds: Type.Integer({ minimum: 1, maximum: 1000, description: 'Rounds after which the challenger has lost.' }),
    challenger: Type.Optional(Type.String({ description: 'Key of the row that stands for the player.' })),
  },
  closed,
);

export type Column = Static<typeof ColumnSchema>;
export type Table = Static<typeof TableSchema>;
export type ContestModel = Static<typeof ModelSchema>;

export const columnOf = (table: Table, id: string): Column | undefined => table.columns.find((column) => column.id === id);

/** What is wrong with tables and models as a profile has them, in a sentence, or null. */
export function tablesProblem(tables: readonly Table[], models: readonly ContestModel[]): string | null {
  const ids = new Set<string>();
  for (const table of tables) {
    if (ids.has(table.id)) return `Table "${table.id}" is there twice.`;
    ids.add(table.id);
    const columns = new Set<string>();
    for (const column of table.columns) {
      const where = `Column "${column.id}" of table "${table.id}"`;
      if (columns.has(column.id)) return `${where} is there twice.`;
      columns.add(column.id);
      if ((column.type === 'reference' || column.type === 'rows') && !tables.some(({ id }) => id === column.table))
        return `${where} refers to the table "${column.table ?? ''}", which is not there.`;
      if ((column.type === 'choice' || column.type === 'flags') && !column.choices?.length) return `${where} has no choices.`;
      if (column.type === 'formula' && !column.formula) return `${where} has no formula.`;
      if (column.least !== undefined && column.most !== undefined && column.least > column.most) return `${where} has a range that is empty.`;
    }
    if (columnOf(table, table.key)?.type !== 'text') return `The key "${table.key}" of table "${table.id}" is none of its texts.`;
    for (const role of ['title', 'portrait'] as const)
      if (table[role] !== undefined && !columns.has(table[role])) return `Table "${table.id}" has no column "${table[role]}" for its ${role}.`;
  }
  for (const { id, table } of models) if (!ids.has(table)) return `Model "${id}" is about the table "${table}", which is not there.`;
  return null;
}
