import { generatedWorld } from './buildStages.mjs';
import { materialContext } from '@violet-crate/core/build/plan';
import { buildGeometry } from '@violet-crate/core/build/geometry/stage';
const world = generatedWorld(Number(process.argv[2] ?? 4000));
const map = world.crate.maps.bench;
const ctx = materialContext(world, map);
for (let i = 0; i < 2; i++) {
  let t = performance.now();
  const v = buildGeometry({ solids: map.solids, ...ctx }, () => {});
  console.log(v.surfaces.length, performance.now() - t);
}
