/** Looks for leaks of the map while it is being edited, on the side of all other checks, since it takes longest. */

import { checkSolid } from '@violet-crate/core/check/checkSolid';
import { expandWorld } from '@violet-crate/core/map/prefab';
import { sealingInputs } from '@violet-crate/core/stages/inputs';
import { sealingFindings, sealMap } from '@violet-crate/core/stages/sealing/stage';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { takeRequest, type CheckRequest } from './keptCrate.ts';

function leaks(given: CrateWorld, mapName: string) {
  const world = expandWorld(given);
  const map = world.crate.maps[mapName];
  if (!world.profile.sealed || !map || Object.keys(map.solids).length === 0) return [];
  // A solid that is not closed is a finding by itself, and says nothing about leaks.
  if (Object.entries(map.solids).some(([id, solid]) => checkSolid(id, solid, mapName).length > 0)) return [];
  const inputs = sealingInputs(world, map);
  if (inputs.sources.length === 0) return [];
  return sealingFindings(
    inputs,
    sealMap(inputs, [], () => {}),
    mapName,
    world.profile.unit.plural,
  );
}

self.onmessage = (event: MessageEvent<CheckRequest>) => {
  const world = takeRequest(event.data);
  if (world) self.postMessage({ findings: leaks(world, event.data.mapName) });
};
