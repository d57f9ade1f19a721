/** Where plan and section are looked at. While the section line runs along x or y they share that axis in scale and scroll. */

import type { Point2 } from '@violet-crate/core/solid/shape';
import type { Sheet } from '../../common/sheet.ts';

export interface Sheets {
  plan: Sheet | null;
  /** Height in the middle of the section while it shares an axis with the plan. */
  height: number;
  /** The section's own sheet while its line is oblique. */
  oblique: Sheet | null;
}

export const NO_SHEETS: Sheets = { plan: null, height: 0, oblique: null };

/** @param axis of the plan along which the section line runs; null where it is oblique */
export const sectionSheet = ({ plan, height, oblique }: Sheets, axis: 0 | 1 | null): Sheet | null =>
  axis === null ? oblique : plan && { scale: plan.scale, centre: [plan.centre[axis], height] };

/** The sheets after the section was moved or zoomed. */
export function withSection(sheets: Sheets, axis: 0 | 1 | null, next: Sheet): Sheets {
  if (axis === null) return { ...sheets, oblique: next };
  if (!sheets.plan) return sheets;
  const centre: Point2 = [...sheets.plan.centre];
  centre[axis] = next.centre[0];
  return { ...sheets, plan: { scale: next.scale, centre }, height: next.centre[1] };
}
