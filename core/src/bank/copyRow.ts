/** A row with all that hangs on it, from one bank into another of the same layout. */

import { UnreadableInput } from '../unreadable.ts';
import { rowName } from './differences.ts';
import type { BankLayout } from './layout.ts';
import type { BankData, BankValue, Row } from './read.ts';

/**
 * @returns the other bank with the row at the end of the section. What numbers rows of another section is looked up by name there.
 * @throws UnreadableInput `bank-reference` which says what the other bank does not have
 */
export function copyRow(layout: BankLayout, from: BankData, to: BankData, section: string, n: number): BankData {
  const blocks = { ...to.blocks };
  const copied = new Map<string, string>();
  const recordOf = (name: string) => layout.sections.find((one) => one.name === name)!.record;
  const row = (one: Row, record: string, where: string): Row => {
    const values: Record<string, BankValue> = { ...one.values };
    for (const field of layout.records[record].fields) {
      const value = one.values[field.name];
      if (field.is === 'list') values[field.name] = (value as Row[]).map((inner) => row(inner, field.record, `${where}, ${field.name}`));
      else if (field.is === 'number' && field.table !== undefined)
        values[field.name] = reference(value as number, field.table, `${where}, ${field.name}`);
      else if (field.is === 'pointer' && value !== null)
        values[field.name] = { block: block((value as { block: string }).block, `${where}, ${field.name}`) };
    }
    return { at: -1, values };
  };
  const reference = (index: number, table: string, where: string): number => {
    const record = recordOf(table);
    const there = from.sections[table].rows[index] as Row | undefined;
    // A number beyond the table means something of its own, as nobody or all.
    if (!there) return index;
    const name = rowName(layout, record, from, there);
    if (name === '') return index;
    const found = to.sections[table].rows.findIndex((one) => rowName(layout, record, to, one) === name);
    if (found < 0)
      throw new UnreadableInput(
        'bank-reference',
        `${where} is "${name}" of ${table}, which the other bank does not have.`,
        {},
        `Copy that row of ${table} first.`,
      );
    return found;
  };
  const block = (id: string, where: string): string => {
    const known = copied.get(id);
    if (known !== undefined) return known;
    let fresh = `copy.${id}`;
    for (let k = 2; Object.hasOwn(blocks, fresh); k++) fresh = `copy${k}.${id}`;
    copied.set(id, fresh);
    const { to: target, text, rows } = from.blocks[id];
    const plain = target.is === 'packed' ? target.holds : target;
    // Entered before its rows are followed, so that circles end.
    blocks[fresh] = { at: -1, bytes: 0, to: target };
    blocks[fresh] = {
      ...blocks[fresh],
      ...(text === undefined ? {} : { text }),
      ...(rows === undefined || plain.is !== 'list' ? {} : { rows: rows.map((one) => row(one, plain.record, where)) }),
    };
    return fresh;
  };
  const made = row(from.sections[section].rows[n], recordOf(section), `${section} ${n + 1}`);
  return { sections: { ...to.sections, [section]: { ...to.sections[section], rows: [...to.sections[section].rows, made] } }, blocks };
}
