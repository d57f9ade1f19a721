import { describe, expect, it } from '@jest/globals';
import type { Solid } from '../../document/schema.ts';
import type { Vec3 } from '../../math/vec3.ts';
import { block, roomShell } from '../../solid/primitives.ts';
import { raySolid } from '../../solid/ray.ts';
import { subtractSolid } from '../../solid/cut.ts';
import { leafAt } from '../sealing/bsp.ts';
import { floodTree, sealTree } from '../sealing/stage.ts';
import { buildVisibility, decodeVisibility, encodeVisibility } from './stage.ts';

const seeded = (seed: number) => () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;

/** Rooms of 128 by 128 in a grid, with doors between most neighbours and pillars and steps within. */
function rooms(side: number, seed: number): { solids: Solid[]; size: number } {
  const random = seeded(seed);
  const size = side * 128;
  const solids = roomShell({ min: [0, 0, 0], max: [size, size, 96] }, 16, 'brick');
  for (let i = 1; i < side; i++)
    for (let j = 0; j < side; j++) {
      const at = j * 128 + 16 + Math.floor(random() * 4) * 16;
      for (const wall of [
        { min: [i * 128 - 4, j * 128, 0] as Vec3, max: [i * 128 + 4, (j + 1) * 128, 96] as Vec3 },
        { min: [j * 128, i * 128 - 4, 0] as Vec3, max: [(j + 1) * 128, i * 128 + 4, 96] as Vec3 },
      ]) {
        const whole = block(wall, 'brick');
        const along = wall.max[0] - wall.min[0] > 16 ? 0 : 1;
        const door = { min: [...wall.min] as Vec3, max: [...wall.max] as Vec3 };
        [door.min[along], door.max[along], door.max[2]] = [at, at + 32, 64];
        door.min[1 - along] -= 8;
        door.max[1 - along] += 8;
        solids.push(...(random() < 0.8 ? subtractSolid(whole, block(door, 'brick')) : [whole]));
      }
    }
  for (let n = 0; n < side * side; n++) {
    const [x, y] = [Math.floor(random() * (size - 32)), Math.floor(random() * (size - 32))];
    solids.push(block({ min: [x, y, 0], max: [x + 16, y + 24, random() < 0.5 ? 96 : 32] }, 'brick'));
  }
  return { solids, size };
}

describe('visibility', () => {
  it.each([
    [2, 'full'],
    [3, 'full'],
    [3, 'fast'],
  ] as const)('leaves out nothing that a ray can see: %i by %i rooms, %s', (side, way) => {
    const { solids, size } = rooms(side, side * 7);
    const tree = sealTree(solids);
    const random = seeded(99);
    const point = (): Vec3 => [random() * size, random() * size, random() * 96];
    // Free points anywhere: rooms that no door leads to count as well.
    const { inside } = floodTree(
      tree,
      Array.from({ length: 200 }, (_, i) => ({ id: `o${i}`, name: '', point: point() })),
      [],
    );
    const output = buildVisibility(tree, inside, { way, farthest: 0 });
    expect(output.unfinished).toBe(0);
    const cellOf = new Map(inside.map((leaf, cell) => [leaf, cell]));
    let seenPairs = 0;
    let missed = 0;
    for (let n = 0; n < 34_000; n++) {
      const [a, b] = [point(), point()];
      const [from, to] = [cellOf.get(leafAt(tree.bsp, a).index), cellOf.get(leafAt(tree.bsp, b).index)];
      if (from === undefined || to === undefined) continue;
      const direction: Vec3 = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
      if (solids.some((solid) => (raySolid(solid, a, direction)?.t ?? Infinity) <= 1)) continue;
      seenPairs++;
      if (!output.visible.has(from, to)) missed++;
    }
    expect(seenPairs).toBeGreaterThan(2000);
    expect(missed).toBe(0);
  });

  it('full clipping sees less than the fast way, and both survive being kept', () => {
    const { solids } = rooms(3, 5);
    const tree = sealTree(solids);
    const { inside } = floodTree(tree, [{ id: 'o1', name: '', point: [30, 30, 50] }], []);
    const [fast, full] = (['fast', 'full'] as const).map((way) => buildVisibility(tree, inside, { way, farthest: 0 }));
    expect(full.visible.count()).toBeLessThan(fast.visible.count());
    const back = decodeVisibility(encodeVisibility(full));
    expect(back).toEqual(full);
  });

  it('two rooms that a bent corridor joins do not see each other', () => {
    const shell = roomShell({ min: [0, 0, 0], max: [384, 384, 96] }, 16, 'brick');
    // Solid but for a room in the west, a room in the north, and a corridor with a bend between them.
    const solids = [
      ...shell,
      block({ min: [128, 0, 0], max: [384, 176, 96] }, 'brick'),
      block({ min: [128, 208, 0], max: [240, 384, 96] }, 'brick'),
      block({ min: [272, 176, 0], max: [384, 256, 96] }, 'brick'),
      block({ min: [0, 256, 0], max: [128, 384, 96] }, 'brick'),
    ];
    const tree = sealTree(solids);
    const { inside, leaks } = floodTree(tree, [{ id: 'o1', name: '', point: [30, 130, 50] }], []);
    expect(leaks).toEqual([]);
    const output = buildVisibility(tree, inside, { way: 'full', farthest: 0 });
    const cellAt = (p: Vec3) => inside.indexOf(leafAt(tree.bsp, p).index);
    expect(output.visible.has(cellAt([30, 30, 50]), cellAt([360, 370, 50]))).toBe(false);
    expect(output.sectorCount).toBeGreaterThan(1);
    const near = buildVisibility(tree, inside, { way: 'full', farthest: 64 });
    expect(near.visible.count()).toBeLessThan(output.visible.count());
  });

  it('a divider splits the cells that it reaches into, keeps nothing in or out, and leaves other rooms whole', () => {
    const inner = { min: [0, 0, 0] as Vec3, max: [512, 64, 96] as Vec3 };
    // Two rooms in a row with a door in the wall between them.
    const solids = [
      ...roomShell(inner, 16, 'brick'),
      block({ min: [248, 0, 0], max: [264, 24, 96] }, 'brick'),
      block({ min: [248, 40, 0], max: [264, 64, 96] }, 'brick'),
    ];
    const divider = block({ min: [96, -8, -8], max: [128, 72, 104] }, 'divider');
    const cells = (dividers: Solid[]) => {
      const tree = sealTree(solids, () => {}, dividers);
      const { inside, leaks } = floodTree(tree, [{ id: 'o1', name: '', point: [30, 30, 50] }], []);
      expect(leaks).toEqual([]);
      const at = (x: number) => leafAt(tree.bsp, [x, 30, 50]).index;
      expect(inside).toEqual(expect.arrayContaining([at(30), at(110), at(200), at(400)]));
      return { count: inside.length, at };
    };
    const [plain, split] = [cells([]), cells([divider])];
    expect(plain.at(30)).toBe(plain.at(200));
    expect(new Set([split.at(30), split.at(110), split.at(200)]).size).toBe(3);
    expect(split.at(300)).toBe(split.at(500));
    expect(split.count).toBeGreaterThanOrEqual(plain.count + 2);
  });
});
