import { buildStages, rebuild, fullVisibility, gatherRays, lightThreads } from '/work/main/bench/buildStages.mjs';
const w = process.argv[2];
if (w === 'stages') await buildStages([250, 1000, 4000]);
if (w === 'rebuild') {
  await rebuild();
}
if (w === 'vis') await fullVisibility();
if (w === 'rays') gatherRays();
if (w === 'threads') await lightThreads();
