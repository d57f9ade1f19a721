/** The application as an attacker meets it: real processes over scratch folders, on free ports of this machine. */
import { spawn } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** Another checkout can be attacked too, to see that a part notices what it is for. */
export const ROOT = process.env.VIOLET_CRATE_ATTACKED ?? join(import.meta.dirname, '..', '..');
export const scratch = mkdtempSync(join(tmpdir(), 'violet-attack-'));
const children = new Set();

export async function freePort() {
  const server = createServer();
  await new Promise((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address();
  await new Promise((done) => server.close(done));
  return port;
}

export const sleep = (ms) => new Promise((done) => setTimeout(done, ms));

/** Runs a program to its end: exit code and all it printed. */
export function run(command, args, { env = {}, timeout = 60_000, cwd = ROOT } = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { cwd, env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'pipe'] });
    children.add(child);
    let [out, err] = ['', ''];
    child.stdout.on('data', (chunk) => (out += chunk));
    child.stderr.on('data', (chunk) => (err += chunk));
    const timer = setTimeout(() => child.kill('SIGKILL'), timeout);
    child.on('close', (code) => {
      clearTimeout(timer);
      children.delete(child);
      resolve({ code, out, err });
    });
  });
}

export const crate = (args, options) => run(process.execPath, [join(ROOT, 'cli/dist/bin.js'), ...args], options);

/** A crate of no more than its manifest, as the file that describes it. */
export const manifestOf = (name, title) =>
  new TextEncoder().encode(
    JSON.stringify({
      format: 1,
      name,
      title,
      description: '',
      version: '1.0.0',
      profile: 'brinewick',
      mainMap: 'hall',
      authors: [],
      credits: [],
      materials: [],
      assets: {},
    }),
  );

let prepared = null;
/** A data folder with the demo in it; made once and copied. */
export async function dataFolder() {
  if (!prepared) {
    prepared = join(scratch, 'prepared');
    mkdirSync(prepared);
    const given = process.env.VIOLET_CRATE_PREPARED;
    if (given && existsSync(given)) cpSync(given, prepared, { recursive: true });
    const first = await Server.start(prepared);
    await first.stop();
  }
  const data = mkdtempSync(join(scratch, 'data-'));
  cpSync(prepared, data, { recursive: true });
  return data;
}

export class Server {
  log = '';

  /** Starts the server, or with `main` another program, and waits for the line that says so. */
  static async start(data, { env = {}, main = 'server/dist/main.js', says = 'Violet Crate: ', variable = 'VIOLET_CRATE_PORT', port } = {}) {
    const server = new Server();
    server.data = data;
    server.port = port ?? (await freePort());
    server.url = `http://127.0.0.1:${server.port}`;
    server.child = spawn(process.execPath, [join(ROOT, main)], {
      env: { ...process.env, VIOLET_CRATE_DATA: data, VIOLET_CRATE_WORKSHOP_TOKEN: 'token', [variable]: String(server.port), ...env },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    children.add(server.child);
    server.ended = new Promise((done) => server.child.on('exit', (code, signal) => done({ code, signal })));
    for (const stream of [server.child.stdout, server.child.stderr]) stream.on('data', (chunk) => (server.log += chunk));
    const begun = Date.now();
    let over = null;
    void server.ended.then((how) => {
      over = how;
      children.delete(server.child);
    });
    while (!server.log.includes(says)) {
      if (over) throw new Error(`the server ended with code ${over.code}: ${server.log.trim().slice(-500)}`);
      if (Date.now() - begun > 90_000) throw new Error(`the server did not start: ${server.log.slice(-500)}`);
      await sleep(25);
    }
    return server;
  }

  /** @param port of one that was killed, to start it again at the same address */
  static workshop(data, port) {
    return Server.start(data, { main: 'workshop/dist/main.js', says: 'Workshop: ', variable: 'VIOLET_CRATE_WORKSHOP_PORT', port });
  }

  async stop() {
    this.child.kill('SIGTERM');
    await this.ended;
  }

  async kill() {
    this.child.kill('SIGKILL');
    await this.ended;
  }

  get alive() {
    return this.child.exitCode === null && this.child.signalCode === null;
  }

  /** Memory of the process, MiB. */
  async memory() {
    const { out } = await run('ps', ['-o', 'rss=', '-p', String(this.child.pid)]);
    return Number(out) / 1024;
  }

  request(path, { method = 'GET', body, headers = {} } = {}) {
    const json = body !== undefined && typeof body !== 'string' && !(body instanceof FormData) && !(body instanceof Uint8Array);
    return fetch(this.url + path, {
      method,
      headers: json || typeof body === 'string' ? { 'content-type': 'application/json', ...headers } : headers,
      body: json ? JSON.stringify(body) : body,
      signal: AbortSignal.timeout(120_000),
    });
  }

  async json(path, init) {
    const response = await this.request(path, init);
    const text = await response.text();
    const body = text === '' ? null : JSON.parse(text);
    if (!response.ok) throw Object.assign(new Error(`${response.status} ${body?.detail ?? text}`), { status: response.status, body });
    return body;
  }

  upload(crateId, files) {
    const form = new FormData();
    for (const [name, bytes] of files) form.append('files', new File([bytes], name));
    return this.json(`/api/crates/${crateId}/assets`, { method: 'POST', body: form });
  }

  async finished(job) {
    for (;;) {
      const now = await this.json(`/api/jobs/${job.id}`);
      if (!['queued', 'running', 'paused'].includes(now.state)) return now;
      await sleep(50);
    }
  }

  newCrate(name, template = 'sealed-room') {
    return this.json('/api/crates', { method: 'POST', body: { profile: 'brinewick', name, title: name, template } });
  }

  async pumphouse() {
    return (await this.json('/api/crates')).find((one) => one.manifest.name === 'pumphouse').id;
  }
}

export function cleanUp() {
  for (const child of children) child.kill('SIGKILL');
  rmSync(scratch, { recursive: true, force: true });
}
