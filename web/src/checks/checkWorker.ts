/** Checks a crate while it is being edited: all findings but those of the sealing, which has a worker of its own. */

import { checkCrate } from '@violet-crate/core/check/checkCrate';
import { LinkGraph } from '@violet-crate/core/link/graph';
import { takeRequest, type CheckRequest } from './keptCrate.ts';

/** Kept from check to check: only what was edited is followed anew. */
let graph: LinkGraph | null = null;

self.onmessage = (event: MessageEvent<CheckRequest>) => {
  const world = takeRequest(event.data);
  if (!world) return;
  const started = performance.now();
  graph ??= new LinkGraph(world);
  const { findings } = checkCrate(world, graph);
  self.postMessage({ findings, milliseconds: performance.now() - started });
};
