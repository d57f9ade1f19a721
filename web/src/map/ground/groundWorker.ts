/** Long work on the ground beside the page. Cancelling ends the worker: what it has so far is thrown away. */

import { workOnGround, type GroundDone, type GroundWork } from '@violet-crate/core/terrain/work/groundWork';
import type { GameMap } from '@violet-crate/core/document/schema';
import { UnreadableInput } from '@violet-crate/core/unreadable';

export interface GroundOrder {
  map: GameMap;
  id: string;
  work: GroundWork;
}

export type GroundAnswer = { progress: number } | { done: GroundDone } | { refusal: string };

onmessage = ({ data: { map, id, work } }: MessageEvent<GroundOrder>) => {
  let told = 0;
  const answer = (message: GroundAnswer) => postMessage(message);
  try {
    const done = workOnGround(map, id, work, (progress) => {
      if (performance.now() - told < 60) return;
      told = performance.now();
      answer({ progress });
    });
    answer({ done });
  } catch (error) {
    if (!(error instanceof UnreadableInput)) throw error;
    answer({ refusal: `${error.message} ${error.hint ?? ''}`.trim() });
  }
};
