import { createServer } from 'node:net';
import { UnreadableInput } from '@violet-crate/core/unreadable';

/** Why the application cannot start, as one sentence with what to do. `main` prints it and ends with code 2. */
export class StartProblem extends Error {
  override name = 'StartProblem';
}

const portProblem = (code: string | undefined, port: number): string =>
  code === 'EACCES'
    ? `Port ${port} may not be used by this user. Choose one above 1023.`
    : `Port ${port} is taken by another program. End that one, or choose another port (README, "Two commands").`;

/** Asks for a port before anything is prepared: one that is taken is no reason to have written anything. */
export async function needPort(port: number): Promise<void> {
  const probe = createServer();
  await new Promise<void>((resolve, reject) => {
    probe.once('error', (error: NodeJS.ErrnoException) => reject(new StartProblem(portProblem(error.code, port))));
    probe.listen(port, '127.0.0.1', resolve);
  });
  await new Promise((resolve) => probe.close(resolve));
}

/** Runs the start of a program; a known problem ends it with one sentence and code 2, a bug with its stack. */
export async function startOrExplain(start: () => Promise<void>): Promise<void> {
  try {
    await start();
  } catch (error) {
    const { code, path, port } = error as NodeJS.ErrnoException & { port?: number };
    if (error instanceof StartProblem) console.error(error.message);
    else if (error instanceof UnreadableInput) console.error(error.hint ? `${error.message} ${error.hint}` : error.message);
    else if (path !== undefined)
      console.error(`${path} cannot be used (${code}). Make it writable for you, or set VIOLET_CRATE_DATA to another folder.`);
    else if (port !== undefined) console.error(portProblem(code, port));
    else {
      console.error(error);
      process.exit(1);
    }
    process.exit(2);
  }
}
