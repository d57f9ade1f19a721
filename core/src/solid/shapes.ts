/**
 * Everything that the *solid* tool can draw, as one table: what it is called, which numbers it takes, and how
 * it is made from a box. Screens, tests and the command line read the same table.
 */

import type { Solid } from '../document/schema.ts';
import type { Box3 } from '../math/box3.ts';
import type { Profile } from '../profile/schema.ts';
import {
  arch,
  block,
  cone,
  cylinder,
  roomWithOpenings,
  sphere,
  straightStair,
  wedge,
  windingFrame,
  windingStair,
  type Opening,
} from './primitives.ts';
import { bestSteps, checkStair } from './stairs.ts';

export interface ShapeParameter {
  id: string;
  label: string;
  /** A number with limits, or one of several words. */
  kind: { min: number; max: number; step: number; units?: boolean } | readonly string[];
  hint?: string;
}

export type ShapeValues = Record<string, number | string>;

export interface Shape {
  id: string;
  label: string;
  description: string;
  parameters: ShapeParameter[];
  defaults(profile: Profile): ShapeValues;
  make(box: Box3, values: ShapeValues, material: string): Solid[];
  /** What the user should know about it before it is drawn, or null. */
  note?(box: Box3, values: ShapeValues, profile: Profile): { says: string; good: boolean } | null;
}

const count = (id: string, label: string, min: number, max: number): ShapeParameter => ({ id, label, kind: { min, max, step: 1 } });
const TOWARDS = ['+x', '-x', '+y', '-y'] as const;
const towards: ShapeParameter = { id: 'towards', label: 'Rises towards', kind: TOWARDS };
const spanned: ShapeParameter = { id: 'along', label: 'Spans along', kind: ['x', 'y'] };

const axisOf = (values: ShapeValues): 0 | 1 => (String(values.towards ?? values.along).endsWith('y') ? 1 : 0);
const signOf = (values: ShapeValues): 1 | -1 => (String(values.towards).startsWith('-') ? -1 : 1);
const number = (values: ShapeValues, id: string): number => Number(values[id]);

/** Steps of a stair: as given, or the most comfortable number where it is 0. */
function stepsOf(rise: number, run: number, values: ShapeValues): number {
  const given = Math.round(number(values, 'steps'));
  return given > 0 ? given : bestSteps(rise, run, number(values, 'stepHeight'), number(values, 'metres'));
}

const stepping = (profile: Profile): ShapeValues => ({ steps: 0, stepHeight: profile.player.stepHeight, metres: profile.unit.metres });
const STEPS: ShapeParameter = { ...count('steps', 'Steps', 0, 200), hint: '0: as many as are comfortable to climb' };

/** Length of the walking line of a winding stair: two thirds out from the middle. Common practice. */
function walkingLine(box: Box3, degrees: number, inner: number): number {
  const { radius } = windingFrame(box, degrees, inner);
  return (((radius[0] + radius[1]) / 3) * degrees * Math.PI) / 180;
}

const POST = 0.12;

function stairNote(rise: number, run: number, values: ShapeValues, profile: Profile) {
  const steps = stepsOf(rise, run, values);
  const verdict = checkStair(rise / steps, run / steps, profile.player.stepHeight, profile.unit.metres);
  return { says: `${steps} steps. ${verdict.says}`, good: verdict.climbable && verdict.comfortable };
}

const height = (box: Box3) => box.max[2] - box.min[2];
const runOf = (box: Box3, values: ShapeValues) => box.max[axisOf(values)] - box.min[axisOf(values)];

export const SHAPES: readonly Shape[] = [
  {
    id: 'block',
    label: 'Block',
    description: 'A box over a footprint; its height comes from the band',
    parameters: [],
    defaults: () => ({}),
    make: (box, _values, material) => [block(box, material)],
  },
  {
    id: 'wedge',
    label: 'Wedge',
    description: 'Half a block: a slope from its foot to its full height',
    parameters: [towards],
    defaults: () => ({ towards: '+x' }),
    make: (box, values, material) => [wedge(box, axisOf(values), signOf(values), material)],
  },
  {
    id: 'ramp',
    label: 'Ramp',
    description: 'A sloping slab of even thickness, open below',
    parameters: [towards, { id: 'thickness', label: 'Thickness', kind: { min: 0.25, max: 256, step: 1, units: true } }],
    defaults: (profile) => ({ towards: '+x', thickness: profile.shellThickness / 2 }),
    make: (box, values, material) => {
      const [axis, sign] = [axisOf(values), signOf(values)];
      const slope = wedge(box, axis, sign, material);
      const top = slope.faces[slope.faces.length - 1];
      const below = { ...top, normal: [-top.normal[0], -top.normal[1], -top.normal[2]] as [number, number, number] };
      return [{ faces: [...slope.faces, { ...below, distance: number(values, 'thickness') - top.distance }] }];
    },
  },
  {
    id: 'cylinder',
    label: 'Cylinder',
    description: 'An upright column',
    parameters: [count('sides', 'Sides', 3, 64)],
    defaults: () => ({ sides: 12 }),
    make: (box, values, material) => [cylinder(box, number(values, 'sides'), material)],
  },
  {
    id: 'cone',
    label: 'Cone',
    description: 'An upright cone',
    parameters: [count('sides', 'Sides', 3, 64)],
    defaults: () => ({ sides: 12 }),
    make: (box, values, material) => [cone(box, number(values, 'sides'), material)],
  },
  {
    id: 'sphere',
    label: 'Sphere',
    description: 'A flat-faced ball',
    parameters: [count('sides', 'Sides', 4, 24)],
    defaults: () => ({ sides: 10 }),
    make: (box, values, material) => [sphere(box, number(values, 'sides'), material)],
  },
  {
    id: 'arch',
    label: 'Arch',
    description: 'Half a ring of wedge stones over an opening',
    parameters: [
      spanned,
      count('segments', 'Stones', 3, 48),
      { id: 'thickness', label: 'Thickness', kind: { min: 0.25, max: 256, step: 1, units: true } },
    ],
    defaults: (profile) => ({ along: 'x', segments: 9, thickness: profile.shellThickness }),
    make: (box, values, material) => arch(box, axisOf(values), number(values, 'segments'), number(values, 'thickness'), material),
  },
  {
    id: 'stair',
    label: 'Straight stair',
    description: 'Steps from the box’s foot to its top',
    parameters: [towards, STEPS],
    defaults: (profile) => ({ towards: '+x', ...stepping(profile) }),
    make: (box, values, material) => straightStair(box, axisOf(values), signOf(values), stepsOf(height(box), runOf(box, values), values), material),
    note: (box, values, profile) => stairNote(height(box), runOf(box, values), values, profile),
  },
  {
    id: 'arc',
    label: 'Arc stair',
    description: 'Steps round a bend, standing on the floor',
    parameters: [
      { id: 'degrees', label: 'Turn', kind: { min: 30, max: 330, step: 15 } },
      { id: 'inner', label: 'Inner radius, %', kind: { min: 5, max: 90, step: 5 } },
      STEPS,
    ],
    defaults: (profile) => ({ degrees: 90, inner: 30, ...stepping(profile) }),
    make: (box, values, material) =>
      windingStair(
        box,
        stepsOf(height(box), walkingLine(box, number(values, 'degrees'), number(values, 'inner') / 100), values),
        number(values, 'degrees'),
        number(values, 'inner') / 100,
        false,
        material,
      ),
    note: (box, values, profile) =>
      stairNote(height(box), walkingLine(box, number(values, 'degrees'), number(values, 'inner') / 100), values, profile),
  },
  {
    id: 'spiral',
    label: 'Spiral stair',
    description: 'Hanging steps around a post, any number of turns',
    parameters: [{ id: 'turns', label: 'Turns', kind: { min: 0.5, max: 8, step: 0.25 } }, STEPS],
    defaults: (profile) => ({ turns: 1, ...stepping(profile) }),
    make: (box, values, material) => {
      const degrees = number(values, 'turns') * 360;
      const steps = stepsOf(height(box), walkingLine(box, degrees, POST), values);
      const [cx, cy] = [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2];
      const [rx, ry] = [(box.max[0] - box.min[0]) * 0.06, (box.max[1] - box.min[1]) * 0.06];
      const post: Box3 = { min: [cx - rx, cy - ry, box.min[2]], max: [cx + rx, cy + ry, box.max[2]] };
      return [cylinder(post, 8, material), ...windingStair(box, steps, degrees, POST, true, material)];
    },
    note: (box, values, profile) => {
      const turns = number(values, 'turns');
      const rise = height(box);
      const headroom = turns > 1 ? rise / turns - (2 * rise) / stepsOf(rise, walkingLine(box, turns * 360, POST), values) : Infinity;
      if (headroom < profile.player.height)
        return {
          says: `Only ${Math.round(headroom)} of headroom between turns; the player is ${profile.player.height} tall. Use fewer turns.`,
          good: false,
        };
      return stairNote(rise, walkingLine(box, turns * 360, POST), values, profile);
    },
  },
  {
    id: 'pane',
    label: 'Pane',
    description: 'A thin panel, lying or standing',
    parameters: [
      { id: 'lies', label: 'Lies', kind: ['flat', 'upright along x', 'upright along y'] },
      { id: 'thickness', label: 'Thickness', kind: { min: 0.25, max: 64, step: 0.25, units: true } },
    ],
    defaults: (profile) => ({ lies: 'flat', thickness: profile.grid.min }),
    make: (box, values, material) => {
      const max = [...box.max] as [number, number, number];
      const axis = values.lies === 'flat' ? 2 : values.lies === 'upright along x' ? 1 : 0;
      max[axis] = box.min[axis] + number(values, 'thickness');
      return [block({ min: box.min, max }, material)];
    },
  },
  {
    id: 'room',
    label: 'Room',
    description: 'A sealed shell around the inside of a room',
    parameters: [
      { id: 'thickness', label: 'Walls', kind: { min: 0.25, max: 256, step: 1, units: true } },
      { id: 'door', label: 'Door in', kind: ['no wall', 'west', 'east', 'south', 'north'] },
      { id: 'doorWidth', label: 'Door width', kind: { min: 1, max: 1024, step: 1, units: true } },
      { id: 'doorHeight', label: 'Door height', kind: { min: 1, max: 1024, step: 1, units: true } },
      { id: 'window', label: 'Window in', kind: ['no wall', 'west', 'east', 'south', 'north'] },
    ],
    defaults: (profile) => ({
      thickness: profile.shellThickness,
      door: 'no wall',
      // A door lets the player through with room to spare; on the grid.
      doorWidth: gridUp(profile.player.radius * 4, profile),
      doorHeight: gridUp(profile.player.height * 1.2, profile),
      window: 'no wall',
    }),
    make: (box, values, material) => {
      const openings: Opening[] = [];
      const size = height(box);
      if (values.door !== 'no wall')
        openings.push({
          wall: values.door as Opening['wall'],
          at: 0.5,
          width: number(values, 'doorWidth'),
          sill: 0,
          height: number(values, 'doorHeight'),
        });
      if (values.window !== 'no wall')
        openings.push({
          wall: values.window as Opening['wall'],
          at: values.window === values.door ? 0.8 : 0.5,
          width: number(values, 'doorWidth'),
          sill: size * 0.4,
          height: size * 0.35,
        });
      return roomWithOpenings(box, number(values, 'thickness'), openings, material);
    },
  },
];

const gridUp = (v: number, profile: Profile): number => Math.ceil(v / (profile.grid.default / 2)) * (profile.grid.default / 2);

/** Shapes of many small solids: they are drawn and stood upon, but need not split the map for visibility. */
const DETAILED = new Set(['stair', 'arc', 'spiral', 'arch']);

/** The solids of a shape as the tool draws them. */
export const makeShape = (id: string, box: Box3, values: ShapeValues, material: string): Solid[] => {
  const solids = shapeById(id).make(box, values, material);
  return DETAILED.has(id) ? solids.map((solid) => ({ ...solid, detail: true })) : solids;
};

export const shapeById = (id: string): Shape => SHAPES.find((shape) => shape.id === id) ?? SHAPES[0];
