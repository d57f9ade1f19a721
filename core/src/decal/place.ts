/** Where decals are put: on the surface under a point, and dragged from there over surfaces and corners. */

import { freshId, type MapEdit } from '../document/edit.ts';
import type { Decal, GameMap, Overlay } from '../document/schema.ts';
import { cross, dot, length, normalise, type Vec3 } from '../math/vec3.ts';
import { tidy } from '../math/tidy.ts';
import { freeName } from '../crate/naming.ts';
import { frameOf } from './frame.ts';
import { drawnOrder } from './lay.ts';
import { throwing } from './throwing.ts';

/** A point of a surface. */
export interface SurfacePoint {
  point: Vec3;
  normal: Vec3;
  /** Solid that it is on; nothing where it is another's, as of a copy. */
  solid?: string;
}

/** What a new decal is like, as far as it is chosen. */
export type DecalStyle = Pick<Decal, 'material' | 'turn' | 'size' | 'depth' | 'soft' | 'limit' | 'fade' | 'order' | 'tint'>;

/** Throws no further than a quarter of its size, and onto surfaces that look nearly its way: nothing wraps round a corner by accident. */
export const plainStyle = (material: string, size: [number, number]): DecalStyle => ({
  material,
  turn: 0,
  size,
  depth: Math.max(1e-3, Math.min(...size) / 4),
  soft: 0,
  limit: 60,
  fade: 20,
  order: 0,
  tint: '#ffffff',
});

/** What a new overlay is like, as far as it is chosen. */
export type OverlayStyle = Pick<Overlay, 'material' | 'form' | 'width' | 'repeat' | 'depth' | 'ends' | 'limit' | 'order' | 'tint'>;

export const plainOverlay = (material: string, width: number): OverlayStyle => ({
  material,
  form: 'strip',
  width,
  repeat: width,
  depth: width / 4,
  ends: 0,
  limit: 60,
  order: 0,
  tint: '#ffffff',
});

export function newDecal(map: GameMap, style: DecalStyle, { point, normal, solid }: SurfacePoint): { id: string; edit: MapEdit } {
  const id = freshId(map.decals, 'd');
  // Among thousands the number of its id is free nearly always.
  const wanted = `${style.material}_${id.slice(1)}`;
  const names = Object.values(map.decals).map((decal) => decal.name);
  const name = names.includes(wanted) ? freeName(wanted, names) : wanted;
  const to: Decal = {
    name,
    ...style,
    position: point.map(tidy) as Vec3,
    normal: normal.map(tidy) as Vec3,
    ...(solid !== undefined ? { on: solid } : {}),
  };
  return { id, edit: { name: 'place decal', changes: [{ of: 'decals', id, to }] } };
}

/** A decal that somebody has changed by hand: no rule of wear makes it anew, or takes it away. */
export function byHand({ rule: _rule, ...decal }: Decal): Decal {
  return decal;
}

/** The decal where it is dragged to. Onto another surface it is folded about the line in which the two meet. */
export function movedTo(decal: Decal, { point, normal, solid }: SurfacePoint): Decal {
  const { on: _on, ...rest } = decal;
  const moved: Decal = {
    ...rest,
    position: point.map(tidy) as Vec3,
    normal: normal.map(tidy) as Vec3,
    ...(solid !== undefined ? { on: solid } : {}),
  };
  const { up, normal: before } = frameOf(decal);
  const cosine = dot(before, normal);
  // The same surface, or its other side, where any fold would do.
  if (cosine > 1 - 1e-9 || cosine < -1 + 1e-9) return moved;
  // Rodrigues' rotation about the common line, without the part along it that stays.
  const line = cross(before, normal);
  const along = dot(line, up) / (1 + cosine);
  const turned = cross(line, up);
  const folded = [0, 1, 2].map((k) => up[k] * cosine + turned[k] + line[k] * along) as Vec3;
  const straight = frameOf({ normal, turn: 0 });
  return { ...moved, turn: tidy((Math.atan2(-dot(folded, straight.right), dot(folded, straight.up)) * 180) / Math.PI) };
}

/** Ids of what lies over a point of a surface, the uppermost first. */
export const lyingAt = (all: Readonly<Record<string, Decal | Overlay>>, { point, normal }: Pick<SurfacePoint, 'point' | 'normal'>): string[] =>
  drawnOrder(Object.fromEntries(Object.entries(all).filter(([, member]) => throwing(member).holds(point, normal)))).reverse();

/** An overlay over points of surfaces; thrown against the mean of their normals. Null where that is none. */
export function newOverlay(map: GameMap, style: OverlayStyle, points: readonly SurfacePoint[]): { id: string; edit: MapEdit } | null {
  const mean = [0, 1, 2].map((k) => points.reduce((sum, { normal }) => sum + normal[k], 0)) as Vec3;
  if (points.length < (style.form === 'area' ? 3 : 2) || length(mean) < 0.1) return null;
  const id = freshId(map.overlays, 'v');
  const name = freeName(
    style.form,
    Object.values(map.overlays).map((overlay) => overlay.name),
  );
  const [{ solid }] = points;
  const to: Overlay = {
    name,
    ...style,
    points: points.map(({ point }) => point.map(tidy) as Vec3),
    normal: normalise(mean).map(tidy) as Vec3,
    ...(solid !== undefined && points.every((one) => one.solid === solid) ? { on: solid } : {}),
  };
  return { id, edit: { name: `lay ${style.form}`, changes: [{ of: 'overlays', id, to }] } };
}
