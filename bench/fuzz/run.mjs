/**
 * `npm run fuzz -- [cases] [seed] [format…]`: damages valid files of every format and reads them. Whatever
 * happens has to be a reading or a message: no crash, no hang, no runaway memory.
 */
import { join } from 'node:path';
import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { seeds } from './seeds.mjs';

const [cases = '20000', seed = String(Date.now() % 1e6), ...only] = process.argv.slice(2);
/** Milliseconds for one damaged file of a kilobyte or so, and mebibytes for the thread. */
const PATIENCE = 15_000;
const MEMORY = 1024;

function fuzz(format, file, bytes) {
  return new Promise((resolve) => {
    const worker = new Worker(join(import.meta.dirname, 'thread.mjs'), {
      workerData: { format, file, bytes, cases: Number(cases), seed: Number(seed) },
      resourceLimits: { maxOldGenerationSizeMb: MEMORY },
      stdout: true,
      stderr: true,
    });
    let last = null;
    let timer = setTimeout(hang, PATIENCE * 4);
    const end = (result) => {
      clearTimeout(timer);
      void worker.terminate();
      resolve(result);
    };
    function hang() {
      end({ done: last?.begin ?? 0, refused: 0, faults: [`case ${last?.begin} took longer than ${PATIENCE} ms: ${JSON.stringify(last?.changes)}`] });
    }
    worker.on('message', (message) => {
      if (message.end) return end(message);
      last = message;
      clearTimeout(timer);
      timer = setTimeout(hang, PATIENCE);
    });
    worker.on('error', (error) =>
      end({
        done: last?.begin ?? 0,
        refused: 0,
        faults: [`case ${last?.begin} ended the thread: ${error.message}: ${JSON.stringify(last?.changes)}`],
      }),
    );
  });
}

const queue = Object.entries(await seeds()).filter(([format]) => only.length === 0 || only.includes(format));
let passed = 0;
let failed = 0;
async function work() {
  for (let next = queue.shift(); next; next = queue.shift()) {
    const [format, [file, bytes]] = next;
    const start = performance.now();
    const { done, refused, faults } = await fuzz(format, file, bytes);
    const seconds = ((performance.now() - start) / 1000).toFixed(1);
    if (faults.length === 0) passed++;
    else failed++;
    console.log(
      `${faults.length === 0 ? 'ok  ' : 'FAIL'} ${format.padEnd(18)} ${done} damaged files: ${done - refused} read, ${refused} refused with a message, ${seconds} s`,
    );
    for (const fault of faults.slice(0, 3)) console.log(`     ${fault.slice(0, 900)}`);
  }
}
await Promise.all(Array.from({ length: Math.min(4, availableParallelism()) }, work));
console.log(`fuzz: ${passed} passed, ${failed} failed (${cases} cases per format, seed ${seed})`);
process.exit(failed === 0 ? 0 : 1);
