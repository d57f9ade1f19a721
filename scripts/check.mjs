/**
 * `npm run check [-- BASE]`: for every commit, what the change since BASE touches: types, lint of what changed, the unit tests
 * that depend on it, the browser tests of its pages, and the road from set-up to published. Stops at the first fault.
 * BASE is where the branch left `origin/main`; where nothing has changed since then, the commit before the last.
 */
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { COMPILED, compile, compileWeb, install } from './prepare.mjs';
import { root, run } from './run.mjs';

/** Browser tests by the beginning of a path. What is not here is in the road. */
const SPECS = {
  'web/src/banks/': 'banks',
  'web/src/build/': 'build',
  'web/src/data/': 'people',
  'web/src/effects/': 'effects',
  'web/src/library/': 'assets',
  'web/src/links/': 'pages',
  'web/src/map/people/': 'people',
  'web/src/map/route/': 'outdoors',
  'web/src/map/ground/': 'outdoors',
  'web/src/map/': 'map',
  'web/src/mods/': 'publish',
  'web/src/opening/': 'setup',
  'web/src/preferences/': 'setup',
  'web/src/profiles/': 'setup',
  'web/src/publish/': 'publish',
  'web/src/setup/': 'setup',
  'web/src/sound/': 'atmosphere',
  'web/src/theme/': 'accessible',
  'web/src/trial/': 'trial',
  'web/src/versions/': 'setup',
  'server/src/banks/': 'banks',
  'server/src/bound/': 'setup',
  'server/src/release/': 'publish',
  'server/src/together/': 'together',
  'workshop/src/': 'publish',
};
/** More of them than this would take as long as the whole suite, which is what they are for. */
const MOST_SPECS = 3;

const git = (...args) => {
  const { status, stdout } = spawnSync('git', args, { cwd: root, encoding: 'utf8' });
  return status === 0 ? stdout.split('\n').filter(Boolean) : [];
};
const since = (base) => [...new Set([...git('diff', '--name-only', '--diff-filter=d', base), ...git('ls-files', '--others', '--exclude-standard')])];
const [base] = process.argv[2] ? git('rev-parse', '--verify', process.argv[2]) : git('merge-base', 'HEAD', 'origin/main');
if (process.argv[2] && !base) {
  console.error(`${process.argv[2]} is no commit of this repository. Name a branch or a commit: npm run check -- main`);
  process.exit(2);
}
let changed = base ? since(base) : [];
if (changed.length === 0 && !process.argv[2]) changed = since('HEAD~1');
console.log(`${changed.length} changed files`);

const times = [];
const step = (name, command, args) => {
  const start = performance.now();
  console.log(`\n== ${name}`);
  run(command, args);
  times.push(`${name} ${Math.round((performance.now() - start) / 1000)} s`);
};
const bin = (name) => join(root, 'node_modules/.bin', name);

install();
const code = changed.filter((file) => /\.(m?[jt]s|tsx)$/.test(file));
step('Types', bin('tsc'), ['-b', 'tsconfig.test.json']);
for (const part of ['web', 'e2e'])
  if (code.some((file) => file.startsWith(`${part}/`) || file.startsWith('core/src/')))
    step(`Types of ${part}`, bin('tsc'), ['-p', part, '--noEmit']);
if (code.length > 0) step('Lint', bin('eslint'), ['--max-warnings', '0', '--no-warn-ignored', ...code]);
if (changed.length > 0) step('Format', bin('prettier'), ['--check', '--ignore-unknown', ...changed]);

// Tests outside the page run compiled: what depends on a source depends on what was made of it.
const sources = code
  .filter((file) => [...COMPILED, 'web'].some((part) => file.startsWith(`${part}/src/`)))
  .flatMap((file) => [file, file.replace('/src/', '/dist/').replace(/\.ts$/, '.js')])
  .filter((file) => existsSync(join(root, file)));
if (sources.length > 0)
  step('Unit and API tests that depend on it', 'npm', [
    ...['run', '--silent', 'unit', '--', '--maxWorkers=2', '--reporters=summary', '--passWithNoTests', '--findRelatedTests'],
    ...sources,
  ]);

compile();
compileWeb();
const specOf = (file) => {
  const [, itself] = /^e2e\/(\w+)\.spec\.ts$/.exec(file) ?? [];
  // The longest beginning is the most particular one.
  const [folder] = Object.keys(SPECS)
    .filter((one) => file.startsWith(one))
    .sort((a, b) => b.length - a.length);
  return itself ?? SPECS[folder];
};
const specs = [...new Set(changed.map(specOf))].filter((spec) => spec && !['killed', 'road'].includes(spec));
if (specs.length > MOST_SPECS) console.log(`\nThe change is about ${specs.join(', ')}: run npm test for all of them.`);
step('Browser', bin('playwright'), [
  ...['test', '--config', 'e2e/playwright.config.ts', '--project=browser', 'road.spec'],
  ...(specs.length > MOST_SPECS ? [] : specs.map((spec) => `${spec}.spec`)),
]);
console.log(`\n${times.join(', ')}`);
