/** Bytes of a bank that are set by hand: what the layout knows of them becomes a change of its row, the rest is kept as bytes. */

import { UnreadableInput } from '../unreadable.ts';
import { differences, type Difference } from './differences.ts';
import type { BankDocument } from './document.ts';
import type { BankLayout } from './layout.ts';
import { hexOf, readBank, type BankRead, type Claim, type Row } from './read.ts';
import { Ledger } from './room.ts';
import { unhex } from './texts.ts';
import { makeChecksums } from './write.ts';

type Rows = BankDocument['sections'][string];
type Values = Rows[number]['values'];

/** A bank with the bytes that a document sets, and checksums that are right. @throws UnreadableInput where one lies outside */
export function withBytes(bytes: Uint8Array, layout: BankLayout, document: Pick<BankDocument, 'bytes'>): Uint8Array {
  const set = Object.entries(document.bytes ?? {});
  if (set.length === 0) return bytes;
  const out = bytes.slice();
  for (const [place, hex] of set) {
    const [at, given] = [Number(place), unhex(hex)];
    if (at + given.length > out.length)
      throw new UnreadableInput(
        'bank-outside',
        `Byte ${at} is to be set; the bank ends at ${out.length}.`,
        { byte: out.length },
        'Take it out of "bytes".',
      );
    out.set(given, at);
  }
  makeChecksums(out, layout);
  return out;
}

/**
 * The document with one byte set.
 *
 * @param bytes the bank that the document was read from
 * @throws UnreadableInput where the byte is part of a pointer, count, checksum or of what is packed, and where the bank could no longer be read
 */
export function editByte(bytes: Uint8Array, layout: BankLayout, document: BankDocument, at: number, value: number): BankDocument {
  const next: BankDocument = { ...document, bytes: { ...document.bytes, [at]: hexOf(Uint8Array.of(value)) } };
  const before = readBank(withBytes(bytes, layout, document), layout);
  const claims = before.claims.filter(({ from, to }) => at >= from && at < to);
  if (claims.length === 0) return next;
  for (const claim of claims) needPlain(claim, before, at);
  const after = readAgain(withBytes(bytes, layout, next), layout, at);
  const changes = changedValues(before, after, at);
  const here = (rows: Rows): Rows =>
    rows.map((row) => {
      const found = changes.get(row.at ?? -1);
      const values: Values = Object.fromEntries(
        Object.entries({ ...row.values, ...found }).map(([name, one]) => [name, Array.isArray(one) ? here(one as Rows) : one]),
      );
      return { ...row, values };
    });
  return {
    ...next,
    sections: Object.fromEntries(Object.entries(document.sections).map(([name, rows]) => [name, here(rows)])),
    blocks: Object.fromEntries(
      Object.entries(document.blocks).map(([id, block]) => {
        const was = before.data.blocks[id] as BankRead['data']['blocks'][string] | undefined;
        // Places in what is packed are no places of the file.
        if (!was || was.to.is === 'packed') return [id, block];
        const text = after.data.blocks[id].text;
        return [id, { ...block, ...(block.rows ? { rows: here(block.rows) } : {}), ...(text !== was.text ? { text } : {}) }];
      }),
    ),
  };
}

const NOT: Partial<Record<Claim['kind'], string>> = {
  pointer: 'a pointer: choose in its row what it leads to',
  count: 'a count: it follows from the rows that are there',
  checksum: 'a checksum: it is made anew with every write',
};

function needPlain({ kind, what, block }: Claim, { data, pointers }: BankRead, at: number): void {
  const words = pointers.some((one) => one.inside === undefined && at >= one.at && at < one.at + one.spec.bytes + (one.spec.window ? 1 : 0))
    ? NOT.pointer
    : NOT[kind];
  if (words !== undefined) throw new UnreadableInput('bank-byte', `Byte ${at} (${what}) is part of ${words}.`, { byte: at });
  if (block !== undefined && data.blocks[block].to.is === 'packed')
    throw new UnreadableInput('bank-byte', `Byte ${at} (${what}) is part of what is packed: change its rows.`, { byte: at });
}

function readAgain(bytes: Uint8Array, layout: BankLayout, at: number): BankRead {
  try {
    return readBank(bytes, layout);
  } catch (error) {
    if (!(error instanceof UnreadableInput)) throw error;
    throw new UnreadableInput(error.code, `With byte ${at} set so the bank would no longer be read: ${error.message} Nothing was changed.`, {
      byte: at,
    });
  }
}

/** Values that are others, by the place of their row. */
function changedValues(before: BankRead, after: BankRead, at: number): Map<number, Values> {
  const changes = new Map<number, Values>();
  const other = (): UnreadableInput =>
    new UnreadableInput('bank-byte', `With byte ${at} set so other rows would be read than before.`, { byte: at }, 'Change it in its row instead.');
  const go = (was: readonly Row[], now: readonly Row[]): void => {
    if (was.length !== now.length) throw other();
    for (const [n, row] of was.entries())
      for (const [name, value] of Object.entries(row.values)) {
        const next = now[n].values[name];
        if (Array.isArray(value)) go(value, next as Row[]);
        else if (value !== null && typeof value === 'object') {
          if ((next as typeof value | null)?.block !== value.block) throw other();
        } else if (next !== null && typeof next === 'object') throw other();
        else if (next !== value) changes.set(row.at, { ...changes.get(row.at), [name]: next });
      }
  };
  for (const [name, { rows }] of Object.entries(before.data.sections)) go(rows, after.data.sections[name].rows);
  for (const [id, block] of Object.entries(before.data.blocks)) {
    if (block.to.is === 'packed') continue;
    if (!Object.hasOwn(after.data.blocks, id)) throw other();
    if (block.rows) go(block.rows, after.data.blocks[id].rows ?? []);
  }
  return changes;
}

/** Two banks in the words of their layout, and in bytes where it has none. */
export function compareBanks(layout: BankLayout, before: Uint8Array, after: Uint8Array): Difference[] {
  const [one, other] = [readBank(before, layout), readBank(after, layout)];
  return [...differences(layout, one.data, other.data), ...rawDifferences(before, after, [...one.claims, ...other.claims])];
}

/** Runs that are told; a bank that differs in more is another one. */
const MOST_RUNS = 200;

/** Runs of bytes that differ where neither bank's layout knows what lies there, in order. */
function rawDifferences(before: Uint8Array, after: Uint8Array, claims: readonly Claim[]): Difference[] {
  const known = Ledger.of(claims);
  const found: Difference[] = [];
  const end = Math.min(before.length, after.length);
  for (let at = 0; at < end && found.length < MOST_RUNS;) {
    if (before[at] === after[at]) at++;
    else if (known.endOf(at) > at) at = known.endOf(at);
    else {
      const from = at;
      const limit = Math.min(end, known.nextTaken(at), from + 64);
      while (at < limit && before[at] !== after[at]) at++;
      found.push({ where: `bytes from ${from} on`, before: hexOf(before.subarray(from, at)), after: hexOf(after.subarray(from, at)) });
    }
  }
  return found;
}
