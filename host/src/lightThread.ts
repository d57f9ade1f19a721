/** One thread that lights charts: it holds a scene, is told ranges and answers what it found. */

import { parentPort, workerData } from 'node:worker_threads';
import { chartLighter, type LightScene, type LightTask } from '@violet-crate/core/stages/lighting/light';

const light = chartLighter(workerData as LightScene);

parentPort!.on('message', (task: LightTask) => {
  const lit = light(task);
  const own = [lit.texels, lit.direct, lit.hits, ...(lit.indirect ? [lit.indirect] : [])];
  parentPort!.postMessage(lit, own.map((values) => values.buffer) as ArrayBuffer[]);
});
