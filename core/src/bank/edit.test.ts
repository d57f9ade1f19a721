import { describe, expect, it } from '@jest/globals';
import { bankDocument, dataOf, readBankDocument, type BankDocument } from './document.ts';
import { addRow, removeRow, rowsAt, setValue, shownValue } from './edit.ts';
import { readBank } from './read.ts';
import { LAYOUT, smallBank } from './testing.ts';
import { writeBank } from './write.ts';

const open = () => bankDocument(LAYOUT, readBank(smallBank(), LAYOUT).data);
const written = (document: BankDocument) => writeBank(smallBank(), LAYOUT, dataOf(LAYOUT, readBank(smallBank(), LAYOUT).data, document, 'x.json'));
const again = (document: BankDocument) => bankDocument(LAYOUT, readBank(written(document).bytes, LAYOUT).data);

describe('a bank’s document', () => {
  it('that nobody changed writes the same bytes, through JSON too', () => {
    const document = readBankDocument(JSON.stringify(open()), 'x.json');
    expect(Buffer.from(written(document).bytes).equals(Buffer.from(smallBank()))).toBe(true);
  });

  it('values, rows of parties and texts are changed; the counts follow', () => {
    let document = setValue(LAYOUT, open(), ['people'], 0, 'turn', 1);
    document = addRow(LAYOUT, document, ['people', 0, 'party'], 2);
    document = setValue(LAYOUT, document, ['people', 0, 'party'], 3, 'level', 99);
    document = removeRow(LAYOUT, document, ['people', 0, 'party'], 0);
    document = setValue(LAYOUT, document, ['people'], 2, 'name', 'Will');
    const after = again(document);
    expect(rowsAt(LAYOUT, after, ['people', 0, 'party']).rows.map(({ values }) => values.level)).toEqual([12, 14, 99]);
    expect(after.sections.people[0].values).toMatchObject({ turn: 1, size: 3 });
    expect(shownValue(after, after.sections.people[2].values.name)).toBe('Will');
  });

  it('a row like another shares what it points at, until that is changed through one of them', () => {
    let document = addRow(LAYOUT, open(), ['people'], 0);
    expect(document.sections.people[1].values.party).toEqual(document.sections.people[0].values.party);
    document = setValue(LAYOUT, document, ['people'], 1, 'name', 'Ida');
    document = setValue(LAYOUT, document, ['people', 1, 'party'], 0, 'kind', 8);
    const after = again(document);
    expect(after.sections.people.map(({ values }) => shownValue(after, values.name))).toEqual(['Old Ada', 'Ida', 'Ada', 'Wil']);
    expect([0, 1].map((n) => rowsAt(LAYOUT, after, ['people', n, 'party']).rows[0].values.kind)).toEqual([1, 8]);
  });

  it('a party is made where there was none', () => {
    const document = addRow(LAYOUT, open(), ['people', 2, 'party'], -1);
    expect(rowsAt(LAYOUT, again(document), ['people', 2, 'party']).rows.map(({ values }) => values)).toEqual([{ kind: 0, level: 0, kit: 0 }]);
  });

  it('what is missing, strange or of another bank is told by row and field', () => {
    const told = (change: (document: BankDocument) => void) => () => {
      const document = structuredClone(open());
      change(document);
      return written(document);
    };
    expect(told((document) => delete document.sections.people[1].values.tag)).toThrow('x.json: people 2 lacks tag.');
    expect(told((document) => (document.sections.people[0].values.colour = 1))).toThrow(
      'x.json: people 1 has colour, which the layout does not know.',
    );
    expect(told((document) => (document.sections.people[0].values.party = 3))).toThrow('x.json: people 1, party has to be null or lead to a block.');
    expect(told((document) => (document.bank = 'other'))).toThrow('x.json: it is of the bank other, not of small.');
    expect(told((document) => delete (document.sections as Record<string, unknown>).scenes)).toThrow('x.json: the section scenes is missing.');
    // A place that nothing was read from is not believed.
    expect(told((document) => (document.sections.people[0].at = 5))).not.toThrow();
  });
});
