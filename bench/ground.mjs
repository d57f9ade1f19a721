/**
 * Ground: strokes and their undo by the size of the terrain, scattering, weathering, what a build of it costs beside solids with as many
 * triangles, how long a race is without a screen, and what a ground takes up. Milliseconds and MiB of this run.
 */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { applyEdit, invertEdit } from '@violet-crate/core/document/edit';
import { emptyMap } from '@violet-crate/core/profile/emptyMap';
import { loadProfile } from '@violet-crate/core/profile/load';
import { newCrateContents } from '@violet-crate/core/crate/template';
import { buildMap } from '@violet-crate/core/stages/pipeline';
import { PLAIN_BRUSH } from '@violet-crate/core/terrain/brush/brush';
import { Stroke } from '@violet-crate/core/terrain/brush/stroke';
import { groundOf } from '@violet-crate/core/terrain/ground';
import { newTerrain } from '@violet-crate/core/terrain/newTerrain';
import { replaceHeights, weatherGround } from '@violet-crate/core/terrain/reshape';
import { rebuild } from '@violet-crate/core/terrain/rule/rebuild';
import { seeded } from './measure.mjs';
import { generatedWorld } from './buildStages.mjs';

const profile = loadProfile(readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/skarrow.json')), 'utf8'), 'skarrow.json');
const timed = (work) => {
  const start = performance.now();
  work();
  return performance.now() - start;
};
const at = (times, share) => [...times].sort((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * share))];

/** Hills on `side` by `side` samples, one unit apart. */
export function hills(side, change = {}) {
  const map = emptyMap(profile);
  const terrain = { ...newTerrain(profile, { name: 'bench', samples: [side, side], spacing: 1, base: 0 }), range: [-200, 400], ...change };
  const framed = { ...map, terrains: { e1: terrain } };
  const heights = new Float32Array(side * side);
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++)
      heights[j * side + i] = 40 * Math.sin(i / 97) * Math.cos(j / 83) + 6 * Math.sin(i / 17 + j / 23) + 1.5 * Math.sin(i / 5) * Math.sin(j / 4);
  return applyEdit(framed, { name: 'hills', changes: replaceHeights(groundOf(framed, 'e1'), heights) });
}

/** Strokes of radius 32: what every move of the pointer costs, and what ends in an edit and its undo. */
function strokes(side) {
  let map = hills(side);
  const random = seeded(side);
  const moves = [];
  const ends = [];
  const undos = [];
  for (let n = 0; n < 60; n++) {
    const ground = groundOf(map, 'e1');
    const stroke = new Stroke(ground, n % 2 === 0 ? 'raise' : 'smooth', { ...PLAIN_BRUSH, radius: 32 });
    let [x, y] = [200 + random() * (side - 400), 200 + random() * (side - 400)];
    stroke.to(x, y);
    for (let k = 0; k < 12; k++) {
      [x, y] = [x + 6, y + 3];
      moves.push(timed(() => stroke.to(x, y)));
    }
    let edit;
    let inverse;
    ends.push(
      timed(() => {
        edit = { name: 'stroke', changes: stroke.finish() };
        inverse = invertEdit(map, edit);
        map = applyEdit(map, edit);
        groundOf(map, 'e1');
      }),
    );
    const undone = map;
    undos.push(timed(() => groundOf(applyEdit(undone, inverse), 'e1')));
  }
  return { side, move: at(moves, 0.95), end: at(ends, 0.95), undo: at(undos, 0.95) };
}

const mib = (bytes) => (bytes / 1048576).toFixed(0);

export async function ground() {
  globalThis.gc?.();
  const before = process.memoryUsage();
  const big = hills(4097, { depth: 'u16' });
  const one = groundOf(big, 'e1');
  one.at(0, 0);
  globalThis.gc?.();
  const after = process.memoryUsage();
  const text = Object.values(big.tiles).reduce((sum, { heights }) => sum + (heights?.length ?? 0), 0);
  console.log(
    `  4097²: ${mib(after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers)} MiB in memory, ${mib(text)} MiB of it as text`,
  );

  strokes(513);
  const rows = [513, 1025, 2049, 4097].map(strokes);
  console.log('Strokes of radius 32 on ground (95th percentile, ms)');
  for (const r of rows) console.log(`  ${r.side}²: a move ${r.move.toFixed(2)}, the edit in the end ${r.end.toFixed(2)}, undo ${r.undo.toFixed(2)}`);
  const growth = (key) => (Math.log(rows[2][key] / rows[0][key]) / Math.log((2049 / 513) ** 2)).toFixed(2);
  console.log(`  growth from 513² to 2049² by samples: move n^${growth('move')}, edit n^${growth('end')}, undo n^${growth('undo')}`);

  const many = hills(2049, {
    things: [{ id: 'pine', label: 'Pine', model: 'models/pine_tall.glb', size: [1, 1], sink: 0, lean: 0, radius: 0.3, tall: 6 }],
    scatter: { g1: { name: 'Pines', seed: 3, thing: 'pine', apart: 4.6, share: 1, slope: [0, 90] } },
  });
  let changes = [];
  const took = timed(
    () => (changes = rebuild(groundOf(many, 'e1'), [], (done) => groundOf(applyEdit(many, { name: 'rules', changes: [...done] }), 'e1'))),
  );
  const grown = groundOf(applyEdit(many, { name: 'grown', changes }), 'e1');
  const things = grown.tiles.reduce((sum, _, n) => sum + grown.thingsOn(n).length, 0);
  console.log(
    `Scattering ${things.toLocaleString('en')} things by rule: ${(took / 1000).toFixed(2)} s, ${((took / things) * 100).toFixed(2)} s per 100,000`,
  );

  const worn = hills(1025);
  for (const kind of ['thermal', 'hydraulic'])
    console.log(
      `Weathering 1025², 100 steps, ${kind}: ${(timed(() => weatherGround(groundOf(worn, 'e1'), { kind, steps: 100, strength: 0.8, rest: 32 })) / 1000).toFixed(1)} s`,
    );

  const contents = newCrateContents(profile, { name: 'bench', title: 'Bench', template: 'blank' });
  contents.manifest.materials = [];
  contents.maps.bench = { ...hills(1025), objects: contents.maps.bench.objects, copies: contents.maps.bench.copies };
  const base = { format: 1, title: 'none', version: '1.0.0', materials: [], assets: {}, files: [] };
  const options = { quality: 'preview', anyway: true };
  const build = async (world) => {
    const start = performance.now();
    const { stages } = await buildMap(world, 'bench', options);
    const triangles = stages.reduce((sum, { stage, counts }) => sum + (stage === 'ground' || stage === 'geometry' ? (counts.triangles ?? 0) : 0), 0);
    return {
      seconds: (performance.now() - start) / 1000,
      triangles,
      slow: [...stages]
        .sort((a, b) => b.milliseconds - a.milliseconds)
        .slice(0, 3)
        .map(({ stage, milliseconds }) => `${stage} ${(milliseconds / 1000).toFixed(1)} s`),
    };
  };
  const ours = await build({ profile, base, crate: contents });
  const solids = await build(generatedWorld(1000));
  const perTriangle = ({ seconds, triangles }) => seconds / triangles;
  console.log(
    `Building 1025² at preview: ${ours.seconds.toFixed(1)} s for ${ours.triangles.toLocaleString('en')} triangles (${ours.slow.join(', ')}); solids ${solids.seconds.toFixed(1)} s for ${solids.triangles.toLocaleString('en')} (${solids.slow.join(', ')}): ${(perTriangle(ours) / perTriangle(solids)).toFixed(3)} × the time per triangle`,
  );
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await ground();
