/** Reads a sound by what it is, not by what it is called: WAV, Ogg Vorbis, FLAC, MP3. */

import { UnreadableInput } from '../../finding.ts';
import { readWav } from './readWav.ts';
import { MAX_MINUTES, secondsOf, type Sound } from './sound.ts';

export const SOUND_FILE = /\.(wav|ogg|flac|mp3)$/i;

/** What the decoders of one family answer. */
interface Decoded {
  channelData: Float32Array[];
  samplesDecoded: number;
  sampleRate: number;
  errors: { message: string }[];
}

const text = (bytes: Uint8Array, at: number, length = 4): string => String.fromCharCode(...bytes.subarray(at, at + length));

export async function readSound(bytes: Uint8Array, file: string): Promise<Sound> {
  const sound = await decode(bytes, file);
  if (secondsOf(sound) > MAX_MINUTES * 60)
    throw new UnreadableInput('sound-too-long', `${file} lasts ${Math.round(secondsOf(sound) / 60)} minutes; up to ${MAX_MINUTES} are read.`, {
      file,
    });
  return sound;
}

async function decode(bytes: Uint8Array, file: string): Promise<Sound> {
  const magic = text(bytes, 0);
  if (magic === 'RIFF') return readWav(bytes, file);
  // Decoders are WebAssembly and started only when asked for.
  if (magic === 'OggS') {
    const { OggVorbisDecoder } = await import('@wasm-audio-decoders/ogg-vorbis');
    return decodeWith(bytes, file, new OggVorbisDecoder(), (decoder) => decoder.decodeFile(bytes));
  }
  if (magic === 'fLaC') {
    const { FLACDecoder } = await import('@wasm-audio-decoders/flac');
    return decodeWith(bytes, file, new FLACDecoder(), (decoder) => decoder.decodeFile(bytes));
  }
  // MP3 begins with an ID3 tag or the eleven set bits of a frame.
  if (text(bytes, 0, 3) === 'ID3' || (bytes[0] === 0xff && (bytes[1] & 0xe0) === 0xe0)) {
    const { MPEGDecoder } = await import('mpg123-decoder');
    return decodeWith(bytes, file, new MPEGDecoder(), (decoder) => Promise.resolve(decoder.decode(bytes)));
  }
  const first = [...bytes.subarray(0, 4)].map((b) => b.toString(16).padStart(2, '0')).join(' ') || 'missing';
  throw new UnreadableInput(
    'sound-kind',
    `${file} is no WAV, OGG, FLAC or MP3 file: its first bytes are ${first} (byte 0).`,
    { file, byte: 0 },
    'Renaming a file does not convert it; export it as WAV or FLAC.',
  );
}

async function decodeWith<T extends { ready: Promise<unknown>; free(): void }>(
  bytes: Uint8Array,
  file: string,
  decoder: T,
  run: (decoder: T) => Promise<Decoded>,
): Promise<Sound> {
  const fail = (message: string): never => {
    throw new UnreadableInput(
      'sound-damaged',
      `${file} is damaged: ${message} (byte ${bytes.length}).`,
      { file, byte: bytes.length },
      'Copy or export it again.',
    );
  };
  await decoder.ready;
  try {
    const { channelData, samplesDecoded, sampleRate, errors } = await run(decoder);
    if (samplesDecoded === 0 || channelData.length === 0 || !(sampleRate > 0)) return fail('nothing of it can be decoded');
    if (errors.length > 0) return fail(errors[0].message.replace(/\.$/, ''));
    return { sampleRate, channels: channelData.slice(0, 8).map((samples) => samples.slice(0, samplesDecoded)) };
  } catch (error) {
    if (error instanceof UnreadableInput) throw error;
    return fail(error instanceof Error ? error.message.split('\n')[0].replace(/\.$/, '') : String(error));
  } finally {
    decoder.free();
  }
}
