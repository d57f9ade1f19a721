/** Opening a file in a program of this machine: the one the user named, or the system's own choice. No shell sees anything. */

import { spawn } from 'node:child_process';
import { closeSync, existsSync, mkdtempSync, openSync, readSync, rmSync } from 'node:fs';
import { hostname, tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { strangersEnvironment } from './setup/runProgram.ts';

/** Milliseconds within which a program that cannot run has usually ended. */
const FIRST = 1500;
/** Characters of what a program says of its trouble. */
const SAID = 400;

/** Why no window can be opened from here, or null. Somebody who sits elsewhere would wait for one in vain. */
export function noScreen(env: NodeJS.ProcessEnv = process.env, platform = process.platform): string | null {
  const far = env.SSH_CONNECTION !== undefined && env.DISPLAY === undefined && env.WAYLAND_DISPLAY === undefined;
  const bare = platform === 'linux' && !env.DISPLAY && !env.WAYLAND_DISPLAY;
  return far || bare
    ? `Violet Crate runs on ${hostname()}, where no window can be opened: on another machine than this browser, or without a desktop.`
    : null;
}

/** The program of a system that opens a file with what the user has chosen there. */
export const systemOpener = (platform = process.platform): string =>
  platform === 'darwin' ? 'open' : platform === 'win32' ? 'explorer.exe' : 'xdg-open';

/**
 * The words of a command: a whole path, spaces and all, where there is such a file; otherwise split at spaces, quotes
 * holding together.
 */
export function commandWords(typed: string, exists: (path: string) => boolean = existsSync): string[] {
  const text = typed.trim();
  if (exists(text)) return [text];
  return [...text.matchAll(/"([^"]*)"|'([^']*)'|(\S+)/g)].map(([, double, single, bare]) => double ?? single ?? bare);
}

/**
 * Starts a program with a file, and lets it live on by itself.
 *
 * @param typed what the user named; empty for the system's own
 * @returns the name of the program
 * @throws UnreadableInput where it is not there, may not be run, or ends with an error at once
 */
export async function openFile(file: string, typed: string): Promise<string> {
  const screen = noScreen();
  if (screen)
    throw new UnreadableInput('no-screen', screen, { file }, 'Take the source out of the crate, change it where you are, and import it again.');
  const [program, ...words] = typed.trim() === '' ? [systemOpener()] : commandWords(typed);
  const name = basename(program ?? '');
  const hint = 'Name another one under Preferences, Programs.';
  if (!program || [program, ...words].some((word) => word.includes('\0')))
    throw new UnreadableInput('no-program', 'What is set as the program names none.', { file }, hint);
  // A file and no pipe: one that we close ends a program at its next warning, long after it was opened.
  const folder = mkdtempSync(join(tmpdir(), 'violet-open-'));
  const log = openSync(join(folder, 'log'), 'w+');
  await new Promise<void>((done, fail) => {
    const child = spawn(program, [...words, file], {
      shell: false,
      detached: true,
      stdio: ['ignore', 'ignore', log],
      env: strangersEnvironment(),
    });
    const well = setTimeout(() => {
      child.unref();
      done();
    }, FIRST);
    child.on('error', (error: NodeJS.ErrnoException) => {
      clearTimeout(well);
      const what = error.code === 'EACCES' ? `${program} is no program that may be run.` : `There is no program ${program} on this machine.`;
      fail(new UnreadableInput('no-program', what, { file: program }, hint));
    });
    child.on('exit', (code) => {
      clearTimeout(well);
      // A program may hand the file to one that is open already, and end.
      if (code === 0) return done();
      const said = Buffer.alloc(SAID);
      const words = said
        .toString('utf8', 0, readSync(log, said, 0, SAID, 0))
        .trim()
        .split('\n')[0];
      fail(new UnreadableInput('program-ended', `${name} ended with error ${code ?? 'unknown'}${words ? `: ${words}` : '.'}`, { file }, hint));
    });
  }).finally(() => {
    closeSync(log);
    rmSync(folder, { recursive: true, force: true, maxRetries: 1 });
  });
  return name;
}
