import { loadProfile } from '@violet-crate/core/profile/load';
import { commandsOf } from '@violet-crate/core/setup/programs';
import { UsageError, type Command } from '../command.ts';
import { commandWords, PROGRAMS_OPTION } from '../folder.ts';
import { examine } from './doctor.ts';
import { readText } from '../readInput.ts';

export const profileCommand: Command = {
  summary: 'Check a profile’s file, or try it against an install of its game.',
  usage: 'crate profile check FILE | crate profile try FILE --game DIR',
  options: { game: { value: 'DIR', summary: 'the install that it is tried against' }, ...PROGRAMS_OPTION },
  arguments: [2, 2],
  async run([what, file], options) {
    if (what !== 'check' && what !== 'try') throw new UsageError(`"${what}" is not known; use check or try.`);
    const profile = loadProfile(readText(file), file);
    if (what === 'try') {
      if (!options.game) throw new UsageError('crate profile try needs --game DIR.');
      return examine(profile, options.game, options);
    }
    const commands = commandsOf(profile);
    return {
      code: 0,
      result: { profile: profile.id, title: profile.title, classes: profile.classes.length, commands },
      text: [
        `${file} is in order: ${profile.title}, ${profile.classes.length} classes, ${profile.materialTypes.length} material types.`,
        ...commands.map((command) => `  ${command.what}: ${commandWords(command)}`),
      ].join('\n'),
    };
  },
};
