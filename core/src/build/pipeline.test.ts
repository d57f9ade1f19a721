import { describe, expect, it } from '@jest/globals';
import { WebIO } from '@gltf-transform/core';
import { applyEdit } from '../map/edit.ts';
import { glbErrors } from '../testing/glb.ts';
import { testProfile, testWorld } from '../testing/world.ts';
import { Value } from '@sinclair/typebox/value';
import { CollisionSchema, RuntimeMapSchema } from './pack/runtime.ts';
import { buildMap } from './pipeline.ts';
import type { StageCache } from './stage.ts';

function memoryCache(): StageCache & { stored: Map<string, Uint8Array> } {
  const stored = new Map<string, Uint8Array>();
  return { stored, get: (key) => Promise.resolve(stored.get(key) ?? null), put: (key, value) => Promise.resolve(void stored.set(key, value)) };
}

const json = (bytes: Uint8Array): unknown => JSON.parse(new TextDecoder().decode(bytes));

describe('the build', () => {
  it('of the sealed room makes a valid GLB with a lightmap, and documents that match their schemas', async () => {
    const { ok, artefacts } = await buildMap(testWorld(), 'hall', { quality: 'draft' });
    expect(ok).toBe(true);
    const glb = artefacts!.get('maps/hall/map.glb')!;
    expect(await glbErrors(glb)).toEqual([]);
    const document = await new WebIO().readBinary(glb);
    expect(document.getRoot().listTextures()[0].getMimeType()).toBe('image/png');
    expect(document.getRoot().listMaterials()[0].getExtras()).toMatchObject({ lightmap: { image: 0, texCoord: 1 } });
    // Six inner faces; all that only the outside could see is gone.
    expect(document.getRoot().listMeshes()[0].listPrimitives()[0].getIndices()!.getCount()).toBe(6 * 6);
    expect(Value.Check(RuntimeMapSchema, json(artefacts!.get('maps/hall/map.json')!))).toBe(true);
    expect(Value.Check(CollisionSchema, json(artefacts!.get('maps/hall/collision.json')!))).toBe(true);
  });

  it('stops at a leak and says where', async () => {
    const world = testWorld();
    world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'delete wall', changes: [{ of: 'solids', id: 's4', to: null }] });
    const { ok, stages, findings } = await buildMap(world, 'hall', { quality: 'draft' });
    expect(ok).toBe(false);
    expect(stages.map((s) => `${s.stage} ${s.state}`)).toEqual([
      'check done',
      'geometry done',
      'sealing failed',
      'lighting skipped',
      'packing skipped',
    ]);
    const leak = findings.find((f) => f.code === 'leak')!;
    expect(leak.place!.trail!.length).toBeGreaterThan(1);
    // The east wall stood at x = 160.
    expect(Math.abs(leak.place!.point![0] - 160)).toBeLessThan(8);
  });

  it('stops at blockers before any work', async () => {
    const world = testWorld('blank');
    const { ok, stages } = await buildMap(world, 'hall', { quality: 'draft' });
    expect(ok).toBe(false);
    expect(stages[0].state).toBe('failed');
    expect(stages.slice(1).every((s) => s.state === 'skipped')).toBe(true);
  });

  it('reuses what has not changed, and only that', async () => {
    const cache = memoryCache();
    const world = testWorld();
    const states = async () => (await buildMap(world, 'hall', { quality: 'draft', cache })).stages.map((s) => s.state).join(' ');
    expect(await states()).toBe('done done done done done');
    expect(await states()).toBe('done reused reused reused done');
    world.crate.scripts['scripts/main.lua'] += '-- changed\n';
    expect(await states()).toBe('done reused reused reused done');
    const lamp = world.crate.maps.hall.objects.o2;
    world.crate.maps.hall = applyEdit(world.crate.maps.hall, {
      name: 'dim',
      changes: [{ of: 'objects', id: 'o2', to: { ...lamp, properties: { ...lamp.properties, intensity: 5 } } }],
    });
    expect(await states()).toBe('done reused reused done done');
  });

  it('is deterministic: the same input gives the same bytes', async () => {
    const [a, b] = [await buildMap(testWorld(), 'hall', { quality: 'draft' }), await buildMap(testWorld(), 'hall', { quality: 'draft' })];
    for (const [path, bytes] of a.artefacts!) expect(b.artefacts!.get(path)).toEqual(bytes);
  });

  it('of an open game needs no sealing, and says so', async () => {
    const world = testWorld('sealed-room', testProfile('skarrow'));
    world.base = { ...world.base, materials: [...world.base.materials] };
    const { ok, stages } = await buildMap(world, 'hall', { quality: 'draft' });
    expect(ok).toBe(true);
    expect(stages.find((s) => s.stage === 'sealing')).toMatchObject({ state: 'skipped', summary: 'Skarrow needs no sealed maps.' });
  });

  it('can be cancelled from its progress', async () => {
    const stop = new Error('stop');
    await expect(
      buildMap(testWorld(), 'hall', {
        quality: 'draft',
        onProgress: (stage) => {
          if (stage === 'lighting') throw stop;
        },
      }),
    ).rejects.toBe(stop);
  });
});
