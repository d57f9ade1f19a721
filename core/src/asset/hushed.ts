/**
 * Libraries that print while they work: what they say helps nobody, and the command line's standard output belongs to
 * its result. Any number may run at once; the console speaks again when the last has ended.
 */

type Voice = 'log' | 'warn' | 'error' | 'debug';
const VOICES: readonly Voice[] = ['log', 'warn', 'error', 'debug'];
const quiet = () => {};

let running = 0;
let voices: Partial<Record<Voice, typeof quiet>> = {};

function hush(): void {
  if (running++ > 0) return;
  voices = Object.fromEntries(VOICES.map((voice) => [voice, console[voice]]));
  for (const voice of VOICES) console[voice] = quiet;
}

function speak(): void {
  if (--running === 0) Object.assign(console, voices);
}

export function hushed<T>(run: () => T): T {
  hush();
  try {
    return run();
  } finally {
    speak();
  }
}

export async function hushedUntil<T>(run: () => Promise<T>): Promise<T> {
  hush();
  try {
    return await run();
  } finally {
    speak();
  }
}
