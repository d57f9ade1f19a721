/**
 * The build of generated maps of 250, 1,000 and 4,000 solids: time of every stage per solid and its growth, what a moved
 * lamp and a changed script cost of a whole build, full visibility, and the rays of lighting against bare three-mesh-bvh.
 */
import { availableParallelism } from 'node:os';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { buildMap } from '@violet-crate/core/stages/pipeline';
import { parametersOf } from '@violet-crate/core/stages/contract/parameters';
import { sealingInputs, stageInputs } from '@violet-crate/core/stages/inputs';
import { buildGeometry } from '@violet-crate/core/stages/geometry/stage';
import { buildBvh, castRay } from '@violet-crate/core/stages/lighting/bvh';
import { cosineDirections } from '@violet-crate/core/stages/lighting/directions';
import { chartLighter, lightAllCharts } from '@violet-crate/core/stages/lighting/light';
import { lightScene } from '@violet-crate/core/stages/lighting/stage';
import { blocksOf } from '@violet-crate/core/stages/lighting/charts';
import { forEachLuxel, polygonsByCell } from '@violet-crate/core/stages/lighting/luxels';
import { leafAt } from '@violet-crate/core/stages/sealing/bsp';
import { floodTree, sealTree } from '@violet-crate/core/stages/sealing/stage';
import { newCrateContents } from '@violet-crate/core/crate/template';
import { newObject } from '@violet-crate/core/profile/newObject';
import { loadProfile } from '@violet-crate/core/profile/load';
import { solidPolygons } from '@violet-crate/core/solid/solid';
import { block, roomShell } from '@violet-crate/core/solid/primitives';
import { lightCrew } from '@violet-crate/host/lightCrew';
import { seeded } from './measure.mjs';

const profile = loadProfile(readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'), 'brinewick.json');
const material = (name) => ({ name, type: 'lit', colour: '#8a8078', unitsPerRepeat: 64 });

/** Rooms of 256 by 256 in a grid with doors between them, furniture and a lamp in each; about `count` solids. */
export function generatedWorld(count) {
  const random = seeded(count);
  const side = Math.max(1, Math.round(Math.sqrt(count / 16)));
  const size = side * 256;
  const solids = [...roomShell({ min: [0, 0, 0], max: [size, size, 128] }, 16, 'wall')];
  const wall = (min, max) => solids.push(block({ min, max }, 'wall'));
  for (let i = 1; i < side; i++)
    for (let j = 0; j < side; j++) {
      const [at, from] = [i * 256, j * 256];
      const door = from + 32 + Math.floor(random() * 10) * 16;
      // Wall, door with lintel, wall; both ways.
      wall([at - 8, from, 0], [at + 8, door, 128]);
      wall([at - 8, door + 48, 0], [at + 8, from + 256, 128]);
      wall([at - 8, door, 88], [at + 8, door + 48, 128]);
      wall([from, at - 8, 0], [door, at + 8, 128]);
      wall([door + 48, at - 8, 0], [from + 256, at + 8, 128]);
      wall([door, at - 8, 88], [door + 48, at + 8, 128]);
    }
  const left = Math.max(0, count - solids.length);
  for (let n = 0; n < left; n++) {
    const [x, y] = [Math.floor(random() * (size / 16 - 2)) * 16, Math.floor(random() * (size / 16 - 2)) * 16];
    const solid = block({ min: [x, y, 0], max: [x + 16 + Math.floor(random() * 3) * 8, y + 16, 16 + Math.floor(random() * 4) * 8] }, 'wood');
    solids.push({ ...solid, detail: n % 4 !== 0 });
  }
  const contents = newCrateContents(profile, { name: 'bench', title: 'Bench', template: 'blank' });
  contents.manifest.materials = [material('wall'), material('wood')];
  const map = contents.maps.bench;
  solids.forEach((solid, i) => (map.solids[`s${i + 1}`] = solid));
  map.objects.o1 = newObject(profile, 'start', 'start', [64, 64, 48]);
  for (let i = 0; i < side; i++)
    for (let j = 0; j < side; j++) {
      const id = `o${2 + i * side + j}`;
      map.objects[id] = newObject(profile, 'lamp', `lamp_${id}`, [i * 256 + 128, j * 256 + 128, 100]);
    }
  return { crate: contents, profile, base: { materials: [], assets: {}, files: [] } };
}

function memoryCache() {
  const stored = new Map();
  return { get: async (key) => stored.get(key) ?? null, put: async (key, value) => void stored.set(key, value) };
}

async function timedBuild(world, options = {}) {
  let most = 0;
  const start = performance.now();
  const result = await buildMap(world, 'bench', {
    quality: 'draft',
    anyway: true,
    crew: lightCrew(options.threads),
    memory: () => (most = Math.max(most, process.memoryUsage.rss())),
    ...options,
  });
  return { ms: performance.now() - start, result, most };
}

/** Peak memory and time of a final build; minutes of work, so it is not part of `npm run bench`: `node bench/finalBuild.mjs`. */
export async function finalBuild(count = 4000) {
  const { ms, result, most } = await timedBuild(generatedWorld(count), { quality: 'final' });
  const told = result.stages.map((s) => `${s.stage} ${(s.milliseconds / 1000).toFixed(1)} s`).join(', ');
  console.log(`Final build of ${count} solids: ${Math.round(ms / 1000)} s (${told}), at most ${Math.round(most / 1048576)} MiB (target 1536)`);
}

export async function buildStages(sizes = [250, 1000, 4000]) {
  console.log('Builds of generated maps (draft, milliseconds per stage)');
  const rows = [];
  for (const count of sizes) {
    const { ms, result, most } = await timedBuild(generatedWorld(count), { parameters: { visibility: 'fast' } });
    rows.push({ count, stages: Object.fromEntries(result.stages.map((s) => [s.stage, s.milliseconds])) });
    const told = result.stages.map((s) => `${s.stage} ${s.milliseconds}`).join(', ');
    console.log(`  ${count} solids: ${Math.round(ms)} ms (${told}), memory ${Math.round(most / 1048576)} MiB${result.ok ? '' : ', STOPPED'}`);
  }
  if (rows.length > 1) {
    const [first, last] = [rows[0], rows.at(-1)];
    const exponent = (stage) => (Math.log(last.stages[stage] / Math.max(1, first.stages[stage])) / Math.log(last.count / first.count)).toFixed(2);
    console.log(`  growth: ${['geometry', 'sealing', 'lighting', 'navigation'].map((s) => `${s} n^${exponent(s)}`).join(', ')} (target 1.2)`);
  }
}

/** What a moved lamp and a changed script cost, as shares of the first build of the same map. */
export async function rebuild(count = 1000) {
  const world = generatedWorld(count);
  const cache = memoryCache();
  const options = { cache, quality: 'preview' };
  const whole = await timedBuild(world, options);
  const lamp = world.crate.maps.bench.objects.o3;
  lamp.position = [lamp.position[0] + 16, lamp.position[1], lamp.position[2]];
  const moved = await timedBuild(world, options);
  world.crate.scripts['scripts/main.lua'] += '\n-- changed';
  const script = await timedBuild(world, options);
  const states = (r) => r.result.stages.map((s) => `${s.stage} ${s.state}`).join(', ');
  console.log(
    `A moved lamp in the map of ${count} solids: ${((moved.ms / whole.ms) * 100).toFixed(0)} % of the whole build (target 25): ${states(moved)}`,
  );
  console.log(`A changed script: ${((script.ms / whole.ms) * 100).toFixed(0)} %: ${states(script)}`);
}

/** Full visibility of a map of many cells. */
export async function fullVisibility(count = 600, pairs = 400_000) {
  const world = generatedWorld(count);
  const { result } = await timedBuild(world, { parameters: { visibility: 'full', luxel: 64, hemisphereRays: 0 } });
  const stage = result.stages.find((s) => s.stage === 'visibility');
  console.log(
    `Full visibility: ${stage.counts.cells} cells, ${stage.counts.gates} portal sides in ${(stage.milliseconds / 1000).toFixed(1)} s (target: 500 cells in 30 s)`,
  );
  // How many more pairs of cells count as seen than rays between random points find. Rays miss slits, so the truth lies between.
  const map = world.crate.maps.bench;
  const inputs = sealingInputs(world, map);
  const tree = sealTree(Object.values(inputs.solids));
  const cellOf = new Map(floodTree(tree, inputs.sources, []).inside.map((leaf, cell) => [leaf, cell]));
  const corners = Object.values(inputs.solids).flatMap((solid) =>
    solidPolygons(solid).flatMap(({ winding }) => winding.slice(2).flatMap((p, i) => [...winding[0], ...winding[i + 1], ...p])),
  );
  const bvh = buildBvh(Float32Array.from(corners));
  const random = seeded(7);
  const size = Math.max(...Object.values(map.solids).flatMap((solid) => solid.faces.map((face) => Math.abs(face.distance))));
  const point = () => [random() * size, random() * size, random() * 128];
  const seen = new Set();
  const hit = { triangle: -1, distance: 0 };
  for (let i = 0; i < pairs; i++) {
    // Near points see each other more often, so that small cells are met too.
    const a = point();
    const b = i % 2 === 0 ? point() : a.map((v, k) => (k < 2 ? v + (random() - 0.5) * 400 : random() * 128));
    const [from, to] = [cellOf.get(leafAt(tree.bsp, a).index), cellOf.get(leafAt(tree.bsp, b).index)];
    if (from === undefined || to === undefined) continue;
    if (castRay(bvh, a[0], a[1], a[2], b[0] - a[0], b[1] - a[1], b[2] - a[2], 0, 1, true, hit)) continue;
    seen.add(Math.min(from, to) * cellOf.size + Math.max(from, to));
  }
  // The rows of the table count both ways and every cell with itself.
  const both = [...seen].reduce((sum, key) => sum + (Math.floor(key / cellOf.size) === key % cellOf.size ? 1 : 2), 0);
  console.log(`  tightness: ${(stage.counts.pairsSeen / both).toFixed(2)} pairs of cells count as seen for one that ${pairs} rays found`);
}

function benchScene(count) {
  const world = generatedWorld(count);
  const { geometry, lighting } = stageInputs(world, 'bench', parametersOf('preview', profile));
  const { surfaces } = buildGeometry(geometry, () => {});
  const lights = Object.values(lighting.lights).map(({ light }) => light);
  const options = { hemisphereRays: 64, bounces: 1, supersample: 1, sunRays: 1, denoise: 0 };
  return lightScene({ ...lighting, surfaces, lights, suns: [] }, 16, options).scene;
}

/** Rays per second of the hemisphere's gathering over those of first hits by three-mesh-bvh on the same rays. */
export function gatherRays(count = 1000) {
  const scene = benchScene(count);
  const light = chartLighter(scene);
  const blocks = blocksOf(scene.atlas).slice(0, 300);
  const task = { from: 0, to: blocks.length, direct: false, hits: true };
  light(task);
  let start = performance.now();
  const rays = light(task).hits.length;
  const ours = performance.now() - start;

  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(scene.inputs.occluders, 3));
  const bvh = new MeshBVH(geometry, { maxLeafTris: 4 });
  const directions = cosineDirections(64);
  const ray = new Ray(new Vector3(), new Vector3());
  let cast = 0;
  const run = () => {
    cast = 0;
    for (const block of blocks) {
      const chart = scene.atlas.charts[block.chart];
      forEachLuxel(scene.atlas, block, polygonsByCell(scene.inputs.surfaces, chart), (texel, point) => {
        const angle = ((texel * 2654435761) >>> 0) * (2 * Math.PI * 2.3283064365386963e-10);
        const [c, s] = [Math.cos(angle), Math.sin(angle)];
        const { u, v, normal } = chart;
        ray.origin.set(...point);
        for (const [a, b, z] of directions) {
          const [x, y] = [a * c - b * s, a * s + b * c];
          ray.direction.set(u[0] * x + v[0] * y + normal[0] * z, u[1] * x + v[1] * y + normal[1] * z, u[2] * x + v[2] * y + normal[2] * z);
          bvh.raycastFirst(ray, DoubleSide);
          cast++;
        }
      });
    }
  };
  run();
  start = performance.now();
  run();
  const theirs = performance.now() - start;
  console.log(
    `Gathering: ${((rays / ours / (cast / theirs)) * 1).toFixed(2)} of the ray rate of three-mesh-bvh's first hits on the same rays (target 0.8)`,
  );
}

/** Two threads against one on the same charts. */
export async function lightThreads(count = 400, rounds = 3) {
  const scene = benchScene(count);
  const time = async (threads) => {
    const crew = lightCrew(threads)(scene, 1e6);
    // All threads have the scene, and their code is compiled, before the clock starts.
    await Promise.all(Array.from({ length: threads }, () => crew.run({ from: 0, to: 200, direct: true, hits: true })));
    const start = performance.now();
    await lightAllCharts(scene, crew, {}, () => {});
    const ms = performance.now() - start;
    await crew.close();
    return ms;
  };
  // One and two in turn, since other work on a shared machine comes and goes.
  const pairs = [];
  for (let i = 0; i < rounds; i++) pairs.push([await time(1), await time(2)]);
  const gains = pairs.map(([one, two]) => one / two).sort((a, b) => a - b);
  console.log(
    `Lighting with two threads: ${gains[rounds >> 1].toFixed(2)} times as fast as with one (${gains[0].toFixed(2)} to ${gains.at(-1).toFixed(2)}, target 1.8; ${availableParallelism()} cores here)`,
  );
}
