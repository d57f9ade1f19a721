/** Tables out to and in from CSV and JSON. What comes in is first shown as what it would change. */

import { readCsv, writeCsv } from './csv.ts';
import { own } from '../own.ts';
import { UnreadableInput } from '../unreadable.ts';
import { cellWords, readCell } from './cell.ts';
import { keyOf, readTable, valueAt, type Row, type TableDocument } from './document.ts';
import { columnOf, type Table } from './schema.ts';
import type { Tables } from './tables.ts';

/** With formulas worked out, for whoever reads it elsewhere; they are left out when it comes back. @param plain as `writeCsv` has it */
export function exportCsv(tables: Tables, table: Table, { rows }: TableDocument, plain = false): string {
  const csv = {
    header: table.columns.map(({ id }) => id),
    rows: rows.map((row) =>
      table.columns.map((column) => {
        if (column.type !== 'formula') return cellWords(valueAt(column, row));
        const computed = tables.computed(table, row, column);
        return 'value' in computed ? String(computed.value) : '';
      }),
    ),
  };
  return writeCsv(csv, plain);
}

export interface ImportPlan {
  document: TableDocument;
  /** By key: rows that come, and what of which becomes what. */
  added: string[];
  changed: { key: string; column: string; from: string; to: string }[];
  /** Keys of rows that the file has not got; they stay. */
  missing: string[];
  /** What could not be taken, with the row of the file. */
  problems: string[];
}

/**
 * What a file would make of a table: rows are known by their key, columns by their id or label; what the file does not
 * name stays as it is.
 * @throws UnreadableInput where it cannot be read or has no column of keys
 */
export function planImport(table: Table, document: TableDocument, text: string, file: string): ImportPlan {
  const { rows: read, problems } = /\.json$/i.test(file) ? rowsOfJson(table, text, file) : rowsOfCsv(table, text, file);
  const at = new Map(document.rows.map((row, n) => [keyOf(table, row), n]));
  const rows: Row[] = [...document.rows];
  const plan: ImportPlan = { document, added: [], changed: [], missing: [], problems };
  const seen = new Set<string>();
  for (const row of read) {
    const key = keyOf(table, row);
    if (key === '' || seen.has(key)) {
      problems.push(key === '' ? `A row has no ${table.key}.` : `The row "${key}" is there twice; the first counts.`);
      continue;
    }
    seen.add(key);
    const n = at.get(key);
    if (n === undefined) {
      rows.push(row);
      plan.added.push(key);
      continue;
    }
    for (const [id, value] of Object.entries(row)) {
      const column = columnOf(table, id)!;
      const [from, to] = [cellWords(valueAt(column, rows[n])), cellWords(value)];
      if (from !== to) plan.changed.push({ key, column: column.label, from, to });
    }
    rows[n] = { ...rows[n], ...row };
  }
  plan.missing = document.rows.map((row) => keyOf(table, row)).filter((key) => !seen.has(key));
  return { ...plan, document: { ...document, rows } };
}

type Read = { rows: Row[]; problems: string[] };

function rowsOfCsv(table: Table, text: string, file: string): Read {
  const { header, rows } = readCsv(text, file);
  const problems: string[] = [];
  const columns = header.map((name) => {
    const wanted = name.trim().toLowerCase();
    const column = table.columns.find(({ id, label }) => id === wanted || label.toLowerCase() === wanted);
    if (!column) problems.push(`The column "${name}" is none of ${table.label}.`);
    return column;
  });
  if (!columns.some((column) => column?.id === table.key))
    throw new UnreadableInput(
      'csv-key',
      `${file}: there is no column "${table.key}".`,
      { file, line: 1 },
      'Rows are known by it; add it as the first column.',
    );
  return {
    problems,
    rows: rows.map((cells, n) =>
      Object.fromEntries(
        columns.flatMap((column, c) => {
          if (!column || column.type === 'formula') return [];
          const value = readCell(column, cells[c]);
          if ('problem' in value) problems.push(`Row ${n + 1}, ${column.label}: ${value.problem}.`);
          return 'problem' in value ? [] : [[column.id, value.value] as const];
        }),
      ),
    ),
  };
}

function rowsOfJson(table: Table, text: string, file: string): Read {
  const { rows } = readTable(text, file);
  const problems: string[] = [];
  return {
    problems,
    rows: rows.map((row, n) => {
      const unknown = Object.keys(row).filter((id) => !columnOf(table, id));
      if (unknown.length > 0) problems.push(`Row ${n + 1}: ${unknown.join(', ')} ${unknown.length === 1 ? 'is' : 'are'} none of its columns.`);
      return Object.fromEntries(Object.entries(row).filter(([id]) => own(row, id) !== undefined && !unknown.includes(id)));
    }),
  };
}
