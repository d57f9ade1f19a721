import type { Sound } from './sound.ts';

/** Zero crossings of the sinc on either side, and the shape of its Kaiser window: about 90 dB of rejection. */
const CROSSINGS = 32;
const BETA = 9;

/** Modified Bessel function of the first kind, order 0, by its power series. */
function bessel0(x: number): number {
  let [sum, term] = [1, 1];
  for (let k = 1; term > sum * 1e-12; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** A sound at another rate, by a sinc under a Kaiser window that cuts off below the lower of both Nyquist rates. */
export function resample(sound: Sound, sampleRate: number): Sound {
  if (sampleRate === sound.sampleRate) return sound;
  const ratio = sampleRate / sound.sampleRate;
  const cutoff = Math.min(1, ratio) * 0.97;
  const reach = CROSSINGS / cutoff;
  const norm = bessel0(BETA);
  // The kernel in 512 steps per source sample, interpolated linearly between.
  const steps = 512;
  const table = new Float64Array(Math.ceil(reach) * steps + 2);
  for (let i = 0; i < table.length; i++) {
    const x = i / steps;
    if (x >= reach) continue;
    const sinc = x === 0 ? 1 : Math.sin(Math.PI * x * cutoff) / (Math.PI * x * cutoff);
    table[i] = (sinc * cutoff * bessel0(BETA * Math.sqrt(1 - (x / reach) ** 2))) / norm;
  }
  const channels = sound.channels.map((source) => {
    const out = new Float32Array(Math.round(source.length * ratio));
    for (let i = 0; i < out.length; i++) {
      const at = i / ratio;
      const from = Math.max(0, Math.ceil(at - reach));
      const to = Math.min(source.length - 1, Math.floor(at + reach));
      let sum = 0;
      for (let j = from; j <= to; j++) {
        const x = (at > j ? at - j : j - at) * steps;
        const k = x | 0;
        sum += source[j] * (table[k] + (table[k + 1] - table[k]) * (x - k));
      }
      out[i] = sum;
    }
    return out;
  });
  const loop = sound.loop && { start: Math.round(sound.loop.start * ratio), end: Math.round(sound.loop.end * ratio) };
  return { sampleRate, channels, loop };
}
