/**
 * What is being drawn or dragged, in map space, so that every view shows it while it is still in the hand. It changes
 * with every movement of the pointer, so it is kept beside the store.
 */

import { useSyncExternalStore } from 'react';
import type { Solid } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Ground } from '@violet-crate/core/terrain/ground';

export interface Ghost {
  /** Solids as they would be. */
  solids: readonly Solid[];
  /** Lines, and places of what has no body. */
  lines: readonly (readonly Vec3[])[];
  /** Ground under the brush, and the tiles that it differs in. */
  ground?: { ground: Ground; tiles: ReadonlySet<number> };
}

let ghost: Ghost | null = null;
const listeners = new Set<() => void>();

export const currentGhost = (): Ghost | null => ghost;

export function showGhost(next: Ghost | null): void {
  if (next === ghost) return;
  ghost = next;
  for (const listener of listeners) listener();
}

export function onGhost(listener: () => void): () => void {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

export const useGhost = (): Ghost | null => useSyncExternalStore(onGhost, currentGhost);
