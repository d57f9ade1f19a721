/** The commands that a profile would run, and the hash by which a user allows them. */

import { canonicalJson, sha256Hex } from '../hash.ts';
import type { Profile } from '../profile/schema.ts';

export interface Command {
  what: string;
  /** Program and arguments as they stand in the profile. */
  line: string[];
}

/** Every command of a profile, in words: nothing else of it can start a program. */
export function commandsOf({ launch, install, programs = [], title }: Profile): Command[] {
  return [
    ...(launch ? [{ what: `Starts ${title}`, line: [launch.program, ...launch.arguments] }] : []),
    ...programs.map(({ title: name, at, program, arguments: given }) => ({ what: `${name}, ${WHEN[at]}`, line: [program, ...given] })),
    ...install.tools.flatMap(({ title: name, version }) =>
      version ? [{ what: `Asks ${name} for its version`, line: [version.program, ...version.arguments] }] : [],
    ),
  ];
}

const WHEN = {
  import: 'on files that are taken in',
  build: 'on every built map',
  launch: 'before the game is started',
  preparation: 'once, as a step of the preparation',
} as const;

/** Hash of all that can run with its limits: a profile that changes any of it is asked about again. */
export const programsHash = ({ launch, install, programs }: Profile): string =>
  sha256Hex(
    canonicalJson({
      launch: launch ?? null,
      programs: programs ?? [],
      versions: install.tools.map(({ id, version }) => ({ id, version: version ?? null })),
    }),
  );
