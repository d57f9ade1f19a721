/**
 * `npm run corpus`: one shape in every form that the formats allow and other programs write. Our reader has to find its
 * triangles, bounds and area, which follow from geometry; Debian's assimp-utils reads the same files as a second opinion.
 * Files that are wrong have to end in a sentence that says what and where.
 */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import validator from 'gltf-validator';
import { readFileSync } from 'node:fs';
import { readModel } from '@violet-crate/core/asset/mesh/read/readModel';
import { convertModel } from '@violet-crate/core/asset/mesh/convert';
import { loadProfile } from '@violet-crate/core/profile/load';
import { badCollada, collada } from './collada.mjs';
import { badFbx, fbx } from './fbx.mjs';
import { badGltf, gltfVariants } from './gltf.mjs';
import { objVariants, plyVariants, stlVariants } from './plainText.mjs';
import { AREA, TRIANGLES } from './shape.mjs';

const ASSIMP = '/usr/bin/assimp';
const profile = loadProfile(readFileSync(new URL('../../core/profiles/brinewick.json', import.meta.url), 'utf8'), 'brinewick.json');
const folder = mkdtempSync(join(tmpdir(), 'violet-corpus-'));
let passed = 0;
let failed = 0;
let agreed = 0;
const notRead = [];
const near = (a, b) => Math.abs(a - b) < 1e-4 * Math.max(1, Math.abs(b));

/** Triangles, bounds and area of a model's parts, rigged ones at rest. */
function facts(model) {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  let [triangles, area] = [0, 0];
  for (const { positions, indices } of model.parts) {
    triangles += indices.length / 3;
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => positions.subarray(indices[i + k] * 3, indices[i + k] * 3 + 3));
      const [u, v] = [b, c].map((p) => [p[0] - a[0], p[1] - a[1], p[2] - a[2]]);
      area += Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
      for (const p of [a, b, c])
        for (let k = 0; k < 3; k++) {
          min[k] = Math.min(min[k], p[k]);
          max[k] = Math.max(max[k], p[k]);
        }
    }
  }
  return { triangles, min, max, area };
}

/** Volume by the divergence theorem: negative where faces look inwards. */
function volume({ positions, indices }) {
  let six = 0;
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => positions.subarray(indices[i + k] * 3, indices[i + k] * 3 + 3));
    six += a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0]);
  }
  return six / 6;
}

async function check(format, name, variant, ending) {
  const file = variant.file ?? `variant.${ending}`;
  const wanted = { triangles: TRIANGLES, min: [0, 0, 0], max: [3, 2, 1], area: AREA, ...variant };
  const wrong = [];
  try {
    const model = await readModel(variant.bytes, file);
    const found = facts(model);
    if (found.triangles !== wanted.triangles) wrong.push(`${found.triangles} triangles instead of ${wanted.triangles}`);
    for (const bound of ['min', 'max'])
      if (!found[bound].every((value, k) => near(value, wanted[bound][k]))) wrong.push(`${bound} ${found[bound]} instead of ${wanted[bound]}`);
    if (!near(found.area, wanted.area)) wrong.push(`area ${found.area} instead of ${wanted.area}`);
    if (model.parts.reduce((sum, part) => sum + volume(part), 0) <= 0) wrong.push('inside out');
    if (wanted.uvs && !model.parts.every((part) => part.uvs?.some((value) => value !== 0))) wrong.push('no texture coordinates');
    if (wanted.clip) {
      const channel = model.rig?.clips[0]?.channels.filter((c) => c.path === 'translation') ?? [];
      if (channel.length !== 1 || !wanted.clip.translation.every((value, i) => near(channel[0].values[i], value)))
        wrong.push(`clip ${JSON.stringify(channel.map((c) => [...c.values]))}`);
    }
    const { glb } = await convertModel(profile, { file, bytes: variant.bytes }, { unit: 'm', collision: 'none' });
    const { issues } = await validator.validateBytes(glb);
    if (issues.numErrors > 0) wrong.push(`${issues.numErrors} errors of the validator: ${issues.messages[0].message}`);
  } catch (error) {
    wrong.push(error.name === 'UnreadableInput' ? error.message : error.stack);
  }
  const other = secondOpinion(file, variant.bytes);
  if (other) {
    // assimp keeps the unit and the up axis of some formats, so sizes are compared up to their order and scale.
    const size = wanted.max.map((value, k) => value - wanted.min[k]).sort((a, b) => a - b);
    const own = other.size.sort((a, b) => a - b);
    const same = other.triangles === wanted.triangles && size.every((value, k) => Math.abs(own[k] / own[2] - value / size[2]) < 1e-4);
    if (same) agreed++;
    else notRead.push(`${format}, ${name}: ${other.triangles} triangles, ${own.map((n) => n.toFixed(2))}`);
  } else notRead.push(`${format}, ${name}: not read`);
  tell(format, name, wrong);
}

async function refuse(format, name, [bytes, pattern], ending) {
  const wrong = [];
  try {
    await readModel(bytes, `bad.${ending}`);
    wrong.push('it was read');
  } catch (error) {
    if (error.name !== 'UnreadableInput') wrong.push(error.stack);
    else if (!pattern.test(error.message) || /undefined|null\b.*propert|not a function/.test(error.message)) wrong.push(error.message);
  }
  tell(format, `refused: ${name}`, wrong);
}

function tell(format, name, wrong) {
  if (wrong.length === 0) return void passed++;
  failed++;
  console.log(`${format}, ${name}: ${wrong.join('; ')}`);
}

function secondOpinion(file, bytes) {
  if (!existsSync(ASSIMP)) return null;
  const path = join(folder, file);
  writeFileSync(path, bytes);
  try {
    const out = execFileSync(ASSIMP, ['info', path], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'], timeout: 20_000 });
    const point = (name) => new RegExp(`${name} point\\s+\\(([^)]*)\\)`).exec(out)[1].split(' ').map(Number);
    const [low, high] = [point('Minimum'), point('Maximum')];
    return { triangles: Number(/Faces:\s+(\d+)/.exec(out)[1]), size: high.map((value, k) => value - low[k]) };
  } catch {
    return null;
  }
}

for (const [format, ending, good, bad] of [
  ['COLLADA', 'dae', collada, badCollada],
  ['glTF', 'gltf', gltfVariants, badGltf],
  ['FBX', 'fbx', fbx, badFbx],
  ['OBJ', 'obj', objVariants, {}],
  ['STL', 'stl', stlVariants, {}],
  ['PLY', 'ply', plyVariants, {}],
]) {
  for (const [name, variant] of Object.entries(good)) await check(format, name, variant, ending);
  for (const [name, one] of Object.entries(bad)) await refuse(format, name, one, ending);
}
rmSync(folder, { recursive: true, force: true });
if (existsSync(ASSIMP)) {
  console.log(`assimp agrees on ${agreed}; it reads otherwise, or not at all:`);
  for (const line of notRead) console.log(`  ${line}`);
}
console.log(`corpus: ${passed} passed, ${failed} failed`);
process.exitCode = failed === 0 ? 0 : 1;
