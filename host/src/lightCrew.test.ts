import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { buildMap } from '@violet-crate/core/stages/pipeline';
import { lightAllCharts, finishLight, type LightScene } from '@violet-crate/core/stages/lighting/light';
import { crewOfOne } from '@violet-crate/core/stages/lighting/stage';
import { newCrateContents } from '@violet-crate/core/crate/template';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { loadProfile } from '@violet-crate/core/profile/load';
import { lightCrew } from './lightCrew.ts';

const profile = loadProfile(readFileSync(new URL('../../core/profiles/brinewick.json', import.meta.url), 'utf8'), 'brinewick.json');

/** A sealed room whose materials are all the crate's own. */
function room(): CrateWorld {
  const crate = newCrateContents(profile, { name: 'hall', title: 'Hall', template: 'sealed-room' });
  const used = new Set(Object.values(crate.maps.hall.solids).flatMap((solid) => solid.faces.map((face) => face.material)));
  crate.manifest.materials = [...used].map((name) => ({ name, type: 'lit', colour: '#8a8078', unitsPerRepeat: 64 }));
  return { crate, profile, base: { format: 1, title: 'Test', version: '1.0.0', materials: [], assets: {}, files: [] } };
}

/** The scene that a build hands to its crew. */
async function sceneOf(): Promise<LightScene> {
  let scene: LightScene | null = null;
  await buildMap(room(), 'hall', {
    anyway: true,
    quality: 'draft',
    parameters: { luxel: 8, hemisphereRays: 4, probeSpacing: 0 },
    crew: (given) => crewOfOne((scene = given)),
  });
  return scene!;
}

describe('threads that light charts', () => {
  it('give the same bits however many they are', async () => {
    const scene = await sceneOf();
    const lit = async (threads: number) => {
      const crew = lightCrew(threads)(scene, 1e6);
      try {
        return finishLight(scene, await lightAllCharts(scene, crew, {}, () => {}));
      } finally {
        await crew.close();
      }
    };
    const [one, two, three] = [await lit(1), await lit(2), await lit(3)];
    expect(one.some((v) => v > 0)).toBe(true);
    expect(two).toEqual(one);
    expect(three).toEqual(one);
  });

  it('do not start for little work', async () => {
    const scene = await sceneOf();
    // Every thread holds a port that keeps the process alive.
    const threads = () => process.getActiveResourcesInfo().filter((what) => what === 'MessagePort').length;
    const before = threads();
    const small = lightCrew(4)(scene, 100);
    expect(threads()).toBe(before);
    const large = lightCrew(4)(scene, 1e6);
    expect(threads()).toBeGreaterThan(before);
    await Promise.all([small.close(), large.close()]);
  });

  it('that die take their work along, and what waits fails with them', async () => {
    const scene = await sceneOf();
    // Surfaces that are no surfaces: a thread ends when it looks at them.
    const broken = { ...scene, inputs: { ...scene.inputs, surfaces: scene.inputs.surfaces.map(() => ({}) as never) } };
    const crew = lightCrew(2)(broken, 1e6);
    const tasks = [0, 1, 2, 3].map((from) => crew.run({ from, to: from + 1, direct: true, hits: true }));
    for (const result of await Promise.allSettled(tasks)) expect(result.status).toBe('rejected');
    await crew.close();
  });
});
