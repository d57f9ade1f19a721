import type { Vec3 } from '@violet-crate/core/math/vec3';
import { fly, landingAt, type TakeOff } from '@violet-crate/core/route/flight';
import { ribbonOf } from '@violet-crate/core/route/ribbon';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { drawLabel } from '../../../common/sheet.ts';
import { jumpsAt } from '../../route/routeDraw.ts';
import { gesture, type Scene } from './gesture.ts';

interface Landing {
  takeOff: TakeOff;
  /** Level units from the take-off. */
  distance: number;
}

const REACH = 9;

/** Level distance along the flight that is seen nearest to a point of the sheet. */
function distanceAt({ projection }: Scene, { at, heading }: TakeOff, to: Point2): number {
  const from = projection.project(at);
  const ahead = projection.project([at[0] + Math.cos(heading), at[1] + Math.sin(heading), at[2]]);
  const [dx, dy] = [ahead[0] - from[0], ahead[1] - from[1]];
  const square = dx * dx + dy * dy;
  return square < 1e-6 ? 0 : ((to[0] - from[0]) * dx + (to[1] - from[1]) * dy) / square;
}

const needed = ({ doc: { map, profile } }: Scene, { takeOff, distance }: Landing) => landingAt(map, takeOff, distance, profile.player.gravity);

/** Drags the landing of a jump: jumps are then shown at the speed that it needs. Only while the panel of routes is open. */
export const landing = gesture<Landing>({
  id: 'landing',
  begin(scene, { at, sheet }) {
    const { map, profile, view } = scene.doc;
    if (view.panel !== 'route') return null;
    for (const route of Object.values(map.routes))
      for (const { takeOff, flight } of jumpsAt(map, profile, ribbonOf(map, route), view.jumpSpeed)) {
        if (!flight.landing) continue;
        const [u, v] = scene.projection.project(flight.landing);
        if (Math.hypot(u - at[0], v - at[1]) * sheet.scale <= REACH) return { state: { takeOff, distance: flight.distance } };
      }
    return null;
  },
  drag: ({ takeOff }, scene, { at }) => ({ takeOff, distance: distanceAt(scene, takeOff, at) }),
  commit(state, scene) {
    const found = needed(scene, state);
    if (!found) return { refusal: 'No speed brings a flight from this take-off down there.' };
    return { view: { jumpSpeed: Math.round(found.speed * scene.doc.profile.unit.metres * 10) / 10 } };
  },
  ghost(state, scene) {
    const { map, profile } = scene.doc;
    const found = needed(scene, state);
    const path: Vec3[] = found ? fly(map, { ...state.takeOff, speed: found.speed }, profile.player.gravity, profile.unit.metres).path : [];
    return { solids: [], lines: [path] };
  },
  draw({ context, pointer, colours }, state, scene) {
    const found = needed(scene, state);
    const text = found ? `needs ${(found.speed * scene.doc.profile.unit.metres).toFixed(1)} m/s` : 'no speed lands here';
    drawLabel(context, text, pointer[0] + 12, pointer[1] - 8, colours.warm, colours.ground);
  },
});
