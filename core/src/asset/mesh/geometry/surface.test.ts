import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { bunny } from '../../../testing/models.ts';
import { collisionShape } from './collision.ts';
import { findCompanion } from '../read/companions.ts';
import type { ModelPart } from '../model/model.ts';
import { computeNormals } from './normals.ts';
import { referencedBy } from '../read/references.ts';
import { isClosed, surfaceOf, volumeOf } from './surface.ts';
import { checkSides, dropTriangles, trianglesToTurn, turnTriangles, uselessTriangles } from './tidy.ts';
import { findEdges, findPieces, pointNumbers } from './topology.ts';
import { VertexTable } from './vertexTable.ts';
import { dropUnused, weld } from './weld.ts';

const part = (positions: ArrayLike<number>, indices: ArrayLike<number>): ModelPart => ({
  name: 'p',
  material: '',
  positions: Float32Array.from(positions),
  normals: null,
  uvs: null,
  indices: Uint32Array.from(indices),
});
const text = (content: string) => new TextEncoder().encode(content);

/** Boxes on a grid that do not touch: closed, of known volume. */
const boxes = fc.array(fc.tuple(fc.nat(6), fc.nat(6), fc.nat(6)), { minLength: 1, maxLength: 6 }).map((cells) => {
  const distinct = [...new Map(cells.map((cell) => [cell.join(), cell])).values()];
  const positions: number[] = [];
  const indices: number[] = [];
  const quads = [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ];
  for (const cell of distinct) {
    const base = positions.length / 3;
    for (let k = 0; k < 8; k++) positions.push(cell[0] * 2 + (k & 1), cell[1] * 2 + ((k >> 1) & 1), cell[2] * 2 + (k >> 2));
    for (const [a, b, c, d] of quads) indices.push(base + a, base + b, base + c, base + a, base + c, base + d);
  }
  return { positions, indices, count: distinct.length };
});

describe('topology', () => {
  it('numbers places as a plain map would', () => {
    const coordinate = fc.constantFrom(-1, -0, 0, 0.5, 1);
    fc.assert(
      fc.property(fc.array(fc.tuple(coordinate, coordinate, coordinate), { minLength: 1, maxLength: 60 }), (points) => {
        const { point, count } = pointNumbers(Float32Array.from(points.flat()));
        const known = new Map<string, number>();
        const expected = points.map((p) => {
          const key = p.map((v) => v + 0).join();
          if (!known.has(key)) known.set(key, known.size);
          return known.get(key);
        });
        expect([...point]).toEqual(expected);
        expect(count).toBe(known.size);
      }),
    );
  });

  it('finds every edge once, and as many pieces as there are boxes', () => {
    fc.assert(
      fc.property(boxes, ({ positions, indices, count }) => {
        const surface = surfaceOf([part(positions, indices)], null);
        // A box of twelve triangles has eighteen edges (Euler: 8 - 18 + 12 = 2).
        expect(surface.edges.count).toBe(18 * count);
        expect(surface.pieces).toBe(count);
        expect(isClosed(surface)).toBe(true);
        expect(volumeOf(surface.positions, surface.indices)).toBeCloseTo(count, 4);
      }),
    );
  });

  it('edges of nothing are none', () => {
    const edges = findEdges(Uint32Array.from([1, 1, 2]));
    expect(edges.count).toBe(0);
    expect(findPieces(1, edges).count).toBe(1);
  });

  it('the vertex table numbers triples as a plain map would, left-out ones too', () => {
    const index = fc.integer({ min: -1, max: 5 });
    fc.assert(
      fc.property(fc.array(fc.tuple(index, index, index), { maxLength: 3000 }), (triples) => {
        const table = new VertexTable();
        const known = new Map<string, number>();
        for (const triple of triples) {
          const key = triple.join();
          if (!known.has(key)) known.set(key, known.size);
          expect(table.indexOf(...triple)).toBe(known.get(key));
        }
      }),
      { numRuns: 30 },
    );
  });
});

describe('repairs', () => {
  it('whatever is turned the wrong way round ends up outwards', () => {
    fc.assert(
      fc.property(boxes, fc.array(fc.nat(71), { maxLength: 20 }), ({ positions, indices, count }, wrong) => {
        const broken = part(positions, indices);
        for (const t of wrong) {
          const at = (t % (indices.length / 3)) * 3;
          [broken.indices[at + 1], broken.indices[at + 2]] = [broken.indices[at + 2], broken.indices[at + 1]];
        }
        const surface = surfaceOf([broken], null);
        const repaired = surfaceOf(turnTriangles([broken], surface, trianglesToTurn(surface)), null);
        expect(volumeOf(repaired.positions, repaired.indices)).toBeCloseTo(count, 4);
        expect(checkSides(repaired)).toEqual({ disagreeing: [], branching: [], insideOut: [], openEdges: 0 });
      }),
    );
  });

  it('second copies and triangles without area go, and nothing else', () => {
    fc.assert(
      fc.property(boxes, fc.array(fc.nat(71), { minLength: 1, maxLength: 8 }), ({ positions, indices }, twice) => {
        const more = [...indices, 0, 0, 1];
        const picked = new Set(twice.map((t) => t % (indices.length / 3)));
        for (const t of picked) more.push(indices[t * 3 + 1], indices[t * 3], indices[t * 3 + 2]);
        const surface = surfaceOf([part(positions, more)], null);
        const found = uselessTriangles(surface);
        expect(found.flat).toEqual([indices.length / 3]);
        expect(found.twice).toHaveLength(picked.size);
        const [kept] = dropTriangles([part(positions, more)], surface, [...found.flat, ...found.twice]);
        expect([...kept.indices]).toEqual(indices);
      }),
    );
  });

  it('welding keeps every triangle where it is', () => {
    fc.assert(
      fc.property(boxes, ({ positions, indices }) => {
        const loose = part(
          Array.from(indices).flatMap((i) => positions.slice(i * 3, i * 3 + 3)),
          Array.from(indices, (_, i) => i),
        );
        const welded = weld(loose, 0);
        expect(welded.positions.length).toBe(positions.length);
        const corners = (p: ModelPart) => Array.from(p.indices).flatMap((i) => [...p.positions.subarray(i * 3, i * 3 + 3)]);
        expect(corners(welded)).toEqual(corners(loose));
      }),
    );
    const unused = dropUnused(part([0, 0, 0, 9, 9, 9, 1, 0, 0, 0, 1, 0], [0, 2, 3]));
    expect([...unused.positions]).toEqual([0, 0, 0, 1, 0, 0, 0, 1, 0]);
  });

  it('normals are of unit length and point out of closed shapes', () => {
    fc.assert(
      fc.property(boxes, fc.constantFrom(0, 40, 180), ({ positions, indices }, angle) => {
        const { normals, positions: p, indices: i } = computeNormals(part(positions, indices), angle);
        for (let t = 0; t < i.length; t++) {
          const n = [...normals!.subarray(i[t] * 3, i[t] * 3 + 3)];
          expect(Math.hypot(...n)).toBeCloseTo(1, 5);
          // From the middle of its box a corner's normal leads away.
          const away = [0, 1, 2].reduce((sum, axis) => sum + n[axis] * (p[i[t] * 3 + axis] - (Math.floor(p[i[t] * 3 + axis] / 2) * 2 + 0.5)), 0);
          expect(away).toBeGreaterThan(0);
        }
      }),
      { numRuns: 30 },
    );
  });
});

describe('convex parts', () => {
  it('together hold every point of the surface', async () => {
    const surface = surfaceOf([part(bunny.positions.flat(), bunny.cells.flat())], null);
    const shape = (await collisionShape(surface, { collision: 'parts', collisionParts: 6, mass: 0 }))!;
    expect(shape.bodies.length).toBeGreaterThan(1);
    expect(shape.bodies.length).toBeLessThanOrEqual(6);
    const outside = (p: number[], { positions, indices }: (typeof shape.bodies)[number]) => {
      let worst = -Infinity;
      for (let i = 0; i < indices.length; i += 3) {
        const [a, b, c] = [0, 1, 2].map((k) => [...positions.subarray(indices[i + k] * 3, indices[i + k] * 3 + 3)]);
        const u = b.map((v, k) => v - a[k]);
        const v = c.map((w, k) => w - a[k]);
        const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
        const size = Math.hypot(...n);
        // Slivers have no direction in single precision.
        if (size > 1e-3 * Math.max(u[0] ** 2 + u[1] ** 2 + u[2] ** 2, v[0] ** 2 + v[1] ** 2 + v[2] ** 2))
          worst = Math.max(worst, (n[0] * (p[0] - a[0]) + n[1] * (p[1] - a[1]) + n[2] * (p[2] - a[2])) / size);
      }
      return worst;
    };
    for (let i = 0; i < bunny.positions.length; i += 23)
      expect(Math.min(...shape.bodies.map((body) => outside(bunny.positions[i], body)))).toBeLessThan(1e-3);
  });
});

describe('companions', () => {
  const along = new Map(['tex/Rock.png', 'tex/moss.tga', 'a.mtl', 'b/a b.bin'].map((path) => [path, text(path)]));

  it.each([
    ['tex/Rock.png', 'tex/Rock.png', true],
    ['C:\\work\\Rock.png', 'tex/Rock.png', true],
    ['./rock.PNG', 'tex/Rock.png', false],
    ['moss.png', 'tex/moss.tga', false],
    ['a%20b.bin', 'b/a b.bin', true],
    ['none.png', null, false],
    ['a.bin', null, false],
  ])('%s', (wanted, path, exact) => {
    const found = findCompanion(along, wanted);
    expect(found?.path ?? null).toBe(path);
    if (found) expect(found.exact).toBe(exact);
  });

  it('are what a model names, whatever its format', () => {
    const files = new Map([
      ['a.mtl', text('newmtl x\nmap_Kd skin.png\n')],
      ['skin.png', text('x')],
      ['a.bin', text('x')],
      ['other.png', text('x')],
    ]);
    const names = (file: string, content: string) => [...referencedBy(file, text(content), files).keys()];
    expect(names('a.obj', 'mtllib a.mtl\nv 0 0 0\n')).toEqual(['a.mtl', 'skin.png']);
    expect(
      names('a.gltf', JSON.stringify({ buffers: [{ uri: 'a.bin' }], images: [{ uri: 'skin.png' }, { uri: 'data:image/png;base64,AA' }] })),
    ).toEqual(['a.bin', 'skin.png']);
    expect(names('a.dae', '<init_from>./skin.png</init_from>')).toEqual(['skin.png']);
    expect(names('a.gltf', 'not json')).toEqual([]);
    expect(names('a.stl', 'skin.png')).toEqual([]);
  });
});
