/** The next useful step of a crate on its way from set-up to publishing: by what is true of it, not by what was clicked. */

import { createSelector } from '@reduxjs/toolkit';
import { STAGES, type Stage } from '@violet-crate/core/finding';
import { selectStamps, type Stamp } from './findings.ts';

export interface NextStep {
  stage: Stage;
  /** What to do, and why it is what comes next. */
  what: string;
  why: string;
  /** Stages that are in order, of all eight. */
  done: number;
}

const isDone = ({ kind }: Stamp): boolean => kind === 'clear' || kind === 'notes';

const WORDS: Record<Stage, (stamp: Stamp) => [string, string]> = {
  setup: () => ['Mend the set-up', 'Without the game and its tools nothing that comes later can be trusted.'],
  assets: () => ['Look at what was imported', 'A file that the game cannot load is missing for players.'],
  scripts: () => ['Mend the scripts', 'The game stops at the first script that it cannot read.'],
  map: () => ['Go on with the map', 'It has something that the game refuses.'],
  links: () => ['Find what is missing', 'What is not in the crate or the game is missing for players.'],
  build: ({ kind }) =>
    kind === 'stale'
      ? ['Build the map again', 'It was changed since it was built; players would get it as it was.']
      : ['Build the map', 'Players load what was built, not what was drawn.'],
  trial: ({ kind }) =>
    kind === 'blocked' ? ['Run it again', 'The last run ended badly.'] : ['Walk through it', 'A build that nobody walked through is a guess.'],
  publish: ({ kind, word }) =>
    word === 'packed'
      ? ['Publish the package', 'It is made; nobody can get it yet.']
      : kind === 'stale'
        ? ['Pack it again', 'The crate has changed since.']
        : ['Pack and publish it', 'It is built and was run: players can have it.'],
};

/** Null where all is done, or something is under way that will change it. */
export const selectNextStep = createSelector([selectStamps], (stamps): NextStep | null => {
  const done = STAGES.filter((stage) => isDone(stamps[stage])).length;
  if (STAGES.some((stage) => stamps[stage].kind === 'running')) return null;
  const stage = STAGES.find((one) => !isDone(stamps[one]));
  if (!stage) return null;
  const [what, why] = WORDS[stage](stamps[stage]);
  return { stage, what, why, done };
});
