/** The settings of a sound's conversion, kept with the asset. */

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
