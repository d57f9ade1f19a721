/** `npm run bench`: ratios of processor time against named references, all in this run. Below 1 is faster. */
import { objImport } from './objImport.mjs';
import { shadowRays } from './shadowRays.mjs';
import { unionOfSolids } from './unionOfSolids.mjs';

const rounds = Number(process.argv[2] ?? 5);
await unionOfSolids(rounds, 250);
await unionOfSolids(rounds, 1000);
await shadowRays(rounds);
await objImport(rounds);
