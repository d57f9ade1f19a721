import type { Vec3 } from '../math/vec3.ts';

/** A property's value as three numbers, or null where it is something else. */
export function vectorOf(value: unknown): Vec3 | null {
  return Array.isArray(value) && value.length === 3 && value.every((v) => typeof v === 'number') ? (value as Vec3) : null;
}
