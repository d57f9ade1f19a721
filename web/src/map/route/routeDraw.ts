/** Routes on the sheets: the ribbon, its stops by number, and the jumps with their flights. */

import type { GameMap } from '@violet-crate/core/document/schema';
import { smoothLine } from '@violet-crate/core/math/smoothLine';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Profile } from '@violet-crate/core/profile/schema';
import { jumpsOf, type Jump } from '@violet-crate/core/route/jumps';
import { ribbonOf, type Ribbon } from '@violet-crate/core/route/ribbon';
import type { Flight } from '@violet-crate/core/route/flight';
import { sectionDirection, type Point2, type SectionLine } from '@violet-crate/core/solid/shape';
import { drawLabel } from '../../common/sheet.ts';
import type { SheetColours } from '../editing/useDocument.ts';

type Place = (p: readonly number[]) => Point2;

/** Jumps of a route at a speed in metres a second. */
export const jumpsAt = (map: GameMap, profile: Profile, ribbon: Ribbon, speed: number): Jump[] =>
  jumpsOf(map, ribbon, speed / profile.unit.metres, profile.player.gravity, profile.unit.metres);

function trace(context: CanvasRenderingContext2D, points: readonly Point2[]): void {
  context.beginPath();
  points.forEach(([x, y], n) => (n === 0 ? context.moveTo(x, y) : context.lineTo(x, y)));
}

export interface RoutePen {
  context: CanvasRenderingContext2D;
  place: Place;
  /** Pixels per unit. */
  scale: number;
  colours: SheetColours;
}

/** @param speed at which jumps are shown, metres a second */
export function drawRoutes({ context, place, scale, colours }: RoutePen, map: GameMap, whole: GameMap, profile: Profile, speed: number): void {
  for (const route of Object.values(map.routes)) {
    const ribbon = ribbonOf(map, route);
    const line = ribbon.stations.map(({ at }) => place(at));
    trace(context, line);
    context.strokeStyle = colours.violet;
    context.globalAlpha = 0.35;
    context.lineWidth = Math.max(3, route.width * scale);
    context.lineJoin = 'round';
    context.stroke();
    context.globalAlpha = 1;
    context.lineWidth = 1.5;
    trace(context, line);
    context.stroke();
    for (const { points } of route.branches) {
      trace(context, smoothLine(points, false, route.width).map(place));
      context.setLineDash([8, 5]);
      context.stroke();
      context.setLineDash([]);
    }
    for (const jump of jumpsAt(map, profile, ribbon, speed)) drawFlight({ context, place, scale, colours }, jump.flight.path, jump.flight.landing);
    [route.start, ...route.stops, route.finish].forEach((id, n) => {
      const object = whole.objects[id];
      if (!object) return;
      const [x, y] = place(object.position);
      drawLabel(context, n === 0 ? 'start' : n > route.stops.length ? 'finish' : String(n), x + 6, y - 6, colours.warm, colours.ground);
    });
  }
}

export function drawFlight({ context, place, colours }: RoutePen, path: readonly Vec3[], landing: Vec3 | null): void {
  trace(context, path.map(place));
  context.strokeStyle = colours.warm;
  context.lineWidth = 2;
  context.setLineDash([5, 3]);
  context.stroke();
  context.setLineDash([]);
  if (!landing) return;
  const [x, y] = place(landing);
  context.beginPath();
  context.moveTo(x - 4, y - 4);
  context.lineTo(x + 4, y + 4);
  context.moveTo(x + 4, y - 4);
  context.lineTo(x - 4, y + 4);
  context.stroke();
}

/** Units off the section line within which a jump is shown in the section. */
const NEAR = 12;

/** Flights that take off near the section line. */
export function flightsNear(map: GameMap, profile: Profile, line: SectionLine, speed: number): Flight[] {
  const d = sectionDirection(line);
  const off = (p: Vec3) => Math.abs((p[1] - line.from[1]) * d[0] - (p[0] - line.from[0]) * d[1]);
  return Object.values(map.routes).flatMap((route) =>
    jumpsAt(map, profile, ribbonOf(map, route), speed).flatMap(({ takeOff, flight }) =>
      off(takeOff.at) <= NEAR / profile.unit.metres ? [flight] : [],
    ),
  );
}
