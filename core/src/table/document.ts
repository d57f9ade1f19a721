/** Rows of a table as a file of a crate (`records/TABLE.json`): a row a line, so that two people’s changes meet line by line. */

import { Type } from '@sinclair/typebox';
import { readDocument } from '../document/readDocument.ts';
import { own } from '../own.ts';
import { UnreadableInput } from '../unreadable.ts';
import type { Column, Table } from './schema.ts';

/** A key, a text, a number; keys or bits; none. */
export type CellValue = string | number | readonly string[] | null;
export type Row = Readonly<Record<string, CellValue>>;

export interface TableDocument {
  format: 1;
  table: string;
  rows: readonly Row[];
}

/** Rows are looked at by hand: a hundred thousand of them are too many for a general checker. */
const DocumentSchema = Type.Object(
  { format: Type.Literal(1), table: Type.String(), rows: Type.Array(Type.Unknown(), { maxItems: 1_000_000 }) },
  { additionalProperties: false },
);

const isValue = (value: unknown): boolean =>
  value === null || typeof value === 'string' || typeof value === 'number' || (Array.isArray(value) && value.every((one) => typeof one === 'string'));

export const recordsPath = (table: string): string => `records/${table}.json`;

/** @throws UnreadableInput with line or member */
export function readTable(text: string, path: string): TableDocument {
  const document = readDocument(text, DocumentSchema, path) as TableDocument;
  document.rows.forEach((row: unknown, n) => {
    const wrong = (where: string, what: string) => {
      throw new UnreadableInput(
        'document-schema',
        `${path}: ${where}: ${what}.`,
        { file: path, line: lineOfRow(n) },
        'The expected form is in docs/talk.md.',
      );
    };
    if (typeof row !== 'object' || row === null || Array.isArray(row)) return wrong(`/rows/${n}`, 'a row has to be an object');
    for (const key in row)
      if (!isValue((row as Record<string, unknown>)[key])) wrong(`/rows/${n}/${key}`, 'has to be a text, a number, a list of texts, or null');
  });
  return document;
}

/**
 * Texts in Normalization Form C (UAX #15): games know letters, not letters and accents apart, and programs of some systems give the one
 * or the other for the same keys.
 */
export const composed = (text: string): string => text.normalize('NFC');

/** Columns of a row in the order of the table; what the table does not know comes after them and is kept. */
export function writeTable(table: Table | undefined, { table: id, rows }: TableDocument): string {
  const order = table?.columns.map((column) => column.id) ?? [];
  const lines = rows.map((row) => {
    const known = order.filter((column) => own(row, column) !== undefined);
    const other = Object.keys(row).filter((column) => !order.includes(column));
    return '    ' + composed(JSON.stringify(Object.fromEntries([...known, ...other].map((column) => [column, row[column]]))));
  });
  return `{\n  "format": 1,\n  "table": ${JSON.stringify(id)},\n  "rows": [${lines.length > 0 ? `\n${lines.join(',\n')}\n  ` : ''}]\n}\n`;
}

/** Line of a file of ours in which a row stands. */
export const lineOfRow = (n: number): number => n + 5;

/** What a new row has in a column. */
export function emptyValue(column: Column): CellValue {
  switch (column.type) {
    case 'number':
      return Math.max(column.least ?? 0, Math.min(column.most ?? 0, 0));
    case 'text':
      return '';
    case 'choice':
      return column.choices?.[0].id ?? '';
    case 'flags':
    case 'rows':
      return [];
    default:
      return null;
  }
}

/** What a file has in a cell, whatever it is; for checks. */
export const givenAt = (column: Column, row: Row): CellValue => own(row, column.id) ?? emptyValue(column);

/** A cell’s value; where it has to be a list and is none, an empty one. */
export function valueAt(column: Column, row: Row): CellValue {
  const value = givenAt(column, row);
  return (column.type === 'flags' || column.type === 'rows') && !Array.isArray(value) ? [] : value;
}

export const keyOf = (table: Table, row: Row): string => {
  const key = own(row, table.key);
  return typeof key === 'string' ? key : '';
};

/** What people know a row by. */
export function titleOf(table: Table, row: Row): string {
  const title = table.title === undefined ? undefined : own(row, table.title);
  return typeof title === 'string' && title !== '' ? title : keyOf(table, row);
}
