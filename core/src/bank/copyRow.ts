/** A row with all that hangs on it, from one bank into another of the same layout. */

import { own } from '../own.ts';
import { UnreadableInput } from '../unreadable.ts';
import type { BankDocument } from './document.ts';
import { shownValue, type DocumentRow } from './edit.ts';
import { plainTarget, type BankLayout } from './layout.ts';

/** What people know a row by: its key, where it has one. */
export function rowName(layout: BankLayout, document: BankDocument, record: string, { values }: DocumentRow): string {
  const { key } = layout.records[record];
  return key === undefined ? '' : String(shownValue(document, values[key]) ?? '');
}

/**
 * @returns the other bank with the row at the end of the section. What numbers rows of another section is looked up by name there.
 * @throws UnreadableInput `bank-reference` which says what the other bank does not have
 */
export function copyRow(layout: BankLayout, from: BankDocument, to: BankDocument, section: string, n: number): BankDocument {
  const blocks = { ...to.blocks };
  const copied = new Map<string, string>();
  const recordOf = (name: string) => layout.sections.find((one) => one.name === name)!.record;
  const row = (one: DocumentRow, record: string, where: string): DocumentRow => {
    const values: DocumentRow['values'] = { ...one.values };
    for (const field of layout.records[record].fields) {
      const value = one.values[field.name];
      if (field.is === 'list') values[field.name] = (value as DocumentRow[]).map((inner) => row(inner, field.record, `${where}, ${field.name}`));
      else if (field.is === 'number' && field.table !== undefined)
        values[field.name] = reference(value as number, field.table, `${where}, ${field.name}`);
      else if (field.is === 'pointer' && value !== null) {
        const plain = plainTarget(field.to);
        values[field.name] = {
          block: block((value as { block: string }).block, plain.is === 'list' ? plain.record : null, `${where}, ${field.name}`),
        };
      }
    }
    return { values };
  };
  const reference = (index: number, table: string, where: string): number => {
    const record = recordOf(table);
    const there = from.sections[table][index] as DocumentRow | undefined;
    // A number beyond the table means something of its own, as nobody or all.
    if (!there) return index;
    const name = rowName(layout, from, record, there);
    if (name === '') return index;
    const found = to.sections[table].findIndex((one) => rowName(layout, to, record, one) === name);
    if (found < 0)
      throw new UnreadableInput(
        'bank-reference',
        `${where} is "${name}" of ${table}, which the other bank does not have.`,
        {},
        `Copy that row of ${table} first.`,
      );
    return found;
  };
  const block = (id: string, record: string | null, where: string): string => {
    const known = copied.get(id);
    if (known !== undefined) return known;
    let fresh = `copy.${id}`;
    for (let k = 2; Object.hasOwn(blocks, fresh); k++) fresh = `copy${k}.${id}`;
    copied.set(id, fresh);
    // Entered before its rows are followed, so that circles end.
    blocks[fresh] = {};
    const { text, rows } = own(from.blocks, id) ?? {};
    blocks[fresh] = record === null ? { text: text ?? '' } : { rows: (rows ?? []).map((one, k) => row(one, record, `${where} ${k + 1}`)) };
    return fresh;
  };
  const made = row(from.sections[section][n], recordOf(section), `${section} ${n + 1}`);
  return { ...to, sections: { ...to.sections, [section]: [...to.sections[section], made] }, blocks };
}
