/**
 * What a crate changes of a game's bank: a patch against the user's own original, `banks/ID.vcdiff`, and beside it what it is of. No byte
 * of the original is in the crate or its package.
 */

import { Type, type Static } from '@sinclair/typebox';
import { readDocument } from '../document/readDocument.ts';
import { sha256Hex } from '../hash.ts';
import { applyPatch } from '../patch/applyPatch.ts';
import { makePatch } from '../patch/makePatch.ts';
import { UnreadableInput } from '../unreadable.ts';

const Side = Type.Object(
  { bytes: Type.Integer({ minimum: 0 }), sha256: Type.String({ pattern: '^[0-9a-f]{64}$' }) },
  { additionalProperties: false },
);

export const BankPatchSchema = Type.Object(
  {
    format: Type.Literal(1),
    bank: Type.String({ pattern: '^[a-z][a-z0-9_]*$', maxLength: 60 }),
    file: Type.String({ pattern: '^[A-Za-z0-9_][A-Za-z0-9_.-]*(/[A-Za-z0-9_][A-Za-z0-9_.-]*)*$', description: 'Path in the install.' }),
    from: Side,
    to: Side,
  },
  { additionalProperties: false },
);
export type BankPatch = Static<typeof BankPatchSchema>;

export const patchPath = (bank: string): string => `banks/${bank}.vcdiff`;
export const patchNotePath = (bank: string): string => `banks/${bank}.json`;

export const readBankPatch = (bytes: Uint8Array, file: string): BankPatch => readDocument(new TextDecoder().decode(bytes), BankPatchSchema, file);

export function makeBankPatch(bank: string, file: string, original: Uint8Array, changed: Uint8Array): { note: BankPatch; patch: Uint8Array } {
  const side = (bytes: Uint8Array) => ({ bytes: bytes.length, sha256: sha256Hex(bytes) });
  return { note: { format: 1, bank, file, from: side(original), to: side(changed) }, patch: makePatch(original, changed) };
}

/** @throws UnreadableInput where the original is another one, or the patch does not make what it says */
export function applyBankPatch(original: Uint8Array, { file, from, to }: BankPatch, patch: Uint8Array, name: string): Uint8Array {
  if (original.length !== from.bytes || sha256Hex(original) !== from.sha256)
    throw new UnreadableInput(
      'bank-original',
      `${file} of this install is not the one that the patch is made for: another version of the game, or changed already.`,
      { file },
      'Repair the game under Set-up; then its own file is there again.',
    );
  const made = applyPatch(original, patch, name, to.bytes);
  if (sha256Hex(made) !== to.sha256)
    throw new UnreadableInput('bank-original', `${name} does not make what it says.`, { file: name }, 'Get it again.');
  return made;
}

/** Where the copy of a mod lies: beside the original, `ledger.MOD.bnk` beside `ledger.bnk`. */
export const copyFor = (file: string, mod: string): string => file.replace(/(\.[^./]*)?$/, (ending) => `.${mod}${ending}`);
