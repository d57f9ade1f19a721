import { checkCrate } from '@violet-crate/core/crate/check';
import { countFindings, hasBlocker } from '@violet-crate/core/finding';
import { findingLines, type Command } from '../command.ts';
import { openCrate } from '../folder.ts';

export const checkCommand: Command = {
  summary: 'List all findings of a crate, links included.',
  usage: 'crate check DIR',
  options: { game: { value: 'DIR', summary: 'the game’s install' } },
  arguments: [1, 1],
  async run([dir], options) {
    const { world } = openCrate(dir, options.game);
    const { findings, links } = checkCrate(world);
    return { code: hasBlocker(findings) ? 1 : 0, result: { findings, counts: countFindings(findings), links }, text: findingLines(findings) };
  },
};
