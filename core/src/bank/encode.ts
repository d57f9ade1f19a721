/** Rows of a bank as bytes. What nobody changed keeps its very bytes, those between the fields too. */

import { UnreadableInput } from '../unreadable.ts';
import { integerRange, readInteger, writeInteger } from './integers.ts';
import { fieldBytes, recordBytes, type BankLayout, type Field, type FieldOf, type PointerSpec } from './layout.ts';
import { hexOf, type Link, type Row } from './read.ts';
import { readText, unhex, writeText } from './texts.ts';

export interface Encoded {
  bytes: Uint8Array;
  /** Pointers in it, to be set once it is known where their targets lie; `known` where their old value stands in the bytes. */
  links: { offset: number; spec: PointerSpec; link: Link | null; what: string; known: boolean }[];
}

/** @param source bytes that the rows were read from, by their `at`. @throws UnreadableInput with the row and field whose value does not fit */
export function encodeRows(layout: BankLayout, record: string, rows: readonly Row[], source: Uint8Array, what: string): Encoded {
  const each = recordBytes(layout, record);
  const out: Encoded = { bytes: new Uint8Array(rows.length * each), links: [] };
  for (const [n, row] of rows.entries()) encodeRow(layout, record, row, source, out, n * each, `${what} ${n + 1}`);
  return out;
}

function encodeRow(layout: BankLayout, record: string, row: Row, source: Uint8Array, out: Encoded, offset: number, what: string): void {
  const each = recordBytes(layout, record);
  if (row.at >= 0) out.bytes.set(source.subarray(row.at, row.at + each), offset);
  const { fields } = layout.records[record];
  const values = { ...row.values };
  let at = offset;
  for (const field of fields) {
    const name = `${what}, ${field.name}`;
    if (field.is === 'pointer')
      out.links.push({ offset: at, spec: field.pointer, link: values[field.name] as Link | null, what: name, known: row.at >= 0 });
    else if (field.is === 'list') {
      const list = values[field.name] as Row[];
      const inner = recordBytes(layout, field.record);
      if (list.length !== field.count)
        throw new UnreadableInput('bank-count', `${name} has ${field.count} rows in this game; there are ${list.length}.`);
      for (const [n, one] of list.entries()) encodeRow(layout, field.record, one, source, out, at + n * inner, `${name} ${n + 1}`);
    } else encodeField(layout, field, values, out.bytes, at, row.at >= 0, name);
    at += fieldBytes(layout, field);
  }
}

type Plain = Exclude<Field, { is: 'pointer' | 'list' }>;

function encodeField(layout: BankLayout, field: Plain, values: Row['values'], bytes: Uint8Array, at: number, known: boolean, what: string): void {
  if (field.is === 'number') return encodeNumber(layout, field, values[field.name], bytes, at, what);
  if (field.is === 'bits') {
    const order = field.order ?? layout.order;
    let whole = readInteger(bytes, at, field.bytes, order);
    for (const { name, from, count } of field.parts) {
      const mask = (1n << BigInt(count)) - 1n;
      const value = values[name];
      if (typeof value !== 'number' || !Number.isInteger(value) || value < 0 || BigInt(value) > mask)
        throw new UnreadableInput('bank-range', `${what}, ${name}: ${String(value)} does not fit; 0 to ${mask}.`);
      whole = (whole & ~(mask << BigInt(from))) | (BigInt(value) << BigInt(from));
    }
    writeInteger(bytes, at, field.bytes, order, whole);
    return;
  }
  const value = values[field.name];
  if (typeof value !== 'string') throw new UnreadableInput('bank-range', `${what} has to be a text.`);
  if (field.is === 'bytes') {
    if (!/^([0-9a-f]{2})*$/.test(value) || value.length !== field.bytes * 2)
      throw new UnreadableInput('bank-range', `${what} has to be ${field.bytes} bytes in hexadecimal digits.`);
    if (known && hexOf(bytes.subarray(at, at + field.bytes)) === value) return;
    for (let i = 0; i < field.bytes; i++) bytes[at + i] = parseInt(value.slice(i * 2, i * 2 + 2), 16);
    return;
  }
  const text = layout.texts[field.text];
  if (known && readText(bytes, at, text, at + field.bytes, true).text === value) return;
  const written = codesOf(value, field, layout, what);
  const end = unhex(text.end);
  const pad = text.pad === undefined ? end : unhex(text.pad);
  if (written.length > field.bytes)
    throw new UnreadableInput('bank-range', `${what}: "${value}" takes ${written.length} bytes; ${field.bytes} are there.`, {}, 'Shorten it.');
  // An end mark where there is room for one, and then what the game fills with.
  const rest = [...(written.length + end.length <= field.bytes ? end : [])];
  for (let i = 0; written.length + rest.length < field.bytes; i++) rest.push(pad[i % pad.length]);
  bytes.set([...written, ...rest], at);
}

function codesOf(value: string, field: FieldOf<'text'>, layout: BankLayout, what: string): number[] {
  try {
    return writeText(value, layout.texts[field.text]);
  } catch (error) {
    if (error instanceof UnreadableInput) throw new UnreadableInput(error.code, `${what}: ${error.message}`, error.place, error.hint);
    throw error;
  }
}

function encodeNumber(layout: BankLayout, field: FieldOf<'number'>, value: unknown, bytes: Uint8Array, at: number, what: string): void {
  const [least, most] = integerRange(field.bytes, field.signed ?? false);
  const scale = 2 ** (field.fraction ?? 0);
  let whole: bigint | null = null;
  if (typeof value === 'string' && field.bytes > 6 && /^-?\d{1,20}$/.test(value)) whole = BigInt(value);
  else if (typeof value === 'number' && Number.isFinite(value) && Number.isInteger(field.fraction ? Math.round(value * scale) : value))
    whole = BigInt(field.fraction ? Math.round(value * scale) : value);
  if (whole === null || whole < least || whole > most) {
    const words = field.fraction ? `${Number(least) / scale} to ${Number(most) / scale}` : `whole numbers from ${least} to ${most}`;
    throw new UnreadableInput('bank-range', `${what}: ${String(value)} does not fit; ${words} do.`);
  }
  writeInteger(bytes, at, field.bytes, field.order ?? layout.order, whole);
}
