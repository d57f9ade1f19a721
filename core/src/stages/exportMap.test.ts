import { describe, expect, it } from '@jest/globals';
import { boundsOf } from '../asset/mesh/geometry/surface.ts';
import { writeGlb } from '../asset/mesh/write/writeGlb.ts';
import { findUnseenFaces } from './unseenFaces.ts';
import type { Vec3 } from '../math/vec3.ts';
import { glbErrors } from '../testing/glb.ts';
import { testWorld } from '../testing/world.ts';
import { mapModel } from './exportMap.ts';
import { estimateSun } from '../map/sky.ts';
import { withChanges, cube, solid } from '../testing/maps.ts';

describe('what other programs get', () => {
  it('a map as GLB passes the validator, in metres, with the faces that the build has', async () => {
    const world = testWorld();
    const model = mapModel(world, 'hall');
    const glb = await writeGlb({ model, lods: [], collision: null, slots: [] });
    expect(await glbErrors(glb)).toEqual([]);
    const bounds = boundsOf(model.parts[0].positions);
    // The room's outside: 320 + 2 × 16 notches of 1/32 m, y up.
    expect(bounds.max[0] - bounds.min[0]).toBeCloseTo((320 + 32) / 32, 5);
    expect(bounds.max[1] - bounds.min[1]).toBeCloseTo((128 + 32) / 32, 5);
  });

  it('faces that nobody can see are those covered and those of the outside', () => {
    const world = testWorld();
    const map = withChanges(world.crate.maps.hall, solid('s20', cube([-8, -8, 0])));
    const found = findUnseenFaces(world, map)!;
    expect(found.material).toBe('unseen');
    const key = (id: string, normal: Vec3) =>
      found.faces.some((f) => f.solid === id && map.solids[id].faces[f.face].normal.every((n, i) => n === normal[i]));
    // The block's underside stands on the floor; the floor's own underside looks out of the map.
    expect([key('s20', [0, 0, -1]), key('s20', [0, 0, 1]), key('s1', [0, 0, -1]), key('s1', [0, 0, 1])]).toEqual([true, false, true, false]);
  });

  it('the sun of a sky picture is found where it was painted', () => {
    const [width, height] = [64, 32];
    const pixels = new Uint8ClampedArray(width * height * 4).fill(60);
    // Column 16 of 64 lies at turn 180 - 90 = 90°; row 8 of 32 at half the height of the upper half: 45°.
    const at = (8 * width + 16) * 4;
    pixels.set([255, 230, 200, 255], at);
    const sun = estimateSun(pixels, width, height)!;
    expect(Math.abs(sun.turn - 90)).toBeLessThan(4);
    expect(Math.abs(sun.height - 45)).toBeLessThan(4);
    expect(sun.colour).toBe('#ffe6c8');
  });
});
