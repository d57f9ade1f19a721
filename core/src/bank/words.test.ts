import { describe, expect, it } from '@jest/globals';
import { bankUse, mapOfBank, rowOfPiece } from './bankMap.ts';
import { copyRow } from './copyRow.ts';
import { bankDocument, dataOf } from './document.ts';
import { rowsAt } from './edit.ts';
import { differences } from './differences.ts';
import { knownVersion, needKnown } from './known.ts';
import type { BankLayout } from './layout.ts';
import { readBank } from './read.ts';
import { LAYOUT, smallBank } from './testing.ts';
import { writeBank } from './write.ts';

const read = (bytes = smallBank()) => readBank(bytes, LAYOUT).data;

describe('a bank in words', () => {
  it('its map goes from the first byte to the last, and says what is known, free and unknown', () => {
    const bytes = smallBank();
    const pieces = mapOfBank(bytes, LAYOUT, readBank(bytes, LAYOUT));
    expect([pieces[0].from, pieces.at(-1)!.to]).toEqual([0, 2048]);
    for (const [n, piece] of pieces.entries()) if (n > 0) expect(piece.from).toBe(pieces[n - 1].to);
    expect(pieces.find(({ from }) => from === 240)).toMatchObject({ to: 252, kind: 'block', what: 'people 1, party' });
    expect(pieces.filter(({ kind }) => kind === 'free').map(({ from, to }) => [from, to])).toEqual([
      [1024, 1500],
      [1503, 2000],
    ]);
    expect(Object.values(bankUse(pieces)).reduce((sum, value) => sum + value, 0)).toBe(2048);
  });

  it('differences are told by row and field, with who it is', () => {
    const next = structuredClone(read());
    const party = next.blocks['0000f0.list.member.3'].rows!;
    party[1].values.level = 13;
    party.push({ at: -1, values: { kind: 4, level: 1, kit: 0 } });
    next.blocks['0000d0.text.plain'].text = 'Will';
    const after = readBank(writeBank(smallBank(), LAYOUT, next).bytes, LAYOUT).data;
    expect(differences(LAYOUT, read(), after)).toEqual([
      { where: 'people 1 Old Ada, size', before: '3', after: '4' },
      { where: 'people 1 Old Ada, party 2, level', before: '12', after: '13' },
      { where: 'people 1 Old Ada, party 4', before: null, after: 'kind 4, level 1, kit 0' },
      { where: 'people 3 Will, name', before: 'Wil', after: 'Will' },
    ]);
    expect(differences(LAYOUT, read(), read())).toEqual([]);
  });

  it('a row is copied with all that hangs on it; what it numbers is looked up by name', () => {
    const open = () => bankDocument(LAYOUT, read());
    const copied = copyRow(LAYOUT, open(), open(), 'people', 0);
    const { bytes } = writeBank(smallBank(), LAYOUT, dataOf(LAYOUT, read(), copied, 'x'));
    const after = read(bytes);
    expect(after.sections.people.rows).toHaveLength(4);
    const { party, name } = after.sections.people.rows[3].values as Record<string, { block: string }>;
    expect([after.blocks[name.block].text, after.blocks[party.block].rows!.length]).toEqual(['Old Ada', 3]);
    const numbered: BankLayout = structuredClone(LAYOUT);
    numbered.records.member.fields[0] = { name: 'kind', is: 'number', bytes: 1, table: 'people' };
    const other = structuredClone(open());
    other.sections.people.reverse();
    const turned = copyRow(numbered, open(), other, 'people', 0);
    // 1 and 2 are Ada and Wil; turned round they are 1 and 0.
    expect(rowsAt(numbered, turned, ['people', 3, 'party']).rows.map(({ values }) => values.kind)).toEqual([1, 0, 3]);
    other.sections.people.splice(0, 1);
    expect(() => copyRow(numbered, open(), other, 'people', 0)).toThrow(
      'people 1, party 2, kind is "Wil" of people, which the other bank does not have.',
    );
  });

  it('what lies somewhere leads back to its row', () => {
    const pieces = mapOfBank(smallBank(), LAYOUT, readBank(smallBank(), LAYOUT));
    expect(
      rowOfPiece(
        LAYOUT,
        pieces.find(({ from }) => from === 240)!,
      ),
    ).toEqual({ section: 'people', n: 0 });
    expect(
      rowOfPiece(
        LAYOUT,
        pieces.find(({ what }) => what === 'people')!,
      ),
    ).toEqual({ section: 'people', n: 0 });
    expect(
      rowOfPiece(
        LAYOUT,
        pieces.find(({ kind }) => kind === 'free')!,
      ),
    ).toBeNull();
  });

  it('a bank that its layout does not know is refused, with what it knows', () => {
    expect(knownVersion(smallBank(), LAYOUT)).toBe('1');
    expect(() => needKnown(new Uint8Array(7), LAYOUT, 'x.bnk')).toThrow(
      'x.bnk has 7 bytes and is none of the banks that "A small bank" is known to be of: 1 (2048 bytes).',
    );
    const strict = { ...LAYOUT, known: [{ version: '1', bytes: 2048, sha256: '0'.repeat(64) }] };
    expect(knownVersion(smallBank(), strict)).toBeNull();
  });
});
