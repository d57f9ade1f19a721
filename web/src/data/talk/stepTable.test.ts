import { expect, test } from '@jest/globals';
import { readTalk, STEP_KINDS, writeTalk, type TalkStep } from '@violet-crate/core/talk/document';
import { testWorld } from '@violet-crate/core/testing/world';
import { emptyStep, STEP_WORDS } from './stepTable.ts';

const world = testWorld();

test('every kind of step is offered once', () => {
  expect(STEP_WORDS.map(({ does }) => does).sort()).toEqual([...STEP_KINDS].sort());
});

/** What has to stand before a step that belongs to another one. */
const BEFORE: Partial<Record<TalkStep['do'], TalkStep[]>> = {
  option: [{ depth: 0, do: 'choose' }],
  else: [{ depth: 0, do: 'if', test: { flag: 'x', on: true } }],
  won: emptyStep(world, 'contest', 0, []).slice(0, 1),
  lost: emptyStep(world, 'contest', 0, []).slice(0, 1),
  again: emptyStep(world, 'contest', 0, []).slice(0, 1),
};

test.each(STEP_WORDS.map(({ does }) => does))('a new step "%s" is one that can be read again', (does) => {
  const before = BEFORE[does] ?? [];
  const steps = [...before, ...emptyStep(world, does, before.length > 0 && does !== 'else' ? 1 : 0, before)];
  const talk = { format: 1 as const, title: 'x', steps };
  expect(readTalk(writeTalk(talk), 'talk/x.json')).toEqual(talk);
});

test('a contest begins with just the texts that it needs', () => {
  const [contest] = emptyStep(world, 'contest', 0, [{ depth: 0, do: 'say', who: 'odile', text: '' }]);
  expect(contest).toMatchObject({ against: 'odile', texts: { before: '', won: '', lost: '' } });
});
