/** Checks a crate while it is being edited: all findings, and the sealing of its main map. */

import { sealingInputs } from '@violet-crate/core/build/pipeline';
import { sealingFindings, sealMap } from '@violet-crate/core/build/sealing/stage';
import { checkCrate } from '@violet-crate/core/crate/check';
import type { CrateWorld } from '@violet-crate/core/crate/world';

self.onmessage = (event: MessageEvent<{ ticket: number; world: CrateWorld; mapName: string }>) => {
  const { ticket, world, mapName } = event.data;
  const { findings, links } = checkCrate(world);
  const map = world.crate.maps[mapName];
  if (world.profile.sealed && map && Object.keys(map.solids).length > 0 && !findings.some((f) => f.code === 'solid-open')) {
    const inputs = sealingInputs(world, map);
    if (inputs.sources.length > 0)
      findings.push(
        ...sealingFindings(
          inputs,
          sealMap(inputs, [], () => {}),
          mapName,
          world.profile.unit.plural,
        ),
      );
  }
  self.postMessage({ ticket, findings, links });
};
