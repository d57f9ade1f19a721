/** One thread that lights charts: it holds a scene, is told ranges and answers what it found. */

import { parentPort, workerData } from 'node:worker_threads';
import { chartLighter, type LightScene, type LightTask } from '@violet-crate/core/build/lighting/light';

const light = chartLighter(workerData as LightScene);

parentPort!.on('message', (task: LightTask) => {
  const lit = light(task);
  parentPort!.postMessage(lit, [lit.texels.buffer, lit.direct.buffer, lit.hits.buffer] as ArrayBuffer[]);
});
