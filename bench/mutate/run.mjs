/**
 * `npm run mutate -- ROOM…`: changes the code of rooms of the core in small ways and counts the changes that no test of that
 * room notices. Not part of `npm test`: a room takes minutes to an hour. Scores are in `bench/README.md`.
 */
import { spawnSync } from 'node:child_process';
import { fromSource } from '../../jest.config.mjs';

const ROOMS = ['solid', 'document', 'link', 'script', 'trial', 'release'];
const wanted = process.argv.slice(2);
const unknown = wanted.filter((room) => !ROOMS.includes(room));
if (unknown.length > 0) {
  console.error(`No room ${unknown.join(', ')}; there are ${ROOMS.join(', ')}.`);
  process.exit(2);
}

/** Installed only for this, so that nobody waits for it who does not run it. Version 9 is the last for Node.js 20. */
const NEEDED = ['@stryker-mutator/core@9', '@stryker-mutator/jest-runner@9'];
const load = () => import('@stryker-mutator/core').catch(() => null);
if (!(await load())) spawnSync('npm', ['install', '--no-save', '--no-audit', '--no-fund', ...NEEDED], { stdio: 'inherit' });
const { Stryker } = await load();

const scores = [];
for (const room of wanted.length > 0 ? wanted : ROOMS) {
  const results = await new Stryker({
    mutate: [`core/src/${room}/**/*.ts`, '!**/*.test.ts'],
    testRunner: 'jest',
    testRunnerNodeArgs: ['--experimental-vm-modules', '--no-warnings'],
    // The room's own tests alone: what only the tests of other rooms would notice counts as unnoticed.
    jest: { projectType: 'custom', config: { ...fromSource, roots: [`core/src/${room}`] }, enableFindRelatedTests: false },
    coverageAnalysis: 'perTest',
    // Words of messages are looked at by people, not by tests.
    mutator: { excludedMutations: ['StringLiteral'] },
    ignorePatterns: ['docs', 'e2e', 'web/dist', 'bench/corpus'],
    reporters: ['clear-text', 'progress-append-only'],
    clearTextReporter: { logTests: false, allowColor: false, reportScoreTable: false },
    checkers: [],
    concurrency: Number(process.env.MUTATE_THREADS ?? 2),
    timeoutMS: 20_000,
    tempDirName: '.mutate',
    disableTypeChecks: false,
  }).runMutationTest();
  const count = (...statuses) => results.filter((result) => statuses.includes(result.status)).length;
  const caught = count('Killed', 'Timeout');
  const all = caught + count('Survived', 'NoCoverage');
  scores.push(`${room}: ${((caught / all) * 100).toFixed(1)} % of ${all} changes caught, ${count('NoCoverage')} run by no test`);
  console.log(scores.at(-1));
}
console.log(scores.join('\n'));
