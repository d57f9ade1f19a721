/** Where a workshop is and who one is there, for all commands that ask it. */

import { UnreadableInput } from '@violet-crate/core/unreadable';
import { tokenFor } from '@violet-crate/host/signedIn';
import type { Options } from './command.ts';

export const WORKSHOP_OPTIONS = {
  workshop: { value: 'URL', summary: 'address of the workshop (VIOLET_CRATE_WORKSHOP, or the stand-in of this machine)' },
  token: { value: 'TOKEN', summary: 'your token there; without it the one of "crate login"' },
};

export const workshopOf = (options: Options): string =>
  options.workshop ?? process.env.VIOLET_CRATE_WORKSHOP ?? `http://127.0.0.1:${process.env.VIOLET_CRATE_WORKSHOP_PORT ?? 4281}`;

export const tokenOf = (options: Options): string | null => options.token ?? process.env.VIOLET_CRATE_WORKSHOP_TOKEN ?? tokenFor(workshopOf(options));

export function needToken(options: Options): string {
  const token = tokenOf(options);
  if (!token)
    throw new UnreadableInput(
      'workshop-token',
      `You are not signed in at ${workshopOf(options)}.`,
      {},
      'Sign in with "crate login", or give --token.',
    );
  return token;
}
