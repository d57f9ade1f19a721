/** Changes of a table’s rows, each a new document; the page keeps the ones before for undoing. */

import { own } from '../own.ts';
import { readCell } from './cell.ts';
import { emptyValue, keyOf, readTable, recordsPath, writeTable, type CellValue, type Row, type TableDocument } from './document.ts';
import { columnOf, type Table } from './schema.ts';

export const withRow = (document: TableDocument, n: number, column: string, value: CellValue): TableDocument => ({
  ...document,
  rows: document.rows.map((row, i) => (i === n ? { ...row, [column]: value } : row)),
});

/** Cells as typed or pasted; what cannot be read is left as it was and told. */
export function typeCells(
  table: Table,
  document: TableDocument,
  changes: readonly { n: number; column: string; text: string }[],
): { document: TableDocument; problems: string[] } {
  const problems: string[] = [];
  const rows = [...document.rows];
  for (const { n, column: id, text } of changes) {
    const column = columnOf(table, id);
    if (!column || !rows[n]) continue;
    const read = readCell(column, text);
    if ('problem' in read) problems.push(`Row ${n + 1}, ${column.label}: ${read.problem}.`);
    else rows[n] = { ...rows[n], [id]: read.value };
  }
  return { document: { ...document, rows }, problems };
}

/** A key that no row has yet. */
export function freeKey(table: Table, document: TableDocument, wanted: string): string {
  const taken = new Set(document.rows.map((row) => keyOf(table, row)));
  if (!taken.has(wanted)) return wanted;
  const stem = wanted.replace(/_\d+$/, '');
  for (let n = 2; ; n++) if (!taken.has(`${stem}_${n}`)) return `${stem}_${n}`;
}

export function newRow(table: Table, document: TableDocument): Row {
  const cells = Object.fromEntries(table.columns.filter(({ type }) => type !== 'formula').map((column) => [column.id, emptyValue(column)]));
  return { ...cells, [table.key]: freeKey(table, document, table.id.replace(/s$/, '')) };
}

/** Puts rows behind one, each under a key of its own. */
export function insertRows(table: Table, document: TableDocument, after: number, rows: readonly Row[]): TableDocument {
  return rows.reduce<TableDocument>((now, row, i) => {
    const keyed = { ...row, [table.key]: freeKey(table, now, keyOf(table, row)) };
    return { ...now, rows: [...now.rows.slice(0, after + 1 + i), keyed, ...now.rows.slice(after + 1 + i)] };
  }, document);
}

export const removeRows = (document: TableDocument, gone: ReadonlySet<number>): TableDocument => ({
  ...document,
  rows: document.rows.filter((_, n) => !gone.has(n)),
});

/** Gives a row another key; whatever in any table refers to it follows. Answers the texts that change, by path. */
export function renameKey(
  tables: readonly Table[],
  data: Readonly<Record<string, string>>,
  table: Table,
  from: string,
  to: string,
): Record<string, string> {
  const changed: Record<string, string> = {};
  for (const other of tables) {
    const path = recordsPath(other.id);
    const text = own(data, path);
    if (text === undefined) continue;
    const document = readTable(text, path);
    const refer = other.columns.filter((column) => column.table === table.id && (column.type === 'reference' || column.type === 'rows'));
    let touched = false;
    const rows = document.rows.map((row) => {
      let next = row;
      if (other.id === table.id && keyOf(other, row) === from) next = { ...next, [other.key]: to };
      for (const { id } of refer) {
        const value = own(next, id);
        if (value === from) next = { ...next, [id]: to };
        else if (Array.isArray(value) && value.includes(from)) next = { ...next, [id]: (value as string[]).map((key) => (key === from ? to : key)) };
      }
      touched ||= next !== row;
      return next;
    });
    if (touched) changed[path] = writeTable(other, { ...document, rows });
  }
  return changed;
}
