import { describe, expect, it } from '@jest/globals';
import type { Change } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import { expandMap, placeCopy } from '@violet-crate/core/map/prefab';
import { applyEdit } from '@violet-crate/core/document/edit';
import { block } from '@violet-crate/core/solid/primitives';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { blank, object, profile, solid, withChanges } from '@violet-crate/core/testing/maps';
import { store } from '../../state/store.ts';
import { chosen, type Choice, type ViewState } from '../../state/viewSlice.ts';
import { pen, type Mark } from '../../testing/pen.ts';
import { drawGrid } from '../../common/sheet.ts';
import type { Doc, SheetColours } from '../editing/useDocument.ts';
import { drawGhost } from './overlays.ts';
import { drawChosen, drawPlanBase, type PlanScene } from './planDraw.ts';
import { planProjection } from './projection/planProjection.ts';
import { cutThrough, sectionProjection } from './projection/sectionProjection.ts';
import { drawBand, drawCut, drawSectionBase } from './sectionDraw.ts';

const names = ['ink', 'ground', 'violet', 'warm', 'clear', 'sunken', 'line', 'faint', 'selected'] as const;
const COLOURS = Object.fromEntries(names.map((name) => [name, name])) as unknown as SheetColours;
const BAND = { name: 'Ground', bottom: 0, top: 128 };
const sheet = { scale: 1, centre: [0, 0] as Point2 };
const box = (x: number, z: number, height: number, size = 40) => block({ min: [x, 0, z], max: [x + size, 40, z + height] }, 'brick');
const room = (...changes: Change[]): GameMap =>
  withChanges(blank(), ...Object.keys(blank().objects).map((id): Change => ({ of: 'objects', id, to: null })), ...changes);
const doc = (map: GameMap, choice: Choice = null, change: Partial<ViewState> = {}): Doc => {
  const view = { ...store.getState().view, selection: chosen(choice), ...change };
  return { map, whole: expandMap(map, profile), profile, view, band: BAND, snap: (v) => v, step: 1 };
};
const scene = (map: GameMap, choice?: Choice, change?: Partial<ViewState>): PlanScene => ({ ...doc(map, choice, change), cut: 64, colours: COLOURS });

/** Marks whose path goes through a point of the plan. */
const at = (marks: readonly Mark[], x: number, y: number) =>
  marks.filter(({ path }) => path.some((p) => Math.hypot(p[0] - (200 + x), p[1] - (150 - y)) < 1e-6));
const base = (map: GameMap, choice?: Choice, change?: Partial<ViewState>): Mark[] => {
  const { canvas, marks } = pen(400, 300);
  drawPlanBase(canvas, sheet, scene(map, choice, change));
  return marks;
};
const chosenMarks = (map: GameMap, choice: Choice, by: Point2 = [0, 0]): Mark[] => {
  const { canvas, marks } = pen(400, 300);
  drawChosen(canvas, sheet, scene(map, choice), by);
  return marks;
};

describe('the plan', () => {
  const heights = room(solid('cut', box(-100, 0, 128)), solid('floor', box(0, -16, 16)), solid('roof', box(100, 128, 16)));

  it('shows what the cut goes through filled, floors faintly below, and what is above as dashes', () => {
    const marks = base(heights);
    expect(at(marks, -100, 0).map(({ what, colour }) => [what, colour])).toEqual([
      ['fill', 'violet'],
      ['stroke', 'violet'],
    ]);
    const [floor] = at(marks, 0, 40);
    expect([floor.what, floor.colour]).toEqual(['fill', 'selected']);
    expect(floor.alpha).toBeLessThan(0.35);
    const roof = at(marks, 100, 0);
    expect(roof.map(({ what, dashed, alpha }) => [what, dashed, alpha])).toEqual([
      ['fill', true, 0],
      ['stroke', true, 0.12],
    ]);
  });

  it('floors lie under the grid, what is cut above it', () => {
    const marks = base(heights);
    const order = (own: Mark) => marks.indexOf(own);
    const grid = marks.filter(({ colour }) => colour === 'line').map(order);
    expect(order(at(marks, 0, 40)[0])).toBeLessThan(Math.min(...grid));
    expect(order(at(marks, -100, 40)[0])).toBeGreaterThan(Math.max(...grid));
  });

  it('leaves out what is hidden, selected, or out of sight', () => {
    expect(at(base(heights, null, { hidden: { 'solids/cut': true } }), -100, 0)).toEqual([]);
    expect(at(base(heights, { kind: 'solids', ids: ['cut'] }), -100, 0)).toEqual([]);
    const { canvas, marks } = pen(400, 300);
    drawPlanBase(canvas, { scale: 1, centre: [5000, 0] }, scene(heights));
    expect(marks.some(({ colour }) => colour === 'violet')).toBe(false);
  });

  it('what is selected is warm and goes along with the drag', () => {
    const marks = chosenMarks(heights, { kind: 'solids', ids: ['cut'] }, [8, 16]);
    expect(at(marks, -100, 0)).toEqual([]);
    expect(at(marks, -92, 16).map(({ what, colour, width }) => [what, colour, width])).toEqual([
      ['fill', 'violet', 1],
      ['stroke', 'warm', 2.5],
    ]);
  });

  it('a selected face is a thick line', () => {
    const side = heights.solids.cut.faces.findIndex((face) => face.normal[0] < -0.9);
    const marks = chosenMarks(heights, { solids: ['cut'], faces: [{ solid: 'cut', face: side }] });
    expect(marks.filter(({ width }) => width === 4)).toHaveLength(1);
  });

  it('what was added or changed since a revision is coloured so', () => {
    const compared = { revision: 1, added: ['solids/cut'], changed: ['solids/floor'], removed: [] };
    const marks = base(heights, null, { compared });
    expect([at(marks, -100, 0)[0].colour, at(marks, 0, 40)[0].colour]).toEqual(['clear', 'warm']);
  });

  it('objects stand on their band only; signals run from one to the other, stronger where one is selected', () => {
    const map = room(
      object('o1', 'crank', 'crank', [-50, 100, 16]),
      object('o2', 'lamp', 'lamp', [50, 100, 16]),
      object('o3', 'lamp', 'deep', [150, 100, -400]),
      { of: 'signals', id: 'g1', to: { from: 'o1', event: 'turned', to: { object: 'o2', action: 'light' }, delay: 0 } },
    );
    const marks = base(map);
    expect(at(marks, 150, 100)).toEqual([]);
    const line = (list: Mark[]) => list.find(({ path }) => path.some(([x]) => x === 150) && path.some(([x]) => x === 250));
    expect(line(marks)).toMatchObject({ colour: 'clear', alpha: 0.35 });
    expect(line(base(map, null, { showSignals: false }))).toBeUndefined();
    expect(line(chosenMarks(map, { kind: 'objects', ids: ['o2'] }))).toMatchObject({ colour: 'warm', alpha: 1, width: 2 });
  });

  it('a selected copy is labelled, and all that it stands for is warm', () => {
    const with1 = applyEdit(room(), placeCopy(room(), profile, 'mooring', [0, 0, 0]).edit);
    const [copy] = Object.keys(with1.copies);
    const marks = chosenMarks(with1, { kind: 'copies', ids: [copy] });
    expect(marks.filter(({ what }) => what === 'text').map(({ text }) => text)).toContain(with1.copies[copy].name);
    expect(
      marks.filter(({ what, colour, width, path }) => what === 'stroke' && colour === 'warm' && width === 2.5 && path.length === 4),
    ).toHaveLength(2);
    expect(base(with1, { kind: 'copies', ids: [copy] }).some(({ colour }) => colour === 'violet')).toBe(false);
  });
});

describe('the section', () => {
  const map = room(
    solid('wall', box(-100, 0, 100)),
    solid('far', block({ min: [0, 500, 0], max: [40, 540, 100] }, 'brick')),
    object('o1', 'crank', 'crank', [50, 20, 10]),
  );
  const view = { section: { from: [-200, 20], to: [200, 20] } as ViewState['section'] };
  const sectionScene = (choice: Choice = null) => {
    const own = doc(map, choice, view);
    const cut = cutThrough(own);
    return { doc: own, cut, projection: sectionProjection(own, cut), colours: COLOURS };
  };

  it('shows what the line goes through at its heights, and objects near it as dashes', () => {
    const { canvas, marks } = pen(400, 300);
    drawSectionBase(canvas, sheet, sectionScene());
    expect(at(marks, -100, 100).map(({ what, colour }) => [what, colour])).toEqual([
      ['fill', 'violet'],
      ['stroke', 'violet'],
    ]);
    expect(at(marks, 0, 100)).toEqual([]);
    expect(marks.some(({ what, dashed, path }) => what === 'stroke' && dashed && path.some(([x]) => Math.abs(x - 250) < 40))).toBe(true);
    const band = marks.find(({ colour, alpha }) => colour === 'selected' && alpha === 0.35)!;
    expect([band.path[0][1], band.path[2][1]]).toEqual([150 - BAND.top, 150 - BAND.bottom]);
  });

  it('what is selected is drawn apart, warm and moved', () => {
    const { canvas, marks } = pen(400, 300);
    const scene = sectionScene({ kind: 'solids', ids: ['wall'] });
    drawCut(canvas, sheet, scene, false, [0, 0]);
    expect(at(marks, -100, 100)).toEqual([]);
    drawCut(canvas, sheet, scene, true, [16, -8]);
    expect(at(marks, -84, 92).map(({ colour }) => colour)).toEqual(['violet', 'warm']);
  });

  it('the band has its two edges with their heights', () => {
    const { canvas, marks } = pen(400, 300);
    drawBand(canvas, sheet, BAND, COLOURS);
    expect(marks.filter(({ what }) => what === 'text').map(({ text }) => text)).toEqual(['Ground top 128', 'Ground bottom 0']);
    expect(marks.filter(({ what, width }) => what === 'stroke' && width === 1.5).map(({ path }) => path[0][1])).toEqual([22, 150]);
  });
});

describe('over both', () => {
  it('a ghost has the outline of its solids as each sees them', () => {
    const own = doc(room(), null, { section: { from: [-200, 20], to: [200, 20] } });
    const ghost = { solids: [box(0, 0, 64)], lines: [[[0, 0, 0] as const, [30, 0, 90] as const]] } as never;
    const place = ([u, v]: Point2): Point2 => [200 + u, 150 - v];
    const plan = pen(400, 300);
    drawGhost(plan.canvas, place, planProjection(own), ghost, COLOURS);
    expect(at(plan.marks, 40, 40)).toHaveLength(1);
    const section = pen(400, 300);
    drawGhost(section.canvas, place, sectionProjection(own, cutThrough(own)), ghost, COLOURS);
    expect(at(section.marks, 40, 64)).toHaveLength(1);
    expect(at(section.marks, 30, 90)).toHaveLength(1);
  });

  it('grid lines are never closer than seven pixels, and the axes are strongest', () => {
    for (const scale of [0.02, 0.3, 1, 9]) {
      const { canvas, marks } = pen(400, 300);
      drawGrid(canvas, { scale, centre: [0, 0] }, 8, { line: 'line', strong: 'strong' });
      const xs = [...new Set(marks.filter(({ path }) => path[0][0] === path[1][0]).map(({ path }) => path[0][0]))].sort((a, b) => a - b);
      for (let i = 1; i < xs.length; i++) expect(xs[i] - xs[i - 1]).toBeGreaterThanOrEqual(6);
      expect(marks.filter(({ colour }) => colour === 'strong').map(({ alpha }) => alpha)).toEqual([0.9, 0.9]);
    }
  });
});
