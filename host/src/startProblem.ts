/** Why the application cannot start, as one sentence with what to do. `main` prints it and ends with code 2. */
export class StartProblem extends Error {
  override name = 'StartProblem';
}

/** Runs the start of a program; a known problem ends it with one sentence and code 2, a bug with its stack. */
export async function startOrExplain(start: () => Promise<void>): Promise<void> {
  try {
    await start();
  } catch (error) {
    const { code, port } = error as NodeJS.ErrnoException & { port?: number };
    if (error instanceof StartProblem) console.error(error.message);
    else if (code === 'EADDRINUSE')
      console.error(`Port ${port} is taken by another program. End that one, or choose another port (README, "Two commands").`);
    else if (code === 'EACCES' && port !== undefined) console.error(`Port ${port} may not be used by this user. Choose one above 1023.`);
    else {
      console.error(error);
      process.exit(1);
    }
    process.exit(2);
  }
}
