import { describe, expect, it } from '@jest/globals';
import { WebIO } from '@gltf-transform/core';
import { KHRLightsPunctual } from '@gltf-transform/extensions';
import { read, VK_FORMAT_R16G16B16A16_SFLOAT } from 'ktx-parse';
import { applyEdit, type Change } from '../document/edit.ts';
import { glbErrors } from '../testing/glb.ts';
import { QUICK_LIGHT, testProfile, testWorld } from '../testing/world.ts';
import { Value } from '@sinclair/typebox/value';
import type { Finding } from '../finding.ts';
import { UnreadableInput } from '../unreadable.ts';
import { decodeCollision } from './pack/collisionBin.ts';
import { decodeNavigation } from './pack/navBin.ts';
import { decodeProbes } from './pack/probesBin.ts';
import { RuntimeMapSchema } from './pack/runtime.ts';
import { decodeVisibilityFile, groupsSeenFrom } from './pack/visibilityBin.ts';
import { buildMap } from './pipeline.ts';
import { freshnessOf } from './freshness.ts';
import { parametersOf } from './contract/parameters.ts';
import { planBuild } from './plan.ts';
import type { BuildStage, StageCache } from './contract/stage.ts';

function memoryCache(): StageCache & { stored: Map<string, Uint8Array> } {
  const stored = new Map<string, Uint8Array>();
  return { stored, get: (key) => Promise.resolve(stored.get(key) ?? null), put: (key, value) => Promise.resolve(void stored.set(key, value)) };
}

/** Stages that a map without ground does not go through, and what nothing here can run. */
const OUTDOORS = new Set(['ground', 'daylight', 'overview', 'programs']);
/** Programs look the packed map over, so that they run again with it. */
const PROGRAMS = { programs: ['packing is out of date'] };
const indoors = ({ stage }: { stage: string }): boolean => !OUTDOORS.has(stage);

const json = (bytes: Uint8Array): unknown => JSON.parse(new TextDecoder().decode(bytes));

describe('the build', () => {
  it('of the sealed room makes a valid GLB with a lightmap, and documents that match their schemas', async () => {
    const { ok, artefacts } = await buildMap(testWorld(), 'hall', { quality: 'draft' });
    expect(ok).toBe(true);
    const glb = artefacts!.get('maps/hall/map.glb')!;
    expect(await glbErrors(glb)).toEqual([]);
    const document = await new WebIO().registerExtensions([KHRLightsPunctual]).readBinary(glb);
    expect(document.getRoot().listTextures()[0].getMimeType()).toBe('image/png');
    expect(document.getRoot().listMaterials()[0].getExtras()).toMatchObject({ lightmap: { image: 0, texCoord: 1 } });
    // Six inner faces; all that only the outside could see is gone.
    expect(document.getRoot().listMeshes()[0].listPrimitives()[0].getIndices()!.getCount()).toBe(6 * 6);
    expect(Value.Check(RuntimeMapSchema, json(artefacts!.get('maps/hall/map.json')!))).toBe(true);
    expect(decodeCollision(artefacts!.get('maps/hall/collision.bin')!).solids).toHaveLength(6);
    const visibility = decodeVisibilityFile(artefacts!.get('maps/hall/visibility.bin')!);
    expect(groupsSeenFrom(visibility, [80, 64, 40]).some(Boolean)).toBe(true);
    expect(decodeNavigation(artefacts!.get('maps/hall/nav.bin')!).polygons.length).toBeGreaterThan(0);
    // The same light as in the PNG, but not cut off where it is brighter than that can hold.
    const { vkFormat, pixelWidth } = read(artefacts!.get('maps/hall/lightmap.ktx2')!);
    expect([vkFormat, pixelWidth]).toEqual([VK_FORMAT_R16G16B16A16_SFLOAT, document.getRoot().listTextures()[0].getSize()![0]]);
    expect(decodeProbes(artefacts!.get('maps/hall/probes.bin')!).free).toContain(1);
  });

  it('stops at a leak and says where', async () => {
    const world = testWorld();
    world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'delete wall', changes: [{ of: 'solids', id: 's4', to: null }] });
    const { ok, stages, findings } = await buildMap(world, 'hall', { quality: 'draft', parameters: QUICK_LIGHT });
    expect(ok).toBe(false);
    expect(stages.filter(indoors).map((s) => `${s.stage} ${s.state}`)).toEqual([
      'check ran',
      'geometry ran',
      'sealing failed',
      'visibility skipped',
      'lighting skipped',
      'navigation skipped',
      'packing skipped',
    ]);
    const leak = findings.find((f) => f.code === 'leak')!;
    expect(leak.place!.trail!.length).toBeGreaterThan(1);
    // The east wall stood at x = 160.
    expect(Math.abs(leak.place!.point![0] - 160)).toBeLessThan(8);
  });

  it('stops at blockers before any work', async () => {
    const world = testWorld('blank');
    const { ok, stages } = await buildMap(world, 'hall', { quality: 'draft', parameters: QUICK_LIGHT });
    expect(ok).toBe(false);
    expect(stages[0].state).toBe('failed');
    expect(stages.slice(1).every((s) => s.state === 'skipped')).toBe(true);
  });

  it('reuses what has not changed, and only that', async () => {
    const cache = memoryCache();
    const world = testWorld();
    const states = async () =>
      (await buildMap(world, 'hall', { quality: 'draft', parameters: QUICK_LIGHT, cache })).stages
        .filter(indoors)
        .map((s) => s.state)
        .join(' ');
    expect(await states()).toBe('ran ran ran ran ran ran ran');
    expect(await states()).toBe('ran fresh fresh fresh fresh fresh ran');
    world.crate.scripts['scripts/main.lua'] += '-- changed\n';
    expect(await states()).toBe('ran fresh fresh fresh fresh fresh ran');
    const lamp = world.crate.maps.hall.objects.o2;
    const change = (to: typeof lamp) =>
      (world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'change', changes: [{ of: 'objects', id: 'o2', to }] }));
    change({ ...lamp, properties: { ...lamp.properties, intensity: 5 } });
    expect(await states()).toBe('ran fresh fresh fresh ran fresh ran');
    // A moved lamp is light again, and nothing else; put back, all is known.
    change({ ...lamp, position: [lamp.position[0] + 8, lamp.position[1], lamp.position[2]] });
    expect(await states()).toBe('ran fresh fresh fresh ran fresh ran');
    change(lamp);
    expect(await states()).toBe('ran fresh fresh fresh fresh fresh ran');
  });

  it('says of every stage what has changed', async () => {
    const world = testWorld();
    const parameters = parametersOf('draft', world.profile);
    const built = planBuild(world, 'hall', parameters);
    const reasons = (given = parameters) =>
      Object.fromEntries(
        freshnessOf(built, planBuild(world, 'hall', given))
          .filter((f) => !f.fresh)
          .map((f) => [f.stage, f.reasons]),
      );
    expect(reasons()).toEqual({});
    const lamp = world.crate.maps.hall.objects.o2;
    const edit = (...changes: Change[]) => (world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'change', changes }));
    edit({ of: 'objects', id: 'o2', to: { ...lamp, position: [0, 8, 40] } });
    expect(reasons()).toEqual({ lighting: [`${lamp.name} moved`], packing: [`${lamp.name} moved`, 'lighting is out of date'], ...PROGRAMS });
    edit({ of: 'objects', id: 'o2', to: lamp }, { of: 'solids', id: 's4', to: null });
    expect(reasons()).toMatchObject({
      geometry: ['solid s4 removed'],
      sealing: ['solid s4 removed', 'geometry is out of date'],
      navigation: ['solid s4 removed'],
    });
    world.crate.maps.hall = testWorld().crate.maps.hall;
    world.crate.scripts['scripts/main.lua'] += '-- changed';
    expect(reasons()).toEqual({ packing: ['script main.lua changed'], ...PROGRAMS });
    world.crate.scripts = testWorld().crate.scripts;
    expect(reasons({ ...parameters, bounces: 7 })).toEqual({
      lighting: ['parameter “Bounces” changed'],
      packing: ['lighting is out of date'],
      ...PROGRAMS,
    });
  });

  it('of one stage takes the others from the cache, and packs only when all are up to date', async () => {
    const cache = memoryCache();
    const world = testWorld();
    const only = (stage: BuildStage) => buildMap(world, 'hall', { quality: 'draft', parameters: QUICK_LIGHT, cache, only: stage });
    const first = await only('geometry');
    expect(
      first.stages
        .filter(indoors)
        .map((s) => s.state)
        .join(' '),
    ).toBe('ran ran skipped skipped skipped skipped skipped');
    expect(first.ok).toBe(false);
    await buildMap(world, 'hall', { quality: 'draft', parameters: QUICK_LIGHT, cache });
    const light = await only('lighting');
    expect(
      light.stages
        .filter(indoors)
        .map((s) => s.state)
        .join(' '),
    ).toBe('ran fresh fresh fresh fresh fresh ran');
    expect(light.ok).toBe(true);
  });

  it('goes on in spite of a leak where it is told to', async () => {
    const world = testWorld();
    world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'delete wall', changes: [{ of: 'solids', id: 's4', to: null }] });
    const { ok, findings } = await buildMap(world, 'hall', { quality: 'draft', parameters: QUICK_LIGHT, anyway: true });
    expect(ok).toBe(true);
    expect(findings.some((f) => f.code === 'leak')).toBe(true);
  });

  it('is deterministic: the same input gives the same bytes, from the cache too', async () => {
    const cache = memoryCache();
    const build = () => buildMap(testWorld(), 'hall', { quality: 'draft', parameters: QUICK_LIGHT, cache });
    const [first, again] = [await build(), await build()];
    const alone = await buildMap(testWorld(), 'hall', { quality: 'draft', parameters: QUICK_LIGHT });
    for (const [path, bytes] of first.artefacts!) {
      expect(again.artefacts!.get(path)).toEqual(bytes);
      expect(alone.artefacts!.get(path)).toEqual(bytes);
    }
  });

  it('of an open game needs no sealing, and says so', async () => {
    const world = testWorld('sealed-room', testProfile('skarrow'));
    // What its maps must have beside a room is not built here.
    const { ok, stages } = await buildMap(world, 'hall', { quality: 'draft', parameters: QUICK_LIGHT, anyway: true });
    expect(ok).toBe(true);
    expect(stages.find((s) => s.stage === 'sealing')).toMatchObject({ state: 'skipped', summary: 'Skarrow needs no sealed maps.' });
  });

  it('can be cancelled from its progress', async () => {
    const stop = new Error('stop');
    await expect(
      buildMap(testWorld(), 'hall', {
        quality: 'draft',
        parameters: QUICK_LIGHT,
        onProgress: (stage) => {
          if (stage === 'lighting') throw stop;
        },
      }),
    ).rejects.toBe(stop);
  });

  it('runs the programs of the game on what was packed, adds what they write, and stops at what they find', async () => {
    const world = testWorld();
    world.profile = structuredClone(world.profile);
    const asked: string[] = [];
    const built = (findings: Finding[], fails = false) =>
      buildMap(world, 'hall', {
        quality: 'draft',
        parameters: QUICK_LIGHT,
        runProgram: (program, given, map) => {
          asked.push(`${program.id} ${map} ${given.has('maps/hall/map.json')}`);
          if (fails) return Promise.reject(new UnreadableInput('program-late', 'Map kit took too long.'));
          return Promise.resolve({ outputs: new Map([[`${program.id}.json`, new Uint8Array(2)]]), findings, lines: [] });
        },
      });
    const good = await built([]);
    expect(asked).toEqual(['contents hall true', 'stamp hall true']);
    expect([...good.artefacts!.keys()]).toEqual(expect.arrayContaining(['maps/hall/map.json', 'maps/hall/contents.json', 'maps/hall/stamp.json']));
    expect(good.stages.at(-1)).toMatchObject({ stage: 'programs', state: 'ran', summary: 'Texture press, Map kit; 2 files added.' });
    const stopped = await built([{ code: 'program-contents', severity: 'blocker', stage: 'build', message: 'Texture press: no start.' }]);
    expect([stopped.ok, stopped.stages.at(-1)!.state]).toEqual([false, 'failed']);
    expect(stopped.findings.at(-1)).toMatchObject({ message: 'Texture press: no start.', place: { map: 'hall' } });
    expect((await built([], true)).findings.at(-1)).toMatchObject({ code: 'program-late', severity: 'blocker' });
    expect(asked.slice(2)).toEqual(['contents hall true', 'contents hall true']);
  });
});
