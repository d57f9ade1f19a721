/** All tables of a crate together: rows found by their keys, formulas worked out, who refers to whom. */

import { readOnce } from '../document/readOnce.ts';
import { own } from '../own.ts';
import { UnreadableInput } from '../unreadable.ts';
import { keyOf, readTable, recordsPath, valueAt, type CellValue, type Row, type TableDocument } from './document.ts';
import { evaluate, FormulaProblem } from './formula.ts';
import { columnOf, type Column, type Table } from './schema.ts';

interface Loaded {
  table: Table;
  document: TableDocument;
  /** The first of a key counts. */
  byKey: ReadonlyMap<string, number>;
  problem: UnreadableInput | null;
}

/** Formulas that lead through each other, at most. */
const DEEPEST = 20;

const read = readOnce(readTable);

const keyed = new WeakMap<TableDocument, Map<string, ReadonlyMap<string, number>>>();
function byKey(table: Table, document: TableDocument): ReadonlyMap<string, number> {
  let of = keyed.get(document);
  if (!of) keyed.set(document, (of = new Map()));
  let known = of.get(table.key);
  if (!known) {
    const made = new Map<string, number>();
    document.rows.forEach((row, n) => {
      const key = keyOf(table, row);
      if (!made.has(key)) made.set(key, n);
    });
    of.set(table.key, (known = made));
  }
  return known;
}

/** A row that another refers to. */
export interface Reference {
  column: Column;
  /** Table and key that it is to. */
  to: string;
  key: string;
}

export class Tables {
  private readonly loaded: ReadonlyMap<string, Loaded>;

  /** @param data texts by path; a table without a file has no rows */
  constructor(tables: readonly Table[], data: Readonly<Record<string, string>>, instead?: TableDocument) {
    this.loaded = new Map(
      tables.map((table) => {
        const path = recordsPath(table.id);
        const text = own(data, path);
        const found = instead?.table === table.id ? instead : text === undefined ? empty(table.id) : read(text, path);
        const document = found instanceof UnreadableInput ? empty(table.id) : found;
        return [table.id, { table, document, byKey: byKey(table, document), problem: found instanceof UnreadableInput ? found : null }];
      }),
    );
  }

  [Symbol.iterator](): IterableIterator<Loaded> {
    return this.loaded.values() as IterableIterator<Loaded>;
  }

  get(table: string): Loaded | undefined {
    return this.loaded.get(table);
  }

  row(table: string, key: string): Row | undefined {
    const of = this.loaded.get(table);
    const n = of?.byKey.get(key);
    return n === undefined ? undefined : of!.document.rows[n];
  }

  /** What a formula of a table comes to in a row. @throws FormulaProblem */
  worth(table: Table, row: Row, formula: string, depth = 0): number {
    if (depth > DEEPEST) throw new FormulaProblem('formulas lead round in a circle');
    return evaluate(formula, (path) => this.named(table, row, path, depth));
  }

  /** A number that a column has in a row, worked out where it is a formula. @throws FormulaProblem */
  number(table: Table, row: Row, id: string, depth = 0): number {
    const value = this.named(table, row, [id], depth);
    return typeof value === 'number' ? value : value.length;
  }

  /** A formula’s value for a cell, or why there is none. */
  computed(table: Table, row: Row, column: Column): { value: number } | { problem: string } {
    try {
      return { value: this.worth(table, row, column.formula ?? '0') };
    } catch (error) {
      if (error instanceof FormulaProblem) return { problem: error.message };
      throw error;
    }
  }

  private named(table: Table, row: Row, [id, ...rest]: readonly string[], depth: number): number | readonly number[] {
    const column = columnOf(table, id);
    if (!column) throw new FormulaProblem(`${table.label} has no column "${id}"`);
    const value: CellValue = valueAt(column, row);
    switch (column.type) {
      case 'number':
        return typeof value === 'number' ? value : 0;
      case 'formula':
        return this.worth(table, row, column.formula ?? '0', depth + 1);
      case 'choice':
        return Math.max(
          0,
          (column.choices ?? []).findIndex((choice) => choice.id === value),
        );
      case 'flags':
        return rest.length === 0 ? (value as string[]).length : Number((value as string[]).includes(rest[0]));
      case 'reference': {
        if (rest.length === 0) return value === null ? 0 : 1;
        const to = this.loaded.get(column.table ?? '')?.table;
        const found = typeof value === 'string' ? this.row(column.table ?? '', value) : undefined;
        return to && found ? this.named(to, found, rest, depth + 1) : 0;
      }
      case 'rows': {
        const to = this.loaded.get(column.table ?? '')?.table;
        return (value as string[]).flatMap((key) => {
          const found = this.row(column.table ?? '', key);
          if (!to || !found) return [];
          return rest.length === 0 ? [1] : this.named(to, found, rest, depth + 1);
        });
      }
      default:
        throw new FormulaProblem(`${column.label} is no number`);
    }
  }

  /** What a row refers to. */
  referencesOf(table: Table, row: Row): Reference[] {
    return table.columns.flatMap((column): Reference[] => {
      const value = valueAt(column, row);
      if (column.type === 'reference') return typeof value === 'string' && value !== '' ? [{ column, to: column.table!, key: value }] : [];
      if (column.type === 'rows') return (value as string[]).map((key) => ({ column, to: column.table!, key }));
      return [];
    });
  }
}

const empties = new Map<string, TableDocument>();
function empty(table: string): TableDocument {
  let made = empties.get(table);
  if (!made) empties.set(table, (made = { format: 1, table, rows: [] }));
  return made;
}
