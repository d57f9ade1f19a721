/** Findings about solids among each other and against the grid: what flickers, leaks later, or was drawn by mistake. */

import type { Finding } from '../finding.ts';
import { boxesTouch, boxSize } from '../math/box3.ts';
import { BoxGrid } from '../math/boxGrid.ts';
import { addScaled, cross, dot, normalise, sub, type Vec3 } from '../math/vec3.ts';
import type { Profile } from '../profile/schema.ts';
import { intersectSolids } from '../solid/cut.ts';
import { shapeOf } from '../solid/shape.ts';
import { solidContains } from '../solid/solid.ts';
import { clipBehind, flipPlane, ON_PLANE, samePlane, windingArea, windingCentre, type Winding } from '../solid/winding.ts';
import type { Change } from '../document/edit.ts';
import { pickSolids } from '../map/pick.ts';
import type { GameMap, Solid } from '../document/schema.ts';

/** So many findings of one kind are listed each; more are counted in the last one. */
const LISTED = 20;
/** Side of the cells by which solids near a point are found, in units. */
const CELL = 128;
/** Faces that flicker over less than this, in square units, are not seen. */
const LEAST_FLICKER = 1;

/** @param unseen whether faces of a material are never drawn; @param divides whether its solids are no obstacle and only split cells */
export function checkSolids(
  all: GameMap,
  mapName: string,
  profile: Profile,
  unseen: (material: string) => boolean,
  divides: (material: string) => boolean,
): Finding[] {
  const ids = Object.keys(all.solids).filter((id) => !all.solids[id].faces.some((face) => divides(face.material)));
  const map = ids.length === Object.keys(all.solids).length ? all : { ...all, solids: Object.fromEntries(ids.map((id) => [id, all.solids[id]])) };
  return [
    ...listed(offGrid(map, ids, mapName, profile)),
    ...mixedGrids(map, ids, mapName, profile),
    ...listed(thin(map, ids, mapName, profile)),
    ...listed(pairs(map, ids, mapName, unseen, profile.sealed)),
    ...crowded(ids, mapName, profile),
  ];
}

function listed(findings: Finding[]): Finding[] {
  const byCode = new Map<string, Finding[]>();
  for (const finding of findings) byCode.set(finding.code, [...(byCode.get(finding.code) ?? []), finding]);
  return [...byCode.values()].flatMap((same) =>
    same.length <= LISTED
      ? same
      : [...same.slice(0, LISTED - 1), { ...same[LISTED - 1], message: `${same[LISTED - 1].message} And ${same.length - LISTED} more like it.` }],
  );
}

const onGrid = (value: number, step: number): boolean => Math.abs(value / step - Math.round(value / step)) * step < 1 / 512;

/** Solids that lie along the axes but not on the finest grid; slanted ones cannot all lie on it. */
function offGrid(map: GameMap, ids: readonly string[], mapName: string, profile: Profile): Finding[] {
  const findings: Finding[] = [];
  const { min: step } = profile.grid;
  for (const id of ids) {
    const solid = map.solids[id];
    if (solid.detail || !axial(solid) || solid.faces.every((face) => onGrid(face.distance, step))) continue;
    const to: Solid = { ...solid, faces: solid.faces.map((face) => ({ ...face, distance: Math.round(face.distance / step) * step })) };
    const shape = shapeOf(to);
    findings.push({
      code: 'solid-off-grid',
      severity: 'note',
      stage: 'map',
      message: `Solid ${id} lies off the grid of ${step}.`,
      hint: 'Neighbours drawn on the grid will leave slits beside it.',
      place: { map: mapName, solid: id, point: shapeOf(solid).box.min },
      fix:
        shape.polygons.length === 6
          ? { kind: 'edit', label: 'Put it on the grid', edit: { name: `put ${id} on the grid`, changes: [{ of: 'solids', id, to }] } }
          : undefined,
    });
  }
  return findings;
}

const axial = (solid: Solid): boolean => solid.faces.length === 6 && solid.faces.every((f) => f.normal.filter((n) => n !== 0).length === 1);

/** The largest power-of-two step on which a solid's box lies, from 1/64 to 256. */
export function gridOf(solid: Solid): number {
  const { box } = shapeOf(solid);
  for (let step = 256; step > 1 / 64; step /= 2) if ([...box.min, ...box.max].every((v) => onGrid(v, step))) return step;
  return 1 / 64;
}

/** A map that is built on one grid with a few solids on a much finer one. Common practice: 4 to 16 units for building. */
function mixedGrids(map: GameMap, ids: readonly string[], mapName: string, profile: Profile): Finding[] {
  const boxes = ids.filter((id) => axial(map.solids[id]) && !map.solids[id].detail);
  if (boxes.length < 12) return [];
  const coarse = profile.grid.default / 4;
  const fine = boxes.filter((id) => gridOf(map.solids[id]) < coarse);
  if (fine.length === 0 || fine.length > boxes.length * 0.1) return [];
  return [
    {
      code: 'grid-mixed',
      severity: 'note',
      stage: 'map',
      message: `${fine.length} of ${boxes.length} blocks lie on a finer grid than ${coarse}: ${fine.slice(0, 6).join(', ')}${fine.length > 6 ? ', …' : ''}.`,
      hint: 'Fine offsets among coarse ones are mostly slips. Mark small parts as detail, or move them onto the grid.',
      place: { map: mapName, solid: fine[0], point: shapeOf(map.solids[fine[0]]).box.min },
    },
  ];
}

function thin(map: GameMap, ids: readonly string[], mapName: string, profile: Profile): Finding[] {
  const least = profile.minThickness;
  if (!least) return [];
  return ids.flatMap((id): Finding[] => {
    const solid = map.solids[id];
    const depth = Math.min(...boxSize(shapeOf(solid).box));
    if (solid.detail || depth >= least - 1e-6) return [];
    return [
      {
        code: 'solid-thin',
        severity: 'warning',
        stage: 'map',
        message: `Solid ${id} is ${Math.round(depth * 100) / 100} thick; below ${least}, light and players may pass.`,
        hint: 'Make it thicker, or mark it as detail if nothing has to be kept out.',
        place: { map: mapName, solid: id, point: shapeOf(solid).box.min },
        fix: {
          kind: 'edit',
          label: 'Mark as detail',
          edit: { name: `mark ${id} as detail`, changes: [{ of: 'solids', id, to: { ...solid, detail: true } }] },
        },
      },
    ];
  });
}

/** Pairs of neighbours by sweeping along x: duplicates, and faces in one plane that face the same way and overlap. */
function pairs(map: GameMap, ids: readonly string[], mapName: string, unseen: (material: string) => boolean, sealed: boolean): Finding[] {
  const findings: Finding[] = [];
  const around = new BoxGrid<Solid>(CELL);
  for (const id of ids) around.add(shapeOf(map.solids[id]).box, map.solids[id]);
  const items = ids.map((id) => ({ id, solid: map.solids[id], ...shapeOf(map.solids[id]) })).sort((a, b) => a.box.min[0] - b.box.min[0]);
  let active: typeof items = [];
  for (const item of items) {
    active = active.filter((other) => other.box.max[0] >= item.box.min[0] - ON_PLANE);
    for (const other of active) {
      if (!boxesTouch(item.box, other.box, -ON_PLANE)) continue;
      if (sameShape(item, other)) {
        const later = newer(item.id, other.id);
        const change: Change = { of: 'solids', id: later, to: null };
        findings.push({
          code: 'solid-twice',
          severity: 'warning',
          stage: 'map',
          message: `Solids ${item.id} and ${other.id} are the same, one inside the other.`,
          hint: 'A copy was made in place by mistake; both would flicker.',
          place: { map: mapName, solid: later, point: item.box.min },
          fix: { kind: 'edit', label: `Delete ${later}`, edit: { name: `delete duplicate ${later}`, changes: [change] } },
        });
        continue;
      }
      const area = flickering(map, around, item, other, unseen, sealed);
      if (area < LEAST_FLICKER) continue;
      findings.push({
        code: 'solid-flicker',
        severity: 'warning',
        stage: 'map',
        message: `Solids ${other.id} and ${item.id} overlap and share a plane with different looks: ${Math.round(area)} square units will flicker.`,
        hint: 'Move one of them, subtract one from the other, or give both faces the same material.',
        place: { map: mapName, solid: item.id, point: item.box.min },
      });
    }
    active.push(item);
  }
  return findings;
}

type Item = { id: string; solid: Solid } & ReturnType<typeof shapeOf>;

const newer = (a: string, b: string): string => (Number(a.replace(/\D/g, '')) > Number(b.replace(/\D/g, '')) ? a : b);

function sameShape(a: Item, b: Item): boolean {
  if (a.polygons.length !== b.polygons.length) return false;
  if (![0, 1, 2].every((axis) => Math.abs(a.box.min[axis] - b.box.min[axis]) < ON_PLANE && Math.abs(a.box.max[axis] - b.box.max[axis]) < ON_PLANE))
    return false;
  return a.polygons.every(({ face }) => b.polygons.some((other) => samePlane(a.solid.faces[face], b.solid.faces[other.face])));
}

/** Where two solids show faces in the same plane, facing the same way. */
interface Shared {
  a: string;
  b: string;
  at: Vec3;
  normal: Vec3;
  area: number;
}

/** What pairs share follows from the two alone: after an edit only those of what was edited are looked at anew. */
const sharedFaces = new WeakMap<Solid, WeakMap<Solid, readonly Shared[]>>();
const NOTHING: readonly Shared[] = [];

function sharedBy(a: Item, b: Item): readonly Shared[] {
  let ofA = sharedFaces.get(a.solid);
  if (!ofA) sharedFaces.set(a.solid, (ofA = new WeakMap()));
  let known = ofA.get(b.solid);
  if (known) return known;
  const found: Shared[] = [];
  for (const own of a.polygons) {
    const face = a.solid.faces[own.face];
    for (const theirs of b.polygons) {
      const other = b.solid.faces[theirs.face];
      if (!samePlane(face, other) || face.material === other.material) continue;
      const common = clipToWinding(own.winding, theirs.winding, other.normal);
      if (common) found.push({ a: face.material, b: other.material, at: windingCentre(common), normal: face.normal, area: windingArea(common) });
    }
  }
  // Planes without a common volume do not count: those faces lie side by side.
  known = found.length > 0 && intersectSolids([a.solid, b.solid]) ? found : NOTHING;
  ofA.set(b.solid, known);
  return known;
}

/** Area over which both solids show a face in the same plane with different looks; equal looks overlap without a trace. */
function flickering(map: GameMap, around: BoxGrid<Solid>, a: Item, b: Item, unseen: (material: string) => boolean, sealed: boolean): number {
  let area = 0;
  for (const shared of sharedBy(a, b))
    if (!unseen(shared.a) && !unseen(shared.b) && canBeSeen(map, around, shared.at, shared.normal, sealed)) area += shared.area;
  return area;
}

/**
 * Whether a face can be seen at a point: nothing covers it there and, in a map that has to be sealed, something
 * lies opposite, since only the outside of the shell looks into nothing.
 */
function canBeSeen(map: GameMap, around: BoxGrid<Solid>, point: Vec3, normal: Vec3, sealed: boolean): boolean {
  const before = addScaled(point, normal, 0.25);
  if (around.near({ min: before, max: before }).some((solid) => solidContains(solid, before))) return false;
  return !sealed || pickSolids(map.solids, before, normal).length > 0;
}

/** What a winding has in common with another in the same plane, or null. */
function clipToWinding(winding: Winding, other: Winding, normal: Vec3): Winding | null {
  let rest: Winding | null = winding;
  for (let i = 0; i < other.length && rest; i++) {
    const p = other[i];
    const q = other[(i + 1) % other.length];
    const unit = normalise(cross(normal, sub(q, p)));
    rest = clipBehind(rest, flipPlane({ normal: unit, distance: dot(unit, p) }));
  }
  return rest;
}

function crowded(ids: readonly string[], mapName: string, profile: Profile): Finding[] {
  const limit = profile.budgets?.solids;
  if (!limit || ids.length <= limit) return [];
  return [
    {
      code: 'budget-solids',
      severity: 'warning',
      stage: 'map',
      message: `The map has ${ids.length} solids; ${profile.title} is made for ${limit}.`,
      hint: 'Merge what is convex together, turn small parts into models, or split the map.',
      place: { map: mapName },
    },
  ];
}
