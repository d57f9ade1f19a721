/** `npm run bench`: ratios of processor time against named references, all in this run. Below 1 is faster. */
import { bigObj } from './bigObj.mjs';
import { buildStages, fullVisibility, gatherRays, lightThreads, rebuild } from './buildStages.mjs';
import { folderImport } from './folderImport.mjs';
import { glbConversion } from './glbConversion.mjs';
import { librarySearch } from './librarySearch.mjs';
import { mapEdits } from './mapEdits.mjs';
import { objImport } from './objImport.mjs';
import { sceneFiles } from './sceneFiles.mjs';
import { shadowRays } from './shadowRays.mjs';
import { unionOfSolids } from './unionOfSolids.mjs';

const rounds = Number(process.argv[2] ?? 5);
await unionOfSolids(rounds, 250);
await unionOfSolids(rounds, 1000);
await unionOfSolids(rounds, 2000);
await shadowRays(rounds);
await objImport(rounds);
await bigObj(Math.min(3, rounds));
await sceneFiles();
await glbConversion(rounds);
await folderImport(Math.min(3, rounds));
await librarySearch(rounds);
mapEdits();
await buildStages();
await rebuild();
await fullVisibility();
gatherRays();
await lightThreads();
