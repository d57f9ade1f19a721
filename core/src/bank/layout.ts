/**
 * How a game's binary bank lies in its file: sections of records, what their fields are, and what they point at. It is data, not code;
 * docs/banks.md describes it for those who write one. All places are bytes from the beginning of the file.
 */

import { Type, type Static } from '@sinclair/typebox';
import { readDocument } from '../document/readDocument.ts';
import { UnreadableInput } from '../unreadable.ts';
import { CHECKSUMS, type ChecksumKind } from './checksum.ts';
import { Keyed } from '../keyed.ts';

const closed = { additionalProperties: false };
const Name = Type.String({ pattern: '^[a-z][a-z0-9_]*$', maxLength: 60 });
const Place = Type.Integer({ minimum: 0, maximum: 2 ** 32 });
const Hex = Type.String({ pattern: '^([0-9a-f]{2})+$', maxLength: 64, description: 'Bytes in hexadecimal digits.' });
const Order = Type.Union([Type.Literal('little'), Type.Literal('big')]);
const Bytes = Type.Integer({ minimum: 1, maximum: 8 });

export const PointerSchema = Type.Object(
  {
    bytes: Type.Integer({ minimum: 1, maximum: 4 }),
    order: Type.Optional(Order),
    from: Type.Optional(
      Type.Union([Type.Literal('file'), Type.Literal('field')], {
        description: 'Whether it counts from the beginning of the file, or from its own place.',
      }),
    ),
    base: Type.Optional(Type.Integer({ description: 'What is taken off its value first.' })),
    window: Type.Optional(
      Type.Object(
        {
          size: Type.Integer({ minimum: 1, description: 'Bytes of a window: place = number of the window × size + value − base.' }),
          number: Type.Union([Type.Literal('before'), Type.Literal('after')], { description: 'Where the byte with the window’s number lies.' }),
        },
        closed,
      ),
    ),
    none: Type.Optional(Type.Integer({ minimum: 0, description: 'The value that leads nowhere.' })),
  },
  closed,
);

const CountSchema = Type.Union([
  Type.Integer({ minimum: 0 }),
  Type.Object({ field: Name }, { ...closed, description: 'Name of the field beside the pointer that has the count.' }),
  Type.Object({ end: Hex }, { ...closed, description: 'The mark after the last one.' }),
]);

const TextTargetSchema = Type.Object({ is: Type.Literal('text'), text: Name }, closed);
const ListTargetSchema = Type.Object({ is: Type.Literal('list'), record: Name, count: CountSchema }, closed);
export const TargetSchema = Type.Union([
  TextTargetSchema,
  ListTargetSchema,
  Type.Object(
    {
      is: Type.Literal('packed', { description: 'Four bytes with the length, four with the packed length, and then a packed text or list.' }),
      by: Type.Union([Type.Literal('lz4'), Type.Literal('deflate')]),
      holds: Type.Union([TextTargetSchema, ListTargetSchema]),
    },
    closed,
  ),
]);

const common = { name: Name, title: Type.Optional(Type.String({ maxLength: 200 })) };
export const FieldSchema = Type.Union([
  Type.Object(
    {
      ...common,
      is: Type.Literal('number'),
      bytes: Bytes,
      order: Type.Optional(Order),
      signed: Type.Optional(Type.Boolean()),
      fraction: Type.Optional(Type.Integer({ minimum: 1, maximum: 32, description: 'Bits after the point.' })),
      choices: Type.Optional(Keyed(Type.String({ pattern: '^-?\\d+$' }), Type.String({ maxLength: 200 }))),
      table: Type.Optional(Type.String({ description: 'Name of the section whose rows it counts.' })),
    },
    closed,
  ),
  Type.Object(
    {
      ...common,
      is: Type.Literal('bits'),
      bytes: Bytes,
      order: Type.Optional(Order),
      parts: Type.Array(
        Type.Object(
          {
            name: Name,
            title: Type.Optional(Type.String({ maxLength: 200 })),
            from: Type.Integer({ minimum: 0, maximum: 63, description: 'Lowest bit, 0 being the least.' }),
            count: Type.Integer({ minimum: 1, maximum: 32 }),
          },
          closed,
        ),
        { minItems: 1, maxItems: 64 },
      ),
    },
    closed,
  ),
  Type.Object({ ...common, is: Type.Literal('text'), text: Name, bytes: Type.Integer({ minimum: 1, maximum: 4096 }) }, closed),
  Type.Object({ ...common, is: Type.Literal('bytes'), bytes: Type.Integer({ minimum: 1, maximum: 65536 }) }, closed),
  Type.Object({ ...common, is: Type.Literal('list'), record: Name, count: Type.Integer({ minimum: 1, maximum: 65536 }) }, closed),
  Type.Object({ ...common, is: Type.Literal('pointer'), pointer: PointerSchema, to: TargetSchema }, closed),
]);

export const BankLayoutSchema = Type.Object(
  {
    format: Type.Literal(1),
    id: Name,
    title: Type.String({ minLength: 1, maxLength: 200 }),
    order: Order,
    known: Type.Array(
      Type.Object(
        { version: Type.String({ maxLength: 40 }), bytes: Place, sha256: Type.Optional(Type.String({ pattern: '^[0-9a-f]{64}$' })) },
        closed,
      ),
      { minItems: 1, description: 'Files that the layout is known to be of.' },
    ),
    texts: Keyed(
      Name,
      Type.Object(
        {
          runs: Keyed(Hex, Type.String({ minLength: 1 }), {
            description: 'Letters one after the other, from the byte or bytes that the first has.',
          }),
          controls: Type.Optional(
            Type.Record(Type.String({ minLength: 1, maxLength: 40 }), Hex, {
              description: 'Words in braces, or a line break, with their bytes; each % in a word is one byte more.',
            }),
          ),
          end: Hex,
          pad: Type.Optional(Hex),
        },
        closed,
      ),
    ),
    records: Keyed(
      Name,
      Type.Object(
        {
          bytes: Type.Optional(Type.Integer({ minimum: 1, maximum: 65536, description: 'Where it is longer than its fields.' })),
          key: Type.Optional(Type.String({ description: 'Field that people know a row by.' })),
          fields: Type.Array(FieldSchema, { minItems: 1, maxItems: 500 }),
        },
        closed,
      ),
    ),
    sections: Type.Array(
      Type.Object(
        {
          name: Name,
          title: Type.Optional(Type.String({ maxLength: 200 })),
          record: Name,
          at: Type.Optional(Place),
          by: Type.Optional(
            Type.Object({ at: Place, pointer: PointerSchema }, { ...closed, description: 'A pointer that leads to it; then it can be moved.' }),
          ),
          count: Type.Union([
            Type.Integer({ minimum: 0 }),
            Type.Object({ at: Place, bytes: Type.Integer({ minimum: 1, maximum: 4 }) }, { ...closed, description: 'Where the count lies.' }),
            Type.Object({ end: Hex }, closed),
          ]),
          most: Type.Optional(Type.Integer({ minimum: 1, description: 'Rows that the game takes at most.' })),
        },
        closed,
      ),
      { minItems: 1, maxItems: 500 },
    ),
    free: Type.Object(
      {
        fill: Type.Integer({ minimum: 0, maximum: 255, description: 'The byte that free room is filled with.' }),
        regions: Type.Array(Type.Tuple([Place, Place]), { description: 'From and to, without the last, within which moved things may lie.' }),
        align: Type.Optional(Type.Integer({ minimum: 1, maximum: 4096 })),
        margin: Type.Optional(Type.Integer({ minimum: 0, maximum: 65536, description: 'Fill bytes that are left after the last that is used.' })),
      },
      closed,
    ),
    checksums: Type.Optional(
      Type.Array(
        Type.Object(
          {
            at: Place,
            kind: Type.Union(Object.keys(CHECKSUMS).map((kind) => Type.Literal(kind as ChecksumKind))),
            order: Type.Optional(Order),
            over: Type.Array(Type.Tuple([Place, Place]), { minItems: 1, description: 'From and to, without the last.' }),
          },
          closed,
        ),
      ),
    ),
  },
  closed,
);

export type BankLayout = Static<typeof BankLayoutSchema>;
export type ByteOrder = Static<typeof Order>;
export type Field = Static<typeof FieldSchema>;
export type FieldOf<K extends Field['is']> = Extract<Field, { is: K }>;
export type PointerSpec = Static<typeof PointerSchema>;
export type Target = Static<typeof TargetSchema>;
export type PlainTarget = Exclude<Target, { is: 'packed' }>;
export type RecordLayout = BankLayout['records'][string];
export type SectionLayout = BankLayout['sections'][number];

/** What is led to, packed or not. */
export const plainTarget = (to: Target): PlainTarget => (to.is === 'packed' ? to.holds : to);

/** Bytes of a pointer with its window's number. */
export const pointerBytes = ({ bytes, window }: PointerSpec): number => bytes + (window ? 1 : 0);

/** @throws UnreadableInput where the document is none, or contradicts itself: what and where */
export function readLayout(text: string, file: string): BankLayout {
  const layout = readDocument(text, BankLayoutSchema, file);
  const problem = layoutProblem(layout);
  if (problem) throw new UnreadableInput('bank-layout', `${file}: ${problem}`, { file }, 'docs/banks.md says how layouts are written.');
  return layout;
}

/** Bytes that a row takes. Records within records are counted in; the layout has been found to be free of circles. */
export function recordBytes(layout: BankLayout, name: string): number {
  const record = layout.records[name];
  const known = sizes.get(record);
  if (known !== undefined) return known;
  const bytes = record.bytes ?? record.fields.reduce((sum, field) => sum + fieldBytes(layout, field), 0);
  sizes.set(record, bytes);
  return bytes;
}
const sizes = new WeakMap<RecordLayout, number>();

export const fieldBytes = (layout: BankLayout, field: Field): number =>
  field.is === 'list' ? field.count * recordBytes(layout, field.record) : field.is === 'pointer' ? pointerBytes(field.pointer) : field.bytes;

/** Rows may not be larger: one that holds lists of lists would be counted for ever. */
const MOST_RECORD = 1 << 24;

/** The first contradiction in a layout, as a sentence; null where there is none. */
export function layoutProblem(layout: BankLayout): string | null {
  const { records, sections, texts, free, checksums = [] } = layout;
  const done = new Map<string, number>();
  /** Bytes of a record, or the sentence that says why it has none. */
  const measure = (name: string, trail: readonly string[]): number | string => {
    if (!Object.hasOwn(records, name)) return `the record ${name} is not described.`;
    if (trail.includes(name)) return `the record ${[...trail.slice(trail.indexOf(name)), name].join(' holds ')}: it would be endless.`;
    const known = done.get(name);
    if (known !== undefined) return known;
    const { fields, bytes } = records[name];
    const names = new Set<string>();
    let sum = 0;
    for (const field of fields) {
      const own = field.is === 'bits' ? field.parts.map((part) => part.name) : [field.name];
      for (const one of own) {
        if (names.has(one)) return `the record ${name} has two fields ${one}.`;
        names.add(one);
      }
      if (field.is === 'list') {
        const inner = measure(field.record, [...trail, name]);
        if (typeof inner === 'string') return inner;
        sum += field.count * inner;
      } else sum += field.is === 'pointer' ? pointerBytes(field.pointer) : field.bytes;
      if (field.is === 'bits') {
        let taken = 0n;
        for (const { name: part, from, count } of field.parts) {
          const mask = ((1n << BigInt(count)) - 1n) << BigInt(from);
          if (from + count > field.bytes * 8) return `${name}.${part} ends at bit ${from + count} of a field of ${field.bytes * 8} bits.`;
          if (taken & mask) return `${name}.${part} has bits of another part of ${field.name}.`;
          taken |= mask;
        }
      }
      if (field.is === 'number' && field.fraction !== undefined && (field.bytes > 6 || field.fraction >= field.bytes * 8))
        return `${name}.${field.name} has ${field.fraction} bits after the point in ${field.bytes} bytes.`;
      if (field.is === 'number' && field.table !== undefined && !sections.some((section) => section.name === field.table))
        return `${name}.${field.name} counts rows of ${field.table}, which is no section.`;
      if (field.is === 'text' && !Object.hasOwn(texts, field.text))
        return `${name}.${field.name} is written in ${field.text}, which is not described.`;
      if (sum > MOST_RECORD) return `the record ${name} is larger than ${MOST_RECORD} bytes.`;
    }
    if (bytes !== undefined && bytes < sum) return `the record ${name} has ${bytes} bytes, and its fields ${sum}.`;
    for (const field of fields) {
      if (field.is !== 'pointer') continue;
      const plain = plainTarget(field.to);
      if (plain.is === 'text' && !Object.hasOwn(texts, plain.text))
        return `${name}.${field.name} leads to a text in ${plain.text}, which is not described.`;
      if (plain.is === 'list' && !Object.hasOwn(records, plain.record))
        return `${name}.${field.name} leads to ${plain.record}, which is not described.`;
      const count = plain.is === 'list' && typeof plain.count === 'object' && 'field' in plain.count ? plain.count.field : undefined;
      const counter = count === undefined ? undefined : fields.find((one) => one.name === count);
      if (count !== undefined && (counter?.is !== 'number' || counter.fraction !== undefined || counter.bytes > 4))
        return `${name}.${field.name} is counted by ${count}, which is no whole number beside it.`;
      if (field.pointer.window && field.pointer.from === 'field') return `${name}.${field.name} counts from its own place, which windows cannot.`;
    }
    done.set(name, bytes ?? sum);
    return bytes ?? sum;
  };
  for (const name of Object.keys(records)) {
    const size = measure(name, []);
    if (typeof size === 'string') return size;
  }
  const seen = new Set<string>();
  for (const section of sections) {
    if (seen.has(section.name)) return `two sections are called ${section.name}.`;
    seen.add(section.name);
    if (!Object.hasOwn(records, section.record)) return `the section ${section.name} is of ${section.record}, which is not described.`;
    if ((section.at === undefined) === (section.by === undefined))
      return `the section ${section.name} has to say either where it is, or what leads to it.`;
    const { key } = records[section.record];
    if (key !== undefined && !records[section.record].fields.some((field) => field.name === key))
      return `the record ${section.record} has no field ${key}.`;
  }
  for (const { at, kind, over } of checksums)
    if (over.some(([from, to]) => at < to && at + CHECKSUMS[kind] > from)) return `the checksum at byte ${at} would be part of what it is of.`;
  for (const [from, to] of [...free.regions, ...checksums.flatMap(({ over }) => over)])
    if (to <= from) return `what goes from ${from} to ${to} is empty.`;
  for (const [name, { runs, controls = {}, end }] of Object.entries(texts)) {
    const codes = new Map<string, string>([[end, 'its end']]);
    const take = (code: string, what: string): string | null => {
      const other = codes.get(code);
      codes.set(code, what);
      return other === undefined ? null : `in the text ${name}, ${what} and ${other} have the same bytes ${code}.`;
    };
    for (const [from, letters] of Object.entries(runs)) {
      let code = parseInt(from, 16);
      for (const letter of letters.normalize('NFC')) {
        const twice = take(code.toString(16).padStart(from.length, '0'), `"${letter}"`);
        if (twice) return twice;
        code++;
      }
      if (code > 256 ** (from.length / 2)) return `in the text ${name}, the letters from ${from} on need more bytes.`;
    }
    for (const [word, code] of Object.entries(controls)) {
      if (word !== '\n' && !/^\{[^{}]+\}$/.test(word)) return `in the text ${name}, the control "${word}" has to stand in braces.`;
      const twice = take(code, word);
      if (twice) return twice;
    }
  }
  return null;
}
