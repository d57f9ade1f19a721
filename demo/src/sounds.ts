/** Synthesised sounds as 16-bit mono WAV (RIFF/WAVE, PCM), 22 050 Hz. */

const RATE = 22050;

function wav(samples: Float32Array): Uint8Array {
  const bytes = new Uint8Array(44 + samples.length * 2);
  const view = new DataView(bytes.buffer);
  const text = (at: number, s: string) => [...s].forEach((c, i) => view.setUint8(at + i, c.charCodeAt(0)));
  text(0, 'RIFF');
  view.setUint32(4, 36 + samples.length * 2, true);
  text(8, 'WAVEfmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, RATE, true);
  view.setUint32(28, RATE * 2, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  text(36, 'data');
  view.setUint32(40, samples.length * 2, true);
  samples.forEach((s, i) => view.setInt16(44 + i * 2, Math.round(Math.max(-1, Math.min(1, s)) * 32767), true));
  return bytes;
}

/** A sound of so many seconds by a formula of time and sample. */
export const render = (seconds: number, wave: (t: number, i: number) => number) =>
  wav(Float32Array.from({ length: Math.round(seconds * RATE) }, (_, i) => wave(i / RATE, i)));
/** White noise, the same every time. */
export const hiss = (i: number) => (((Math.imul(i, 1103515245) + 12345) >>> 8) & 0xffff) / 32768 - 1;

/** A step: the knock of what is stepped on, and what grinds under the sole. */
export const step = (pitch: number, damping: number, knock: number) =>
  render(
    0.2,
    (t, i) => (Math.sin(2 * Math.PI * pitch * t) * knock + hiss(i >> 1) * (1 - knock) * 0.7) * Math.exp(-t * damping) * Math.min(1, t * 400) * 0.7,
  );

export const SOUNDS: Record<string, Uint8Array> = {
  drip: render(0.5, (t) => Math.sin(2 * Math.PI * (900 + 500 * Math.exp(-t * 30)) * t) * Math.exp(-t * 18) * 0.6),
  clank: render(
    0.8,
    (t, i) => (Math.sin(2 * Math.PI * 311 * t) * 0.4 + Math.sin(2 * Math.PI * 787 * t) * 0.3 + hiss(i) * 0.3 * Math.exp(-t * 60)) * Math.exp(-t * 7),
  ),
  rush: render(2, (t, i) => (hiss(i) + hiss(i >> 2) * 1.5) * 0.16 * Math.sin(Math.PI * Math.min(1, t / 2))),
  chime: render(
    1.6,
    (t) =>
      [523.25, 659.25, 783.99].reduce((s, f, k) => s + Math.sin(2 * Math.PI * f * t) * (t > k * 0.15 ? Math.exp(-(t - k * 0.15) * 3.5) : 0), 0) *
      0.22,
  ),
  // Beds: whole numbers of waves, so that their ends meet.
  engine_drone: render(
    2,
    (t) =>
      [45, 90, 135, 225].reduce((sum, f, k) => sum + Math.sin(2 * Math.PI * f * t + k) / (k + 1.5), 0) *
      (0.16 + 0.03 * Math.sin(2 * Math.PI * 3 * t)),
  ),
  cellar_water: render(
    4,
    (t, i) =>
      hiss(i >> 3) * 0.08 * (1 + 0.7 * Math.sin(2 * Math.PI * 0.5 * t)) +
      Math.sin(2 * Math.PI * (60 + 8 * Math.sin(2 * Math.PI * 0.25 * t)) * t) * 0.02,
  ),
  gallery_wind: render(4, (t, i) => hiss(i >> 4) * 0.1 * (1.2 + Math.sin(2 * Math.PI * 0.25 * t) * 0.8)),
  step_stone: step(420, 42, 0.5),
  step_wood: step(170, 30, 0.7),
  step_metal: step(640, 16, 0.55),
  step_wet: step(240, 20, 0.35),
};
