import { describe, expect, it } from '@jest/globals';
import { checksum } from './checksum.ts';
import { bankDocument, dataOf, readBankDocument, type BankDocument } from './document.ts';
import { setValue } from './edit.ts';
import { compareBanks, editByte, withBytes } from './editBytes.ts';
import { readBank } from './read.ts';
import { LAYOUT, smallBank } from './testing.ts';
import { writeBank } from './write.ts';

const bank = smallBank();
const open = (): BankDocument => bankDocument(LAYOUT, readBank(bank, LAYOUT).data);
const set = (document: BankDocument, at: number, value: number) => editByte(bank, LAYOUT, document, at, value);
const written = (document: BankDocument): Uint8Array => {
  const base = withBytes(bank, LAYOUT, document);
  const before = readBank(base, LAYOUT);
  return writeBank(base, LAYOUT, dataOf(LAYOUT, before.data, document, 'x.json'), {}, before).bytes;
};
const others = (bytes: Uint8Array) => [...bytes.keys()].filter((at) => bytes[at] !== bank[at]);
const sums = LAYOUT.checksums!.flatMap(({ at }) => [at, at + 1, at + 2, at + 3]);

/** A byte that nothing in the layout claims. */
const unknown = [...bank.keys()].find((at) => bank[at] !== 0xff && !readBank(bank, LAYOUT).claims.some(({ from, to }) => at >= from && at < to))!;

describe('a byte set by hand', () => {
  it('of a row is that row’s value, which can be changed again', () => {
    // The turn and sight of the first person are in one byte.
    const document = set(open(), 18, 0b1001);
    expect(document.sections.people[0].values).toMatchObject({ turn: 1, sees: 2 });
    expect(readBank(written(document), LAYOUT).data.sections.people.rows[0].values).toMatchObject({ turn: 1, sees: 2 });
    const later = setValue(LAYOUT, document, ['people'], 0, 'turn', 3);
    expect(readBank(written(later), LAYOUT).data.sections.people.rows[0].values).toMatchObject({ turn: 3, sees: 2 });
  });

  it('keeps what was changed in rows before', () => {
    const document = set(setValue(LAYOUT, open(), ['people'], 1, 'turn', 2), 18, 0b1001);
    const rows = readBank(written(document), LAYOUT).data.sections.people.rows;
    expect([rows[0].values.turn, rows[1].values.turn]).toEqual([1, 2]);
  });

  it('of a text behind a pointer changes all texts that end in it', () => {
    const document = open();
    const name = (n: number, of: BankDocument) => of.blocks[(of.sections.people[n].values.name as { block: string }).block].text;
    const at = readBank(bank, LAYOUT).data.blocks[(document.sections.people[1].values.name as { block: string }).block].at;
    const next = set(document, at, 0x49); // "Old Ada" and "Ada" share their end
    expect([name(0, next), name(1, next)]).toEqual(['Old Ida', 'Ida']);
    const again = bankDocument(LAYOUT, readBank(written(next), LAYOUT).data);
    expect([name(0, again), name(1, again)]).toEqual(['Old Ida', 'Ida']);
  });

  it('that no layout knows is written with right checksums, and nothing beside it', () => {
    const document = readBankDocument(JSON.stringify(set(open(), unknown, bank[unknown] ^ 0x55)), 'x.json');
    const made = written(document);
    expect(others(made).filter((at) => !sums.includes(at))).toEqual([unknown]);
    const [first] = LAYOUT.checksums!;
    expect(new DataView(made.buffer).getUint16(first.at, true) & 0xffff).toBe(checksum(first.kind, made, first.over) & 0xffff);
    expect(compareBanks(LAYOUT, bank, made)).toEqual([
      expect.objectContaining({ where: `bytes from ${unknown} on`, after: (bank[unknown] ^ 0x55).toString(16).padStart(2, '0') }),
    ]);
  });

  it('of pointers, counts, checksums and packed rows is refused with what to do instead', () => {
    const before = open();
    expect(() => set(before, 20, 1)).toThrow('part of a pointer: choose in its row what it leads to');
    expect(() => set(before, 4, 9)).toThrow('part of a count');
    expect(() => set(before, sums[0], 9)).toThrow('part of a checksum');
    expect(() => set(before, 410, 9)).toThrow('part of what is packed');
    // The number of members is what the party's length is read from.
    expect(() => set(before, 19, 200)).toThrow(/With byte 19 set so (other rows would be read|the bank would no longer be read)/);
    expect(() => withBytes(bank, LAYOUT, { bytes: { 2047: '0102' } })).toThrow('the bank ends at 2048');
    expect(() => readBankDocument(JSON.stringify({ ...before, bytes: { '-1': 'zz' } }), 'x.json')).toThrow();
  });
});
