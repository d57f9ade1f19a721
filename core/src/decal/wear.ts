/**
 * Wear by rule: places along the edges of what is seen of a map, and the decals there. What a place gets depends on the place and the seed
 * alone, so that after a change elsewhere the rule makes the same again.
 */

import type { Decal, Wear } from '../document/schema.ts';
import { boxOfPoints } from '../math/box3.ts';
import { BoxGrid } from '../math/boxGrid.ts';
import { chance } from '../math/chance.ts';
import { tidy } from '../math/tidy.ts';
import { addScaled, cross, dot, length, lerp, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { windingContains, type Winding } from '../solid/winding.ts';
import { frameOf } from './frame.ts';
import { plainStyle } from './place.ts';

/** A polygon that is seen. */
export interface WornSurface {
  winding: Winding;
  normal: Vec3;
  material: string;
  /** Id of its solid where that is the map's own. */
  solid?: string;
}

/** Surfaces that lean less from the upright, or from the level, than this cosine says count as walls and floors. */
const NEARLY = 0.7;
const UPRIGHT = 0.3;
/** Cosine between a surface's inward side and another's normal from which on the two meet in a corner or an edge. */
const BENT = 0.3;

interface Place {
  on: WornSurface;
  at: Vec3;
  /** Within the surface, away from the edge. */
  inward: Vec3;
}

/** Points along the edges of surfaces where a rule may put something, in the order of the surfaces. */
function* placesOf(surfaces: readonly WornSurface[], { at, on, spacing }: Pick<Wear, 'at' | 'on' | 'spacing'>): Iterable<Place> {
  const grid = new BoxGrid<WornSurface>(128);
  for (const surface of surfaces) grid.add(boxOfPoints(surface.winding), surface);
  for (const surface of surfaces) {
    const { winding, normal, material } = surface;
    if (on !== '' && material !== on) continue;
    if ((at === 'feet' || at === 'below') && Math.abs(normal[2]) > UPRIGHT) continue;
    for (let i = 0; i < winding.length; i++) {
      const [a, b] = [winding[i], winding[(i + 1) % winding.length]];
      const along = sub(b, a);
      const size = length(along);
      const count = Math.floor(size / spacing);
      if (count === 0) continue;
      const inward = normalise(cross(normal, along));
      for (let n = 0; n < count; n++) {
        const point = lerp(a, b, (n + 0.5) / count);
        const near = { min: point.map((v) => v - 0.5) as Vec3, max: point.map((v) => v + 0.5) as Vec3 };
        const meets = grid.near(near).some((other) => {
          if (other === surface) return false;
          const bend = dot(other.normal, inward);
          const fits =
            at === 'edges'
              ? bend < -BENT
              : at === 'corners'
                ? bend > BENT
                : at === 'feet'
                  ? bend > BENT && other.normal[2] > NEARLY
                  : bend < -BENT && other.normal[2] > NEARLY;
          return (
            fits && Math.abs(dot(other.normal, sub(point, other.winding[0]))) < 0.01 && windingContains(other.winding, other.normal, point, 0.01)
          );
        });
        if (meets) yield { on: surface, at: point, inward };
      }
    }
  }
}

/** A number of a place: the same for the same place. */
function hashOf(point: Vec3, seed: number): number {
  let hash = seed | 0;
  for (const v of point) hash = Math.imul(hash ^ Math.round(v * 16), 0x9e3779b1) ^ (hash >>> 15);
  return hash;
}

/**
 * The decals of a rule.
 *
 * @param floorBelow height of what is below a point, null where there is nothing
 */
export function wornDecals(
  id: string,
  rule: Wear,
  surfaces: readonly WornSurface[],
  floorBelow: (point: Vec3) => number | null,
): Omit<Decal, 'name'>[] {
  const made: Omit<Decal, 'name'>[] = [];
  for (const { on, at, inward } of placesOf(surfaces, rule)) {
    if (made.length >= rule.limit) break;
    // Of both sides of an edge each has chances of its own.
    const random = chance(hashOf(addScaled(at, on.normal, 3), rule.seed));
    if (random() >= rule.chance) continue;
    const size = tidy(rule.least + (Math.max(rule.least, rule.most) - rule.least) * random());
    const position = addScaled(at, inward, size / 2);
    const floor = floorBelow(addScaled(position, on.normal, 1));
    const height = floor === null ? 0 : position[2] - floor;
    if (height < rule.low || height > rule.high) continue;
    // What runs down has its top at the edge, all else its foot.
    const up: Vec3 = rule.at === 'below' ? [-inward[0], -inward[1], -inward[2]] : inward;
    const straight = frameOf({ normal: on.normal, turn: 0 });
    const turn = tidy((Math.atan2(-dot(up, straight.right), dot(up, straight.up)) * 180) / Math.PI);
    made.push({
      ...plainStyle(rule.material, [size, size]),
      turn,
      position: position.map(tidy) as Vec3,
      normal: on.normal,
      rule: id,
      ...(on.solid === undefined ? {} : { on: on.solid }),
    });
  }
  return made;
}
