/**
 * `npm run attack -- [--rounds N] [--short] [PART…]`: everything that once broke the application, tried on real processes
 * over scratch folders on this machine. Prints what was tried and what held.
 */
import { cleanUp } from './target.mjs';

const PARTS = [
  'start',
  'requests',
  'uploads',
  'scripts',
  'folders',
  'workshop',
  'commandLine',
  'disk',
  'setup',
  'kill',
  'strangers',
  'access',
  'profiles',
];
/** Left out of a short run, unless named: they take long and are about code that changes seldom. */
const LONG = ['uploads', 'scripts', 'folders', 'disk'];
const args = process.argv.slice(2);
const short = args.includes('--short');
const rounds = Number(args[args.indexOf('--rounds') + 1]) || (short ? 2 : 10);
const named = args.filter((arg) => PARTS.includes(arg));
const wanted = named.length > 0 ? named : PARTS.filter((part) => !short || !LONG.includes(part));

const table = [];
const faults = [];
/** What a part is given: names what it tries; whatever throws did not hold. */
const attempt = (part) => {
  const row = { part, tried: 0, held: 0 };
  table.push(row);
  return async (name, work) => {
    row.tried++;
    try {
      await work();
      row.held++;
    } catch (error) {
      faults.push(`${part}, ${name}: ${error.stack?.split('\n').slice(0, 3).join(' | ') ?? error}`);
    }
  };
};

try {
  for (const part of wanted) {
    const started = performance.now();
    const { attack } = await import(`./${part}.mjs`);
    await attack(attempt(part), { short, rounds });
    console.log(`${part}: ${((performance.now() - started) / 1000).toFixed(1)} s`);
  }
} finally {
  cleanUp();
}
// What could not be tried has not held.
for (const row of table)
  if (row.tried === 0) {
    row.tried = 1;
    faults.push(`${row.part}: nothing was tried; what it says above is why`);
  }
for (const fault of faults) console.log(`  ${fault}`);
console.table(table);
const [tried, held] = ['tried', 'held'].map((key) => table.reduce((sum, row) => sum + row[key], 0));
console.log(`attack: ${held} passed, ${tried - held} failed`);
process.exit(held === tried ? 0 : 1);
