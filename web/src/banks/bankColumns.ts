import { recordOfField, shownValue, type DocumentRow } from '@violet-crate/core/bank/edit';
import type { BankDocument } from '@violet-crate/core/bank/document';
import { plainTarget, type BankLayout } from '@violet-crate/core/bank/layout';
import type { RecordColumn, RecordRow } from '../records/RecordTable.tsx';

/** What a record looks like as columns; bits are columns of their own, numbers of rows are choices among them. */
export function columnsOf(layout: BankLayout, document: BankDocument, record: string): RecordColumn[] {
  const counts = countsOf(layout, record);
  return layout.records[record].fields.flatMap((field): RecordColumn[] => {
    // How many there are follows from the rows.
    if (counts.has(field.name)) return [];
    const title = field.title ?? field.name;
    if (field.is === 'bits') return field.parts.map((part) => ({ id: part.name, title: part.title ?? part.name, kind: 'number' }));
    if (field.is === 'list' || recordOfField(field) !== null) return [{ id: field.name, title, kind: 'list' }];
    if (field.is !== 'number') return [{ id: field.name, title, kind: 'text' }];
    const choices = field.choices ?? (field.table === undefined ? undefined : namesOf(layout, document, field.table));
    return [{ id: field.name, title, kind: choices ? 'choice' : 'number', ...(choices ? { choices } : {}) }];
  });
}

/** Names of fields that count the rows behind a pointer beside them. */
function countsOf(layout: BankLayout, record: string): Set<string> {
  return new Set(
    layout.records[record].fields.flatMap((field) => {
      const plain = field.is === 'pointer' ? plainTarget(field.to) : null;
      return plain?.is === 'list' && typeof plain.count === 'object' && 'field' in plain.count ? [plain.count.field] : [];
    }),
  );
}

/** Names of a section's rows by their number; none where rows have no name. */
function namesOf(layout: BankLayout, document: BankDocument, section: string): Record<string, string> | undefined {
  const { record } = layout.sections.find(({ name }) => name === section)!;
  const { key } = layout.records[record];
  return key === undefined
    ? undefined
    : Object.fromEntries(document.sections[section].map(({ values }, n) => [n, String(shownValue(document, values[key]) ?? '')]));
}

export const rowsShown = (document: BankDocument, columns: readonly RecordColumn[], rows: readonly DocumentRow[]): RecordRow[] =>
  rows.map(({ values }, n) => ({ n, cells: Object.fromEntries(columns.map(({ id }) => [id, shownValue(document, values[id])])) }));

/** What was typed into a cell as its value; null where it is none. Words of choices count as their numbers. */
export function valueOf(column: RecordColumn, text: string, asText: boolean): number | string | null {
  if (column.kind === 'text') return text;
  const word = Object.entries(column.choices ?? {}).find(([, name]) => name === text);
  const given = (word?.[0] ?? text).trim();
  if (asText) return /^-?\d{1,20}$/.test(given) ? given : null;
  return given !== '' && Number.isFinite(Number(given)) ? Number(given) : null;
}
