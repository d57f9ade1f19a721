/** Draws one view of a built map and ends: it takes about a second, which nobody's event loop has. */

import { parentPort, workerData } from 'node:worker_threads';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { expandMap } from '@violet-crate/core/map/prefab';
import { linearOfHex } from '@violet-crate/core/math/srgb';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { groundView } from '@violet-crate/core/release/groundView';
import { renderThumbnail } from '@violet-crate/core/release/thumbnail';

export interface ViewOrder {
  glb: Uint8Array;
  world: CrateWorld;
  map: string;
  /** Map space, units. */
  eye: Vec3;
  direction: Vec3;
  width: number;
  height: number;
}

const { glb, world, map: name, eye, direction, width, height } = workerData as ViewOrder;
const map = expandMap(world.crate.maps[name], world.profile);
const ground = groundView(world, map, eye);
const sky = linearOfHex(map.settings.skyColour);
parentPort!.postMessage(
  await renderThumbnail(glb, world.profile.unit.metres, { eye, direction, fieldOfView: 68, width, height, sky, ...(ground ? { ground } : {}) }),
);
