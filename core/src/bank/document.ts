/** A bank as a document that people and programs edit: rows by section, and what pointers lead to by its id. */

import { Type, type Static } from '@sinclair/typebox';
import { readDocument } from '../document/readDocument.ts';
import { UnreadableInput } from '../unreadable.ts';
import { plainTarget, type BankLayout, type Target } from './layout.ts';
import type { BankData, BankValue, Block, Row } from './read.ts';
import { Keyed } from '../keyed.ts';

const RowSchema = Type.Recursive(
  (Self) =>
    Type.Object(
      {
        at: Type.Optional(Type.Integer({ description: 'Its place as it was read; left out for a new one.' })),
        values: Type.Record(
          Type.String(),
          Type.Union([
            Type.Number(),
            Type.String(),
            Type.Null(),
            Type.Object({ block: Type.String() }, { additionalProperties: false }),
            Type.Array(Self),
          ]),
        ),
      },
      { additionalProperties: false },
    ),
  { $id: 'BankRow' },
);

export const BankDocumentSchema = Type.Object(
  {
    format: Type.Literal(1),
    bank: Type.String({ description: 'Id of its layout.' }),
    sections: Type.Record(Type.String(), Type.Array(RowSchema)),
    blocks: Type.Record(
      Type.String(),
      Type.Object({ text: Type.Optional(Type.String()), rows: Type.Optional(Type.Array(RowSchema)) }, { additionalProperties: false }),
      { description: 'What pointers lead to; one that two lead to is shared by both. A new one has any id.' },
    ),
    bytes: Type.Optional(
      Keyed(Type.String({ pattern: '^\\d{1,10}$' }), Type.String({ pattern: '^([0-9a-f]{2})+$' }), {
        additionalProperties: false,
        description: 'Bytes that are set by hand, hexadecimal, by the place of the first. Values of rows count before them.',
      }),
    ),
  },
  { additionalProperties: false },
);
export type BankDocument = Static<typeof BankDocumentSchema>;

export function bankDocument(layout: BankLayout, data: BankData): BankDocument {
  return {
    format: 1,
    bank: layout.id,
    sections: Object.fromEntries(Object.entries(data.sections).map(([name, { rows }]) => [name, rows])),
    blocks: Object.fromEntries(
      Object.entries(data.blocks).map(([id, { text, rows }]) => [
        id,
        { ...(text === undefined ? {} : { text }), ...(rows === undefined ? {} : { rows }) },
      ]),
    ),
  };
}

export const readBankDocument = (text: string, file: string): BankDocument => readDocument(text, BankDocumentSchema, file);

/**
 * A document as `writeBank` takes it. Places are believed only where a row was read from there.
 *
 * @param before what was read of the bank that is to be changed
 * @throws UnreadableInput with the row and field that is missing or of another kind
 */
export function dataOf(layout: BankLayout, before: BankData, document: BankDocument, file: string): BankData {
  const fail = (what: string): never => {
    throw new UnreadableInput('bank-document', `${file}: ${what}.`, { file }, 'docs/banks.md says how banks are written as documents.');
  };
  if (document.bank !== layout.id) fail(`it is of the bank ${document.bank}, not of ${layout.id}`);
  const blocks: Record<string, Block> = {};
  const open: [id: string, to: Target, where: string][] = [];
  const rowsOf = (
    given: readonly { at?: number; values: Record<string, unknown> }[],
    record: string,
    places: ReadonlySet<number>,
    where: string,
  ): Row[] =>
    given.map(({ at = -1, values }, n) => {
      const row: Row = { at: places.has(at) ? at : -1, values: {} };
      const place = `${where} ${n + 1}`;
      const known = new Set<string>();
      for (const field of layout.records[record].fields) {
        for (const name of field.is === 'bits' ? field.parts.map((part) => part.name) : [field.name]) {
          known.add(name);
          const value = values[name] as BankValue | undefined;
          if (value === undefined) return fail(`${place} lacks ${name}`);
          if (field.is === 'list') {
            if (!Array.isArray(value)) return fail(`${place}, ${name} has to be a list of rows`);
            row.values[name] = rowsOf(value, field.record, places, `${place}, ${name}`);
          } else if (field.is === 'pointer') {
            if (value !== null && (typeof value !== 'object' || Array.isArray(value)))
              return fail(`${place}, ${name} has to be null or lead to a block`);
            if (value !== null) open.push([value.block, field.to, `${place}, ${name}`]);
            row.values[name] = value;
          } else if (typeof value !== 'string' && typeof value !== 'number') return fail(`${place}, ${name} has to be a number or a text`);
          else row.values[name] = value;
        }
      }
      const strange = Object.keys(values).find((name) => !known.has(name));
      if (strange !== undefined) return fail(`${place} has ${strange}, which the layout does not know`);
      return row;
    });
  const sections: BankData['sections'] = {};
  for (const { name, record } of layout.sections) {
    if (!Object.hasOwn(document.sections, name)) fail(`the section ${name} is missing`);
    const was = before.sections[name];
    sections[name] = { ...was, rows: rowsOf(document.sections[name], record, placesOf(was.rows), name) };
  }
  // It grows while it is gone through.
  for (const [id, to, where] of open) {
    if (Object.hasOwn(blocks, id)) continue;
    if (!Object.hasOwn(document.blocks, id)) fail(`${where} leads to ${id}, which is not there`);
    const was = Object.hasOwn(before.blocks, id) && JSON.stringify(before.blocks[id].to) === JSON.stringify(to) ? before.blocks[id] : null;
    const { text, rows } = document.blocks[id];
    const plain = plainTarget(to);
    blocks[id] = { at: was?.at ?? -1, bytes: was?.bytes ?? 0, to, ...(was?.unpacked ? { unpacked: was.unpacked } : {}) };
    if (plain.is === 'text') blocks[id].text = text ?? fail(`${id} has to have a text`);
    else blocks[id].rows = rowsOf(rows ?? fail(`${id} has to have rows`), plain.record, placesOf(was?.rows ?? []), where);
  }
  return { sections, blocks };
}

/** Where rows were read from, those within rows too. */
function placesOf(rows: readonly Row[], places = new Set<number>()): ReadonlySet<number> {
  for (const { at, values } of rows) {
    places.add(at);
    for (const value of Object.values(values)) if (Array.isArray(value)) placesOf(value, places);
  }
  return places;
}
