import { beforeAll, describe, expect, it } from '@jest/globals';
import { getNavMeshPositionsAndIndices, importNavMesh, init, NavMeshQuery } from '@recast-navigation/core';
import { generateSoloNavMesh } from '@recast-navigation/generators';
import type { GameMap, Solid } from '../../document/schema.ts';
import type { Climb } from '../../part/part.ts';
import type { Vec3 } from '../../math/vec3.ts';
import { climbsOf } from '../../map/objectBox.ts';
import { jumpHeight } from '../../map/measure.ts';
import { newObject } from '../../profile/newObject.ts';
import { emptyMap } from '../../profile/emptyMap.ts';
import { block, roomShell } from '../../solid/primitives.ts';
import { testProfile } from '../../testing/world.ts';
import { areasOf, recastConfig, toRecast } from './navmesh.ts';
import { decodeNavigation, encodeNavigation } from '../pack/navBin.ts';
import { buildNavigation, collisionTriangles, navigationFindings, reachOf } from './stage.ts';

const profile = testProfile();
const { player } = profile;
const CELL = 5;
const box = (min: Vec3, max: Vec3): Solid => block({ min, max }, 'brick');
const navigate = (solids: Solid[], climbs: Climb[] = []) => buildNavigation({ solids, climbs, player, cell: CELL });
const floor = (x0: number, x1: number, top: number): Solid => box([x0, 0, top - 16], [x1, 256, top]);

describe('navigation', () => {
  beforeAll(() => init());

  // Outside reference: recast-navigation itself on the same triangles, and Detour's own way from end to end.
  it('is what Recast makes of the same triangles', async () => {
    const solids = [...roomShell({ min: [0, 0, 0], max: [512, 384, 128] }, 16, 'brick'), box([200, 0, 0], [232, 300, 128])];
    const own = await navigate(solids);
    const triangles = collisionTriangles(solids);
    const positions = Array.from({ length: triangles.length / 3 }, (_, i) => toRecast([...triangles.subarray(i * 3, i * 3 + 3)] as Vec3)).flat();
    const direct = generateSoloNavMesh(
      positions,
      positions.filter((_, i) => i % 3 === 0).map((_, i) => i),
      recastConfig(player, CELL),
    );
    if (!direct.success) throw new Error(direct.error);
    const ours = importNavMesh(own.detour).navMesh;
    expect(getNavMeshPositionsAndIndices(ours)).toEqual(getNavMeshPositionsAndIndices(direct.navMesh));
    const at = ([x, y, z]: Vec3) => ({ x, y, z });
    const path = new NavMeshQuery(ours).computePath(at(toRecast([60, 60, 0])), at(toRecast([450, 60, 0])));
    expect(path.success).toBe(true);
    // Around the wall that leaves a gap at its end.
    expect(path.path.length).toBeGreaterThan(2);
    const area = areasOf(own.polygons);
    const { reached } = reachOf(own, [[60, 60, 0]], player);
    expect([...reached].some((a) => own.polygons.some((p, i) => area[i] === a && p.corners.some((c) => own.vertices[c][0] > 400)))).toBe(true);
  });

  it('is kept and read back, and anything else is refused', async () => {
    const output = await navigate([floor(0, 256, 0), floor(300, 556, 0)]);
    const back = decodeNavigation(encodeNavigation(output));
    expect(back.polygons).toEqual(output.polygons);
    expect(back.links).toHaveLength(output.links.length);
    expect(encodeNavigation(await navigate([floor(0, 256, 0), floor(300, 556, 0)]))).toEqual(encodeNavigation(output));
    expect(() => decodeNavigation(new Uint8Array(30))).toThrow(/VCNV/);
  });

  it('jumps over gaps and up ledges as far as the player’s speed and jump allow', async () => {
    const across = async (gap: number, rise: number) => {
      const output = await navigate([floor(0, 256, 0), floor(256 + gap, 512 + gap, rise)]);
      const { areas, reached } = reachOf(output, [[64, 128, 0]], player);
      return output.polygons.some((p, i) => reached.has(areas[i]) && p.corners.some((c) => output.vertices[c][0] > 300 + gap));
    };
    // Flat: run speed × 2 v / g, by projectile motion.
    const flat = (player.runSpeed * 2 * player.jumpSpeed) / player.gravity;
    expect(await across(flat - 16, 0)).toBe(true);
    expect(await across(flat + 32, 0)).toBe(false);
    expect(await across(0, Math.floor(jumpHeight(player)) - 4)).toBe(true);
    expect(await across(0, Math.ceil(jumpHeight(player)) + 6)).toBe(false);
  });

  it('names what cannot be reached, with the place', async () => {
    const shell = roomShell({ min: [0, 0, 0], max: [512, 256, 128] }, 16, 'brick');
    const wall = box([256, 0, 0], [272, 256, 128]);
    const map: GameMap = {
      ...emptyMap(profile),
      solids: Object.fromEntries([...shell, wall].map((solid, i) => [`s${i}`, solid])),
      objects: {
        o1: newObject(profile, 'start', 'start', [64, 128, 0]),
        o2: newObject(profile, 'crank', 'crank_near', [192, 64, 0]),
        o3: newObject(profile, 'crank', 'crank_far', [400, 64, 0]),
      },
    };
    const solids = Object.values(map.solids);
    const closed = navigationFindings(await navigate(solids), profile, map, 'hall');
    expect(closed.map((f) => [f.code, f.place?.object])).toEqual([
      ['unreachable-objective', 'o3'],
      ['unreachable-area', undefined],
    ]);
    expect(closed[1].place!.point![0]).toBeGreaterThan(272);
    const open = await navigate(solids.map((solid) => (solid === wall ? box([256, 96, 0], [272, 256, 128]) : solid)));
    expect(navigationFindings(open, profile, map, 'hall')).toEqual([]);
  });

  it('of nothing is nothing', async () => {
    const output = await navigate([]);
    expect(output.polygons).toEqual([]);
    expect(navigationFindings(output, profile, emptyMap(profile), 'hall')).toEqual([]);
  });

  it('leads up and down a ladder to a floor that no jump reaches', async () => {
    const solids = [floor(0, 256, 0), floor(256, 512, 160)];
    const ladder = { ...newObject(profile, 'ladder', 'ladder', [254, 128, 0]), turn: 180 };
    ladder.properties.size = [4, 20, 160];
    const map: GameMap = { ...emptyMap(profile), objects: { o1: ladder } };
    const reaches = (output: Awaited<ReturnType<typeof navigate>>, from: Vec3) => reachOf(output, [from], player).reached.size;
    expect(reaches(await navigate(solids), [64, 128, 0])).toBe(1);
    const climbed = await navigate(solids, climbsOf(profile, map));
    expect([reaches(climbed, [64, 128, 0]), reaches(climbed, [400, 128, 160])]).toEqual([2, 2]);
    // One that ends far below the floor leads nowhere.
    ladder.properties.size = [4, 20, 100];
    expect(reaches(await navigate(solids, climbsOf(profile, map)), [64, 128, 0])).toBe(1);
  });
});
