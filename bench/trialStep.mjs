/**
 * One step of a test run with 300 things that move among n solids, against Rapier's own step with the same bodies in the
 * same places, and how the step grows with the number of solids.
 */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { loadRapier } from '@violet-crate/core/physics/rapier';
import { emptyMap } from '@violet-crate/core/profile/emptyMap';
import { loadProfile } from '@violet-crate/core/profile/load';
import { newObject } from '@violet-crate/core/profile/newObject';
import { block } from '@violet-crate/core/solid/primitives';
import { collisionOf } from '@violet-crate/core/stages/pack/collisionBin';
import { runtimeMap } from '@violet-crate/core/stages/pack/runtime';
import { obstacleFromPlanes } from '@violet-crate/core/trial/collide';
import { TIME_STEP, TrialWorld } from '@violet-crate/core/trial/world';
import { compare, seeded } from './measure.mjs';

const profile = loadProfile(readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'), 'brinewick.json');
const MODEL = 'models/box.glb';
const HULL = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [i & 1 ? 12 : -12, i & 2 ? 12 : -12, i & 4 ? 24 : 0]);
const BODIES = 300;
const STEPS = 120;

/** A yard with a floor, n blocks about it, and things that fall onto each other in heaps of six. */
function yard(count) {
  const random = seeded(count);
  const side = Math.ceil(Math.sqrt(count)) * 96 + 2000;
  // The same floor at every size: on one of hundreds of metres heaps never come to rest, since Rapier counts in 32 bits.
  const solids = { floor: block({ min: [-960, -960, -16], max: [960, 960, 0] }, 'brick') };
  for (let i = 1; i < count; i++) {
    const at = [1000 + random() * side * 0.9, random() * side * 0.9, 0].map(Math.round);
    solids[`s${i}`] = block({ min: at, max: [at[0] + 48, at[1] + 48, 96] }, 'brick');
  }
  const map = { ...emptyMap(profile), solids };
  map.objects = { start: newObject(profile, 'start', 'start', [0, 0, 1]) };
  for (let i = 0; i < BODIES; i++) {
    const heap = Math.floor(i / 6);
    const at = [200 + (heap % 8) * 60 + (i % 3), -400 + Math.floor(heap / 8) * 60 + (i % 2), 4 + (i % 6) * 30];
    const prop = newObject(profile, 'prop', `thing_${i}`, at);
    map.objects[`o${i}`] = { ...prop, properties: { ...prop.properties, model: MODEL, movable: true } };
  }
  const collision = collisionOf(Object.fromEntries(Object.entries(solids).map(([id, solid]) => [id, { solid, surfaces: [] }])));
  const runtime = runtimeMap({ name: 'yard', map, scripts: {}, models: {} }, { [MODEL]: { mass: 12, friction: 0.6, hulls: [HULL] } });
  return { profile, map: runtime, collision, scripts: {} };
}

const walking = (i) => ({ move: [Math.cos(i / 20), Math.sin(i / 20), 0], run: false, jump: i % 90 === 0 });

async function world(count) {
  const made = await TrialWorld.begin(yard(count));
  let i = 0;
  return () => {
    for (let k = 0; k < STEPS; k++) made.step(walking(i++));
  };
}

/** The same bodies and solids, by Rapier alone. */
async function alone(count) {
  const rapier = await loadRapier();
  const { map, collision } = yard(count);
  const m = profile.unit.metres;
  const physics = new rapier.World({ x: 0, y: 0, z: -profile.player.gravity * m });
  physics.timestep = TIME_STEP;
  for (const { id, planes } of collision.solids) {
    const corners = obstacleFromPlanes(id, planes).corners.flat();
    physics.createCollider(rapier.ColliderDesc.convexHull(Float32Array.from(corners, (v) => v * m)).setFriction(0.6));
  }
  const hull = Float32Array.from(HULL, (v) => v * m);
  for (const { class: of, position } of Object.values(map.objects)) {
    if (of !== 'prop') continue;
    const body = physics.createRigidBody(rapier.RigidBodyDesc.dynamic().setTranslation(...position.map((v) => v * m)));
    physics.createCollider(rapier.ColliderDesc.convexHull(hull).setMass(12).setFriction(0.6), body);
  }
  return () => {
    for (let k = 0; k < STEPS; k++) physics.step();
  };
}

export async function trialStep() {
  const ratios = await compare(`trialStep (5,000 solids, ${BODIES} bodies, ${STEPS} steps)`, 5, await world(5000), await alone(5000));
  const growth = await compare('trialStep, 10,000 solids over 2,500', 5, await world(10_000), await world(2500));
  console.log(`trialStep grows by n^${(Math.log(growth.ratio) / Math.log(4)).toFixed(2)} with the number of solids`);
  return ratios;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await trialStep();
