import { afterEach, expect, test } from '@jest/globals';
import { hushed, hushedUntil } from './hushed.ts';

const voices = { log: console.log, warn: console.warn, error: console.error, debug: console.debug };
afterEach(() => void Object.assign(console, voices));

test('what a library prints is not heard, and the console speaks again afterwards, also after an error', () => {
  const heard: unknown[] = [];
  console.log = (text: unknown) => void heard.push(text);
  hushed(() => console.log('within'));
  expect(() =>
    hushed(() => {
      throw new Error('broken');
    }),
  ).toThrow('broken');
  console.log('after');
  expect(heard).toEqual(['after']);
});

test('two that overlap in time, ending in either order, leave the console as it was', async () => {
  const log = (console.log = () => {});
  for (const order of [
    [0, 1],
    [1, 0],
  ]) {
    const ends: (() => void)[] = [];
    const runs = [0, 1].map(() => hushedUntil(() => new Promise<void>((end) => void ends.push(end))));
    expect(console.log).not.toBe(log);
    ends[order[0]]();
    await runs[order[0]];
    expect(console.log).not.toBe(log);
    ends[order[1]]();
    await runs[order[1]];
    expect(console.log).toBe(log);
  }
});
