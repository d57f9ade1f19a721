/** Checks a crate while it is being edited: all findings but those of the sealing, which has a worker of its own. */

import { checkCrate } from '@violet-crate/core/check/checkCrate';
import { takeRequest, type CheckRequest } from './keptCrate.ts';

self.onmessage = (event: MessageEvent<CheckRequest>) => {
  const world = takeRequest(event.data);
  if (!world) return;
  const started = performance.now();
  const { findings, links } = checkCrate(world);
  self.postMessage({ findings, links, milliseconds: performance.now() - started });
};
