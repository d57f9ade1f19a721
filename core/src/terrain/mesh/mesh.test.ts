import Martini from '@mapbox/martini';
import { describe, expect, it } from '@jest/globals';
import { chance } from '../../math/chance.ts';
import { shaped, terrain } from '../../testing/terrains.ts';
import { noiseOf } from '../noise.ts';
import { edgeSteps, gridMesh, stepsFrom } from './gridMesh.ts';
import { BLOCK, farthest, RightTriangles, type BlockMesh } from './rightTriangles.ts';

const hills = (seed: number) => {
  const noise = noiseOf(seed, 60);
  return (i: number, j: number) => Math.fround(noise(i, j) * 30);
};

/** Height of a mesh over every sample of its block. */
function heightsOf(mesh: BlockMesh): Map<string, number> {
  const out = new Map<string, number>();
  const v = (n: number) => [0, 1, 2].map((k) => mesh.vertices[n * 3 + k]);
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const [a, b, c] = [v(mesh.indices[t]), v(mesh.indices[t + 1]), v(mesh.indices[t + 2])];
    const area = (b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1]);
    if (area <= 0) throw new Error('a triangle is not counter-clockwise, seen from above');
    for (let j = Math.min(a[1], b[1], c[1]); j <= Math.max(a[1], b[1], c[1]); j++)
      for (let i = Math.min(a[0], b[0], c[0]); i <= Math.max(a[0], b[0], c[0]); i++) {
        const s = ((i - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (j - a[1])) / area;
        const u = ((b[0] - a[0]) * (j - a[1]) - (i - a[0]) * (b[1] - a[1])) / area;
        if (s < -1e-9 || u < -1e-9 || s + u > 1 + 1e-9) continue;
        out.set(`${i},${j}`, a[2] + (b[2] - a[2]) * s + (c[2] - a[2]) * u);
      }
  }
  return out;
}

describe('right triangles', () => {
  it.each([0.2, 1, 5])('have no more triangles than @mapbox/martini at the same bound (%d), on one block', (bound) => {
    const { ground } = shaped(terrain([BLOCK + 1, BLOCK + 1]), hills(3));
    const tile = new Martini(BLOCK + 1).createTile(ground.grid());
    const { triangles, vertices } = tile.getMesh(bound);
    const theirs = triangles.length / 3;
    const [mesh] = new RightTriangles(ground).meshes([bound]);
    expect(theirs).toBeGreaterThan(50);
    expect(mesh.indices.length / 3 / theirs).toBeLessThanOrEqual(1.1);
    // And no farther off.
    const corners = Float32Array.from({ length: (vertices.length / 2) * 3 }, (_, k) =>
      k % 3 < 2 ? vertices[Math.floor(k / 3) * 2 + (k % 3)] : ground.at(vertices[Math.floor(k / 3) * 2], vertices[Math.floor(k / 3) * 2 + 1]),
    );
    const them = farthest(ground, [{ x: 0, y: 0, level: 0, vertices: corners, indices: Uint32Array.from(triangles) }]);
    expect(farthest(ground, [mesh])).toBeLessThanOrEqual(them + 1e-6);
  });

  it('over several blocks as few as martini on the whole, within a tenth', () => {
    const { ground } = shaped(terrain([2 * BLOCK + 1, 2 * BLOCK + 1]), hills(8));
    const theirs = new Martini(2 * BLOCK + 1).createTile(ground.grid()).getMesh(1).triangles.length / 3;
    const ours = new RightTriangles(ground).meshes([1]).reduce((sum, { indices }) => sum + indices.length / 3, 0);
    expect(ours / theirs).toBeLessThanOrEqual(1.1);
  });

  it.each([
    [257, 257, 1],
    [200, 150, 2],
  ])('keep the bound but for half of it, and meet across blocks and levels, %d × %d', (nx, ny, seed) => {
    const { ground } = shaped(terrain([nx, ny]), hills(seed));
    const bounds = [0.5, 2, 8];
    const meshes = new RightTriangles(ground).meshes(bounds);
    for (const level of [0, 1, 2]) {
      const own = meshes.filter((m) => m.level === level);
      expect(farthest(ground, own)).toBeLessThanOrEqual(bounds[level] * 1.5);
      expect(new Set(own.flatMap((mesh) => [...heightsOf(mesh).keys()])).size).toBe(nx * ny);
    }
    // Heights along every border are the same in all blocks and levels.
    const border = new Map<string, number>();
    let apart = 0;
    for (const mesh of meshes)
      for (const [at, height] of heightsOf(mesh)) {
        const [i, j] = at.split(',').map(Number);
        if (i % BLOCK !== 0 && j % BLOCK !== 0) continue;
        if (border.has(at)) apart = Math.max(apart, Math.abs(height - border.get(at)!));
        else border.set(at, height);
      }
    expect(apart).toBeLessThan(1e-4);
    expect(border.size).toBeGreaterThan(100);
  });

  it('leaves out holes to the very quad', () => {
    const { ground } = shaped(terrain([BLOCK + 1, BLOCK + 1]), () => 5);
    const holed = Object.assign(Object.create(ground) as typeof ground, {
      isThere: (i: number, j: number) => ground.isThere(i, j) && !(i === 40 && j === 41),
    });
    const [mesh] = new RightTriangles(holed).meshes([1]);
    const v = (n: number) => [mesh.vertices[n * 3], mesh.vertices[n * 3 + 1]];
    let area = 0;
    for (let t = 0; t < mesh.indices.length; t += 3) {
      const [a, b, c] = [v(mesh.indices[t]), v(mesh.indices[t + 1]), v(mesh.indices[t + 2])];
      area += Math.abs((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])) / 2;
    }
    expect(area).toBe(BLOCK * BLOCK - 1);
  });
});

describe('even meshes for drawing', () => {
  it('have no cracks where steps differ: every vertex on a border is in both tiles', () => {
    const random = chance(5);
    const { ground } = shaped(terrain([3 * BLOCK + 1, 2 * BLOCK + 1]), () => random() * 20);
    const steps = stepsFrom(ground, [0, 0], 0.4);
    expect(new Set(steps).size).toBeGreaterThan(1);
    const lines = new Map<string, Set<string>[]>();
    for (let y = 0; y < 2; y++)
      for (let x = 0; x < 3; x++) {
        const mesh = gridMesh(ground, x, y, steps[y * ground.tilesX + x], edgeSteps(ground, steps, x, y));
        const used = new Set(mesh.indices);
        for (const [key, on] of [
          [`x${x * BLOCK}`, (i: number) => i === x * BLOCK],
          [`x${(x + 1) * BLOCK}`, (i: number) => i === (x + 1) * BLOCK],
        ] as const) {
          const along = new Set<string>();
          used.forEach((k) => {
            const [i, j] = [mesh.samples[k * 2], mesh.samples[k * 2 + 1]];
            if (on(i)) along.add(`${j}`);
          });
          lines.set(`${key}/${y}`, [...(lines.get(`${key}/${y}`) ?? []), along]);
        }
      }
    const shared = [...lines.values()].filter((sets) => sets.length === 2);
    expect(shared.length).toBe(4);
    for (const [a, b] of shared) expect([...a].sort()).toEqual([...b].sort());
  });
});
