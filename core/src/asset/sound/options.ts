/** The settings of a sound's conversion, kept with the asset. */

import type { OptionTable } from '../option/option.ts';

export const SOUND_CHANNELS = ['profile', 'mono', 'stereo'] as const;
export const SOUND_FORMATS = ['auto', 'wav', 'ogg'] as const;

export interface SoundOptions {
  channels: (typeof SOUND_CHANNELS)[number];
  /** "auto" takes the profile's, and WAV for loops. */
  format: (typeof SOUND_FORMATS)[number];
  /** Cuts silence from both ends: what is below `trimBelow` (dBFS). */
  trim: boolean;
  trimBelow: number;
  /** Brings it to the profile's loudness under its ceiling. */
  normalise: boolean;
  loop: boolean;
  /** Seconds; where the end is not after the start, the file's own loop or the whole sound is taken. */
  loopStart: number;
  loopEnd: number;
}

export const DEFAULT_SOUND_OPTIONS: SoundOptions = {
  channels: 'profile',
  format: 'auto',
  trim: true,
  trimBelow: -60,
  normalise: true,
  loop: false,
  loopStart: 0,
  loopEnd: 0,
};

const looped = (options: Readonly<Record<string, unknown>>): boolean => options.loop === true;
/** Seconds that a sound may have. */
const LONGEST = 36000;

export const SOUND_OPTIONS: OptionTable<SoundOptions> = [
  {
    key: 'channels',
    flag: 'channels',
    label: 'Channels',
    explains: 'mono, stereo, or what the game wants',
    rule: { kind: 'choice', of: SOUND_CHANNELS },
  },
  { key: 'format', flag: 'sound-format', label: 'Format', explains: 'format of the file', rule: { kind: 'choice', of: SOUND_FORMATS } },
  { key: 'normalise', flag: 'normalise', label: 'Bring to the game’s loudness', explains: 'off keeps its loudness', rule: { kind: 'switch' } },
  { key: 'trim', flag: 'trim', label: 'Cut silence at the ends', explains: 'off keeps silence at the ends', rule: { kind: 'switch' } },
  {
    key: 'trimBelow',
    flag: 'trim-below',
    label: 'Silence is below',
    explains: 'what counts as silence',
    rule: { kind: 'number', min: -120, max: 0, unit: 'dBFS' },
    matters: (options) => options.trim === true,
  },
  { key: 'loop', flag: 'loop', label: 'Loop', explains: 'keeps or makes a loop', rule: { kind: 'switch' } },
  {
    key: 'loopStart',
    flag: 'loop-start',
    label: 'Loop from',
    explains: 'where the loop begins',
    rule: { kind: 'number', min: 0, max: LONGEST, unit: 's' },
    matters: looped,
  },
  {
    key: 'loopEnd',
    flag: 'loop-end',
    label: 'Loop to (0: all)',
    explains: 'where the loop ends; 0 takes all',
    rule: { kind: 'number', min: 0, max: LONGEST, unit: 's' },
    matters: looped,
  },
];
