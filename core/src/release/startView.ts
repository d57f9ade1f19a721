import type { CrateWorld } from '../crate/world.ts';
import { expandMap } from '../map/prefab.ts';
import { linearOfHex } from '../math/srgb.ts';
import type { Vec3 } from '../math/vec3.ts';
import { factOf } from '../profile/parts.ts';
import { groundView } from './groundView.ts';
import type { ThumbnailView } from './thumbnail.ts';

/** The view of a player who stands at the first start, a little from above: the default thumbnail. */
export function startView(world: CrateWorld, mapName: string): ThumbnailView {
  const map = expandMap(world.crate.maps[mapName], world.profile);
  const { player, package: rules } = world.profile;
  const start = Object.values(map.objects).find((object) => factOf(world.profile, object.class, 'start'));
  const angle = ((start?.turn ?? 0) * Math.PI) / 180;
  const [x, y, z] = start?.position ?? [0, 0, 0];
  const eye: Vec3 = [x, y, z + player.eyeHeight * 1.5];
  const ground = groundView(world, map, eye);
  return {
    ...(ground ? { ground } : {}),
    eye,
    direction: [Math.cos(angle), Math.sin(angle), -0.12],
    fieldOfView: 68,
    width: rules.thumbnailWidth,
    height: rules.thumbnailHeight,
    sky: linearOfHex(map.settings.skyColour),
  };
}
