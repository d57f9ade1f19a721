/** The brush between the sheets: which ground it works on, and the picture of its stamp, which is too large for the store. */

import { useSyncExternalStore } from 'react';
import type { GameMap } from '@violet-crate/core/document/schema';

export interface StampPicture {
  name: string;
  width: number;
  height: number;
  values: Float32Array;
}

let picture: StampPicture | null = null;
const listeners = new Set<() => void>();

export const stampPicture = (): StampPicture | null => picture;

export function chooseStamp(next: StampPicture | null): void {
  picture = next;
  for (const listener of listeners) listener();
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => void listeners.delete(listener);
};

export const useStampPicture = (): StampPicture | null => useSyncExternalStore(subscribe, stampPicture);

/** The terrain that is worked on: the one that was chosen, or the first; null where the map has none. */
export const brushGround = (map: Pick<GameMap, 'terrains'>, chosen: string): string | null =>
  Object.hasOwn(map.terrains, chosen) ? chosen : (Object.keys(map.terrains)[0] ?? null);
