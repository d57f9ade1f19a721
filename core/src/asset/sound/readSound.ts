/** Reads a sound by what it is, not by what it is called: WAV, Ogg Vorbis, FLAC, MP3. */

import { UnreadableInput } from '../../unreadable.ts';
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

/** A decoder of the family that reads compressed sounds here. */
interface Decoder {
  ready: Promise<unknown>;
  /** Decodes a whole file and is ready for the next one. */
  decode(bytes: Uint8Array): Promise<Decoded>;
  free(): void;
}

/** WebAssembly, so each is started when first asked for, and kept: starting costs more than decoding a short sound. */
const START: Record<'ogg' | 'flac' | 'mp3', () => Promise<Decoder>> = {
  async ogg() {
    const { OggVorbisDecoder } = await import('@wasm-audio-decoders/ogg-vorbis');
    const decoder = new OggVorbisDecoder();
    return { ready: decoder.ready, decode: (bytes) => decoder.decodeFile(bytes), free: () => decoder.free() };
  },
  async flac() {
    const { FLACDecoder } = await import('@wasm-audio-decoders/flac');
    const decoder = new FLACDecoder();
    return { ready: decoder.ready, decode: (bytes) => decoder.decodeFile(bytes), free: () => decoder.free() };
  },
  async mp3() {
    const { MPEGDecoder } = await import('mpg123-decoder');
    const decoder = new MPEGDecoder();
    const decode = async (bytes: Uint8Array): Promise<Decoded> => {
      const decoded = decoder.decode(bytes);
      await decoder.reset();
      return decoded;
    };
    return { ready: decoder.ready, decode, free: () => decoder.free() };
  },
};
const kept: Partial<Record<keyof typeof START, Decoder>> = {};

async function decode(bytes: Uint8Array, file: string): Promise<Sound> {
  const magic = text(bytes, 0);
  if (magic === 'RIFF') return readWav(bytes, file);
  if (magic === 'OggS') return decodeWith('ogg', bytes, file);
  if (magic === 'fLaC') return decodeWith('flac', bytes, file);
  // MP3 begins with an ID3 tag or the eleven set bits of a frame.
  if (text(bytes, 0, 3) === 'ID3' || (bytes[0] === 0xff && (bytes[1] & 0xe0) === 0xe0)) return decodeWith('mp3', bytes, file);
  const first = [...bytes.subarray(0, 4)].map((b) => b.toString(16).padStart(2, '0')).join(' ') || 'missing';
  throw new UnreadableInput(
    'sound-kind',
    `${file} is no WAV, OGG, FLAC or MP3 file: its first bytes are ${first} (byte 0).`,
    { file, byte: 0 },
    'Renaming a file does not convert it; export it as WAV or FLAC.',
  );
}

async function decodeWith(kind: keyof typeof START, bytes: Uint8Array, file: string): Promise<Sound> {
  const fail = (message: string): never => {
    throw new UnreadableInput(
      'sound-damaged',
      `${file} is damaged: ${message} (byte ${bytes.length}).`,
      { file, byte: bytes.length },
      'Copy or export it again.',
    );
  };
  // Taken while in use: a second file read meanwhile starts one of its own.
  const decoder = kept[kind] ?? (await START[kind]());
  delete kept[kind];
  await decoder.ready;
  let decoded: Decoded;
  try {
    decoded = await decoder.decode(bytes);
    kept[kind] ??= decoder;
  } catch (error) {
    // What stumbled is not used again.
    decoder.free();
    return fail(error instanceof Error ? error.message.split('\n')[0].replace(/\.$/, '') : String(error));
  }
  const { channelData, samplesDecoded, sampleRate, errors } = decoded;
  if (samplesDecoded === 0 || channelData.length === 0 || !(sampleRate > 0)) return fail('nothing of it can be decoded');
  if (errors.length > 0) return fail(errors[0].message.replace(/\.$/, ''));
  return { sampleRate, channels: channelData.slice(0, 8).map((samples) => samples.slice(0, samplesDecoded)) };
}
