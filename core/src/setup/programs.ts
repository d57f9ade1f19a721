/** The commands that a profile would run, with everything that decides what they do. */

import type { Profile } from '../profile/schema.ts';

export interface Command {
  what: string;
  /** Program and arguments as they are in the profile. */
  line: string[];
  /** Folder that it runs in, and variables that it gets, as they are in the profile. */
  folder: string;
  environment: Record<string, string>;
}

/** Every command of a profile, in words: nothing else of it can start a program. */
export function commandsOf({ launch, install, programs = [], title }: Profile): Command[] {
  return [
    ...(launch ? [{ what: `Starts ${title}`, line: [launch.program, ...launch.arguments], folder: launch.folder, environment: {} }] : []),
    ...programs.map(({ title: name, at, program, arguments: given, folder = '{in}', environment = {} }) => ({
      what: `${name}, ${WHEN[at]}`,
      line: [program, ...given],
      folder,
      environment,
    })),
    ...install.tools.flatMap(({ title: name, version }) =>
      version ? [{ what: `Asks ${name} for its version`, line: [version.program, ...version.arguments], folder: '{game}', environment: {} }] : [],
    ),
  ];
}

const WHEN = {
  import: 'on files that are imported',
  build: 'on every built map',
  launch: 'before the game is started',
  preparation: 'once, as a step of the preparation',
} as const;
