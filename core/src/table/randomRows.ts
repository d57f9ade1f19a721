/** Rows made at random: each column by a rule, within budgets, the same again with the same seed. */

import { chance } from '../math/chance.ts';
import { insertRows } from './edit.ts';
import { emptyValue, keyOf, type CellValue, type Row, type TableDocument } from './document.ts';
import type { Column, Table } from './schema.ts';
import type { Tables } from './tables.ts';

/** What a column may become; a column without a rule gets what its own range or choices allow. */
export interface ColumnRule {
  least?: number;
  most?: number;
  /** One of these, as values; of rows, from these. */
  among?: readonly string[];
}

export interface RandomRule {
  count: number;
  seed: number;
  /** Beginning of the keys; a number follows. */
  key: string;
  columns: Readonly<Record<string, ColumnRule>>;
  /** What each row has to come to. */
  budgets: readonly { formula: string; least: number; most: number }[];
}

export const MOST_RANDOM = 1000;
/** Rows that are thrown away for one that is kept, at most. */
const TRIES = 2000;

/** @throws FormulaProblem for a budget that cannot be worked out */
export function randomRows(
  tables: Tables,
  table: Table,
  document: TableDocument,
  rule: RandomRule,
): { document: TableDocument; made: number; problem?: string } {
  const random = chance(rule.seed);
  const rows: Row[] = [];
  const most = Math.min(MOST_RANDOM, rule.count);
  for (let tries = 0; rows.length < most;) {
    const row: Record<string, CellValue> = {};
    for (const column of table.columns) if (column.type !== 'formula') row[column.id] = draw(tables, column, rule.columns[column.id] ?? {}, random);
    row[table.key] = `${rule.key}_${rows.length + 1}`;
    const fits = rule.budgets.every(({ formula, least, most: top }) => {
      const worth = tables.worth(table, row, formula);
      return worth >= least && worth <= top;
    });
    if (fits) {
      rows.push(row);
      tries = 0;
    } else if (++tries === TRIES) {
      const made = insertRows(table, document, document.rows.length - 1, rows);
      return {
        document: made,
        made: rows.length,
        problem: `No row within the budgets in ${TRIES} tries: the ranges of the columns do not lead there.`,
      };
    }
  }
  return { document: insertRows(table, document, document.rows.length - 1, rows), made: rows.length };
}

function draw(
  tables: Tables,
  column: Column,
  { least = column.least ?? 0, most = column.most ?? 100, among }: ColumnRule,
  random: () => number,
): CellValue {
  const pick = (list: readonly string[]) => (list.length === 0 ? null : list[Math.floor(random() * list.length)]);
  switch (column.type) {
    case 'number': {
      const value = least + random() * (most - least);
      return column.whole ? Math.min(Math.floor(most), Math.floor(least + random() * (most - least + 1))) : Math.round(value * 100) / 100;
    }
    case 'choice':
      return pick(among ?? (column.choices ?? []).map(({ id }) => id)) ?? emptyValue(column);
    case 'flags':
      return (column.choices ?? []).flatMap(({ id }) => (random() < 0.5 && (!among || among.includes(id)) ? [id] : []));
    case 'reference':
      return pick(among ?? keysOf(tables, column));
    case 'rows': {
      const from = among ?? keysOf(tables, column);
      const count = Math.floor((column.least ?? 0) + random() * ((column.most ?? 1) - (column.least ?? 0) + 1));
      return Array.from({ length: count }, () => pick(from)).filter((key): key is string => key !== null);
    }
    case 'text':
      return pick(among ?? []) ?? '';
    default:
      return pick(among ?? []);
  }
}

function keysOf(tables: Tables, column: Column): string[] {
  const to = tables.get(column.table ?? '');
  return to ? to.document.rows.map((row) => keyOf(to.table, row)) : [];
}
