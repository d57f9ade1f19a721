import { resolve } from 'node:path';
import { applyPatch } from '@violet-crate/core/patch/applyPatch';
import { makePatch } from '@violet-crate/core/patch/makePatch';
import { sha256Hex } from '@violet-crate/core/hash';
import { writeWhole } from '@violet-crate/host/files';
import { UsageError, type Command } from '../command.ts';
import { readInput } from '../readInput.ts';

export const patchCommand: Command = {
  summary: 'Make a patch (VCDIFF) of a file and what became of it, or apply one: no byte of the original travels.',
  usage: 'crate patch make OLD NEW --out PATCH | crate patch apply OLD PATCH --out NEW',
  options: {
    out: { value: 'FILE', summary: 'where it goes, never over what it is made of', required: true },
  },
  arguments: [3, 3],
  run([act, old, second], { out }) {
    if (act !== 'make' && act !== 'apply') throw new UsageError(`"${act}" is not known; use make or apply.`);
    if ([old, second].some((file) => resolve(file) === resolve(out!))) throw new UsageError(`${out} would be written over. Choose another file.`);
    const [one, other] = [readInput(old), readInput(second)];
    const made = act === 'make' ? makePatch(one, other) : applyPatch(one, other, second);
    writeWhole(out!, made);
    const result = { out, bytes: made.length, sha256: sha256Hex(made) };
    return Promise.resolve({ code: 0 as const, result, text: `${out}: ${made.length} bytes, SHA-256 ${result.sha256}.` });
  },
};
