import { finalBuild } from './buildStages.mjs';

await finalBuild(Number(process.argv[2] ?? 4000));
