/**
 * What a drag or a click on a sheet does, one file per gesture. A gesture reads a scene and answers values, so it can be
 * tried without a browser; the sheet carries out what it answers (`useGestures.ts`). It is written over a projection and
 * does the same in plan and section.
 */

import type { MapEdit } from '@violet-crate/core/document/edit';
import type { Point2 } from '@violet-crate/core/solid/shape';
import type { Shape, ShapeValues } from '@violet-crate/core/solid/shapes';
import type { Canvas2d, Sheet } from '../../../common/sheet.ts';
import type { Choice, ViewState } from '../../../state/viewSlice.ts';
import type { Ghost } from '../../editing/ghost.ts';
import type { HandleGroup } from '../../editing/handleGroups.ts';
import type { Doc, SheetColours } from '../../editing/useDocument.ts';
import type { SheetPointer } from '../projection/pointer.ts';
import type { Projection } from '../projection/projection.ts';

export interface Scene {
  doc: Doc;
  projection: Projection;
  /** What the tools for rooms and solids draw. */
  shape: Shape;
  values: ShapeValues;
  /** Corners or edges that can be taken hold of. */
  groups: readonly HandleGroup[];
}

/** What comes of a gesture: any of an edit, another selection, another view, or why it was refused. */
export interface Outcome {
  edit?: MapEdit | null;
  selection?: Choice;
  view?: Partial<ViewState>;
  refusal?: string;
}

export interface GesturePen {
  canvas: Canvas2d;
  sheet: Sheet;
  context: CanvasRenderingContext2D;
  /** Pixels of a point of the sheet. */
  place(p: Point2): Point2;
  colours: SheetColours;
  /** Pixels of the pointer. */
  pointer: Point2;
}

export interface Gesture<S = unknown> {
  id: string;
  /** Takes a press, or leaves it to the next gesture of the tool. */
  begin(scene: Scene, pointer: SheetPointer): { state: S; outcome?: Outcome } | null;
  /** The press has moved. */
  drag(state: S, scene: Scene, pointer: SheetPointer): S;
  /** It was let go after it had moved. */
  commit(state: S, scene: Scene, pointer: SheetPointer): Outcome | null;
  /** It was let go where it began. */
  click?(state: S, scene: Scene, pointer: SheetPointer): Outcome | null;
  /** How the map would be, for all views. */
  ghost?(state: S, scene: Scene): Ghost | null;
  /** What only its own sheet shows. */
  draw?(pen: GesturePen, state: S, scene: Scene): void;
}

/** Gestures with states of their own in one table. */
export const gesture = <S>(definition: Gesture<S>): Gesture => definition as Gesture;

/** How far a press was dragged, on the grid. */
export const dragBy = ({ doc: { snap } }: Scene, { at, from }: SheetPointer): Point2 => [snap(at[0] - from[0]), snap(at[1] - from[1])];

/** What a click decides that needs no drag. */
export const clickOnly = (id: string, click: (scene: Scene, pointer: SheetPointer) => Outcome | null): Gesture =>
  gesture<null>({
    id,
    begin: () => ({ state: null }),
    drag: () => null,
    commit: () => null,
    click: (_state, scene, pointer) => click(scene, pointer),
  });
