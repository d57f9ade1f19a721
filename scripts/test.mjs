/**
 * `npm test`: installs what is missing, then type-check, lint, unit tests, command-line and browser tests.
 * `npm run nightly`: the same with the attack at full length and more damaged files.
 */
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { root, run } from './run.mjs';
import { compile, compileWeb, install } from './prepare.mjs';

/** Debian packages that the tests use, by the program they bring. */
const PROGRAMS = {
  '/usr/bin/chromium': 'chromium',
  '/usr/bin/unzip': 'unzip',
  '/usr/bin/curl': 'curl',
  '/usr/bin/assimp': 'assimp-utils',
  '/usr/bin/lua5.4': 'lua5.4',
  '/usr/bin/lz4': 'lz4',
  '/usr/bin/xdelta3': 'xdelta3',
};
const missing = Object.entries(PROGRAMS)
  .filter(([file]) => !existsSync(file))
  .map(([, name]) => name);
if (missing.length > 0) {
  console.log(`Installing ${missing.join(', ')} …`);
  run('apt-get', ['update', '-qq']);
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing]);
}
install();

const nightly = process.argv.includes('--nightly');

/** Milliseconds after which a part hangs. */
const LONGEST = (nightly ? 240 : 45) * 60_000;

const groups = new Set();
/** They are groups of their own, and would go on by themselves. */
for (const signal of ['SIGINT', 'SIGTERM'])
  process.on(signal, () => {
    for (const group of groups) process.kill(-group, 'SIGKILL');
    process.exit(1);
  });

let passed = 0;
let failed = 0;
/** Tests that passed at their second try: no failure, and not to be hidden either. */
let flaky = 0;
/**
 * Runs a part, prints all of it when it has ended, and adds up what its own summary counts; a part without one
 * counts as one test.
 */
async function part(name, command, args, count = () => null) {
  const start = performance.now();
  const child = spawn(command, args, {
    cwd: root,
    stdio: ['ignore', 'pipe', 'pipe'],
    // A group of its own: what hangs is ended with all that it started.
    detached: true,
    env: { ...process.env, FORCE_COLOR: '0', NODE_NO_WARNINGS: '1' },
  });
  groups.add(child.pid);
  const chunks = [];
  child.stdout.on('data', (chunk) => chunks.push(chunk));
  child.stderr.on('data', (chunk) => chunks.push(chunk));
  let late = false;
  const timer = setTimeout(() => {
    late = true;
    process.kill(-child.pid, 'SIGKILL');
  }, LONGEST);
  const status = await new Promise((done) => child.on('close', done).on('error', () => done(1)));
  clearTimeout(timer);
  groups.delete(child.pid);
  const output = Buffer.concat(chunks).toString('utf8');
  console.log(`\n== ${name}`);
  process.stdout.write(output);
  if (late) console.log(`== ${name} did not come to an end within ${LONGEST / 60_000} minutes`);
  console.log(`== ${name}: ${Math.round((performance.now() - start) / 1000)} s`);
  const [good, bad] = count(output) ?? [status === 0 ? 1 : 0, 0];
  passed += good;
  // A part that ends badly has failed even where its summary shows no failed test.
  failed += status === 0 ? bad : Math.max(1, bad);
}
const number = (pattern, text) => Number(pattern.exec(text)?.[1] ?? 0);
const node = process.execPath;
const bin = (name) => join(root, 'node_modules/.bin', name);

// What tests leave behind goes with the run.
process.env.TMPDIR = mkdtempSync(join(tmpdir(), 'violet-test-'));
compile();
compileWeb();
await part('Types', bin('tsc'), ['-b', 'tsconfig.test.json']);
// The demo game is drawn once for all parts that need one.
const prepared = join(process.env.TMPDIR, 'prepared');
run(node, ['demo/dist/main.js', prepared]);
process.env.VIOLET_CRATE_PREPARED = prepared;

const counted = (name) => (text) => [
  number(new RegExp(`${name}: (\\d+) passed`), text),
  number(new RegExp(`${name}: \\d+ passed, (\\d+) failed`), text),
];
const tests = (name, project) =>
  part(name, bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts', '--project', project], (text) => {
    flaky += number(/(\d+) flaky/, text);
    return [number(/(\d+) passed/, text), number(/(\d+) failed/, text)];
  });

// Parts that keep one core busy, two at a time, the longest first.
const parts = [
  () =>
    part('Unit and API tests', 'npm', ['run', '--silent', 'unit', '--', '--maxWorkers=1'], (text) => [
      number(/Tests:.*?(\d+) passed/, text),
      number(/Tests:.*?(\d+) failed/, text),
    ]),
  () => part('Attack', node, ['bench/attack/run.mjs', ...(nightly ? [] : ['--short'])], counted('attack')),
  () => part('Command line', 'bash', ['e2e/commandLine.sh'], (text) => [number(/commandLine\.sh: (\d+) passed/, text), 0]),
  () => tests('Killed builds', 'bare'),
  () => part('Lint', 'npm', ['run', '--silent', 'lint']),
  () => part('Types of the page and of the browser tests', 'npm', ['run', '--silent', 'typecheck']),
  () => part('Damaged files', node, ['bench/fuzz/run.mjs', nightly ? '20000' : '150', '1'], counted('fuzz')),
  () => part('Files of other programs', node, ['bench/corpus/run.mjs'], counted('corpus')),
];
const row = async () => {
  for (let next = parts.shift(); next; next = parts.shift()) await next();
};
await Promise.all([row(), row()]);
// Browsers keep both cores busy with drawing.
await tests('Browser', 'browser');

rmSync(process.env.TMPDIR, { recursive: true, force: true });
if (flaky > 0) console.log(`\n${flaky} flaky: passed at the second try`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exitCode = failed === 0 ? 0 : 1;
