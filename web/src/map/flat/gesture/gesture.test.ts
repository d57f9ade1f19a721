/** Gestures without a browser: a press, a drag and a release in map units, and the values that come of them. */

import { describe, expect, test } from '@jest/globals';
import { applyEdit, type MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import { emptyMap } from '@violet-crate/core/profile/emptyMap';
import { newObject } from '@violet-crate/core/profile/newObject';
import { block } from '@violet-crate/core/solid/primitives';
import { shapeOf, type Point2 } from '@violet-crate/core/solid/shape';
import { shapeById } from '@violet-crate/core/solid/shapes';
import { ribbonOf } from '@violet-crate/core/route/ribbon';
import { shaped, terrain } from '@violet-crate/core/testing/terrains';
import { testProfile } from '@violet-crate/core/testing/world';
import { toSheet, type Sheet } from '../../../common/sheet.ts';
import { chosen, emptySelection, viewReducer, type ViewState } from '../../../state/viewSlice.ts';
import { handleGroups } from '../../editing/handleGroups.ts';
import type { Doc } from '../../editing/useDocument.ts';
import { jumpsAt } from '../../route/routeDraw.ts';
import { planProjection } from '../projection/planProjection.ts';
import type { SheetPointer } from '../projection/pointer.ts';
import { cutThrough, sectionProjection } from '../projection/sectionProjection.ts';
import { gesturesOf } from '../tools.ts';
import type { Gesture, Outcome, Scene } from './gesture.ts';

const profile = testProfile();
const canvas = { width: 800, height: 400 };
const sheet: Sheet = { centre: [0, 0], scale: 1 };

/** Two walls that the plan cuts, a floor under them, a lamp, a path and a note. */
function furnished(): GameMap {
  const map = emptyMap(profile);
  map.solids = {
    s1: block({ min: [0, 0, 0], max: [64, 16, 128] }, 'brick'),
    s2: block({ min: [0, 64, 0], max: [64, 80, 128] }, 'brick'),
    s3: block({ min: [-200, -200, -16], max: [200, 200, 0] }, 'tile'),
  };
  map.objects = { o1: newObject(profile, 'lamp', 'lamp_1', [-64, 32, 64]) };
  map.paths = { w1: { name: 'way', points: [[-128, -64, 0], [-64, -64, 0]], loop: false } }; // prettier-ignore
  map.notes = { n1: { name: 'note', text: 'Here', position: [96, 128, 0], points: [[32, 128, 0]] } };
  map.bands = { b1: { name: 'Ground', bottom: 0, top: 128 } };
  return map;
}

const initial = viewReducer(undefined, { type: 'none' });

function sceneOf(sheetName: 'plan' | 'section', view: Partial<ViewState> = {}, map = furnished()): Scene {
  const state: ViewState = { ...initial, grid: 16, band: 'b1', section: { from: [-100, 8], to: [100, 8] }, material: 'brick', ...view };
  const doc: Doc = { map, whole: map, profile, view: state, band: map.bands.b1, step: 16, snap: (v) => Math.round(v / 16) * 16 };
  const projection = sheetName === 'plan' ? planProjection(doc) : sectionProjection(doc, cutThrough(doc));
  const shape = shapeById(state.tool === 'room' ? 'room' : state.shape);
  const mode = state.mode === 'corners' || state.mode === 'edges' ? state.mode : null;
  const groups = mode ? handleGroups(map, state.selection.solids, mode, projection.project) : [];
  return { doc, projection, shape, values: shape.defaults(profile), groups };
}

type Keys = Partial<Pick<SheetPointer, 'shift' | 'alt' | 'control'>>;
const pointer = (from: Point2, at: Point2, keys: Keys = {}): SheetPointer => ({
  from,
  at,
  moved: from[0] !== at[0] || from[1] !== at[1],
  shift: false,
  alt: false,
  control: false,
  sheet,
  canvas,
  ...keys,
});

/** Which gesture takes a press, what it says at once, what it shows on the way, and what comes of it. */
function drag(scene: Scene, from: Point2, to: Point2, keys: Keys = {}) {
  for (const gesture of gesturesOf(scene.doc.view.tool, scene.projection.id)) {
    const begun = gesture.begin(scene, pointer(from, from, keys));
    if (!begun) continue;
    // As on the page: what a press selects counts for the drag that follows.
    const selection = begun.outcome?.selection;
    const after = selection === undefined ? scene : sceneOf(scene.projection.id, { ...scene.doc.view, selection: chosen(selection) }, scene.doc.map);
    const p = pointer(from, to, keys);
    const state = p.moved ? gesture.drag(begun.state, after, p) : begun.state;
    const outcome = p.moved ? gesture.commit(state, after, p) : (gesture.click?.(state, after, p) ?? null);
    return { id: gesture.id, begun: begun.outcome, outcome, ghost: gesture.ghost?.(state, after) ?? null, gesture: gesture as Gesture, state };
  }
  return { id: null, begun: undefined, outcome: null as Outcome | null, ghost: null, gesture: null, state: null };
}
const click = (scene: Scene, at: Point2, keys: Keys = {}) => drag(scene, at, at, keys);
const after = (edit: MapEdit | null | undefined, map = furnished()): GameMap => applyEdit(map, edit!);
const boxOf = (map: GameMap, id: string) => shapeOf(map.solids[id]).box;
const picked = (kind: 'solids' | 'objects' | 'paths' | 'notes', ...ids: string[]) => ({ ...emptySelection, [kind]: ids });

describe('selecting in the plan', () => {
  test('a click takes a wall, and nothing lies elsewhere', () => {
    expect(click(sceneOf('plan'), [32, 8]).outcome).toEqual({ selection: { kind: 'solids', ids: ['s1'] } });
    expect(click(sceneOf('plan'), [390, 190]).outcome).toEqual({ selection: null });
  });
  test('the next click at the same place takes the floor behind the wall, and then the wall again', () => {
    const scene = sceneOf('plan', { selection: picked('solids', 's2') });
    const ids = [1, 2, 3].map(() => (click(scene, [16, 72]).outcome!.selection as { ids: string[] }).ids[0]);
    expect(new Set(ids)).toEqual(new Set(['s2', 's3']));
    expect(ids[0]).toBe(ids[2]);
  });
  test('Shift adds and takes away again, Control takes away', () => {
    const first = sceneOf('plan', { selection: picked('objects', 'o1') });
    expect(click(first, [32, 8], { shift: true }).outcome!.selection).toMatchObject({ objects: ['o1'], solids: ['s1'] });
    const both = sceneOf('plan', { selection: { ...picked('objects', 'o1'), solids: ['s1'] } });
    expect(click(both, [32, 8], { shift: true }).outcome!.selection).toMatchObject({ objects: ['o1'], solids: [] });
    expect(click(both, [32, 8], { control: true }).outcome!.selection).toMatchObject({ solids: [] });
    expect(click(both, [390, 190], { shift: true }).outcome).toBeNull();
  });
  test('a rectangle takes what lies wholly within it, of every kind', () => {
    const { id, outcome } = drag(sceneOf('plan'), [-150, -90], [130, 140], { shift: true });
    expect(id).toBe('marquee');
    expect(outcome!.selection).toMatchObject({ solids: ['s1', 's2'], objects: ['o1'], paths: ['w1'], notes: ['n1'] });
  });
  test('lines are taken near them: a path and a note', () => {
    expect(click(sceneOf('plan'), [-96, -62]).outcome).toEqual({ selection: { kind: 'paths', ids: ['w1'] } });
    expect(click(sceneOf('plan'), [64, 130]).outcome).toEqual({ selection: { kind: 'notes', ids: ['n1'] } });
  });
  test('an object that is looked for is set, anything else is refused', () => {
    const scene = (at: Point2) =>
      click(sceneOf('plan', { picking: { property: 'target' }, selection: picked('objects', 'o2') }, withSecond()), at).outcome!;
    const edit = scene([-64, 32]).edit!;
    expect(after(edit, withSecond()).objects.o2.properties.target).toBe('o1');
    expect(scene([32, 8]).refusal).toMatch(/Click an object/);
  });
});

const withSecond = (): GameMap => {
  const map = furnished();
  map.objects.o2 = newObject(profile, 'crank', 'crank', [150, -150, 0]);
  return map;
};

describe('moving', () => {
  test('what is dragged moves on the grid; a wall is selected by the press', () => {
    const { id, begun, outcome, ghost } = drag(sceneOf('plan'), [32, 8], [62, -27]);
    expect(id).toBe('move');
    expect(begun).toEqual({ selection: { kind: 'solids', ids: ['s1'] } });
    expect(boxOf(after(outcome!.edit), 's1')).toEqual({ min: [32, -32, 0], max: [96, -16, 128] });
    expect(shapeOf(ghost!.solids[0]).box).toEqual({ min: [32, -32, 0], max: [96, -16, 128] });
  });
  test('Alt leaves the original and selects its copy', () => {
    const { outcome } = drag(sceneOf('plan', { selection: picked('solids', 's1') }), [16, 8], [16, -40], { alt: true });
    const map = after(outcome!.edit);
    expect([boxOf(map, 's1').min[1], boxOf(map, 's4').min[1]]).toEqual([0, -48]);
    expect(outcome!.selection).toMatchObject({ solids: ['s4'] });
  });
  test('a drag on a floor gathers, and does not move the floor', () => {
    expect(drag(sceneOf('plan'), [150, -150], [180, -100]).id).toBe('marquee');
  });
  test('in the section it moves along the cut and in height', () => {
    const { outcome } = drag(sceneOf('section', { selection: picked('solids', 's1') }), [32, 64], [64, 80]);
    expect(boxOf(after(outcome!.edit), 's1')).toEqual({ min: [32, 0, 16], max: [96, 16, 144] });
  });
  test('lines and objects are seen while they move', () => {
    const { ghost } = drag(sceneOf('plan', { selection: picked('paths', 'w1') }), [-96, -64], [-96, -32]);
    expect(ghost!.lines).toContainEqual([[-128, -32, 0], [-64, -32, 0]]); // prettier-ignore
  });
});

describe('drawing', () => {
  test('a block takes its footprint from the plan and its height from the band', () => {
    const scene = sceneOf('plan', { tool: 'solid' });
    const { id, outcome, ghost } = drag(scene, [100, 100], [146, 165]);
    expect(id).toBe('draw');
    expect(boxOf(after(outcome!.edit), 's4')).toEqual({ min: [96, 96, 0], max: [144, 160, 128] });
    expect(outcome!.view).toEqual({ tool: 'select', mode: 'solids' });
    expect(shapeOf(ghost!.solids[0]).box.max).toEqual([144, 160, 128]);
  });
  test('in the section it takes its height from the rectangle', () => {
    const { outcome } = drag(sceneOf('section', { tool: 'solid' }), [100, 16], [150, 64]);
    const box = boxOf(after(outcome!.edit), 's4');
    expect([box.min[0], box.max[0], box.min[2], box.max[2]]).toEqual([96, 144, 16, 64]);
    expect((box.min[1] + box.max[1]) / 2).toBe(8);
  });
  test('across an oblique section it says why not', () => {
    const { outcome } = drag(sceneOf('section', { tool: 'solid', section: { from: [0, 0], to: [100, 60] } }), [0, 16], [50, 64]);
    expect(outcome!.refusal).toMatch(/along x or y/);
  });
  test('what has no size makes nothing', () => {
    expect(drag(sceneOf('plan', { tool: 'solid' }), [100, 100], [102, 165]).outcome).toBeNull();
  });
  test('a room is a shell of six and more solids', () => {
    const { outcome } = drag(sceneOf('plan', { tool: 'room' }), [96, 96], [192, 192]);
    expect(outcome!.edit!.changes.length).toBeGreaterThanOrEqual(6);
  });
});

describe('handles', () => {
  test('resize one solid by its sides, and scale several', () => {
    const one = drag(sceneOf('plan', { selection: picked('solids', 's1') }), [64, 8], [97, 8]);
    expect(one.id).toBe('resize');
    expect(boxOf(after(one.outcome!.edit), 's1').max[0]).toBe(96);
    const two = drag(sceneOf('plan', { selection: picked('solids', 's1', 's2') }), [32, 80], [32, 160]);
    const map = after(two.outcome!.edit);
    expect([boxOf(map, 's1').max[1], boxOf(map, 's2').max[1]]).toEqual([32, 160]);
  });
  test('resize in height in the section', () => {
    const { id, outcome } = drag(sceneOf('section', { selection: picked('solids', 's1') }), [32, 128], [32, 160]);
    expect(id).toBe('resize');
    expect(boxOf(after(outcome!.edit), 's1')).toEqual({ min: [0, 0, 0], max: [64, 16, 160] });
  });
  test('turn what is selected about its middle', () => {
    const scene = sceneOf('plan', { selection: picked('solids', 's1') });
    const above = toSheet(sheet, canvas, [432, 200 - 16 - 26]);
    const { id, outcome, ghost } = drag(scene, above, [32 - 200, 8]);
    expect(id).toBe('turn');
    const { min, max } = boxOf(after(outcome!.edit), 's1');
    expect([min, max].map((p) => p.map((v) => Math.round(v)))).toEqual([[24, -24, 0], [40, 40, 128]]); // prettier-ignore
    expect(ghost!.solids).toHaveLength(1);
  });
  test('are not there for objects, which keep their size', () => {
    expect(sceneOf('plan', { selection: picked('objects', 'o1') }).projection.frame!.resizes).toEqual([false, false]);
  });
  test('drag a point of a path, in the plan on the floor, in the section in the cut only', () => {
    const plan = drag(sceneOf('plan', { selection: picked('paths', 'w1') }), [-64, -64], [-30, -96]);
    expect(plan.id).toBe('grip');
    expect(after(plan.outcome!.edit).paths.w1.points).toEqual([[-128, -64, 0], [-32, -96, 0]]); // prettier-ignore
    const section = drag(sceneOf('section', { selection: picked('notes', 'n1') }), [32, 0], [48, 32]);
    expect(after(section.outcome!.edit).notes.n1.points).toEqual([[48, 128, 32]]);
  });
  test('the band is dragged by its handles in the section, and never turned over', () => {
    const top = drag(sceneOf('section'), [350, 128], [350, 163]);
    expect(top.id).toBe('band');
    expect(after(top.outcome!.edit).bands.b1).toMatchObject({ bottom: 0, top: 160 });
    const under = drag(sceneOf('section'), [350, 128], [350, -100]);
    expect(after(under.outcome!.edit).bands.b1.top).toBe(profile.grid.min);
  });
});

describe('faces, edges and corners', () => {
  test('a side is selected and pushed along its normal', () => {
    const { id, begun, outcome } = drag(sceneOf('plan', { mode: 'faces' }), [64, 8], [95, 30]);
    expect(id).toBe('push');
    expect(begun!.selection).toMatchObject({ solids: ['s1'], faces: [{ solid: 's1' }] });
    expect(boxOf(after(outcome!.edit), 's1').max[0]).toBe(96);
  });
  test('pushing a side through the other is refused with the reason', () => {
    expect(drag(sceneOf('plan', { mode: 'faces' }), [64, 8], [-64, 8]).outcome!.refusal).toMatch(/\w/);
  });
  test('in the section a top is pulled up', () => {
    const { outcome } = drag(sceneOf('section', { mode: 'faces' }), [32, 128], [32, 150]);
    expect(boxOf(after(outcome!.edit), 's1').max[2]).toBe(144);
  });
  test('corners that fall together move as one', () => {
    const { id, begun, outcome } = drag(sceneOf('plan', { mode: 'corners', selection: picked('solids', 's1') }), [64, 16], [96, 16]);
    expect(id).toBe('corners');
    expect((begun!.selection as { corners: unknown[] }).corners).toHaveLength(2);
    const map = after(outcome!.edit);
    expect(boxOf(map, 's1').max).toEqual([96, 16, 128]);
    expect(outcome!.selection).toMatchObject({ corners: [] });
  });
});

describe('tools', () => {
  test('cut parts what the line crosses, and keeps what is asked for', () => {
    const both = drag(sceneOf('plan', { tool: 'cut' }), [32, -32], [32, 40]);
    expect(both.outcome!.edit!.changes.filter((c) => c.of === 'solids' && c.to)).toHaveLength(4);
    expect(both.ghost!.lines[0]).toHaveLength(5);
    const left = drag(sceneOf('plan', { tool: 'cut', keep: 'left', selection: picked('solids', 's1') }), [32, -32], [32, 40]);
    expect(left.outcome!.edit!.changes.filter((c) => c.of === 'solids' && c.to)).toHaveLength(1);
    expect(drag(sceneOf('plan', { tool: 'cut' }), [300, 300], [330, 300]).outcome!.refusal).toMatch(/crosses no solid/);
  });
  test('a level cut in the section parts a wall in height', () => {
    const { outcome } = drag(sceneOf('section', { tool: 'cut', selection: picked('solids', 's1') }), [-16, 64], [80, 64]);
    const heights = outcome!.edit!.changes.flatMap((c) => (c.of === 'solids' && c.to ? [shapeOf(c.to).box.max[2]] : []));
    expect(heights.sort((a, b) => a - b)).toEqual([64, 128]);
  });
  test('the section line is drawn along the axes unless Shift is held', () => {
    const line = (keys: Keys) => drag(sceneOf('plan', { tool: 'section' }), [0, 0], [128, 20], keys).outcome!.view!.section;
    expect(line({})).toEqual({ from: [0, 0], to: [128, 0] });
    expect(line({ shift: true })).toEqual({ from: [0, 0], to: [128, 16] });
  });
  test('an object is placed on the floor by a click, and not by a drag', () => {
    const scene = sceneOf('plan', { tool: 'place', placeClass: 'crank' });
    const map = after(click(scene, [-100, -100]).outcome!.edit);
    expect(map.objects.o2).toMatchObject({ class: 'crank', position: [-96, -96, 0] });
    expect(drag(scene, [-100, -100], [-50, -100]).outcome).toBeNull();
    expect(click(sceneOf('plan', { tool: 'place' }), [0, 0]).outcome).toBeNull();
  });
  test('a path takes a point a click, and its first point closes it', () => {
    const draft: [number, number, number][] = [[0, -64, 0], [64, -64, 0], [64, -128, 0]]; // prettier-ignore
    expect(click(sceneOf('plan', { tool: 'path' }), [3, -60]).outcome!.view).toEqual({ pathDraft: [[0, -64, 0]] });
    const closed = click(sceneOf('plan', { tool: 'path', pathDraft: draft }), [2, -62]).outcome!;
    expect(after(closed.edit).paths.w2).toEqual({ name: 'path', points: draft, loop: true });
    expect(closed.view).toMatchObject({ tool: 'select', pathDraft: [] });
  });
  test('measuring gathers points', () => {
    const { view } = click(sceneOf('plan', { tool: 'measure', measure: [[0, 0, 0]] }), [100, 100]).outcome!;
    expect(view!.measure).toEqual([[0, 0, 0], [96, 96, 0]]); // prettier-ignore
  });
  test('a note is dragged from what it is about to its text, in either sheet', () => {
    const plan = drag(sceneOf('plan', { tool: 'note' }), [-96, 96], [-30, 160]);
    expect(after(plan.outcome!.edit).notes.n2).toMatchObject({ name: 'note_2', position: [-32, 160, 0], points: [[-96, 96, 0]] });
    const section = drag(sceneOf('section', { tool: 'note' }), [32, 128], [96, 160]);
    expect(after(section.outcome!.edit).notes.n2).toMatchObject({ position: [96, 8, 160], points: [[32, 8, 128]] });
  });
  test('tools of the plan do nothing in the section', () => {
    for (const tool of ['place', 'path', 'measure', 'section']) expect(drag(sceneOf('section', { tool }), [0, 64], [50, 64]).id).toBeNull();
  });
});

describe('the landing of a jump', () => {
  // 75 metres: a rise, then a slope that falls away; the route leads straight over it.
  const side = 8;
  const { map: land } = shaped(
    terrain([301, 61], { spacing: side, range: [-4000, 4000] }),
    (i) => (i <= 60 ? Math.max(0, i - 40) * 0.4 : Math.max(-40, 6 - (i - 61) * 0.3)) * side,
  );
  const course: GameMap = {
    ...emptyMap(profile),
    terrains: land.terrains,
    tiles: land.tiles,
    routes: { r1: { name: 'Race', start: 's', stops: [], finish: 'f', laps: 1, width: 64, points: [[16, 240, 0], [2384, 240, 0]], branches: [] } }, // prettier-ignore
  };
  const scene = (view: Partial<ViewState> = {}, name: 'plan' | 'section' = 'plan') =>
    sceneOf(name, { panel: 'route', jumpSpeed: 10, section: { from: [0, 240], to: [2400, 240] }, ...view }, course);
  const landing = jumpsAt(course, profile, ribbonOf(course, course.routes.r1), 10)[0]?.flight.landing;

  test('is dragged along the flight: jumps are shown at the speed that it needs', () => {
    const [x, y, z] = landing!;
    const plan = drag(scene(), [x, y], [x + 240, y + 200]);
    expect(plan.id).toBe('landing');
    const { jumpSpeed } = plan.outcome!.view!;
    expect(jumpSpeed).toBeGreaterThan(10);
    // At that speed it comes down there.
    const again = jumpsAt(course, profile, ribbonOf(course, course.routes.r1), jumpSpeed!)[0].flight.landing!;
    expect(Math.abs(again[0] - x - 240)).toBeLessThan(16);
    expect(plan.ghost!.lines[0].length).toBeGreaterThan(5);
    const section = drag(scene({}, 'section'), [x, z], [x + 240, z - 72]);
    expect([section.id, section.outcome!.view!.jumpSpeed]).toEqual(['landing', jumpSpeed]);
  });

  test('is left alone while the panel of routes is closed, and refused where no flight leads', () => {
    const [x, y] = landing!;
    expect(drag(scene({ panel: 'properties' }), [x, y], [x + 240, y]).id).not.toBe('landing');
    expect(drag(scene(), [x, y], [x - 2000, y]).outcome!.refusal).toMatch(/No speed/);
  });
});
