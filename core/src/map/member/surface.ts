/**
 * What of a map is drawn by its own geometry (models are the objects' matter), whatever kind of member it comes from. All
 * of it is made of flat faces so far; a ground of heights is to become a second kind here.
 */

import type { MemberKind } from '../../document/members.ts';
import type { Solid } from '../../document/schema.ts';
import { shapeOf } from '../../solid/shape.ts';

export interface FacedSurface {
  kind: 'faces';
  of: MemberKind;
  id: string;
  solid: Solid;
}

export type DrawnSurface = FacedSurface;

/** The materials that it wears, each once. */
export const materialsOn = ({ solid }: DrawnSurface): Set<string> => new Set(solid.faces.map((face) => face.material));

/** Triangles of all its faces, before anything is hidden or merged. */
export const trianglesOf = ({ solid }: DrawnSurface): number => shapeOf(solid).polygons.reduce((sum, { winding }) => sum + winding.length - 2, 0);
