/** What a build does with input that nobody draws on purpose: it ends, and says what is wrong. */

import { describe, expect, it } from '@jest/globals';
import { newObject } from '../profile/newObject.ts';
import type { GameMap, Solid } from '../document/schema.ts';
import { block } from '../solid/primitives.ts';
import { QUICK_LIGHT, testWorld } from '../testing/world.ts';
import { buildMap, type BuildOptions } from './pipeline.ts';
import type { StageCache } from './contract/stage.ts';

/** A draft without what takes long: the light of a closed room is lit elsewhere. */
const QUICK: BuildOptions = { quality: 'draft', parameters: QUICK_LIGHT };

async function build(change: (map: GameMap) => void, options: Partial<BuildOptions> = {}) {
  const world = testWorld();
  change(world.crate.maps.hall);
  return buildMap(world, 'hall', { ...QUICK, ...options });
}
const ended = ({ stages }: Awaited<ReturnType<typeof build>>) => stages.map((s) => s.state).join(' ');
const outlineOf = (solid: Solid, change: (face: Solid['faces'][number]) => Solid['faces'][number]): Solid => ({
  ...solid,
  faces: solid.faces.map(change),
});

describe('a build of degenerate input', () => {
  it('a solid of a million units is a blocker that names it, and nothing is built of it', async () => {
    const result = await build((map) => (map.solids.huge = block({ min: [-500_000, -500_000, -500_000], max: [500_000, 500_000, -64] }, 'brick')));
    expect(ended(result)).toBe('failed skipped skipped skipped skipped skipped skipped skipped skipped skipped skipped');
    expect(result.findings).toMatchObject([{ code: 'solid-open', severity: 'blocker', place: { solid: 'huge' } }]);
    expect(result.findings[0].message).toContain('60,000 units');
  });

  it('a number that is none is a blocker that names the solid', async () => {
    const result = await build((map) => (map.solids.s1 = outlineOf(map.solids.s1, (face) => ({ ...face, distance: NaN }))));
    expect(result.ok).toBe(false);
    expect(result.findings.find((f) => f.severity === 'blocker')?.place?.solid).toBe('s1');
  });

  it('a solid without thickness is told and leaves nothing behind', async () => {
    const flat = block({ min: [0, 0, 32], max: [32, 32, 48] }, 'brick');
    const result = await build((map) => (map.solids.flat = outlineOf(flat, (face) => (face.normal[2] > 0 ? { ...face, distance: 32 } : face))));
    expect(result.findings.some((f) => f.place?.solid === 'flat')).toBe(true);
  });

  it('no lights at all and objects far outside', async () => {
    const dark = await build((map) => {
      for (const [id, object] of Object.entries(map.objects)) if (object.class === 'lamp') delete map.objects[id];
    });
    expect(ended(dark)).toBe('ran ran skipped ran ran ran skipped ran skipped ran skipped');
    const outside = await build((map) => (map.objects.far = newObject(testWorld().profile, 'lamp', 'far', [90_000, 0, 0])));
    expect(outside.findings.some((f) => f.code === 'leak' && f.message.includes('far'))).toBe(true);
  });

  it('thousands of lights', async () => {
    const { profile } = testWorld();
    const result = await build((map) => {
      for (let i = 0; i < 3000; i++) {
        const lamp = newObject(profile, 'lamp', `many_${i}`, [(i % 50) * 4 - 100, Math.floor(i / 50) * 4 - 120, 60]);
        map.objects[`many${i}`] = { ...lamp, properties: { ...lamp.properties, reach: 40 } };
      }
    });
    expect([...new Set(result.findings.filter((f) => f.severity === 'blocker').map((f) => f.message))].slice(0, 3)).toEqual([]);
    expect(result.stages.find((s) => s.stage === 'lighting')!.counts.lights).toBeGreaterThan(3000);
  });

  it('running out of memory is a finding that names the stage, and nothing of it is kept', async () => {
    const stored: string[] = [];
    const cache: StageCache = { get: () => Promise.resolve(null), put: (key) => Promise.resolve(void stored.push(key)) };
    const result = await build(() => {}, {
      cache,
      onProgress: (stage, fraction) => {
        if (stage === 'sealing' && fraction > 0) throw new RangeError('Array buffer allocation failed');
      },
    });
    expect(result.ok).toBe(false);
    expect(result.findings.find((f) => f.code === 'out-of-memory')?.message).toContain('sealing');
    // Geometry was done before.
    expect(stored).toHaveLength(1);
  });
});
