/** From a sound file to the WAV or OGG that a game loads, brought to the profile's rate, channels and loudness. */

import { encode as encodePng } from 'fast-png';
import type { Finding, Fix } from '../../finding.ts';
import type { Profile } from '../../profile/schema.ts';
import { integratedLoudness, truePeak } from './loudness.ts';
import { DEFAULT_SOUND_OPTIONS, type SoundOptions } from './options.ts';
import { readSound } from './readSound.ts';
import { resample } from './resample.ts';
import { fromDecibels, sampleCount, secondsOf, type Sound } from './sound.ts';
import { writeOgg } from './writeOgg.ts';
import { writeWav } from './writeWav.ts';

export interface ConvertedSound {
  bytes: Uint8Array;
  extension: 'wav' | 'ogg';
  /** PNG of the waveform. */
  preview: Uint8Array;
  options: SoundOptions;
  seconds: number;
  sampleRate: number;
  channels: number;
  /** LUFS and dBTP of the result; null for silence. */
  loudness: number | null;
  truePeak: number | null;
  loop?: { start: number; end: number };
  findings: Finding[];
}

/** Samples in a row at full scale that count as clipped. */
const CLIPPED_RUN = 3;
/** Loudness may differ so much from the profile's before it is worth a word, LU. */
const TOLERANCE = 0.5;

export async function convertSound(profile: Profile, file: string, bytes: Uint8Array, given: Partial<SoundOptions> = {}): Promise<ConvertedSound> {
  const rules = profile.sounds;
  const options: SoundOptions = { ...DEFAULT_SOUND_OPTIONS, ...given };
  const findings: Finding[] = [];
  const note = (code: string, severity: Finding['severity'], message: string, hint?: string, change?: [string, Partial<SoundOptions>]) => {
    const fix: Fix | undefined = change && { kind: 'reconvert', label: change[0], file, options: { ...options, ...change[1] } };
    findings.push({ code, severity, stage: 'assets', message, hint, place: { file }, fix });
  };
  let sound = await readSound(bytes, file);
  const clipped = clippedRuns(sound);
  if (clipped > 0)
    note(
      'sound-clipped',
      'warning',
      `${file} is clipped in ${clipped} ${clipped === 1 ? 'place' : 'places'}.`,
      'Record or export it quieter; turning it down here does not mend it.',
    );
  const wanted = options.channels === 'mono' ? 1 : options.channels === 'stereo' ? 2 : rules.channels;
  if (sound.channels.length > wanted)
    note(
      'sound-channels',
      'note',
      `${file} has ${sound.channels.length} channels; ${profile.title} plays ${wanted === 1 ? 'sounds in the world from one' : 'two'}. They were mixed.`,
      wanted === 1 ? 'A sound with a place in the world has to be mono. Music may stay stereo.' : undefined,
      wanted === 1 ? ['Keep it stereo', { channels: 'stereo' }] : undefined,
    );
  sound = withChannels(sound, wanted);
  if (sound.sampleRate !== rules.sampleRate)
    note('sound-rate', 'note', `${file} has ${sound.sampleRate} samples per second; it was brought to ${rules.sampleRate}.`);
  sound = resample(sound, rules.sampleRate);
  if (options.trim) {
    const trimmed = trimSilence(sound, fromDecibels(options.trimBelow));
    const cut = secondsOf(sound) - secondsOf(trimmed);
    if (cut > 0.05)
      note('sound-trimmed', 'note', `${cut.toFixed(2)} seconds of silence were cut from ${file}.`, undefined, ['Keep the silence', { trim: false }]);
    sound = trimmed;
  }
  if (options.loop) sound = { ...sound, loop: loopOf(sound, options) };
  const before = integratedLoudness(sound);
  if (options.normalise) sound = normalise(sound, rules.loudness, rules.truePeak, before);
  const loudness = integratedLoudness(sound);
  const peak = truePeak(sound);
  if (peak === null) note('sound-silent', 'warning', `${file} is silent.`);
  else if (loudness !== null && Math.abs(loudness - rules.loudness) > TOLERANCE)
    note(
      'sound-loudness',
      'note',
      `${file} has ${loudness.toFixed(1)} LUFS; ${profile.title} asks for ${rules.loudness}.`,
      options.normalise ? `Its peaks at ${peak.toFixed(1)} dBTP allow no more.` : 'Others will sound louder or quieter beside it.',
      options.normalise ? undefined : ['Bring it to that loudness', { normalise: true }],
    );
  if (peak !== null && peak > rules.truePeak + 0.1)
    note('sound-peak', 'warning', `${file} peaks at ${peak.toFixed(1)} dBTP; above ${rules.truePeak} it may distort.`, undefined, [
      'Bring it down',
      { normalise: true },
    ]);
  if (secondsOf(sound) > rules.maxSeconds)
    note('sound-long', 'warning', `${file} lasts ${Math.round(secondsOf(sound))} seconds; ${profile.title} plans for up to ${rules.maxSeconds}.`);
  // Loops have to stay exact to the sample, which OGG does not promise.
  const extension = options.format === 'auto' ? (sound.loop ? 'wav' : rules.format) : options.format;
  return {
    bytes: extension === 'wav' ? writeWav(sound) : await writeOgg(sound),
    extension,
    preview: waveform(sound),
    options,
    seconds: secondsOf(sound),
    sampleRate: sound.sampleRate,
    channels: sound.channels.length,
    loudness,
    truePeak: peak,
    loop: sound.loop,
    findings,
  };
}

function clippedRuns(sound: Sound): number {
  let runs = 0;
  for (const samples of sound.channels) {
    let run = 0;
    for (const value of samples) {
      run = Math.abs(value) >= 0.99996 ? run + 1 : 0;
      if (run === CLIPPED_RUN) runs++;
    }
  }
  return runs;
}

/** Mixes down by the mean, or repeats one channel. */
export function withChannels(sound: Sound, count: number): Sound {
  if (sound.channels.length === count) return sound;
  const mono = new Float32Array(sampleCount(sound));
  for (const samples of sound.channels) for (let i = 0; i < mono.length; i++) mono[i] += samples[i] / sound.channels.length;
  if (count === 1) return { ...sound, channels: [mono] };
  return { ...sound, channels: sound.channels.length > count ? sound.channels.slice(0, count) : [mono, mono.slice()] };
}

/** Cuts what is quieter than `level` from both ends; all-silent sounds are left whole. */
export function trimSilence(sound: Sound, level: number): Sound {
  const count = sampleCount(sound);
  const loud = (i: number) => sound.channels.some((samples) => Math.abs(samples[i]) > level);
  let [from, to] = [0, count];
  while (from < count && !loud(from)) from++;
  if (from === count) return sound;
  while (to > from && !loud(to - 1)) to--;
  const loop = sound.loop && { start: Math.max(0, sound.loop.start - from), end: Math.min(to - from, sound.loop.end - from) };
  return { ...sound, channels: sound.channels.map((samples) => samples.slice(from, to)), loop: loop && loop.end > loop.start ? loop : undefined };
}

/** The loop by the options in seconds; the file's own where they say nothing; else the whole sound. */
function loopOf(sound: Sound, options: SoundOptions): { start: number; end: number } {
  const count = sampleCount(sound);
  if (options.loopEnd > options.loopStart) {
    const at = (seconds: number) => Math.min(count, Math.max(0, Math.round(seconds * sound.sampleRate)));
    const loop = { start: at(options.loopStart), end: at(options.loopEnd) };
    if (loop.end > loop.start) return loop;
  }
  return sound.loop ?? { start: 0, end: count };
}

/** To the target loudness, but never above the ceiling. Sounds too short to measure are brought to the ceiling. */
export function normalise(sound: Sound, target: number, ceiling: number, loudness: number | null): Sound {
  const peak = truePeak(sound);
  if (peak === null) return sound;
  const gain = fromDecibels(Math.min(loudness === null ? Infinity : target - loudness, ceiling - peak));
  return { ...sound, channels: sound.channels.map((samples) => samples.map((value) => value * gain)) };
}

const WIDTH = 192;
const HEIGHT = 96;

/** The largest and smallest sample under every column, light on nothing. */
function waveform(sound: Sound): Uint8Array {
  const data = new Uint8Array(WIDTH * HEIGHT * 4);
  const count = sampleCount(sound);
  for (let x = 0; x < WIDTH; x++) {
    let [low, high] = [0, 0];
    const to = Math.max(Math.floor((x / WIDTH) * count) + 1, Math.floor(((x + 1) / WIDTH) * count));
    for (let i = Math.floor((x / WIDTH) * count); i < Math.min(count, to); i++)
      for (const samples of sound.channels) {
        if (samples[i] < low) low = samples[i];
        if (samples[i] > high) high = samples[i];
      }
    const row = (value: number) => Math.round((0.5 - 0.48 * Math.min(1, Math.max(-1, value))) * (HEIGHT - 1));
    for (let y = row(high); y <= row(low); y++) data.set([0xc9, 0xb5, 0xf5, 255], (y * WIDTH + x) * 4);
  }
  return encodePng({ width: WIDTH, height: HEIGHT, data, channels: 4, depth: 8 });
}
