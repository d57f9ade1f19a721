import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { bankUse, mapOfBank } from '@violet-crate/core/bank/bankMap';
import { bankDocument, dataOf } from '@violet-crate/core/bank/document';
import { addRow, setValue } from '@violet-crate/core/bank/edit';
import { needKnown } from '@violet-crate/core/bank/known';
import { readBank } from '@violet-crate/core/bank/read';
import { writeBank } from '@violet-crate/core/bank/write';
import { loadProfile } from '@violet-crate/core/profile/load';
import { readLedger } from './game/ledger.ts';
import { makeLedger } from './ledger.ts';

const profile = loadProfile(readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'), 'brinewick.json');
const [{ layout }] = profile.banks!;
const folder = mkdtempSync(join(tmpdir(), 'violet-ledger-'));
let bytes: Uint8Array;
beforeAll(() => {
  bytes = makeLedger(layout);
  writeFileSync(join(folder, 'ledger.bnk'), bytes);
});
afterAll(() => rmSync(folder, { recursive: true }));

describe('the ledger of Brinewick', () => {
  it('is the very bank that its profile knows', () => {
    expect(needKnown(bytes, layout, 'ledger.bnk')).toBe('1');
    expect(bytes).toHaveLength(256 * 1024);
  });

  it('has people, lines and scenes enough, and room for more', () => {
    const { data } = readBank(bytes, layout);
    const lines = data.sections.talks.rows.reduce((sum, { values }) => sum + Number(values.count), 0);
    expect([data.sections.people.rows.length >= 24, lines >= 60, data.sections.scenes.rows.length >= 3]).toEqual([true, true, true]);
    expect(bankUse(mapOfBank(bytes, layout, readBank(bytes, layout))).free).toBeGreaterThan(200_000);
  });

  // The game's reader was written against docs/banks.md, and imports nothing of ours.
  it('reads in the game as in the workbench, and so does a changed one', () => {
    const { data } = readBank(bytes, layout);
    const people = readLedger(folder, 'none');
    expect(people.map(({ name }) => name)).toEqual(data.sections.people.rows.map(({ values }) => values.name));
    let document = bankDocument(layout, data);
    document = addRow(layout, document, ['people', 4, 'party'], 0);
    document = setValue(layout, document, ['people', 4, 'party'], 1, 'strength', 77);
    document = setValue(layout, document, ['talks', 4, 'lines'], 0, 'says', 'The rope holds.');
    writeFileSync(join(folder, 'ledger.mine.bnk'), writeBank(bytes, layout, dataOf(layout, data, document, 'x')).bytes);
    const mine = readLedger(folder, 'mine');
    expect(mine[4].party).toHaveLength(people[4].party.length + 1);
    expect([mine[4].party[1].strength, mine[4].talk[0], mine[5]]).toEqual([77, 'The rope holds.', people[5]]);
  });

  it('damaged, the game refuses it', () => {
    const damaged = bytes.slice();
    damaged[300] ^= 1;
    writeFileSync(join(folder, 'ledger.bad.bnk'), damaged);
    expect(() => readLedger(folder, 'bad')).toThrow('ledger.bnk: does not match its checksum');
  });
});
