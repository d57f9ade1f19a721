/** `npm start`: installs, compiles, then runs the server and the workshop until Ctrl+C. */
import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './run.mjs';
import { compile, compileWeb, install } from './prepare.mjs';

install();
compile();
compileWeb();

const data = process.env.VIOLET_CRATE_DATA ?? join(root, 'data');
mkdirSync(data, { recursive: true });
// The two services share a token that is made once and kept.
const tokenFile = join(data, 'workshop-token');
if (!existsSync(tokenFile)) writeFileSync(tokenFile, randomBytes(18).toString('base64url'), { mode: 0o600 });
const env = {
  ...process.env,
  VIOLET_CRATE_DATA: data,
  VIOLET_CRATE_WORKSHOP_TOKEN: process.env.VIOLET_CRATE_WORKSHOP_TOKEN ?? readFileSync(tokenFile, 'utf8').trim(),
};

const children = ['workshop/dist/main.js', 'server/dist/main.js'].map((file) =>
  spawn(process.execPath, [join(root, file)], { env, stdio: 'inherit' }),
);
let stopping = false;
const stop = (code) => {
  if (stopping) return;
  stopping = true;
  for (const child of children) child.kill('SIGTERM');
  process.exitCode = code;
};
for (const child of children) child.on('exit', (code) => stop(code ?? 0));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => stop(0));
