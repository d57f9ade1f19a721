/**
 * Every field that a build may depend on is changed in turn, and exactly the stages that read it are stale. What a stage
 * does not receive it cannot read, so the table says what people may rely on: a moved prop costs no light.
 */

import { beforeAll, describe, expect, it } from '@jest/globals';
import type { CrateWorld } from '../crate/world.ts';
import { newObject } from '../profile/newObject.ts';
import { testWorld } from '../testing/world.ts';
import { parametersOf, PARAMETERS } from './contract/parameters.ts';
import { BUILD_STAGES, STAGE_NEEDS, type BuildStage } from './contract/stage.ts';
import { freshnessOf } from './freshness.ts';
import { planBuild, type BuildPlan } from './plan.ts';

/** A room with one of everything that stages read. */
function furnished(): CrateWorld {
  const world = structuredClone(testWorld());
  const { profile } = world;
  const map = world.crate.maps.hall;
  const place = (id: string, classId: string, properties: Record<string, string | number | boolean> = {}) => {
    const object = newObject(profile, classId, id, [10, 20, 0]);
    map.objects[id] = { ...object, properties: { ...object.properties, ...properties } };
  };
  place('lamp_a', 'lamp', { lit: true });
  place('dark_lamp', 'lamp', { lit: false });
  place('sun_a', 'sun');
  place('prop_a', 'prop', { model: 'models/own.glb' });
  place('ladder_a', 'ladder');
  map.signals.g1 = { from: 'prop_a', event: 'x', to: { script: 'go' }, delay: 0 };
  map.paths.w1 = { name: 'way', points: [[0, 0, 0], [1, 0, 0]], loop: false }; // prettier-ignore
  world.crate.files = [
    { path: 'models/own.glb', bytes: 1, sha256: 'a'.repeat(64) },
    { path: 'textures/own.ktx2', bytes: 1, sha256: 'b'.repeat(64) },
    { path: 'textures/sky.ktx2', bytes: 1, sha256: 'c'.repeat(64) },
  ];
  world.crate.manifest.assets['models/own.glb'] = { source: 's.glb', options: {}, bounds: { min: [-1, -1, 0], max: [1, 1, 2] } };
  const sky = { name: 'own_sky', type: 'sky', colour: '#8090a0', unitsPerRepeat: 32, texture: 'textures/sky.ktx2' };
  const lime = { name: 'lime', type: 'lit', colour: '#c0c0b0', unitsPerRepeat: 32, texture: 'textures/own.ktx2' };
  world.crate.manifest.materials = [lime, sky];
  map.settings.skyMaterial = 'own_sky';
  map.solids.s1.faces.forEach((face) => (face.material = 'lime'));
  return world;
}

const ALL: BuildStage[] = ['geometry', 'ground', 'sealing', 'visibility', 'lighting', 'daylight', 'navigation', 'packing', 'programs'];
/** Stages that are stale by themselves or by what they need. */
const withDependents = (own: readonly BuildStage[]): BuildStage[] => {
  const stale = new Set(own);
  for (const stage of BUILD_STAGES) if (STAGE_NEEDS[stage].some((need) => stale.has(need))) stale.add(stage);
  return BUILD_STAGES.filter((stage) => stale.has(stage));
};

const plan = (world: CrateWorld, change: Record<string, unknown> = {}) =>
  planBuild(world, 'hall', { ...parametersOf('preview', world.profile), ...change });

type Change = [what: string, own: BuildStage[], change: (world: CrateWorld) => void];
const map = (world: CrateWorld) => world.crate.maps.hall;
const own = (world: CrateWorld, name: string) => world.crate.manifest.materials.find((m) => m.name === name)!;
const CHANGES: Change[] = [
  ['the plane of a solid', ['geometry', 'sealing', 'lighting', 'navigation', 'packing'], (w) => (map(w).solids.s1.faces[0].distance += 1)],
  ['the material of a face', ['geometry', 'lighting', 'packing'], (w) => map(w).solids.s1.faces.forEach((f) => (f.material = 'brick'))],
  ['the shift of a texture', ['geometry'], (w) => (map(w).solids.s1.faces[0].shift = [3, 0])],
  ['the luxel of a face', ['geometry'], (w) => (map(w).solids.s1.faces[0].luxel = 0.5)],
  ['a solid that becomes detail', ['sealing'], (w) => (map(w).solids.s1.detail = true)],
  ['a label', [], (w) => (map(w).solids.s1.label = 'wall')],
  ['a tag', [], (w) => (map(w).solids.s1.tags = ['north'])],
  ['a lit lamp that moves', ['lighting', 'packing'], (w) => (map(w).objects.lamp_a.position = [0, 0, 30])],
  ['a lit lamp’s colour', ['lighting', 'packing'], (w) => (map(w).objects.lamp_a.properties.colour = '#ff0000')],
  ['a lamp that is lit', ['lighting', 'packing'], (w) => (map(w).objects.dark_lamp.properties.lit = true)],
  ['a dark lamp that moves', ['packing'], (w) => (map(w).objects.dark_lamp.position = [0, 0, 30])],
  ['a sun that moves', ['packing'], (w) => (map(w).objects.sun_a.position = [5, 5, 5])],
  ['a sun that turns', ['lighting', 'packing'], (w) => (map(w).objects.sun_a.turn = 90)],
  ['a prop that moves', ['packing'], (w) => (map(w).objects.prop_a.position = [0, 0, 0])],
  ['a ladder that moves', ['navigation', 'packing'], (w) => (map(w).objects.ladder_a.position = [0, 0, 0])],
  ['the name of an object', ['packing'], (w) => (map(w).objects.prop_a.name = 'chair')],
  ['a signal', ['packing'], (w) => (map(w).signals.g1.delay = 2)],
  ['a path', ['packing'], (w) => (map(w).paths.w1.points[1] = [9, 9, 9])],
  ['the sky’s colour', ['lighting', 'packing'], (w) => (map(w).settings.skyColour = '#102030')],
  ['the luxel of the map', ['lighting', 'packing'], (w) => (map(w).settings.luxel = 0.5)],
  ['the steps of the test run', ['packing'], (w) => (map(w).settings.trial = [{ wait: 1 }])],
  ['a layer', [], (w) => (map(w).layers.l1 = { name: 'roof' })],
  ['a bookmark', [], (w) => (map(w).bookmarks.k1 = { name: 'door', position: [0, 0, 0], target: [1, 0, 0] })],
  ['a material’s colour', ['lighting', 'packing'], (w) => (own(w, 'lime').colour = '#203040')],
  ['a material’s repeat', ['geometry'], (w) => (own(w, 'lime').unitsPerRepeat = 64)],
  ['a material’s luxel', ['lighting'], (w) => (own(w, 'lime').luxel = 0.5)],
  ['a material’s roughness', ['packing'], (w) => (own(w, 'lime').roughness = 0.2)],
  ['a material’s surface', ['packing'], (w) => (own(w, 'lime').surface = 'stone')],
  ['a texture’s content', ['packing'], (w) => (w.crate.files[1].sha256 = 'd'.repeat(64))],
  ['the sky’s picture', ['lighting'], (w) => (w.crate.files[2].sha256 = 'd'.repeat(64))],
  ['a model’s content', ['packing'], (w) => (w.crate.files[0].sha256 = 'd'.repeat(64))],
  ['a model’s bounds', ['packing'], (w) => (w.crate.manifest.assets['models/own.glb'].bounds!.max[2] = 9)],
  ['a script', ['packing'], (w) => (w.crate.scripts['scripts/main.lua'] += '\n-- more')],
  ['the title of the crate', [], (w) => (w.crate.manifest.title = 'Another')],
  ['the game’s unit', ['ground', 'lighting', 'packing'], (w) => (w.profile.unit.metres *= 2)],
  ['the size of a class that shines', ['lighting', 'packing'], (w) => (w.profile.classes.find((c) => c.id === 'lamp')!.size = [8, 8, 40])],
  ['the size of a class that does not', [], (w) => (w.profile.classes.find((c) => c.id === 'crank')!.size = [8, 8, 40])],
  ['how far a player reaches', [], (w) => (w.profile.player.reach += 1)],
  ['how high a player steps', ['navigation'], (w) => (w.profile.player.stepHeight += 1)],
  ['whether a type hides', ['geometry', 'lighting', 'packing'], (w) => (w.profile.materialTypes.find((t) => t.id === 'lit')!.opaque = false)],
  ['whether a type seals', ['sealing'], (w) => (w.profile.materialTypes.find((t) => t.id === 'lit')!.seals = false)],
  ['whether a type stops players', ['navigation', 'packing'], (w) => (w.profile.materialTypes.find((t) => t.id === 'lit')!.collides = false)],
  ['a program of the game', ['programs'], (w) => w.profile.programs!.find(({ at }) => at === 'build')!.arguments.push('--more')],
  ['whether maps are sealed', ['sealing'], (w) => (w.profile.sealed = false)],
];

describe('what stages are made from', () => {
  let before: BuildPlan;
  const stale = (now: BuildPlan) => ALL.filter((stage) => now.keys[stage] !== before.keys[stage]);
  beforeAll(() => {
    before = plan(furnished());
  });

  it.each(CHANGES)('%s makes stale exactly what reads it', (_what, own, change) => {
    const world = furnished();
    change(world);
    const now = plan(world);
    expect(stale(now)).toEqual(withDependents(own));
    // Whoever asks is told the same, with a reason.
    const told = freshnessOf(before, now).filter(({ fresh }) => !fresh);
    expect(told.map(({ stage }) => stage)).toEqual(withDependents(own));
    expect(told.every(({ reasons }) => reasons.length > 0)).toBe(true);
  });

  // The mood changes what is lit only where a map has several: core/src/mood/mood.test.ts.
  it.each(PARAMETERS.filter(({ id }) => id !== 'mood').map((p) => [p.id, p] as const))(
    'parameter %s makes its stage stale',
    (id, { stage, choices }) => {
      const value = choices ? choices.find((choice) => choice !== before.inputs[stage as 'geometry'].parameters[id as 'merge']) : 17;
      expect(stale(plan(furnished(), { [id]: value }))).toEqual(withDependents([stage]));
    },
  );

  it('names what changed as people know it', () => {
    const world = furnished();
    map(world).objects.lamp_a.position = [0, 0, 30];
    const reasons = Object.fromEntries(freshnessOf(before, plan(world)).map(({ stage, reasons }) => [stage, reasons]));
    expect(reasons.lighting).toEqual(['lamp_a moved']);
    expect(reasons.geometry).toEqual([]);
  });
});
