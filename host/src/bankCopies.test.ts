import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from '@jest/globals';
import { makeBankPatch, patchNotePath, patchPath } from '@violet-crate/core/bank/bankPatch';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { bankCopies, dropBankCopies, mendBankCopies, placeBankCopies, wrongCopies } from './bankCopies.ts';

const original = Uint8Array.from({ length: 4096 }, (_, i) => (i * 7) & 255);
const changed = original.map((byte, i) => (i === 99 ? 1 : byte));
const { note, patch } = makeBankPatch('ledger', 'ledger.bnk', original, changed);
const tree: FileTree = new Map([
  [patchNotePath('ledger'), new TextEncoder().encode(JSON.stringify(note))],
  [patchPath('ledger'), patch],
]);

let game: string;
beforeEach(() => {
  game = mkdtempSync(join(tmpdir(), 'violet-copies-'));
  writeFileSync(join(game, 'ledger.bnk'), original);
});
afterEach(() => rmSync(game, { recursive: true }));
const copy = () => new Uint8Array(readFileSync(join(game, 'ledger.tide.bnk')));

it('a copy lies beside the original, and goes with its mod', () => {
  placeBankCopies(bankCopies(game, 'tide', tree));
  expect(copy()).toEqual(changed);
  expect(wrongCopies(game, 'tide', tree)).toBeNull();
  dropBankCopies(game, 'tide', tree);
  expect(wrongCopies(game, 'tide', tree)).toBe('ledger.tide.bnk is missing.');
  expect(new Uint8Array(readFileSync(join(game, 'ledger.bnk')))).toEqual(original);
});

it('a copy that a killed installation did not come to is made then; one that somebody changed stays and is told', () => {
  mendBankCopies(game, 'tide', tree);
  expect(copy()).toEqual(changed);
  writeFileSync(join(game, 'ledger.tide.bnk'), original);
  mendBankCopies(game, 'tide', tree);
  expect(copy()).toEqual(original);
  expect(wrongCopies(game, 'tide', tree)).toBe('ledger.tide.bnk is not what its patch makes of ledger.bnk.');
});

it('an original that is another one is left alone, and so is a mod whose notes cannot be read', () => {
  writeFileSync(join(game, 'ledger.bnk'), changed);
  mendBankCopies(game, 'tide', tree);
  expect(wrongCopies(game, 'tide', tree)).toBe('ledger.tide.bnk is missing.');
  expect(() => mendBankCopies(game, 'tide', new Map([[patchNotePath('ledger'), new Uint8Array([123])]]))).not.toThrow();
});
