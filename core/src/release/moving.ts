/** The moving preview of a release: what a camera sees that goes along a path of the main map. */

import type { CrateWorld } from '../crate/world.ts';
import { expandMap } from '../map/prefab.ts';
import { linearOfHex } from '../math/srgb.ts';
import { smoothLine } from '../math/smoothLine.ts';
import { distance, lerp, sub, type Vec3 } from '../math/vec3.ts';
import { UnreadableInput } from '../unreadable.ts';
import { groundView } from './groundView.ts';
import { openBuilt, type Pixels, type ThumbnailView } from './thumbnail.ts';

export const PREVIEW_FILE = 'preview.webp';
export const PREVIEW_WIDTH = 320;
export const PREVIEW_HEIGHT = 180;
export const FRAMES_PER_SECOND = 8;

/** How far ahead the camera looks, of the whole way: corners are turned round softly. */
const AHEAD = 0.12;

/** Views along the path that the crate names, at even distances; none where it names none. @throws UnreadableInput where there is no such path */
export function previewViews(world: CrateWorld): ThumbnailView[] {
  const { preview, mainMap } = world.crate.manifest;
  if (!preview) return [];
  const map = expandMap(world.crate.maps[mainMap], world.profile);
  const path = Object.values(map.paths).find(({ name }) => name === preview.path);
  if (!path)
    throw new UnreadableInput(
      'preview-path',
      `The moving preview goes along the path "${preview.path}", which map ${mainMap} does not have.`,
      { map: mainMap },
      'Choose another path under Publish, Package.',
    );
  const line = smoothLine(path.points, path.loop, 0.25 / world.profile.unit.metres);
  const along = [0];
  for (let n = 1; n < line.length; n++) along.push(along[n - 1] + distance(line[n - 1], line[n]));
  const whole = along[along.length - 1];
  const count = Math.round(preview.seconds * FRAMES_PER_SECOND);
  const ground = groundView(world, map, line[Math.floor(line.length / 2)]);
  const at = (share: number): Vec3 => {
    const wanted = (path.loop ? share % 1 : Math.min(1, share)) * whole;
    const n = Math.max(
      1,
      along.findIndex((sum) => sum >= wanted),
    );
    return lerp(line[n - 1], line[n], (wanted - along[n - 1]) / (along[n] - along[n - 1] || 1));
  };
  return Array.from({ length: count }, (_, n) => {
    const share = n / (path.loop ? count : Math.max(1, count - 1));
    const [eye, target] = [at(share), at(share + AHEAD)];
    // At the end of a path there is nothing ahead: it looks on as it came.
    const direction = !path.loop && share + AHEAD > 1 ? sub(at(1), at(1 - AHEAD)) : sub(target, eye);
    return {
      eye,
      direction,
      fieldOfView: 68,
      width: PREVIEW_WIDTH,
      height: PREVIEW_HEIGHT,
      sky: linearOfHex(map.settings.skyColour),
      ...(ground ? { ground } : {}),
    };
  });
}

/** Draws the frames. @param glb the built main map */
export async function previewFrames(glb: Uint8Array, world: CrateWorld, onProgress: (fraction: number) => void = () => {}): Promise<Pixels[]> {
  const views = previewViews(world);
  if (views.length === 0) return [];
  const draw = await openBuilt(glb, world.profile.unit.metres);
  return views.map((view, n) => {
    onProgress(n / views.length);
    return draw(view);
  });
}
