import type { Vec3 } from '../../math/vec3.ts';

/** Map space (z up, units) to glTF space (y up, metres). */
export const toGltf = (p: Vec3, metresPerUnit: number): Vec3 => [p[0] * metresPerUnit, p[2] * metresPerUnit, 0 - p[1] * metresPerUnit];

/** The way back. */
export const fromGltf = ([x, y, z]: Vec3, metresPerUnit: number): Vec3 => [x / metresPerUnit, (0 - z) / metresPerUnit, y / metresPerUnit];
