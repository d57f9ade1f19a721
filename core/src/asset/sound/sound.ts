/** Sound in memory: one array of samples per channel, full scale being -1 to 1. */
export interface Sound {
  /** Samples per second. */
  sampleRate: number;
  channels: Float32Array[];
  /** First sample of the loop and the first one after it. */
  loop?: { start: number; end: number };
}

export const sampleCount = (sound: Sound): number => sound.channels[0]?.length ?? 0;
export const secondsOf = (sound: Sound): number => sampleCount(sound) / sound.sampleRate;

/** A level as decibels below full scale. */
export const decibels = (level: number): number => 20 * Math.log10(level);
export const fromDecibels = (db: number): number => 10 ** (db / 20);

/** Minutes of sound that a file may hold. */
export const MAX_MINUTES = 30;
