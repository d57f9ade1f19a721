/** Tokens of workshops that the command line is signed in at, in a file for its owner alone. */

import { chmodSync, mkdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { defaultKeyFile } from './authorKey.ts';
import { writeWhole } from './files.ts';

const file = (): string => join(dirname(defaultKeyFile()), 'workshops.json');

function all(): Record<string, string> {
  try {
    return JSON.parse(readFileSync(file(), 'utf8')) as Record<string, string>;
  } catch {
    return {};
  }
}

export const tokenFor = (workshop: string): string | null => {
  const tokens = all();
  const origin = originOf(workshop);
  return Object.hasOwn(tokens, origin) ? tokens[origin] : null;
};

export function keepToken(workshop: string, token: string): void {
  mkdirSync(dirname(file()), { recursive: true });
  writeWhole(file(), Buffer.from(JSON.stringify({ ...all(), [originOf(workshop)]: token }, null, 2)));
  chmodSync(file(), 0o600);
}

const originOf = (workshop: string): string => (URL.canParse(workshop) ? new URL(workshop).origin : workshop);
