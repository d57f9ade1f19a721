/** What the geometry stage hands on: the drawn polygons of a map with all that later stages ask of them. */

import type { Vec3 } from '../../math/vec3.ts';
import type { Winding } from '../../solid/winding.ts';

export interface Surface {
  /** Ids of the solid and index of its face: every output triangle stays traceable. */
  solid: string;
  face: number;
  /** Further faces that were merged into it. */
  also?: [solid: string, face: number][];
  material: string;
  normal: Vec3;
  winding: Winding;
  /** What the luxel is multiplied by on this face; its material's where nothing is said. */
  luxel?: number;
  /** Texture coordinates per point, in repeats of the texture. */
  uv: [number, number][];
}
