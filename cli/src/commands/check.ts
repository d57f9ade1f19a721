import { checkCrate } from '@violet-crate/core/check/checkCrate';
import { countFindings, hasBlocker } from '@violet-crate/core/finding';
import { findingLines, type Command } from '../command.ts';
import { openCrate } from '../folder.ts';

export const checkCommand: Command = {
  summary: 'List all findings of a crate, links included.',
  usage: 'crate check DIR',
  options: { game: { value: 'DIR', summary: 'the game’s install' } },
  arguments: [1, 1],
  async run([dir], options) {
    const { world, damage } = openCrate(dir, options.game, true);
    const { findings: found, links } = checkCrate(world);
    // A damaged map cannot be built from as it is, so what is lost counts as blockers here.
    const findings = [...damage.map((finding) => ({ ...finding, severity: 'blocker' as const })), ...found];
    return { code: hasBlocker(findings) ? 1 : 0, result: { findings, counts: countFindings(findings), links }, text: findingLines(findings) };
  },
};
