import { hostname } from 'node:os';
import { createInterface } from 'node:readline/promises';
import { askWorkshop } from '@violet-crate/host/workshopClient';
import { keepToken } from '@violet-crate/host/signedIn';
import { UsageError, type Command } from '../command.ts';
import { WORKSHOP_OPTIONS, workshopOf } from '../workshopOptions.ts';

export const loginCommand: Command = {
  summary: 'Sign in at a workshop; the token stays on this machine, for you alone.',
  usage: 'crate login NAME [--workshop URL]   the password comes from VIOLET_CRATE_PASSWORD or from the terminal',
  options: { workshop: WORKSHOP_OPTIONS.workshop },
  arguments: [1, 1],
  async run([name], options) {
    const workshop = workshopOf(options);
    const password = process.env.VIOLET_CRATE_PASSWORD ?? (await ask());
    const answer = (await askWorkshop(workshop, null, 'POST', '/api/sign-in', { name, password, device: `crate on ${hostname()}`.slice(0, 60) })) as {
      token: string;
    };
    keepToken(workshop, answer.token);
    return { code: 0, result: { workshop, name }, text: `Signed in at ${workshop} as ${name}.` };
  },
};

async function ask(): Promise<string> {
  if (!process.stdin.isTTY) throw new UsageError('There is no terminal to ask for the password: set VIOLET_CRATE_PASSWORD.');
  const terminal = createInterface({ input: process.stdin, output: process.stderr });
  try {
    return await terminal.question('Password: ');
  } finally {
    terminal.close();
  }
}
