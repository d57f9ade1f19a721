/** How the power of a sound is spread over time and frequency. */

export interface Spectrogram {
  columns: number;
  /** Frequencies from 0 to half the rate, `bins` of them per column. */
  bins: number;
  /** Decibels relative to a full-scale sine, columns one after another. */
  levels: Float32Array;
}

/**
 * Short-time Fourier transform under Hann's window.
 *
 * @param size samples per window, a power of two
 */
export function spectrogram(samples: Float32Array, size: number, columns: number): Spectrogram {
  const bins = size / 2;
  const levels = new Float32Array(columns * bins);
  const window = Float64Array.from({ length: size }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size));
  const [re, im] = [new Float64Array(size), new Float64Array(size)];
  for (let column = 0; column < columns; column++) {
    const middle = columns > 1 ? (column / (columns - 1)) * Math.max(0, samples.length - 1) : 0;
    const from = Math.round(middle) - size / 2;
    for (let i = 0; i < size; i++) {
      re[i] = (samples[from + i] ?? 0) * window[i];
      im[i] = 0;
    }
    fourier(re, im);
    // Hann's window halves a sine's amplitude, and a sine shows in two bins.
    for (let k = 0; k < bins; k++) levels[column * bins + k] = 20 * Math.log10(Math.max(1e-6, (Math.hypot(re[k], im[k]) * 4) / size));
  }
  return { columns, bins, levels };
}

/** In-place Fourier transform by halving (Cooley and Tukey 1965). Lengths are powers of two. */
export function fourier(re: Float64Array, im: Float64Array): void {
  const n = re.length;
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1;
    for (; j & bit; bit >>= 1) j ^= bit;
    j ^= bit;
    if (i < j) {
      [re[i], re[j]] = [re[j], re[i]];
      [im[i], im[j]] = [im[j], im[i]];
    }
  }
  for (let length = 2; length <= n; length *= 2) {
    const angle = (-2 * Math.PI) / length;
    for (let start = 0; start < n; start += length)
      for (let k = 0; k < length / 2; k++) {
        const [c, s] = [Math.cos(angle * k), Math.sin(angle * k)];
        const a = start + k;
        const b = a + length / 2;
        const [x, y] = [re[b] * c - im[b] * s, re[b] * s + im[b] * c];
        [re[b], im[b]] = [re[a] - x, im[a] - y];
        [re[a], im[a]] = [re[a] + x, im[a] + y];
      }
  }
}
