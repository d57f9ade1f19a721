/**
 * Loudness and true peak by ITU-R BS.1770-4: K-weighting, blocks of 400 ms that overlap by three quarters,
 * an absolute gate at -70 LUFS and a relative one 10 LU below the mean of what passed it.
 */

import { sampleCount, type Sound } from './sound.ts';

interface Biquad {
  b: [number, number, number];
  a: [number, number];
}

/**
 * The two filters at any rate. The standard tabulates them for 48 kHz; these are the analogue prototypes
 * behind that table (corner frequency, gain and quality), warped to the rate at hand.
 */
function kWeighting(rate: number): Biquad[] {
  const shelf = (() => {
    const [f, gain, q] = [1681.974450955533, 3.999843853973347, 0.7071752369554196];
    const k = Math.tan((Math.PI * f) / rate);
    const vh = 10 ** (gain / 20);
    const vb = vh ** 0.4996667741545416;
    const a0 = 1 + k / q + k * k;
    return {
      b: [(vh + (vb * k) / q + k * k) / a0, (2 * (k * k - vh)) / a0, (vh - (vb * k) / q + k * k) / a0],
      a: [(2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0],
    } as Biquad;
  })();
  const highPass = (() => {
    const [f, q] = [38.13547087602444, 0.5003270373238773];
    const k = Math.tan((Math.PI * f) / rate);
    const a0 = 1 + k / q + k * k;
    return { b: [1, -2, 1], a: [(2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0] } as Biquad;
  })();
  return [shelf, highPass];
}

function filter(samples: Float32Array | Float64Array, { b, a }: Biquad): Float64Array {
  const out = new Float64Array(samples.length);
  let [x1, x2, y1, y2] = [0, 0, 0, 0];
  for (let i = 0; i < samples.length; i++) {
    const x = samples[i];
    const y = b[0] * x + b[1] * x1 + b[2] * x2 - a[0] * y1 - a[1] * y2;
    [x2, x1, y2, y1] = [x1, x, y1, y];
    out[i] = y;
  }
  return out;
}

/** Weights of channels in the order left, right, centre, (low frequencies), left and right surround. */
const weightsOf = (channels: number): number[] =>
  channels === 6 ? [1, 1, 1, 0, 1.41, 1.41] : channels === 5 ? [1, 1, 1, 1.41, 1.41] : Array.from({ length: channels }, () => 1);

const BLOCK = 0.4;
const HOP = 0.1;
const OFFSET = -0.691;
const ABSOLUTE_GATE = -70;
const RELATIVE_GATE = -10;

/** Integrated loudness in LUFS; null for what is silent or shorter than one block. */
export function integratedLoudness(sound: Sound): number | null {
  const rate = sound.sampleRate;
  const weights = weightsOf(sound.channels.length);
  const filters = kWeighting(rate);
  const weighted = sound.channels.map((samples) => filters.reduce((signal: Float32Array | Float64Array, f) => filter(signal, f), samples));
  const hop = Math.round(HOP * rate);
  const perBlock = Math.round(BLOCK / HOP);
  const hops = Math.floor(sampleCount(sound) / hop);
  // Energy of every 100 ms; a block is four of them.
  const energy = Array.from({ length: hops }, (_, h) =>
    weighted.reduce((sum, signal, c) => {
      let own = 0;
      for (let i = h * hop; i < (h + 1) * hop; i++) own += signal[i] * signal[i];
      return sum + (weights[c] * own) / hop;
    }, 0),
  );
  const blocks = Array.from(
    { length: Math.max(0, hops - perBlock + 1) },
    (_, h) => energy.slice(h, h + perBlock).reduce((a, b) => a + b, 0) / perBlock,
  );
  const level = (power: number) => OFFSET + 10 * Math.log10(power);
  const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / list.length;
  const loud = blocks.filter((power) => level(power) > ABSOLUTE_GATE);
  if (loud.length === 0) return null;
  const gate = level(mean(loud)) + RELATIVE_GATE;
  return level(mean(loud.filter((power) => level(power) > gate)));
}

/** Oversampling of the true peak: at least four times 48 kHz, as annex 2 asks. */
const TAPS = 24;

/** True peak in dBTP by sinc interpolation between samples (BS.1770-4, annex 2); null for silence. */
export function truePeak(sound: Sound): number | null {
  const factor = sound.sampleRate >= 96_000 ? 2 : 4;
  // Phases of a sinc under Hann's window, one row per position between two samples.
  const phases = Array.from({ length: factor }, (_, p) =>
    Float64Array.from({ length: TAPS * 2 }, (_, k) => {
      const x = k - TAPS + 1 - p / factor;
      const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
      return sinc * 0.5 * (1 + Math.cos((Math.PI * x) / TAPS));
    }),
  );
  let peak = 0;
  for (const samples of sound.channels) for (const value of samples) peak = value > peak ? value : -value > peak ? -value : peak;
  for (const samples of sound.channels) {
    const last = samples.length - 1;
    for (let i = 0; i <= last; i++) {
      // Between two quiet samples nothing can exceed the loudest one.
      const here = samples[i] < 0 ? -samples[i] : samples[i];
      const next = i === last ? 0 : samples[i + 1] < 0 ? -samples[i + 1] : samples[i + 1];
      if (here * 4 < peak && next * 4 < peak) continue;
      for (let p = 1; p < factor; p++) {
        const row = phases[p];
        let sum = 0;
        const from = i - TAPS + 1;
        for (let k = from < 0 ? -from : 0; k < TAPS * 2 && from + k <= last; k++) sum += samples[from + k] * row[k];
        if (sum > peak || -sum > peak) peak = sum < 0 ? -sum : sum;
      }
    }
  }
  return peak > 0 ? 20 * Math.log10(peak) : null;
}
