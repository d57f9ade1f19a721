/** Exposed faces of overlapping boxes against manifold-3d's batch union of the same boxes. */
import Module from 'manifold-3d';
import { exposeFaces, measureExposed } from '@violet-crate/core/stages/geometry/expose';
import { block } from '@violet-crate/core/solid/primitives';
import { compare, seeded } from './measure.mjs';

export async function unionOfSolids(rounds, count = 1000) {
  const wasm = await Module();
  wasm.setup();
  const random = seeded(3);
  const side = Math.cbrt(count) * 40;
  const boxes = Array.from({ length: count }, () => {
    const min = [0, 1, 2].map(() => Math.floor(random() * side));
    return { min, max: min.map((v) => v + 8 + Math.floor(random() * 56)) };
  });
  const solids = boxes.map((box) => block(box, 'm'));
  let ours;
  let theirs;
  const row = await compare(
    `union of ${count} overlapping boxes (reference: manifold-3d batch union)`,
    rounds,
    () => {
      ours = measureExposed(solids, exposeFaces(solids));
    },
    () => {
      const parts = boxes.map(({ min, max }) => wasm.Manifold.cube([max[0] - min[0], max[1] - min[1], max[2] - min[2]]).translate(min));
      const union = wasm.Manifold.union(parts);
      theirs = { volume: union.volume(), area: union.surfaceArea() };
      union.delete();
      for (const part of parts) part.delete();
    },
  );
  console.log(`  volume: ours ${ours.volume.toFixed(1)}, reference ${theirs.volume.toFixed(1)}`);
  return row;
}
