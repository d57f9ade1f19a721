/** What a window of a shared run asks for, read from what came over its socket. */

import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Intent } from '@violet-crate/core/trial/move';

export type Wish =
  { type: 'want'; intent: Intent } | { type: 'operate' | 'fling'; look: Vec3 } | { type: 'glide' } | { type: 'answer'; choice: number };

/** Null where it says nothing that is known. */
export function readWish(text: string): Wish | null {
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch {
    return null;
  }
  if (typeof given !== 'object' || given === null) return null;
  const { type, look, intent, choice } = given as Record<string, unknown>;
  if (type === 'glide') return { type };
  if (type === 'answer')
    return Number.isInteger(choice) && (choice as number) >= 0 && (choice as number) < 100 ? { type, choice: choice as number } : null;
  if (type === 'operate' || type === 'fling') return isDirection(look) ? { type, look } : null;
  if (type !== 'want' || typeof intent !== 'object' || intent === null) return null;
  const { move, run, jump, crouch, look: eyes } = intent as Record<string, unknown>;
  if (!isDirection(move) || !isDirection(eyes)) return null;
  return { type, intent: { move, run: run === true, jump: jump === true, crouch: crouch === true, look: eyes } };
}

/** Three numbers of at most 1, a little more for rounding. */
const isDirection = (value: unknown): value is Vec3 =>
  Array.isArray(value) &&
  value.length === 3 &&
  value.every((v) => typeof v === 'number' && Number.isFinite(v)) &&
  Math.hypot(...(value as number[])) <= 1.001;
