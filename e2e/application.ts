/** The real application in a process of its own, on free ports, with a fresh data folder. */

import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, existsSync, mkdtempSync, renameSync, rmSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const ROOT = join(import.meta.dirname, '..');
/** Demo data is made once per test run and copied from there. */
const PREPARED = join(tmpdir(), `violet-e2e-prepared-${process.ppid}`);

async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  await new Promise((done) => server.close(done));
  return port;
}

export class Application {
  readonly data = mkdtempSync(join(tmpdir(), 'violet-e2e-'));
  private readonly children: ChildProcess[] = [];
  private constructor(
    readonly port: number,
    readonly workshopPort: number,
  ) {}

  static async start(): Promise<Application> {
    const application = new Application(await freePort(), await freePort());
    if (existsSync(PREPARED)) cpSync(PREPARED, application.data, { recursive: true });
    else if (process.env.VIOLET_CRATE_PREPARED)
      for (const part of ['games', 'depot']) cpSync(join(process.env.VIOLET_CRATE_PREPARED, part), join(application.data, part), { recursive: true });
    await application.startWorkshop();
    await application.startServer();
    if (!existsSync(PREPARED)) {
      // Taken while the server is down, so that the database is whole.
      await application.kill('server', 'SIGTERM');
      // Two workers may do this at once: whoever is first with a whole copy has made it for both.
      const copy = `${PREPARED}-${process.pid}`;
      cpSync(application.data, copy, { recursive: true, filter: (path) => !path.includes('workshop') });
      try {
        renameSync(copy, PREPARED);
      } catch (error) {
        if (!['ENOTEMPTY', 'EEXIST'].includes((error as NodeJS.ErrnoException).code!)) throw error;
        rmSync(copy, { recursive: true });
      }
      await application.startServer();
    }
    return application;
  }

  /** A machine on which no game is yet: only the depot has them. */
  static async startEmpty(): Promise<Application> {
    const application = new Application(await freePort(), await freePort());
    if (process.env.VIOLET_CRATE_PREPARED)
      cpSync(join(process.env.VIOLET_CRATE_PREPARED, 'depot'), join(application.data, 'depot'), { recursive: true });
    await application.startWorkshop();
    // A screen that nobody looks at: programs that open sources are started as on a desktop.
    await application.startServer({ VIOLET_CRATE_DEMO: 'none', DISPLAY: ':7' });
    return application;
  }

  get url(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  get workshopUrl(): string {
    return `http://127.0.0.1:${this.workshopPort}`;
  }

  /** Where Brinewick is installed. */
  get game(): string {
    return join(this.data, 'games/brinewick');
  }

  get mods(): string {
    return join(this.game, 'mods');
  }

  startWorkshop(): Promise<void> {
    return this.run('workshop/dist/main.js', 'Workshop:');
  }

  /** @param env settings beside those that every test has */
  startServer(env: Record<string, string> = {}): Promise<void> {
    return this.run('server/dist/main.js', 'Violet Crate:', env);
  }

  /** Ends a process and waits until it is gone. */
  async kill(which: 'server' | 'workshop', signal: NodeJS.Signals): Promise<void> {
    const at = this.children.findIndex((child) => child.spawnargs.some((arg) => arg.includes(`${which}/dist`)));
    const [child] = this.children.splice(at, 1);
    const gone = new Promise((done) => child.once('exit', done));
    child.kill(signal);
    await gone;
  }

  async stop(): Promise<void> {
    for (const which of ['server', 'workshop'] as const)
      if (this.children.some((c) => c.spawnargs.some((arg) => arg.includes(`${which}/dist`)))) await this.kill(which, 'SIGTERM');
    rmSync(this.data, { recursive: true, force: true });
  }

  async json<T>(path: string, init?: RequestInit): Promise<T> {
    const response = await fetch(this.url + path, init);
    return (await response.json()) as T;
  }

  post<T>(path: string, body: object, method = 'POST'): Promise<T> {
    return this.json<T>(path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
  }

  /** Waits until a job is over, and answers how. */
  async over(job: { id: string }, seconds = 90): Promise<string> {
    for (let n = 0; n < seconds * 4; n++) {
      const jobs = await this.json<{ id: string; state: string }[]>('/api/jobs');
      const state = jobs.find(({ id }) => id === job.id)?.state ?? '';
      if (!['queued', 'running', 'paused', ''].includes(state)) return state;
      await new Promise((resolve) => setTimeout(resolve, 250));
    }
    throw new Error(`job ${job.id} is not over after ${seconds} s`);
  }

  private async run(file: string, ready: string, env: Record<string, string> = {}): Promise<void> {
    const child = spawn(process.execPath, [join(ROOT, file)], {
      env: {
        ...process.env,
        VIOLET_CRATE_DATA: this.data,
        VIOLET_CRATE_GAMES: join(this.data, 'games'),
        VIOLET_CRATE_PORT: String(this.port),
        VIOLET_CRATE_WORKSHOP_PORT: String(this.workshopPort),
        VIOLET_CRATE_WORKSHOP_TOKEN: 'e2e-token',
        ...env,
      },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    this.children.push(child);
    await new Promise<void>((done, fail) => {
      child.stdout!.on('data', (text: Buffer) => text.toString().includes(ready) && done());
      child.once('exit', (code) => fail(new Error(`${file} ended with ${code} before it was ready`)));
    });
  }
}
