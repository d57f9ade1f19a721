/** What runs came by, drawn into the plan: time spent on the floor of the band, falls and deaths, and what nobody ever used. */

import type { GameMap } from '@violet-crate/core/document/schema';
import { partsOf } from '@violet-crate/core/profile/parts';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { CoverageData } from '@violet-crate/core/trial/coverage';
import { drawLabel } from '../../common/sheet.ts';
import type { SheetColours } from '../editing/useDocument.ts';
import type { Place } from './planDraw.ts';

export interface PlanCoverage {
  data: CoverageData;
  profile: Profile;
  map: GameMap;
  band: { bottom: number; top: number };
  colours: SheetColours;
}

/** Objects that could have been operated and never were, by id. */
export function neverUsed({ data, profile, map }: Pick<PlanCoverage, 'data' | 'profile' | 'map'>): string[] {
  return Object.entries(map.objects).flatMap(([id, object]) =>
    !Object.hasOwn(data.used, id) && partsOf(profile, object.class).some((part) => part.objective === 'operate') ? [id] : [],
  );
}

/** @param scale pixels of a unit */
export function drawCoverage(context: CanvasRenderingContext2D, place: Place, scale: number, scene: PlanCoverage): void {
  const { data, map, band, colours } = scene;
  const inBand = (z: number) => z >= band.bottom - data.cell && z <= band.top;
  const most = Math.max(1, ...data.time.map(([, , , seconds]) => seconds));
  const side = data.cell * scale;
  context.fillStyle = colours.warm;
  for (const [x, y, z, seconds] of data.time) {
    if (!inBand(z)) continue;
    const [left, top] = place([x - data.cell / 2, y + data.cell / 2]);
    context.globalAlpha = 0.12 + (0.5 * Math.log1p(seconds)) / Math.log1p(most);
    context.fillRect(left, top, side, side);
  }
  context.globalAlpha = 1;
  context.strokeStyle = colours.warm;
  context.lineWidth = 2;
  for (const [x, y] of data.falls.map(place)) {
    context.beginPath();
    context.moveTo(x - 6, y - 5);
    context.lineTo(x + 6, y - 5);
    context.lineTo(x, y + 6);
    context.closePath();
    context.stroke();
  }
  for (const [x, y] of data.deaths.map(place)) {
    context.beginPath();
    context.moveTo(x - 5, y - 5);
    context.lineTo(x + 5, y + 5);
    context.moveTo(x + 5, y - 5);
    context.lineTo(x - 5, y + 5);
    context.stroke();
  }
  for (const id of neverUsed(scene)) {
    const object = map.objects[id];
    if (!inBand(object.position[2])) continue;
    const [x, y] = place(object.position);
    drawLabel(context, 'never used', x + 10, y + 14, colours.warm, colours.ground);
  }
}
