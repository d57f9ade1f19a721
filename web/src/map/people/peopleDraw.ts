/** People on the plan: what they see beside what the game has them see, and a movement sequence as ghosts over time. */

import type { CrateWorld } from '@violet-crate/core/crate/world';
import { PLAYER, type GameMap } from '@violet-crate/core/document/schema';
import { BoxGrid } from '@violet-crate/core/math/boxGrid';
import { collidersOf } from '@violet-crate/core/map/member/members';
import type { Collider } from '@violet-crate/core/map/member/collider';
import { stagedBy, type Staged } from '@violet-crate/core/movement/stage';
import type { Moment } from '@violet-crate/core/movement/play';
import type { Sight } from '@violet-crate/core/sight/sightOf';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { drawLabel, tracePolygon } from '../../common/sheet.ts';
import type { SheetColours } from '../editing/useDocument.ts';

type Place = (p: readonly number[]) => Point2;

/** The real view filled, the game's radius as a line: what lies between the two is seen through something. */
export function drawSight(context: CanvasRenderingContext2D, place: Place, scale: number, sight: Sight, colours: SheetColours): void {
  context.fillStyle = colours.clear;
  context.globalAlpha = 0.2;
  tracePolygon(
    context,
    sight.seen.map((p) => place(p)),
  );
  context.fill();
  context.globalAlpha = 1;
  context.strokeStyle = colours.clear;
  context.lineWidth = 1.5;
  tracePolygon(
    context,
    sight.seen.map((p) => place(p)),
  );
  context.stroke();
  const [x, y] = place(sight.from);
  context.strokeStyle = colours.warm;
  context.setLineDash([6, 4]);
  context.beginPath();
  const whole = sight.width >= Math.PI * 2 - 1e-6;
  if (!whole) context.moveTo(x, y);
  // The sheet's y points up, the picture's down.
  context.arc(x, y, sight.radius * scale, -(sight.angle + sight.width / 2), -(sight.angle - sight.width / 2));
  if (!whole) context.closePath();
  context.stroke();
  context.setLineDash([]);
}

const grids = new WeakMap<GameMap['solids'], BoxGrid<Collider>>();

/** A sequence in its map; asked for again only when one of the two changes. */
export function stage(world: CrateWorld, map: GameMap, id: string, side: number): Staged | null {
  const sequence = map.sequences[id];
  if (!sequence) return null;
  let grid = grids.get(map.solids);
  if (!grid) {
    grid = new BoxGrid<Collider>(world.profile.player.height * 4);
    for (const collider of collidersOf(map)) grid.add(collider.box, collider);
    grids.set(map.solids, grid);
  }
  return stagedBy(world, map, sequence, sequence.starts[side] ?? null, grid);
}

export interface ScenePen {
  context: CanvasRenderingContext2D;
  place: Place;
  scale: number;
  colours: SheetColours;
  nameOf(id: string): string;
  radius: number;
}

/** Ghosts between the beginning and a moment, seconds apart. */
const GHOST_EVERY = 0.5;

/** @param time seconds from its beginning, at which everybody is drawn whole */
export function drawScene(
  { context, place, scale, colours, nameOf, radius }: ScenePen,
  { timeline: { moments }, meets }: Staged,
  time: number,
  acting: ReadonlySet<string>,
): void {
  const now = momentAt(moments, time);
  for (const id of acting) {
    const way = moments.flatMap(({ at }) => (at.get(id) ? [place(at.get(id)!.position)] : []));
    context.strokeStyle = id === PLAYER ? colours.warm : colours.violet;
    context.lineWidth = 1.5;
    context.beginPath();
    way.forEach(([x, y], i) => (i === 0 ? context.moveTo(x, y) : context.lineTo(x, y)));
    context.stroke();
    let last = -Infinity;
    for (const { time: then, at } of moments) {
      const one = at.get(id);
      if (!one || one.hidden || then - last < GHOST_EVERY) continue;
      last = then;
      const [x, y] = place(one.position);
      context.globalAlpha = then <= time ? 0.35 : 0.12;
      context.beginPath();
      context.arc(x, y, Math.max(3, radius * scale), 0, Math.PI * 2);
      context.stroke();
    }
    context.globalAlpha = 1;
    const here = now.at.get(id);
    if (!here) continue;
    const [x, y] = place(here.position);
    const angle = (-here.turn * Math.PI) / 180;
    context.fillStyle = id === PLAYER ? colours.warm : colours.violet;
    context.globalAlpha = here.hidden ? 0.2 : 0.85;
    context.beginPath();
    context.arc(x, y, Math.max(4, radius * scale), 0, Math.PI * 2);
    context.fill();
    context.globalAlpha = 1;
    context.lineWidth = 2;
    context.beginPath();
    context.moveTo(x, y);
    context.lineTo(x + Math.cos(angle) * Math.max(10, radius * scale * 1.8), y + Math.sin(angle) * Math.max(10, radius * scale * 1.8));
    context.stroke();
    drawLabel(context, here.hidden ? `${nameOf(id)}, hidden` : nameOf(id), x + 9, y - 9, colours.ink, colours.ground);
  }
  for (const { at, what } of meets) {
    const [x, y] = place(at);
    context.strokeStyle = colours.warm;
    context.lineWidth = 3;
    context.beginPath();
    context.moveTo(x - 6, y - 6);
    context.lineTo(x + 6, y + 6);
    context.moveTo(x + 6, y - 6);
    context.lineTo(x - 6, y + 6);
    context.stroke();
    drawLabel(context, what, x + 9, y + 14, colours.warm, colours.ground);
  }
}

export function momentAt(moments: readonly Moment[], time: number): Moment {
  let at = 0;
  while (at + 1 < moments.length && moments[at + 1].time <= time + 1e-9) at++;
  return moments[at];
}
