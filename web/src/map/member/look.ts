/** How one kind of member looks on the sheets, in the outline and in the inspector. */

import type { ComponentType } from 'react';
import type { MemberKind } from '@violet-crate/core/document/members';
import type { GameMap, MemberOf } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { Point2 } from '@violet-crate/core/solid/shape';
import type { SheetColours } from '../editing/useDocument.ts';

export interface MemberPen {
  context: CanvasRenderingContext2D;
  /** Pixels of a point of the map. */
  place(p: Vec3): Point2;
  colours: SheetColours;
  chosen: boolean;
}

export interface MemberLook<K extends MemberKind = MemberKind> {
  icon(member: MemberOf<K>, profile: Profile): string;
  /** Its heading in the outline, and what stands beside its name. */
  heading(member: MemberOf<K>, profile: Profile): string;
  aside?(member: MemberOf<K>, map: GameMap): string;
  /** The points that have to lie within a rectangle for it to be selected. */
  points(member: MemberOf<K>): readonly Vec3[];
  /** What it is drawn of and picked by, where it has no body: lines in map space. */
  lines?(member: MemberOf<K>): readonly (readonly [Vec3, Vec3])[];
  /** The perspective shows it by more than its lines, which it leaves out. */
  solid?: true;
  /** Points of it that can be dragged while it is selected, and the member with one of them moved. */
  grips?(member: MemberOf<K>): readonly Vec3[];
  moved?(member: MemberOf<K>, grip: number, to: Vec3): MemberOf<K>;
  draw?(pen: MemberPen, member: MemberOf<K>): void;
  Inspector: ComponentType<{ ids: string[] }>;
}
