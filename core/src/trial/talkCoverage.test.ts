import { expect, test } from '@jest/globals';
import { talkPath, writeTalk, type TalkStep } from '../talk/document.ts';
import { talkFindings } from './talkCoverage.ts';

const say = (text: string): TalkStep => ({ depth: 0, do: 'say', who: '', text });
const data = Object.fromEntries(
  ['keeper', 'mina'].map((name) => [
    talkPath(name),
    writeTalk({ format: 1, title: name, steps: [say('One.'), say('Two.'), { depth: 0, do: 'end' }] }),
  ]),
);

test('what nobody held, and what was never said, is told with its line', () => {
  const found = talkFindings(data, { said: { 'keeper 0': 2 } });
  expect(found.map(({ message, place }) => [message, place?.line])).toEqual([
    ['keeper, step 2 was never come by: “player: Two.”.', 6],
    ['Nobody ever held the conversation mina.', 1],
  ]);
  expect(talkFindings(data, { said: { 'keeper 0': 1, 'keeper 1': 1, 'mina 0': 1, 'mina 1': 1 } })).toEqual([]);
});
