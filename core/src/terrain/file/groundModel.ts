/** A ground as parts of a model for other programs: metres, y up, one part per surface; texture coordinates are those of its masks. */

import type { ModelPart } from '../../asset/mesh/model/model.ts';
import type { Ground } from '../ground.ts';
import { RightTriangles } from '../mesh/rightTriangles.ts';
import { gradient } from '../relief.ts';

/**
 * @param error largest vertical distance from the samples at the middles of edges, units
 * @param materials names of the terrain's surfaces
 */
export function groundParts(ground: Ground, error: number, metresPerUnit: number, materials: readonly string[]): ModelPart[] {
  const { nx, ny, terrain } = ground;
  const parts = materials.map(() => ({ positions: [] as number[], normals: [] as number[], uvs: [] as number[], indices: [] as number[] }));
  for (const { vertices, indices } of new RightTriangles(ground).meshes([error])) {
    // Blocks at the far edges reach beyond the ground; what lies there is left out of their meshes.
    const numbers = parts.map(() => new Map<number, number>());
    const put = (k: number, vertex: number): number => {
      const known = numbers[k].get(vertex);
      if (known !== undefined) return known;
      const [i, j, z] = [vertices[vertex * 3], vertices[vertex * 3 + 1], vertices[vertex * 3 + 2]];
      const [x, y] = ground.pointOf(i, j);
      const [dx, dy] = gradient({ nx, ny, at: (a, b) => ground.at(a, b) }, i, j, terrain.spacing);
      const size = Math.sqrt(1 + dx * dx + dy * dy);
      const { positions, normals, uvs } = parts[k];
      numbers[k].set(vertex, positions.length / 3);
      positions.push(x * metresPerUnit, z * metresPerUnit, 0 - y * metresPerUnit);
      normals.push(-dx / size, 1 / size, dy / size);
      uvs.push(i / (nx - 1), 1 - j / (ny - 1));
      return positions.length / 3 - 1;
    };
    for (let t = 0; t < indices.length; t += 3) {
      const three = [indices[t], indices[t + 1], indices[t + 2]];
      const middle = (axis: number) => Math.round(three.reduce((sum, v) => sum + vertices[v * 3 + axis], 0) / 3);
      const weights = ground.weightsAt(Math.min(nx - 1, middle(0)), Math.min(ny - 1, middle(1)));
      const k = weights.indexOf(Math.max(...weights));
      for (const vertex of three) parts[k].indices.push(put(k, vertex));
    }
  }
  return parts.flatMap(({ positions, normals, uvs, indices }, k) =>
    indices.length === 0
      ? []
      : [
          {
            name: `${terrain.name} ${materials[k]}`,
            material: materials[k],
            positions: Float32Array.from(positions),
            normals: Float32Array.from(normals),
            uvs: Float32Array.from(uvs),
            indices: Uint32Array.from(indices),
          },
        ],
  );
}
