/** A bank as rows and what they point at, each with its place in the file. */

import { UnreadableInput } from '../unreadable.ts';
import { CHECKSUMS } from './checksum.ts';
import { readInteger, readUnsigned } from './integers.ts';
import {
  plainTarget,
  recordBytes,
  fieldBytes,
  pointerBytes,
  type BankLayout,
  type ByteOrder,
  type Field,
  type PlainTarget,
  type PointerSpec,
  type SectionLayout,
  type Target,
} from './layout.ts';
import { MOST_UNPACKED, unpack } from './packing.ts';
import { readText, unhex } from './texts.ts';

/**
 * Numbers; as text where they need more than 53 bits; text; bytes as hexadecimal digits; rows in place; and what a pointer leads to, as
 * the id of a block, null where it leads nowhere.
 */
export type BankValue = number | string | Row[] | Link | null;
export interface Link {
  block: string;
}
export interface Row {
  /** Its place as it was read, in the file or in what was unpacked; -1 for a new one. */
  at: number;
  values: Record<string, BankValue>;
}

/** Something that pointers lead to. Two pointers to one place share it. */
export interface Block {
  /** Place and bytes as read; -1 and 0 for a new one. */
  at: number;
  bytes: number;
  to: Target;
  text?: string;
  rows?: Row[];
  /** Packed ones: what came out, which their rows have their places in. */
  unpacked?: Uint8Array;
}

export interface Section {
  at: number;
  /** With an end mark. */
  bytes: number;
  rows: Row[];
}

export interface BankData {
  sections: Record<string, Section>;
  blocks: Record<string, Block>;
}

/** A piece of the file that is known, in words. */
export interface Claim {
  from: number;
  /** Without it. */
  to: number;
  what: string;
  kind: 'section' | 'block' | 'pointer' | 'count' | 'checksum';
  section?: string;
  row?: number;
  block?: string;
}

export interface BankRead {
  data: BankData;
  /** In the order in which they were come upon; some may overlap where texts share their ends. */
  claims: Claim[];
  /** All pointers that were followed. */
  pointers: PointerAt[];
}

export interface PointerAt {
  /** Place of the pointer itself; within what was unpacked where `inside` says of which block. */
  at: number;
  inside?: string;
  spec: PointerSpec;
  /** Id of a block, or `section:NAME`. */
  to: string;
  /** In words: `people 3, party`. */
  what: string;
}

/** Rows, and values of all rows together, that one bank may have: more is damage, or an attack. Texts and bytes count by their length. */
const MOST_ROWS = 2_000_000;
const MOST_VALUES = 6_000_000;
/** Bytes of a text that count as a value. */
const VALUE_BYTES = 16;

const orderOf = (layout: BankLayout, { order }: { order?: ByteOrder }): ByteOrder => order ?? layout.order;

/** @returns the place that a pointer at a place leads to; null for the value that leads nowhere */
export function follow(layout: BankLayout, bytes: Uint8Array, at: number, spec: PointerSpec): number | null {
  const before = spec.window?.number === 'before' ? 1 : 0;
  const value = readUnsigned(bytes, at + before, spec.bytes, orderOf(layout, spec));
  if (spec.none !== undefined && value === spec.none) return null;
  const plain = value - (spec.base ?? 0);
  if (spec.window) return bytes[before ? at : at + spec.bytes] * spec.window.size + plain;
  return spec.from === 'field' ? at + plain : plain;
}

/** Reads all of it. @throws UnreadableInput with the byte where something leads outside, has no end, or is damaged */
export function readBank(bytes: Uint8Array, layout: BankLayout): BankRead {
  return new Reader(bytes, layout).read();
}

class Reader {
  private readonly data: BankData = { sections: {}, blocks: {} };
  private readonly claims: Claim[] = [];
  private readonly pointers: PointerAt[] = [];
  /** Pointers whose blocks are still to be read: bounded by what was come upon, never by depth. */
  private readonly open: { id: string; at: number; to: Target; count: number | null; what: string }[] = [];
  private rows = 0;
  private values = 0;
  private readonly weights = new Map<string, number>();

  constructor(
    private readonly bytes: Uint8Array,
    private readonly layout: BankLayout,
  ) {}

  read(): BankRead {
    for (const section of this.layout.sections) this.section(section);
    // It grows while it is gone through.
    for (const next of this.open) this.block(next);
    for (const { at, kind } of this.layout.checksums ?? []) {
      const size = CHECKSUMS[kind];
      this.inside(at, size, 'a checksum');
      this.claims.push({ from: at, to: at + size, what: `checksum ${kind}`, kind: 'checksum' });
    }
    return { data: this.data, claims: this.claims, pointers: this.pointers };
  }

  private inside(at: number, size: number, what: string): void {
    if (at >= 0 && at + size <= this.bytes.length) return;
    throw new UnreadableInput(
      'bank-outside',
      `${what} would lie at bytes ${at} to ${at + size}; the bank ends at ${this.bytes.length}.`,
      { byte: Math.max(0, Math.min(at, this.bytes.length)) },
      'The bank is cut or damaged, or the layout is of another version.',
    );
  }

  private section(section: SectionLayout): void {
    const { name, record, count, by } = section;
    let at = section.at ?? 0;
    if (by) {
      this.inside(by.at, pointerBytes(by.pointer), `The pointer to ${name}`);
      const led = follow(this.layout, this.bytes, by.at, by.pointer);
      if (led === null) {
        this.data.sections[name] = { at: -1, bytes: 0, rows: [] };
        return;
      }
      at = led;
      this.pointers.push({ at: by.at, spec: by.pointer, to: `section:${name}`, what: `the pointer to ${name}` });
      this.claims.push({ from: by.at, to: by.at + pointerBytes(by.pointer), what: `pointer to ${name}`, kind: 'pointer', section: name });
    }
    let known: number | null = null;
    if (typeof count === 'number') known = count;
    else if ('at' in count) {
      this.inside(count.at, count.bytes, `The count of ${name}`);
      known = readUnsigned(this.bytes, count.at, count.bytes, this.layout.order);
      this.claims.push({ from: count.at, to: count.at + count.bytes, what: `count of ${name}`, kind: 'count', section: name });
    }
    const end = typeof count === 'object' && 'end' in count ? count.end : null;
    const { rows, size } = this.list(this.bytes, at, record, known, end, name, null);
    this.data.sections[name] = { at, bytes: size, rows };
    this.claims.push({ from: at, to: at + size, what: name, kind: 'section', section: name });
  }

  /** @param inside id of the packed block whose bytes these are */
  private list(
    bytes: Uint8Array,
    at: number,
    record: string,
    known: number | null,
    end: string | null,
    what: string,
    inside: string | null,
  ): { rows: Row[]; size: number } {
    const each = recordBytes(this.layout, record);
    const outside = (from: number, size: number, words: string) => {
      if (from < 0 || from + size > bytes.length) {
        if (bytes === this.bytes) this.inside(from, size, words);
        throw new UnreadableInput('bank-outside', `${words} would reach beyond the ${bytes.length} bytes that ${inside} unpacks to.`, {});
      }
    };
    const rows: Row[] = [];
    if (known !== null) {
      // A count of thousands of millions is refused before anything is made of it.
      outside(at, known * each, `${what}, ${known} rows of ${each} bytes,`);
      this.count(known, record, what);
      for (let n = 0; n < known; n++) rows.push(this.row(bytes, at + n * each, record, `${what} ${n + 1}`, inside));
      return { rows, size: known * each };
    }
    const mark = unhex(end!);
    for (let from = at; ; from += each) {
      outside(from, mark.length, `The end mark of ${what}`);
      if (mark.every((byte, i) => bytes[from + i] === byte)) return { rows, size: from + mark.length - at };
      outside(from, each, `Row ${rows.length + 1} of ${what}, which has no end mark before,`);
      this.count(1, record, what);
      rows.push(this.row(bytes, from, record, `${what} ${rows.length + 1}`, inside));
    }
  }

  /** How many values a row of a record has, with all rows in it. Layouts hold no record in itself. */
  private weight(record: string): number {
    const known = this.weights.get(record);
    if (known !== undefined) return known;
    let sum = 1;
    for (const field of this.layout.records[record].fields)
      if (field.is === 'list') sum += field.count * this.weight(field.record);
      else if (field.is === 'bits') sum += field.parts.length;
      else sum += field.is === 'text' || field.is === 'bytes' ? Math.ceil(field.bytes / VALUE_BYTES) : 1;
    this.weights.set(record, sum);
    return sum;
  }

  /** Counts rows before any of them is made: those in place within others too. */
  private count(more: number, record: string, what: string): void {
    this.rows += more;
    this.values += more * this.weight(record);
    if (this.values > MOST_VALUES)
      throw new UnreadableInput(
        'bank-values',
        `With ${what} the bank has more than ${MOST_VALUES} values.`,
        {},
        'The layout is of another version, or it reads the same bytes again and again.',
      );
    if (this.rows > MOST_ROWS)
      throw new UnreadableInput(
        'bank-rows',
        `With ${what} the bank has more than ${MOST_ROWS} rows.`,
        {},
        'The layout is of another version, or the bank is damaged.',
      );
  }

  private row(bytes: Uint8Array, at: number, record: string, what: string, inside: string | null): Row {
    const row: Row = { at, values: {} };
    const { fields } = this.layout.records[record];
    let place = at;
    for (const field of fields) {
      this.field(bytes, place, field, row, what, inside);
      place += fieldBytes(this.layout, field);
    }
    // A count may stand after its pointer.
    place = at;
    for (const field of fields) {
      if (field.is === 'pointer') row.values[field.name] = this.pointer(bytes, place, field, row, `${what}, ${field.name}`, inside);
      place += fieldBytes(this.layout, field);
    }
    return row;
  }

  private field(bytes: Uint8Array, at: number, field: Field, { values }: Row, what: string, inside: string | null): void {
    if (field.is === 'number') {
      const order = orderOf(this.layout, field);
      if (field.bytes > 6) values[field.name] = String(readInteger(bytes, at, field.bytes, order, field.signed));
      else {
        const value = readUnsigned(bytes, at, field.bytes, order);
        const whole = 256 ** field.bytes;
        values[field.name] = (field.signed && value >= whole / 2 ? value - whole : value) / 2 ** (field.fraction ?? 0);
      }
    } else if (field.is === 'bits') {
      const value = readInteger(bytes, at, field.bytes, orderOf(this.layout, field));
      for (const { name, from, count } of field.parts) values[name] = Number((value >> BigInt(from)) & ((1n << BigInt(count)) - 1n));
    } else if (field.is === 'text') values[field.name] = readText(bytes, at, this.layout.texts[field.text], at + field.bytes, true).text;
    else if (field.is === 'bytes') values[field.name] = hexOf(bytes.subarray(at, at + field.bytes));
    else if (field.is === 'list') {
      const each = recordBytes(this.layout, field.record);
      // Its values were counted with the row that it is in.
      this.rows += field.count;
      values[field.name] = Array.from({ length: field.count }, (_, n) =>
        this.row(bytes, at + n * each, field.record, `${what}, ${field.name} ${n + 1}`, inside),
      );
    }
  }

  private pointer(
    bytes: Uint8Array,
    at: number,
    { pointer, to }: Extract<Field, { is: 'pointer' }>,
    { values }: Row,
    what: string,
    inside: string | null,
  ): Link | null {
    // What is unpacked lies nowhere: its pointers lead into the file.
    const place = inside === null || pointer.from !== 'field' ? follow(this.layout, bytes, at, pointer) : null;
    if (inside !== null && pointer.from === 'field')
      throw new UnreadableInput(
        'bank-layout',
        `${what} counts from its own place, which packed rows do not have.`,
        {},
        'Let it count from the file.',
      );
    if (place === null) return null;
    if (place < 0 || place >= this.bytes.length)
      throw new UnreadableInput(
        'bank-pointer',
        `${what} leads to byte ${place}; the bank has ${this.bytes.length}.`,
        inside === null ? { byte: at } : {},
        'The bank is damaged, or the layout is of another version.',
      );
    const plain = plainTarget(to);
    const count =
      plain.is === 'list'
        ? typeof plain.count === 'number'
          ? plain.count
          : 'field' in plain.count
            ? Number(values[plain.count.field])
            : null
        : null;
    // One place read in two ways is two blocks: a list of three and a list of four that begin together.
    const id = blockId(place, to, count);
    this.pointers.push({ at, spec: pointer, to: id, what, ...(inside === null ? {} : { inside }) });
    if (!Object.hasOwn(this.data.blocks, id)) {
      this.data.blocks[id] = { at: place, bytes: 0, to };
      this.open.push({ id, at: place, to, count, what });
    }
    return { block: id };
  }

  private block({ id, at, to, count, what }: Reader['open'][number]): void {
    const block = this.data.blocks[id];
    if (to.is !== 'packed') Object.assign(block, this.content(this.bytes, at, to, count, what, null));
    else {
      this.inside(at, 8, `The lengths of what is packed for ${what}`);
      const [length, packed] = [readUnsigned(this.bytes, at, 4, this.layout.order), readUnsigned(this.bytes, at + 4, 4, this.layout.order)];
      this.inside(at + 8, packed, `What is packed for ${what}`);
      if (length > MOST_UNPACKED) unpack(to.by, new Uint8Array(), length, at + 8);
      const unpacked = unpack(to.by, this.bytes.subarray(at + 8, at + 8 + packed), length, at + 8);
      Object.assign(block, this.content(unpacked, 0, to.holds, count, what, id), { bytes: 8 + packed, unpacked });
    }
    this.claims.push({ from: at, to: at + block.bytes, what, kind: 'block', block: id });
  }

  private content(
    bytes: Uint8Array,
    at: number,
    to: PlainTarget,
    count: number | null,
    what: string,
    inside: string | null,
  ): Pick<Block, 'bytes' | 'text' | 'rows'> {
    if (to.is === 'text') return readText(bytes, at, this.layout.texts[to.text], bytes.length);
    const end = typeof to.count === 'object' && 'end' in to.count ? to.count.end : null;
    const { rows, size } = this.list(bytes, at, to.record, count, end, what, inside);
    return { rows, bytes: size };
  }
}

export const hexOf = (bytes: Uint8Array): string => Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');

const blockId = (place: number, to: Target, count: number | null): string => {
  const plain = plainTarget(to);
  return [
    place.toString(16).padStart(6, '0'),
    to.is === 'packed' ? to.by : plain.is,
    plain.is === 'list' ? plain.record : plain.text,
    ...(count === null ? [] : [count]),
  ].join('.');
};
