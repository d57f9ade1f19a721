import { createOggEncoder } from 'wasm-media-encoders';
import { sampleCount, type Sound } from './sound.ts';

/** Vorbis quality from -1 to 10: 5 is about 160 kbit/s in stereo and hard to tell from the source. */
const QUALITY = 5;
const CHUNK = 16384;

/** Writes Ogg Vorbis. Loops are not kept: use WAV for them. */
export async function writeOgg(sound: Sound): Promise<Uint8Array> {
  const encoder = await createOggEncoder();
  const channels = sound.channels.length as 1 | 2;
  // The serial number names the stream within a file; a fixed one keeps the bytes the same.
  encoder.configure({ channels, sampleRate: sound.sampleRate, vbrQuality: QUALITY, oggSerialNo: 1 });
  const parts: Uint8Array[] = [];
  // The encoder reuses its output buffer, so every answer is copied.
  for (let i = 0; i < sampleCount(sound); i += CHUNK)
    parts.push(encoder.encode(sound.channels.map((samples) => samples.subarray(i, i + CHUNK))).slice());
  parts.push(encoder.finalize().slice());
  const bytes = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  return bytes;
}
