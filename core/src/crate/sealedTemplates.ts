/** Templates of games with sealed maps: rooms that build and run as they are. */

import type { GameMap, MapObject, Solid } from '../document/schema.ts';
import type { Box3 } from '../math/box3.ts';
import { newObject } from '../profile/newObject.ts';
import { placingOf } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import { block, roomShell, straightStair } from '../solid/primitives.ts';

export type SealedTemplate = 'sealed-room' | 'two-rooms' | 'stair-hall';

/** The room that a template consists of, and what stands in it. */
interface Plan {
  inner: Box3;
  fittings: Solid[];
  /** Middles of the ceilings under which a light hangs. */
  lights: [number, number][];
}

/** A closed room with what the game cannot do without: along a wall, and a light under the ceiling. */
export function sealedMap(map: GameMap, profile: Profile, template: string): GameMap {
  const g = profile.grid.default;
  const { inner, fittings, lights } = planOf(profile, template);
  const solids: Record<string, Solid> = {};
  [...roomShell(inner, profile.shellThickness, profile.defaultMaterial), ...fittings].forEach((solid, i) => (solids[`s${i + 1}`] = solid));
  const objects: Record<string, MapObject> = {};
  // Starts and lights hang clear of the floor; whatever else the game cannot do without stands along the wall.
  const lift = profile.player.height / 28;
  let i = 0;
  const place = (classId: string, name: string, position: [number, number, number]) => {
    objects[`o${++i}`] = newObject(profile, classId, name, position);
  };
  for (const rule of profile.required)
    for (let n = 0; n < rule.min; n++)
      place(rule.class, n === 0 ? rule.class : `${rule.class}_${n + 1}`, [i === 0 ? 0 : (i - 1) * g * 4, i === 0 ? -5 * g : 0, inner.min[2] + lift]);
  const light = profile.classes.find((c) => placingOf(profile, c.id) === 'ceiling');
  if (light) lights.forEach(([x, y], n) => place(light.id, `${light.id}_${n + 1}`, [x, y, inner.max[2] - g * 2]));
  return { ...map, solids, objects };
}

function planOf(profile: Profile, template: string): Plan {
  const g = profile.grid.default;
  const { bottom, top } = profile.band;
  const material = profile.defaultMaterial;
  const half = 10 * g;
  if (template === 'two-rooms') {
    const inner: Box3 = { min: [-half, -half, bottom], max: [half + 2 * half, half, top] };
    // The wall between, with a doorway that the player goes through upright.
    const wall = { x: [half - g / 2, half + g / 2] as const, door: 2 * g, head: bottom + Math.ceil((profile.player.height * 1.4) / g) * g };
    const part = (y0: number, y1: number, z0: number): Solid => block({ min: [wall.x[0], y0, z0], max: [wall.x[1], y1, top] }, material);
    return {
      inner,
      fittings: [
        part(-half, -wall.door, bottom),
        part(wall.door, half, bottom),
        ...(wall.head < top ? [part(-wall.door, wall.door, wall.head)] : []),
      ],
      lights: [
        [0, 0],
        [2 * half, 0],
      ],
    };
  }
  if (template === 'stair-hall') {
    const height = top - bottom;
    const inner: Box3 = { min: [-half, -half, bottom], max: [half, half, bottom + 2 * height] };
    const floor = bottom + Math.round(height / g) * g;
    const steps = stepsOf(floor - bottom, profile);
    const tread = g * 0.75;
    return {
      inner,
      fittings: [
        block({ min: [2 * g, -half, floor - g], max: [half, half, floor] }, material),
        ...straightStair({ min: [2 * g - steps * tread, half - 4 * g, bottom], max: [2 * g, half, floor] }, 0, 1, steps, material),
      ],
      lights: [[0, 0]],
    };
  }
  return { inner: { min: [-half, -half, bottom], max: [half, half, top] }, fittings: [], lights: [[0, 0]] };
}

/** So many steps that each is one that the player takes, and lies on the grid where a whole number of them does. */
function stepsOf(height: number, { player, grid }: Profile): number {
  const least = Math.ceil(height / player.stepHeight);
  for (let steps = least; steps <= 2 * least; steps++) if (Number.isInteger(height / steps / grid.min)) return steps;
  return least;
}
