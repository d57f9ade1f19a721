/** The perspective's camera, for commands and bookmarks that are not part of that view. */

import type { Vec3 } from '@violet-crate/core/math/vec3';

export interface CameraPlace {
  /** Map space, units. */
  position: Vec3;
  target: Vec3;
}

interface CameraHandle {
  get(): CameraPlace;
  set(place: CameraPlace): void;
}

let current: CameraHandle | null = null;

export function provideCamera(handle: CameraHandle | null): void {
  current = handle;
}

export const cameraPlace = (): CameraPlace | null => current?.get() ?? null;
export const moveCamera = (place: CameraPlace): void => current?.set(place);
