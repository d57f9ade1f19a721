/**
 * 5,000 decals on a map of 5,000 solids: the build with them against the same build without, draws by material and sector, and what
 * putting one more costs while the map is edited.
 */
import { buildMap } from '@violet-crate/core/stages/pipeline';
import { newDecal, plainStyle } from '@violet-crate/core/decal/place';
import { DecalPieces } from '@violet-crate/core/decal/pieces';
import { applyEdit } from '@violet-crate/core/document/edit';
import { pickSolids } from '@violet-crate/core/map/pick';
import { generatedWorld } from './buildStages.mjs';
import { seeded } from './measure.mjs';

const COUNT = 5000;
const BUILD = { quality: 'draft', parameters: { luxel: 32, hemisphereRays: 4, bounces: 1, probeSpacing: 0, visibility: 'fast' }, anyway: true };

function dressed(world) {
  const random = seeded(5);
  const map = world.crate.maps.bench;
  const boxes = Object.values(map.solids).flatMap((solid) => solid.faces.filter(({ normal }) => normal[0] === 1).map(({ distance }) => distance));
  const side = Math.max(...boxes);
  const decals = {};
  for (let n = 1; n <= COUNT; n++) {
    const at = [random() * side, random() * side, 100];
    const angle = random() * 2 * Math.PI;
    const [hit] = pickSolids(map.solids, at, n % 2 === 0 ? [0, 0, -1] : [Math.cos(angle), Math.sin(angle), 0]);
    if (!hit) continue;
    const direction = n % 2 === 0 ? [0, 0, -1] : [Math.cos(angle), Math.sin(angle), 0];
    decals[`d${n}`] = {
      name: `decal_${n}`,
      ...plainStyle(n % 3 === 0 ? 'crack' : 'stain', [16 + random() * 32, 16 + random() * 32]),
      soft: n % 4 === 0 ? 0.3 : 0,
      position: at.map((v, k) => v + direction[k] * hit.t),
      normal: map.solids[hit.solid].faces[hit.face].normal,
      on: hit.solid,
    };
  }
  const material = (name) => ({ name, type: 'decal', colour: '#604020', unitsPerRepeat: 64 });
  const manifest = { ...world.crate.manifest, materials: [...world.crate.manifest.materials, material('stain'), material('crack')] };
  return { ...world, crate: { ...world.crate, manifest, maps: { bench: { ...map, decals } } } };
}

const seconds = async (world) => {
  const start = performance.now();
  const { artefacts } = await buildMap(world, 'bench', BUILD);
  return { time: performance.now() - start, glb: artefacts.get('maps/bench/map.glb') };
};
const median = (list) => [...list].sort((a, b) => a - b)[list.length >> 1];

export async function decals(rounds = 3) {
  const plain = generatedWorld(5000);
  const world = dressed(plain);
  const ratios = [];
  let glb;
  for (let n = 0; n < rounds; n++) {
    const without = await seconds(plain);
    const withThem = await seconds(world);
    glb = withThem.glb;
    ratios.push(withThem.time / without.time);
  }
  const length = new DataView(glb.buffer, glb.byteOffset).getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length)));
  const draws = json.meshes.map(({ primitives }) => primitives.filter(({ attributes }) => attributes.COLOR_0 !== undefined).length);
  const dressedMeshes = draws.filter((count) => count > 0);
  console.log(
    `A build with ${Object.keys(world.crate.maps.bench.decals).length} decals on 5,000 solids (reference: without): ${median(ratios).toFixed(2)} ×; draws of 2 materials in a sector: ${median(dressedMeshes)}, at most ${Math.max(...dressedMeshes)}`,
  );
  let map = world.crate.maps.bench;
  const pieces = new DecalPieces();
  pieces.update(map.decals, map.solids);
  const times = Array.from({ length: 50 }, (_, n) => {
    const start = performance.now();
    map = applyEdit(map, newDecal(map, plainStyle('stain', [24, 24]), { point: [40 + n, 40, 0], normal: [0, 0, 1] }).edit);
    pieces.update(map.decals, map.solids);
    return performance.now() - start;
  });
  console.log(`Putting one more among them: ${median(times).toFixed(1)} ms`);
}
