import { sampleCount, type Sound } from './sound.ts';

/**
 * Writes WAV with 16 bits, the loop as a `smpl` chunk. Samples are rounded with triangular dither of one
 * step, drawn from a fixed sequence, so that the same sound always gives the same bytes.
 */
export function writeWav(sound: Sound): Uint8Array {
  const count = sampleCount(sound);
  const channels = sound.channels.length;
  const dataLength = count * channels * 2;
  const loopLength = sound.loop ? 8 + 60 : 0;
  const bytes = new Uint8Array(44 + dataLength + (dataLength & 1) + loopLength);
  const view = new DataView(bytes.buffer);
  const put = (at: number, text: string) => bytes.set(new TextEncoder().encode(text), at);
  put(0, 'RIFF');
  view.setUint32(4, bytes.length - 8, true);
  put(8, 'WAVEfmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, sound.sampleRate, true);
  view.setUint32(28, sound.sampleRate * channels * 2, true);
  view.setUint16(32, channels * 2, true);
  view.setUint16(34, 16, true);
  put(36, 'data');
  view.setUint32(40, dataLength, true);
  let seed = 1;
  const random = () => {
    // Lehmer's generator modulo 2^31 - 1 (Park and Miller 1988).
    seed = (seed * 48271) % 2147483647;
    return seed / 2147483647;
  };
  for (let i = 0; i < count; i++)
    for (let c = 0; c < channels; c++) {
      const value = sound.channels[c][i];
      // Digital silence stays silent.
      const dither = value === 0 ? 0 : random() - random();
      view.setInt16(44 + (i * channels + c) * 2, Math.max(-32768, Math.min(32767, Math.round(value * 32767 + dither * 0.5))), true);
    }
  if (sound.loop) {
    const at = 44 + dataLength + (dataLength & 1);
    put(at, 'smpl');
    view.setUint32(at + 4, 60, true);
    view.setUint32(at + 16, Math.round(1e9 / sound.sampleRate), true);
    view.setUint32(at + 20, 60, true);
    view.setUint32(at + 36, 1, true);
    view.setUint32(at + 52, sound.loop.start, true);
    view.setUint32(at + 56, sound.loop.end - 1, true);
  }
  return bytes;
}
