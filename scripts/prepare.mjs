/** Installs packages and compiles what is missing or older than its sources. */
import { existsSync, lstatSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { root, run } from './run.mjs';

/** Workspaces that run as `tsc` wrote them. */
export const COMPILED = ['core', 'host', 'server', 'workshop', 'cli', 'demo'];

const newest = (folder) => {
  let time = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.name === 'dist' || entry.name === 'node_modules' || /\.test\.tsx?$/.test(entry.name)) continue;
    const path = join(folder, entry.name);
    time = Math.max(time, entry.isDirectory() ? newest(path) : statSync(path).mtimeMs);
  }
  return time;
};
const age = (file) => (existsSync(file) ? statSync(file).mtimeMs : 0);

export function install(quiet) {
  // npm empties the folder before it fills it: behind a link that would be one that others use.
  if (lstatSync(join(root, 'node_modules'), { throwIfNoEntry: false })?.isSymbolicLink()) {
    console.error('node_modules is a link, and installing would empty what it points to. Remove the link and start again.');
    process.exit(1);
  }
  if (age(join(root, 'node_modules/.package-lock.json')) < age(join(root, 'package-lock.json'))) {
    console.error('Installing packages …');
    // SQLite is one file of 250,000 lines: optimised further it takes three minutes, for moments of ours.
    run('npm', ['ci', '--no-fund', '--no-audit', '--loglevel=error'], { quiet, env: { CFLAGS: '-O1' } });
  }
}

export function compile(quiet) {
  const stale = COMPILED.some((part) => age(join(root, part, 'tsconfig.tsbuildinfo')) < newest(join(root, part)));
  if (stale) run(process.execPath, ['node_modules/typescript/bin/tsc', '-b'], { quiet });
}

export function compileWeb(quiet) {
  const sources = Math.max(newest(join(root, 'web')), newest(join(root, 'core/src')));
  if (age(join(root, 'web/dist/index.html')) < sources) {
    console.error('Building the web application …');
    run('npm', ['run', '--silent', 'build', '--workspace', 'web'], { quiet });
  }
}
