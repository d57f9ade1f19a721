import { costOf, effectFindings } from '../../effect/cost.ts';
import { effectPath, readEffect } from '../../effect/document.ts';
import type { ImportKind } from './made.ts';
import { madeOfText } from './script.ts';

export const effect: ImportKind = {
  options: [],
  async convert({ effects, player }, input) {
    const made = madeOfText(input, effectPath(input.name));
    const read = readEffect(made.text, input.file);
    return Promise.resolve({ ...made, findings: effectFindings(read, costOf(read, player), effects, { file: made.path }) });
  },
};
