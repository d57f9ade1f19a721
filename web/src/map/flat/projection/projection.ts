/**
 * A sheet as a projection of the map: what plan and section have in common, so that every gesture is written once. Sheet
 * coordinates are units; u runs to the right, v upwards.
 */

import type { Members } from '@violet-crate/core/document/members';
import type { Solid } from '@violet-crate/core/document/schema';
import type { Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Point2 } from '@violet-crate/core/solid/shape';
import type { Plane } from '@violet-crate/core/solid/winding';
import type { Rect } from './handles.ts';
import type { Picked } from './planPick.ts';
import type { SheetPointer } from './pointer.ts';

/** Around what is selected: which of its sides move, and whether it can be turned. */
export interface Frame {
  rect: Rect;
  resizes: readonly [boolean, boolean];
  turns: boolean;
}

export interface FacePick {
  solid: string;
  face: number;
}

export interface Projection {
  id: 'plan' | 'section';
  project(p: readonly number[]): Point2;
  /** A way on the sheet as a way in the map. */
  lift(by: Point2): Vec3;
  /** A point of the sheet as a point in the map: on the floor below it in the plan, in the cut in the section. */
  pointAt(at: Point2): Vec3;
  /** The line of sight through a point, from where the sheet begins to be seen. */
  sight(at: Point2): { origin: Vec3; direction: Vec3 };
  /** What a solid shows here; null where it shows nothing. */
  outline(solid: Solid): readonly Point2[] | null;
  /** The part of a normal that lies in the sheet. */
  flat(normal: Vec3): Point2;
  snapped(at: Point2, scale: number): Point2;
  /** All that lies under a point, what one most likely means first. */
  pick(pointer: Pick<SheetPointer, 'at' | 'sheet'>): Picked[];
  /** Whether a press takes hold of it at once. What covers the whole sheet is only selected by a click. */
  grabs(picked: Picked): boolean;
  pickFace(pointer: Pick<SheetPointer, 'at' | 'sheet'>): FacePick | null;
  /** Whether a face stands across the sheet, so that a drag pushes it. */
  pushes(face: FacePick): boolean;
  /** What lies within a rectangle. */
  within(rect: Rect): Members;
  /** The own solids that a line crosses. */
  crossed(from: Point2, to: Point2): string[];
  /** The upright plane through a line of the sheet, or the slanted one through a line of the section. */
  plane(from: Point2, to: Point2): Plane;
  /** The box that is drawn by a rectangle; why none can be. */
  box(rect: Rect): Box3 | string;
  frame: Frame | null;
  /** A box after its rectangle on the sheet was dragged to another. */
  resized(box: Box3, rect: Rect): Box3;
}
