import { addRow, rowsAt } from '@violet-crate/core/bank/edit';
import type { BankDocument } from '@violet-crate/core/bank/document';
import type { BankLayout } from '@violet-crate/core/bank/layout';
import { readCsv, writeCsv } from '@violet-crate/core/table/csv';
import { cellText } from '../records/RecordTable.tsx';
import { columnsOf, rowsShown } from './bankColumns.ts';
import { applied } from './RowPanel.tsx';

/** Plain columns of a section as CSV, rows by their number; lists stay in the bank. */
export function sectionCsv(layout: BankLayout, document: BankDocument, section: string): string {
  const { record, rows } = rowsAt(layout, document, [section]);
  const columns = columnsOf(layout, document, record).filter(({ kind }) => kind !== 'list');
  return writeCsv({
    header: ['row', ...columns.map(({ id }) => id)],
    rows: rowsShown(document, columns, rows).map(({ n, cells }) => [String(n + 1), ...columns.map((column) => cellText(column, cells[column.id]))]),
  });
}

/**
 * The document with the values of a CSV: rows by their number, those beyond the last as new ones like the last.
 *
 * @throws Error with a column or row that is none
 */
export function withCsv(layout: BankLayout, document: BankDocument, section: string, text: string, file: string): BankDocument {
  const { header, rows } = readCsv(text, file);
  const { record } = rowsAt(layout, document, [section]);
  const columns = columnsOf(layout, document, record).filter(({ kind }) => kind !== 'list');
  const strange = header.find((name) => name !== 'row' && !columns.some(({ id }) => id === name));
  if (strange !== undefined) throw new Error(`${file}: "${strange}" is no column of ${section}. It has ${columns.map(({ id }) => id).join(', ')}.`);
  const number = header.indexOf('row');
  let next = document;
  const changes = rows.flatMap((cells, k) => {
    const n = number < 0 ? k : Number(cells[number]) - 1;
    if (!Number.isInteger(n) || n < 0 || n > document.sections[section].length + k)
      throw new Error(
        `${file}: row ${k + 1} says that it is row "${cells[number]}"; there are ${document.sections[section].length}, and new ones follow one by one.`,
      );
    while (next.sections[section].length <= n) next = addRow(layout, next, [section], next.sections[section].length - 1);
    return header.flatMap((name, c) => (c === number ? [] : [{ n, column: name, text: cells[c] }]));
  });
  return applied(layout, next, [section], changes);
}
