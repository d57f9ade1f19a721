import { findGames } from '@violet-crate/host/setup/findGames';
import { placesOf } from '@violet-crate/host/setup/places';
import type { Command } from '../command.ts';
import { allProfiles, gamesFolder } from '../folder.ts';

export const gamesCommand: Command = {
  summary: 'List the games that are found on this machine, with their installs.',
  usage: 'crate games',
  options: {},
  arguments: [0, 0],
  run() {
    const games = allProfiles().map((profile) => ({
      profile: profile.id,
      title: profile.title,
      installs: findGames(profile, placesOf(gamesFolder())),
    }));
    const text = games.map(({ profile, title, installs }) =>
      [
        `${title} (${profile})`,
        ...(installs.length > 0 ? installs.map(({ folder, version, how }) => `  ${version ?? '?'}  ${folder}  ${how}`) : ['  not found']),
      ].join('\n'),
    );
    return Promise.resolve({ code: 0, result: { games }, text: text.join('\n') });
  },
};
