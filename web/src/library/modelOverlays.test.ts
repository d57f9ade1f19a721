import { describe, expect, it } from '@jest/globals';
import { BufferAttribute, BufferGeometry, Group, Mesh, MeshBasicMaterial } from 'three';
import { densityRange, highlightTriangles, paintDensity } from './modelOverlays.ts';

/** A square of two triangles, `size` metres wide, whose texture covers it once. */
function square(size: number): Mesh {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from([0, 0, 0, size, 0, 0, size, size, 0, 0, size, 0]), 3));
  geometry.setAttribute('uv', new BufferAttribute(Float32Array.from([0, 0, 1, 0, 1, 1, 0, 1]), 2));
  geometry.setIndex([0, 1, 2, 0, 2, 3]);
  const mesh = new Mesh(geometry, new MeshBasicMaterial());
  mesh.userData.own = mesh.material;
  return mesh;
}

describe('pointing out triangles', () => {
  it('counts through all parts, in their places', () => {
    const moved = square(1);
    moved.position.x = 10;
    const overlay = highlightTriangles(new Group().add(square(1), moved), [1, 2], '#ffffff');
    const corners = [...overlay.geometry.getAttribute('position').array];
    expect(corners).toEqual([0, 0, 0, 1, 1, 0, 0, 1, 0, 10, 0, 0, 11, 0, 0, 11, 1, 0]);
  });
});

describe('texel density', () => {
  it('is texels along a hundred units', () => {
    // 256 texels over two metres of 1/32 m units: 64 units, so 400 texels to the hundred.
    const [low, high] = paintDensity(square(2), 1 / 32)!;
    expect(low).toBeCloseTo(400, 3);
    expect(high).toBeCloseTo(400, 3);
    const bare = square(1);
    bare.geometry.deleteAttribute('uv');
    expect(paintDensity(bare, 1)).toBeNull();
    expect(densityRange([1, 2], [0, 1])).toEqual([0, 2]);
    expect(densityRange(null, [3, 4])).toEqual([3, 4]);
  });
});
