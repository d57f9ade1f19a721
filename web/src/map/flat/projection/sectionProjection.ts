import { byKind, countMembers } from '@violet-crate/core/document/members';
import { copyOf } from '@violet-crate/core/map/prefab';
import type { MapObject, Solid } from '@violet-crate/core/document/schema';
import type { Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { insideOutline, sectionDirection, shapeOf, sliceSolid, type Point2, type SectionLine } from '@violet-crate/core/solid/shape';
import type { Doc } from '../../editing/useDocument.ts';
import { isShown } from '../../../state/viewSlice.ts';
import { LINE_KINDS, memberLook } from '../../member/members.ts';
import { withinRect, type Rect } from './handles.ts';
import { isChosen, linesNear, segmentDistance, snapToOutlines, type Picked } from './planPick.ts';
import type { Projection } from './projection.ts';

/** The cut through a map: what it goes through, and what stands near it. */
export interface Cut {
  line: SectionLine;
  /** World axis along which the line runs, or null when it is oblique. */
  axis: 0 | 1 | null;
  slices: { id: string; outline: Point2[] }[];
  objects: [id: string, object: MapObject][];
}

/**
 * A section line as the section sees it. Along x or y it is the axis itself, so that the section shares that axis with
 * the plan; an oblique line begins at 0 and shows its own length.
 */
export function cutLine(section: SectionLine): { line: SectionLine; axis: Cut['axis'] } {
  const [du, dv] = sectionDirection(section).map(Math.abs);
  if (du > 0.999) return { line: { from: [0, section.from[1]], to: [1, section.from[1]] }, axis: 0 };
  if (dv > 0.999) return { line: { from: [section.from[0], 0], to: [section.from[0], 1] }, axis: 1 };
  return { line: section, axis: null };
}

/** Objects this many heights of the player off the line are shown in the section, too. */
const NEAR = 1.5;

export function cutThrough({ map, whole, profile, view }: Doc): Cut {
  const { line, axis } = cutLine(view.section);
  const d = sectionDirection(line);
  const across = (p: readonly number[]) => Math.abs((p[1] - line.from[1]) * d[0] - (p[0] - line.from[0]) * d[1]);
  return {
    line,
    axis,
    slices: Object.entries(whole.solids).flatMap(([id, solid]) => {
      const outline = isShown(view, 'solids', id, solid.layer) ? sliceSolid(solid, line) : null;
      return outline ? [{ id, outline }] : [];
    }),
    objects: Object.entries(whole.objects).filter(
      ([id, o]) =>
        isShown(view, 'objects', id, o.layer) && (across(o.position) <= profile.player.height * NEAR || isChosen(map, view.selection, 'objects', id)),
    ),
  };
}

/** The map cut upright along the section line. */
export function sectionProjection({ map, profile, view, snap }: Doc, { line, axis, slices, objects }: Cut): Projection {
  const d = sectionDirection(line);
  const { selection } = view;
  const along = (p: readonly number[]) => (p[0] - line.from[0]) * d[0] + (p[1] - line.from[1]) * d[1];
  const project = (p: readonly number[]): Point2 => [along(p), p[2]];
  const pointAt = ([u, v]: Point2): Vec3 => [line.from[0] + d[0] * u, line.from[1] + d[1] * u, v];
  const bySolid = new Map(slices.map(({ id, outline }) => [id, outline]));
  const outline = (solid: Solid) => sliceSolid(solid, line);
  const drawnRect = (): Rect | null => {
    const [id] = selection.solids;
    const slice = view.mode === 'solids' && countMembers(selection) === 1 && id ? bySolid.get(id) : undefined;
    if (!slice) return null;
    const [us, vs] = [0, 1].map((k) => slice.map((p) => p[k]));
    return { min: [Math.min(...us), Math.min(...vs)], max: [Math.max(...us), Math.max(...vs)] };
  };
  const rect = drawnRect();
  /** A box with its ends along the line and its heights from a rectangle. */
  const alongLine = (box: Box3, { min, max }: Rect): Box3 => {
    const to: Box3 = { min: [box.min[0], box.min[1], min[1]], max: [box.max[0], box.max[1], max[1]] };
    if (axis !== null) [to.min[axis], to.max[axis]] = [min[0], max[0]];
    return to;
  };
  const selectable = (kind: 'solids' | 'objects', id: string): Picked => {
    const copy = copyOf(map, id);
    return copy ? { kind: 'copies', id: copy } : { kind, id };
  };
  return {
    id: 'section',
    project,
    lift: ([u, v]) => [d[0] * u, d[1] * u, v],
    pointAt,
    // As one reads the sheet, with the line running to the right: what lies to the left of the line is seen.
    sight: (at) => ({ origin: pointAt(at), direction: [-d[1], d[0], 0] }),
    outline,
    flat: (n) => [n[0] * d[0] + n[1] * d[1], n[2]],
    snapped: (at, scale) =>
      (view.snapCorners
        ? snapToOutlines(
            slices.map((s) => s.outline),
            at,
            9 / scale,
          )
        : null) ?? [snap(at[0]), snap(at[1])],
    pick({ at, sheet }) {
      const near = objects
        .map(([id, { position }]) => ({ id, away: Math.hypot(along(position) - at[0], position[2] - at[1]) * sheet.scale }))
        .filter(({ away }) => away < 10)
        .sort((a, b) => a.away - b.away)
        .map(({ id }) => selectable('objects', id));
      const cut = slices.filter((s) => insideOutline(s.outline, at)).map(({ id }) => selectable('solids', id));
      const seen = new Set<string>();
      return [...near, ...linesNear(map, LINE_KINDS, view, project, at, sheet.scale), ...cut].filter(
        ({ kind, id }) => !seen.has(`${kind}/${id}`) && seen.add(`${kind}/${id}`),
      );
    },
    grabs: () => true,
    pickFace({ at, sheet }) {
      let best: { solid: string; face: number } | null = null;
      let nearest = 8 / sheet.scale;
      for (const { id, outline: edges } of slices) {
        if (!map.solids[id]) continue;
        edges.forEach((p, i) => {
          const q = edges[(i + 1) % edges.length];
          const away = segmentDistance(at, p, q);
          if (away >= nearest) return;
          const [x, y, z] = pointAt([(p[0] + q[0]) / 2, (p[1] + q[1]) / 2]);
          const face = map.solids[id].faces.findIndex(({ normal: n, distance }) => Math.abs(n[0] * x + n[1] * y + n[2] * z - distance) < 0.01);
          if (face >= 0) [best, nearest] = [{ solid: id, face }, away];
        });
      }
      return best;
    },
    pushes: () => true,
    within: (area) =>
      byKind((kind) => {
        if (kind === 'solids') return slices.filter((s) => map.solids[s.id] && s.outline.every((p) => withinRect(area, p))).map(({ id }) => id);
        if (kind === 'objects') return objects.filter(([id, o]) => map.objects[id] && withinRect(area, project(o.position))).map(([id]) => id);
        return Object.entries(map[kind]).flatMap(([id, member]) =>
          isShown(view, kind, id) &&
          memberLook(kind)
            .points(member as never)
            .every((p) => withinRect(area, project(p)))
            ? [id]
            : [],
        );
      }),
    crossed: () => slices.map((s) => s.id).filter((id) => map.solids[id]),
    plane(from, to) {
      const size = Math.hypot(to[0] - from[0], to[1] - from[1]);
      const n: Point2 = [-(to[1] - from[1]) / size, (to[0] - from[0]) / size];
      const normal: Vec3 = [d[0] * n[0], d[1] * n[0], n[1]];
      const point = pointAt(from);
      return { normal, distance: normal[0] * point[0] + normal[1] * point[1] + normal[2] * point[2] };
    },
    box(area) {
      if (axis === null) return 'Solids are drawn here only along a section line that runs along x or y.';
      const half = view.tool === 'room' ? profile.band.top / 2 : profile.shellThickness / 2;
      const middle: Vec3 = [line.from[0], line.from[1], 0];
      return alongLine({ min: [middle[0] - half, middle[1] - half, 0], max: [middle[0] + half, middle[1] + half, 0] }, area);
    },
    frame: rect && { rect, resizes: [axis !== null, true], turns: false },
    resized: alongLine,
  };
}

/** The height range of all that is cut, and of a band. */
export function heightsOf(solids: Record<string, Solid>, band: { bottom: number; top: number }): [number, number] {
  let [low, high] = [band.bottom, band.top];
  for (const id in solids) {
    const { box } = shapeOf(solids[id]);
    [low, high] = [Math.min(low, box.min[2]), Math.max(high, box.max[2])];
  }
  return [low, high];
}
