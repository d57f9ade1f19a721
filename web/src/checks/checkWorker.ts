/** Checks a crate while it is being edited: all findings, and the sealing of its main map. Keeps the crate between edits. */

import { sealingInputs } from '@violet-crate/core/stages/inputs';
import { sealingFindings, sealMap } from '@violet-crate/core/stages/sealing/stage';
import { checkCrate } from '@violet-crate/core/check/checkCrate';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { applyEdit, type MapEdit } from '@violet-crate/core/document/edit';
import { expandWorld } from '@violet-crate/core/map/prefab';

export interface CheckRequest {
  mapName: string;
  /** The crate anew, or what changed in its map since the last time. */
  world?: CrateWorld;
  edit?: MapEdit | null;
}

let world: CrateWorld | null = null;

self.onmessage = (event: MessageEvent<CheckRequest>) => {
  const { mapName, edit } = event.data;
  if (event.data.world) world = event.data.world;
  if (!world) return;
  if (edit) world = { ...world, crate: { ...world.crate, maps: { ...world.crate.maps, [mapName]: applyEdit(world.crate.maps[mapName], edit) } } };
  const started = performance.now();
  const { findings, links } = checkCrate(world);
  const whole = expandWorld(world);
  const map = whole.crate.maps[mapName];
  if (world.profile.sealed && map && Object.keys(map.solids).length > 0 && !findings.some((f) => f.code === 'solid-open')) {
    const inputs = sealingInputs(whole, map);
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
  self.postMessage({ findings, links, milliseconds: performance.now() - started });
};
