import { describe, expect, it } from '@jest/globals';
import { BufferAttribute, BufferGeometry, type LineSegments, type Mesh } from 'three';
import { colourOf, densityColour, navigationLines, repeatsPerMetre } from './resultLooks.ts';

function triangle(size: number, repeats: number): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from([0, 0, 0, size, 0, 0, 0, 0, size]), 3));
  geometry.setAttribute('uv', new BufferAttribute(Float32Array.from([0, 0, repeats, 0, 0, repeats]), 2));
  return geometry;
}

describe('looks of a built map', () => {
  it('texel density is repeats per metre, whatever the size', () => {
    expect(repeatsPerMetre(triangle(2, 1), [0, 1, 2])).toBeCloseTo(0.5, 9);
    expect(repeatsPerMetre(triangle(4, 8), [0, 1, 2])).toBeCloseTo(2, 9);
    expect(repeatsPerMetre(triangle(0, 1), [0, 1, 2])).toBe(0);
    expect(new Set([10, 100, 200, 1000].map(densityColour)).size).toBe(4);
  });

  it('neighbouring numbers have colours that are far apart', () => {
    for (let n = 0; n < 20; n++) {
      const [a, b] = [colourOf(n), colourOf(n + 1)];
      expect(Math.hypot(a.r - b.r, a.g - b.g, a.b - b.b)).toBeGreaterThan(0.2);
    }
  });

  it('walkable polygons and jumps stand in metres, y up; what lies in no sector is left out', () => {
    const square = (x: number) => [
      [x, 0, 0],
      [x + 32, 0, 0],
      [x + 32, 32, 0],
      [x, 32, 0],
    ];
    const output = {
      vertices: [...square(0), ...square(100)] as [number, number, number][],
      polygons: [
        { corners: [0, 1, 2, 3], neighbours: [-1, -1, -1, -1] },
        { corners: [4, 5, 6, 7], neighbours: [-1, -1, -1, -1] },
      ],
      links: [{ from: [32, 16, 0] as [number, number, number], to: [100, 16, 0] as [number, number, number], fromArea: 0, toArea: 1 }],
      detour: new Uint8Array(0),
    };
    // One plane at x = 64: sector 0 in front of it is left of it.
    const visibility = { planes: [-1, 0, 0, -64], children: [-1, -2], sectorOfLeaf: [0, -1], sectors: 1, rows: Uint32Array.of(1), groups: [] };
    const [surface, jumps] = navigationLines(output, visibility, 1 / 32).children as [Mesh, LineSegments];
    const at = surface.geometry.getAttribute('position');
    expect(at.count).toBe(6);
    expect(Math.max(...Array.from({ length: 6 }, (_, i) => at.getX(i)))).toBeCloseTo(1, 6);
    expect(Math.min(...Array.from({ length: 6 }, (_, i) => at.getZ(i)))).toBeCloseTo(-1, 6);
    expect(jumps.geometry.getAttribute('position').count).toBe(2);
  });
});
