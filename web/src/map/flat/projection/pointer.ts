import type { Point2 } from '@violet-crate/core/solid/shape';
import type { Sheet } from '../../../common/sheet.ts';

/** Where the pointer is on a sheet. */
export interface SheetPointer {
  /** Sheet coordinates of the pointer now, and where the press began. */
  at: Point2;
  from: Point2;
  /** The pointer left the spot by more than a tremble. */
  moved: boolean;
  shift: boolean;
  alt: boolean;
  control: boolean;
  sheet: Sheet;
  canvas: { width: number; height: number };
}
