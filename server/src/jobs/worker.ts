import { parentPort, workerData } from 'node:worker_threads';
import { unreadableFinding, type Finding, type Stage } from '@violet-crate/core/finding';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { TASKS, type Reporter, type TaskKind, type Tasks } from './tasks.ts';

/** Messages from a worker to its owner. */
export type WorkerMessage =
  | { type: 'progress'; step: string; fraction: number }
  | { type: 'log'; line: string }
  | { type: 'program'; group: number; running: boolean }
  | { type: 'picture'; map: string; files: [name: string, bytes: Uint8Array][] }
  | { type: 'done'; output: unknown }
  | { type: 'failed'; finding: Finding };

const STAGE_OF: Record<TaskKind, Stage> = { build: 'build', pack: 'publish' };

const { kind, input } = workerData as { kind: TaskKind; input: Tasks[TaskKind]['input'] };
const post = (message: WorkerMessage) => parentPort!.postMessage(message);
let last = 0;
let told = '';

try {
  const run = TASKS[kind] as (input: unknown, reporter: Reporter) => Promise<unknown>;
  const output = await run(input, {
    progress(step, fraction) {
      // Ten reports a second are enough for any eye, but every step is told.
      const now = performance.now();
      if (step === told && now - last < 100) return;
      last = now;
      told = step;
      post({ type: 'progress', step, fraction });
    },
    log: (line) => post({ type: 'log', line }),
    program: (group, running) => post({ type: 'program', group, running }),
    picture: (map, files) => post({ type: 'picture', map, files: [...files] }),
  });
  post({ type: 'done', output });
} catch (error) {
  const finding: Finding =
    error instanceof UnreadableInput
      ? unreadableFinding(error, STAGE_OF[kind])
      : {
          code: 'internal',
          severity: 'blocker',
          stage: STAGE_OF[kind],
          message: 'The work stopped unexpectedly; its log says where.',
        };
  if (!(error instanceof UnreadableInput)) post({ type: 'log', line: error instanceof Error ? (error.stack ?? error.message) : String(error) });
  post({ type: 'failed', finding });
}
