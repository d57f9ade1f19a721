/** Where a workshop is and who one is there, for all commands that ask it. */

import { UnreadableInput } from '@violet-crate/core/unreadable';
import { tokenFor } from '@violet-crate/host/signedIn';
import { OtherSigner } from '@violet-crate/host/mods';
import type { Options } from './command.ts';

export const WORKSHOP_OPTIONS = {
  workshop: { value: 'URL', summary: 'address of the workshop (VIOLET_CRATE_WORKSHOP, or the stand-in of this machine)' },
  token: { value: 'TOKEN', summary: 'your token there; without it the one of "crate login"' },
};

export const SIGNERS_OPTION = {
  signer: { value: 'MOD=KEY', summary: 'take a mod although another key than before signs it, as the refusal names that key' },
};

/** The refusal of another signer, with what to say where it is meant. */
export async function askingForSigner<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof OtherSigner)) throw error;
    const { mod, signer } = error.signer;
    throw new UnreadableInput(error.code, `${error.message} Nothing was installed. If that is right, say --signer "${mod}=${signer}".`);
  }
}

export function signersOf({ signer }: Options): Record<string, string> {
  const at = signer?.indexOf('=') ?? -1;
  return signer !== undefined && at > 0 ? { [signer.slice(0, at)]: signer.slice(at + 1) } : {};
}

export const workshopOf = (options: Options): string =>
  options.workshop ?? process.env.VIOLET_CRATE_WORKSHOP ?? `http://127.0.0.1:${process.env.VIOLET_CRATE_WORKSHOP_PORT ?? 4281}`;

/** A token that was given is for the workshop that was given, and for no other. @param workshop who is asked; the one that was given without it */
export function tokenOf(options: Options, workshop = workshopOf(options)): string | null {
  const given = options.token ?? process.env.VIOLET_CRATE_WORKSHOP_TOKEN;
  const meant = URL.canParse(workshop) && URL.canParse(workshopOf(options)) && new URL(workshop).origin === new URL(workshopOf(options)).origin;
  return given !== undefined && meant ? given : tokenFor(workshop);
}

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
