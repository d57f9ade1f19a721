/** Sounds for tests, made by formula. */

import type { Sound } from '../asset/sound/sound.ts';

/** A sine of one level (dBFS of its peak) per stretch of time, alike in all channels. */
export function tone(stretches: [db: number, seconds: number][], { rate = 48000, channels = 2, hertz = 1000, phase = 0 } = {}): Sound {
  const samples = new Float32Array(stretches.reduce((sum, [, seconds]) => sum + Math.round(seconds * rate), 0));
  let at = 0;
  for (const [db, seconds] of stretches) {
    const level = 10 ** (db / 20);
    // A tone of a whole number of samples per period repeats; the sine is taken once per sample of a period.
    const period = Number.isInteger(rate / hertz) ? rate / hertz : rate;
    const table = Float32Array.from({ length: period }, (_, i) => level * Math.sin((2 * Math.PI * hertz * i) / rate + phase));
    for (const end = at + Math.round(seconds * rate); at < end; at++) samples[at] = table[at % period];
  }
  return { sampleRate: rate, channels: Array.from({ length: channels }, () => samples) };
}
