import type { SetupCheck } from '@violet-crate/core/setup/checks';
import { checkInstall } from '@violet-crate/core/setup/checks';
import { gameIn } from '@violet-crate/host/setup/findGames';
import { placesOf } from '@violet-crate/host/setup/places';
import { stepStates } from '@violet-crate/host/setup/preparation';
import { readFacts } from '@violet-crate/host/setup/readFacts';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { Command, Outcome } from '../command.ts';
import { allProfiles, defaultGame, gamesFolder, mayRun, profileById, PROGRAMS_OPTION } from '../folder.ts';

/** The checks of an install as a result of a command. Steps that are left are told, and are no failure. */
export async function examine(profile: Profile, game: string, options: { quick?: string; programs?: string }): Promise<Outcome> {
  const checks = checkInstall(
    profile,
    await readFacts({ profile, folder: game }, { hash: options.quick === undefined, ask: mayRun(profile, game, options) }),
  );
  const steps = stepStates({ profile, folder: game }, placesOf(gamesFolder()), new Set()).map(({ step, done, rule }) => ({
    id: step.id,
    title: step.title,
    done,
    rule,
  }));
  const blocked = checks.some(({ ok, severity }) => !ok && severity === 'blocker');
  return {
    code: blocked ? 1 : 0,
    result: { profile: profile.id, game, checks, preparation: steps },
    text: [
      `${profile.title} in ${game}`,
      ...checks.map(checkLine),
      ...steps.map(({ title, done, rule }) => `${done ? 'done    ' : 'to do   '} ${title}${done ? '' : ` (${rule})`}`),
    ].join('\n'),
  };
}

const checkLine = ({ ok, severity, title, detail, hint }: SetupCheck): string =>
  `${(ok ? 'ok' : severity.toUpperCase()).padEnd(8)} ${title}: ${detail}${ok || !hint ? '' : `\n         ${hint}`}`;

export const doctorCommand: Command = {
  summary: 'Look whether a game, its tools and this machine are in order.',
  usage: 'crate doctor [--game DIR] [--profile ID] [--quick yes]',
  options: {
    game: { value: 'DIR', summary: 'the game’s install' },
    profile: { value: 'ID', summary: 'the game; the first that lies in DIR without it' },
    quick: { value: 'yes', summary: 'compare lengths of stock files only, not their contents' },
    ...PROGRAMS_OPTION,
  },
  arguments: [0, 0],
  async run(_, options) {
    const profile = options.profile
      ? profileById(options.profile)
      : (allProfiles().find((one) => options.game !== undefined && gameIn(one, options.game)) ?? allProfiles()[0]);
    return examine(profile, options.game ?? defaultGame(profile.id), options);
  },
};
