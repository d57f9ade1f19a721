import { applyPatch } from '@violet-crate/core/patch/applyPatch';
import { makePatch } from '@violet-crate/core/patch/makePatch';
import { sha256Hex } from '@violet-crate/core/hash';
import { UsageError, type Command } from '../command.ts';
import { readInput } from '../readInput.ts';
import { needFree, writeOutput } from '../output.ts';

export const patchCommand: Command = {
  summary: 'Make a patch (VCDIFF) of a file and what became of it, or apply one: no byte of the original travels.',
  usage: 'crate patch make OLD NEW --out PATCH | crate patch apply OLD PATCH --out NEW',
  options: {
    out: { value: 'FILE', summary: 'where it goes, never over what it is made of', required: true },
  },
  arguments: [3, 3],
  run([act, old, second], options) {
    const { out } = options;
    if (act !== 'make' && act !== 'apply') throw new UsageError(`"${act}" is not known; use make or apply.`);
    needFree(out!, [old, second], options);
    const [one, other] = [readInput(old), readInput(second)];
    const made = act === 'make' ? makePatch(one, other) : applyPatch(one, other, second);
    writeOutput(out!, made, [old, second], options);
    const result = { out, bytes: made.length, sha256: sha256Hex(made) };
    return Promise.resolve({ code: 0 as const, result, text: `${out}: ${made.length} bytes, SHA-256 ${result.sha256}.` });
  },
};
