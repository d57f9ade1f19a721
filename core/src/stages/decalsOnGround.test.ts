/** Decals on ground: how much of it they cover, that they go up and down with it, and that a build has them where the ground is. */

import { expect, test } from '@jest/globals';
import { checkDecals } from '../check/checkDecals.ts';
import { DecalPieces } from '../decal/pieces.ts';
import { movedTo, newDecal, plainStyle } from '../decal/place.ts';
import { applyEdit } from '../document/edit.ts';
import type { GameMap } from '../document/schema.ts';
import { groundPoint, surfaceAt } from '../map/surfaceAt.ts';
import { withFollowers } from '../terrain/follow.ts';
import { replaceHeights } from '../terrain/reshape.ts';
import { groundOf, groundsOf } from '../terrain/ground.ts';
import { glbErrors } from '../testing/glb.ts';
import { shaped, terrain } from '../testing/terrains.ts';
import { QUICK_LIGHT, testProfile, testWorld } from '../testing/world.ts';
import { windingArea } from '../solid/winding.ts';
import { buildMap } from './pipeline.ts';

const profile = testProfile('skarrow');
const SIDE = 65;
const covered = (map: GameMap): number => {
  const pieces = new DecalPieces();
  pieces.update(map.decals, map.solids, groundsOf(map));
  return Object.keys(map.decals).reduce((sum, id) => sum + pieces.get(id).reduce((all, { winding }) => all + windingArea(winding), 0), 0);
};
/** A decal where a ray from above comes down. */
function dressed(map: GameMap, x: number, y: number, size: [number, number]): GameMap {
  const point = surfaceAt(map, map, [x, y, 500], [0, 0, -1])!;
  return applyEdit(map, newDecal(map, { ...plainStyle('stain', size), depth: 4 }, point).edit);
}

test.each([
  ['level ground', () => 10],
  ['a slope', (i: number) => i * 0.5],
])('covers its whole size on %s', (_, height) => {
  const { map } = shaped(terrain([SIDE, SIDE]), height);
  expect(covered(dressed(map, 31.3, 30.2, [10, 6]))).toBeCloseTo(60, 6);
});

test('one on the ground is well, one far above it is said to hang in the air', () => {
  const world = testWorld('blank', profile);
  const { map } = shaped(terrain([SIDE, SIDE]), () => 10);
  const dressedMap = dressed(map, 30, 30, [4, 4]);
  expect(checkDecals(world, dressedMap, 'hall').map(({ code }) => code)).not.toContain('decal-air');
  const [id] = Object.keys(dressedMap.decals);
  const far = { ...dressedMap, decals: { [id]: { ...dressedMap.decals[id], position: [30, 30, 40] as [number, number, number] } } };
  expect(covered(far)).toBe(0);
  expect(checkDecals(world, far, 'hall').map(({ code }) => code)).toContain('decal-air');
});

test('a ray meets ground where its height is, with the slope’s normal; dragged there, a decal looks along it', () => {
  const { map } = shaped(terrain([SIDE, SIDE]), (i) => i * 0.5);
  const hit = groundPoint(map, [20, 20, 100], [0, 0, -1])!;
  expect(hit.point[2]).toBeCloseTo(10, 6);
  expect(hit.normal.map((v) => Math.round(v * 1e4) / 1e4)).toEqual([-0.4472, 0, 0.8944]);
  const flat = Object.values(dressed(shaped(terrain([SIDE, SIDE]), () => 0).map, 5, 5, [2, 2]).decals)[0];
  expect(movedTo(flat, hit).normal[2]).toBeCloseTo(0.8944, 4);
});

test('a decal goes up with its ground; one that hangs above it stays', () => {
  const { map } = shaped(terrain([SIDE, SIDE]), () => 10);
  const low = dressed(map, 30, 30, [4, 4]);
  const [id] = Object.keys(low.decals);
  const both = { ...low, decals: { ...low.decals, d99: { ...low.decals[id], name: 'high', position: [30, 30, 60] as [number, number, number] } } };
  const raised = replaceHeights(groundOf(both, 'e1')!, new Float32Array(SIDE * SIDE).fill(14));
  const after = applyEdit(both, withFollowers(both, { name: 'raise', changes: raised }));
  expect(after.decals[id].position[2]).toBeCloseTo(14, 6);
  expect(after.decals.d99.position[2]).toBe(60);
});

test('a build has it on its ground, lit by the ground’s light, in a file that the validator takes', async () => {
  const world = testWorld('blank', profile);
  const { map } = shaped(terrain([SIDE, SIDE]), (i, j) => 5 + Math.sin(i / 9) * 2 + Math.cos(j / 7) * 2);
  const ready = dressed(map, 32, 30, [12, 12]);
  const material = (name: string, type: string) => ({ name, type, colour: '#804020', unitsPerRepeat: 8 });
  const crate = {
    ...world.crate,
    manifest: { ...world.crate.manifest, materials: [material('stain', 'decal'), material('snow', 'lit'), material('rock', 'lit')] },
    maps: { hall: { ...world.crate.maps.hall, terrains: ready.terrains, tiles: ready.tiles, decals: ready.decals } },
  };
  const { artefacts } = await buildMap({ ...world, crate }, 'hall', { quality: 'draft', parameters: QUICK_LIGHT, anyway: true });
  const glb = artefacts!.get('maps/hall/map.glb')!;
  expect(await glbErrors(glb)).toEqual([]);
  const view = new DataView(glb.buffer, glb.byteOffset, glb.byteLength);
  const length = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length))) as {
    nodes: { name: string; mesh?: number }[];
    meshes: { primitives: { attributes: Record<string, number> }[] }[];
    accessors: { bufferView: number; byteOffset?: number; count: number; max?: number[]; min?: number[] }[];
    bufferViews: { byteOffset?: number; byteStride?: number }[];
  };
  const node = json.nodes.find(({ name }) => name === 'on-ground')!;
  const [primitive] = json.meshes[node.mesh!].primitives;
  const values = (name: string, size: number) => {
    const { bufferView, byteOffset = 0, count } = json.accessors[primitive.attributes[name]];
    const { byteOffset: start = 0, byteStride = size * 4 } = json.bufferViews[bufferView];
    const at = 20 + length + 8 + start + byteOffset;
    return Array.from({ length: count }, (_, i) => Array.from({ length: size }, (__, k) => view.getFloat32(at + i * byteStride + k * 4, true)));
  };
  const ground = groundsOf(ready)[0];
  for (const [x, y, z] of values('POSITION', 3)) {
    // Metres, y up; the mesh of a draft may lie off the samples by its error.
    const height = ground.heightAt(x, -z)!;
    expect(Math.abs(y - height)).toBeLessThan(0.8);
  }
  const colours = values('COLOR_0', 4);
  expect(colours.some(([r]) => r > 0.05)).toBe(true);
  expect(colours.every(([, , , a]) => a >= 0 && a <= 1)).toBe(true);
});
