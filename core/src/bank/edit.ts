/** Changes of a bank's document. What two pointers share is made two things when it is changed through one of them. */

import { own } from '../own.ts';
import type { BankDocument } from './document.ts';
import { plainTarget, type BankLayout, type Field } from './layout.ts';

export type DocumentRow = BankDocument['sections'][string][number];
export type DocumentValue = DocumentRow['values'][string];

/** A list of rows: a section, and then by number of a row and name of its field from one list to the next. */
export type RowsPath = readonly [section: string, ...rest: (string | number)[]];

const isLink = (value: DocumentValue | undefined): value is { block: string } => value !== null && typeof value === 'object' && !Array.isArray(value);

/** How many pointers lead to each block. */
export function linksOf(document: BankDocument): Map<string, number> {
  const links = new Map<string, number>();
  const count = (rows: readonly DocumentRow[]): void => {
    for (const { values } of rows)
      for (const value of Object.values(values))
        if (Array.isArray(value)) count(value);
        else if (isLink(value)) links.set(value.block, (links.get(value.block) ?? 0) + 1);
  };
  for (const rows of Object.values(document.sections)) count(rows);
  for (const { rows } of Object.values(document.blocks)) count(rows ?? []);
  return links;
}

export const fieldNamed = (layout: BankLayout, record: string, name: string): Field | undefined =>
  layout.records[record].fields.find((field) => field.name === name || (field.is === 'bits' && field.parts.some((part) => part.name === name)));

/** The record of a field's rows; null where it has none. */
export function recordOfField(field: Field | undefined): string | null {
  if (field?.is === 'list') return field.record;
  const plain = field?.is === 'pointer' ? plainTarget(field.to) : null;
  return plain?.is === 'list' ? plain.record : null;
}

/** Rows at a path, with their record; none where a pointer on the way leads nowhere. */
export function rowsAt(layout: BankLayout, document: BankDocument, [section, ...rest]: RowsPath): { rows: readonly DocumentRow[]; record: string } {
  let record = layout.sections.find(({ name }) => name === section)!.record;
  let rows: readonly DocumentRow[] = document.sections[section];
  for (let i = 0; i < rest.length; i += 2) {
    const name = String(rest[i + 1]);
    const value = rows[Number(rest[i])]?.values[name];
    record = recordOfField(fieldNamed(layout, record, name))!;
    rows = Array.isArray(value) ? value : isLink(value) ? (own(document.blocks, value.block)?.rows ?? []) : [];
  }
  return { rows, record };
}

/** The document with the rows at a path changed. */
export function changeRows(
  layout: BankLayout,
  document: BankDocument,
  path: RowsPath,
  change: (rows: readonly DocumentRow[], blocks: BankDocument['blocks']) => DocumentRow[],
): BankDocument {
  const links = linksOf(document);
  const blocks = { ...document.blocks };
  const go = (rows: readonly DocumentRow[], record: string, rest: readonly (string | number)[]): DocumentRow[] => {
    if (rest.length === 0) return change(rows, blocks);
    const [n, name] = [Number(rest[0]), String(rest[1])];
    const row = rows[n];
    const value = row.values[name];
    const inner = recordOfField(fieldNamed(layout, record, name))!;
    let next: DocumentValue;
    if (Array.isArray(value)) next = go(value, inner, rest.slice(2));
    else {
      const block = isLink(value) ? value.block : null;
      const made = go(block === null ? [] : (blocks[block].rows ?? []), inner, rest.slice(2));
      const id = block === null || (links.get(block) ?? 0) > 1 ? freshId(blocks) : block;
      blocks[id] = { rows: made };
      next = { block: id };
    }
    return rows.map((one, k) => (k === n ? { ...one, values: { ...one.values, [name]: next } } : one));
  };
  const [section, ...rest] = path;
  const record = layout.sections.find(({ name }) => name === section)!.record;
  const rows = go(document.sections[section], record, rest);
  return { ...document, sections: { ...document.sections, [section]: rows }, blocks };
}

function freshId(blocks: BankDocument['blocks']): string {
  for (let n = Object.keys(blocks).length; ; n++) if (!Object.hasOwn(blocks, `new${n}`)) return `new${n}`;
}

/** Sets one value; a text behind a pointer by its words. */
export function setValue(layout: BankLayout, document: BankDocument, path: RowsPath, n: number, name: string, value: number | string): BankDocument {
  const { record } = rowsAt(layout, document, path);
  const field = fieldNamed(layout, record, name);
  const links = linksOf(document);
  return changeRows(layout, document, path, (rows, blocks) =>
    rows.map((row, k) => {
      if (k !== n) return row;
      if (field?.is !== 'pointer') return { ...row, values: { ...row.values, [name]: value } };
      const known = row.values[name];
      const id = isLink(known) && links.get(known.block) === 1 ? known.block : freshId(blocks);
      blocks[id] = { text: String(value) };
      return { ...row, values: { ...row.values, [name]: { block: id } } };
    }),
  );
}

/** A new row after another one, with its values; the first of an empty list is of noughts. */
export function addRow(layout: BankLayout, document: BankDocument, path: RowsPath, after: number): BankDocument {
  const { record } = rowsAt(layout, document, path);
  return changeRows(layout, document, path, (rows, blocks) => {
    const like = rows[after] as DocumentRow | undefined;
    const made: DocumentRow = { values: like ? structuredClone(like.values) : noughts(layout, record, blocks) };
    return [...rows.slice(0, after + 1), made, ...rows.slice(after + 1)];
  });
}

export const removeRow = (layout: BankLayout, document: BankDocument, path: RowsPath, n: number): BankDocument =>
  changeRows(layout, document, path, (rows) => rows.filter((_, k) => k !== n));

function noughts(layout: BankLayout, record: string, blocks: BankDocument['blocks']): DocumentRow['values'] {
  const values: DocumentRow['values'] = {};
  for (const field of layout.records[record].fields) {
    if (field.is === 'bits') for (const { name } of field.parts) values[name] = 0;
    else if (field.is === 'number') values[field.name] = field.bytes > 6 ? '0' : 0;
    else if (field.is === 'text') values[field.name] = '';
    else if (field.is === 'bytes') values[field.name] = '00'.repeat(field.bytes);
    else if (field.is === 'list') values[field.name] = Array.from({ length: field.count }, () => ({ values: noughts(layout, field.record, blocks) }));
    else if (field.pointer.none !== undefined) values[field.name] = null;
    else {
      const id = freshId(blocks);
      blocks[id] = recordOfField(field) === null ? { text: '' } : { rows: [] };
      values[field.name] = { block: id };
    }
  }
  return values;
}

/** What a cell shows: numbers, texts, texts behind pointers, and of lists how many rows they have. */
export function shownValue(document: BankDocument, value: DocumentValue | undefined): number | string | null {
  if (Array.isArray(value)) return value.length;
  if (!isLink(value)) return value ?? null;
  const block = own(document.blocks, value.block);
  return block?.text ?? block?.rows?.length ?? null;
}
