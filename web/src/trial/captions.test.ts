import { expect, test } from '@jest/globals';
import { Captions } from './captions.ts';

const VTT = 'WEBVTT\n\n00:01.000 --> 00:02.000\nFirst\n\n00:03.000 --> 00:04.000\nSecond\n';

test('shows the cues of a sound by the time since it began, and forgets it when it is over', async () => {
  let loads = 0;
  const captions = new Captions(async () => {
    loads++;
    return new TextEncoder().encode(VTT);
  });
  await captions.begin('subtitles/a.vtt', 10);
  expect([10.5, 11, 12.5, 13.2, 14].map((time) => captions.words(time))).toEqual(['', 'First', '', 'Second', '']);
  await captions.begin('subtitles/a.vtt', 20);
  await captions.begin('subtitles/a.vtt', 22);
  expect(captions.words(23.5)).toBe('Second\nFirst');
  expect(loads).toBe(1);
});

test('a file that is missing or damaged shows nothing and holds up nothing', async () => {
  const missing = new Captions(() => Promise.reject(new Error('404')));
  const damaged = new Captions(() => Promise.resolve(new TextEncoder().encode('no subtitles')));
  for (const captions of [missing, damaged]) {
    await captions.begin('subtitles/a.vtt', 0);
    expect(captions.words(1)).toBe('');
  }
});
