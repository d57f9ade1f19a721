/** Moving, turning, copying and arranging. */

import { alignMembers, arrayAlong, arrayAround, distributeMembers, transformMembers } from '@violet-crate/core/map/member/arrange';
import { membersBox } from '@violet-crate/core/map/member/members';
import { countMembers } from '@violet-crate/core/document/members';
import { boxSize } from '@violet-crate/core/math/box3';
import { snap, type Vec3 } from '@violet-crate/core/math/vec3';
import { rotation, scaling, shearing } from '@violet-crate/core/solid/transform';
import { AXES, type MapCommand, apply, applyMade, axisIndex, needAny, needMany, needSolids, pivot } from './command.ts';
import { chosen, type Selection } from '../../state/viewSlice.ts';

const turn = (degrees: number, keys?: string): MapCommand => ({
  id: `turn${degrees}`,
  label: `Turn by ${Math.abs(degrees)}° ${degrees > 0 ? 'to the left' : 'to the right'}`,
  group: 'Move',
  keys,
  blocked: needAny,
  run: (c) => apply(c, transformMembers(c.map, c.selection, rotation(2, degrees, pivot(c)), `turn by ${degrees}°`)),
});

const align = (axis: 0 | 1 | 2, side: 'min' | 'middle' | 'max', label: string): MapCommand => ({
  id: `align-${AXES[axis]}-${side}`,
  label: `Align ${label}`,
  group: 'Move',
  blocked: needMany,
  run: (c) => apply(c, alignMembers(c.map, c.profile, c.selection, axis, side)),
});

export const MOVE_COMMANDS: readonly MapCommand[] = [
  turn(15, ','),
  turn(-15, '.'),
  turn(90, 'Shift+,'),
  turn(-90, 'Shift+.'),
  {
    id: 'turn-free',
    label: 'Turn by an angle …',
    group: 'Move',
    blocked: needAny,
    asks: () => [
      { id: 'degrees', label: 'Angle', value: 15, unit: '°' },
      { id: 'axis', label: 'About', value: 'z', choices: AXES },
      { id: 'carry', label: 'Textures', value: 'stay in the world', choices: ['stay in the world', 'turn along'] },
    ],
    run: (c, { degrees, axis, carry }) =>
      apply(
        c,
        transformMembers(c.map, c.selection, rotation(axisIndex(axis), Number(degrees), pivot(c)), `turn by ${degrees}°`, carry === 'turn along'),
      ),
  },
  {
    id: 'mirror',
    label: 'Mirror …',
    group: 'Move',
    blocked: needAny,
    asks: () => [{ id: 'axis', label: 'Along', value: 'x', choices: AXES }],
    run: (c, { axis }) => {
      const factors: Vec3 = [1, 1, 1];
      factors[axisIndex(axis)] = -1;
      return apply(c, transformMembers(c.map, c.selection, scaling(factors, pivot(c)), `mirror along ${axis}`));
    },
  },
  {
    id: 'scale',
    label: 'Scale …',
    group: 'Move',
    blocked: needAny,
    asks: () => AXES.map((a) => ({ id: a, label: `Factor along ${a}`, value: 1 })),
    run: (c, answers) => {
      const factors = AXES.map((a) => Number(answers[a])) as Vec3;
      if (factors.some((f) => !(Math.abs(f) >= 0.01 && Math.abs(f) <= 100))) return 'Factors lie between 0.01 and 100.';
      return apply(c, transformMembers(c.map, c.selection, scaling(factors, pivot(c)), 'scale'));
    },
  },
  {
    id: 'shear',
    label: 'Shear …',
    group: 'Move',
    blocked: needSolids(1),
    asks: () => [
      { id: 'axis', label: 'Push along', value: 'x', choices: AXES },
      { id: 'along', label: 'For every unit of', value: 'z', choices: AXES },
      { id: 'amount', label: 'By', value: 0.5 },
    ],
    run: (c, { axis, along, amount }) =>
      axis === along
        ? 'Choose two different axes.'
        : apply(c, transformMembers(c.map, c.selection, shearing(axisIndex(axis), axisIndex(along), Number(amount), pivot(c)), 'shear')),
  },
  {
    id: 'move-by',
    label: 'Move by …',
    group: 'Move',
    blocked: needAny,
    asks: ({ profile }) => AXES.map((a) => ({ id: a, label: a, value: 0, unit: profile.unit.plural })),
    run: (c, answers) =>
      apply(c, transformMembers(c.map, c.selection, { ...rotation(2, 0, [0, 0, 0]), move: AXES.map((a) => Number(answers[a])) as Vec3 }, 'move')),
  },
  {
    id: 'to-grid',
    label: 'Put onto the grid',
    group: 'Move',
    blocked: needAny,
    run: (c) => {
      const box = membersBox(c.map, c.profile, c.selection)!;
      const to = snap(box.min, c.view.grid);
      return apply(
        c,
        transformMembers(c.map, c.selection, { ...rotation(2, 0, [0, 0, 0]), move: to.map((v, i) => v - box.min[i]) as Vec3 }, 'put onto the grid'),
        'It lies on the grid.',
      );
    },
  },
  align(0, 'min', 'west sides'),
  align(0, 'middle', 'middles, west to east'),
  align(0, 'max', 'east sides'),
  align(1, 'min', 'south sides'),
  align(1, 'middle', 'middles, south to north'),
  align(1, 'max', 'north sides'),
  align(2, 'min', 'bottoms'),
  align(2, 'max', 'tops'),
  ...([0, 1, 2] as const).map((axis): MapCommand => ({
    id: `distribute-${AXES[axis]}`,
    label: `Distribute evenly along ${AXES[axis]}`,
    group: 'Move',
    blocked: ({ selection }) => (countMembers(selection) > 2 ? null : 'Select at least three things first.'),
    run: (c) => apply(c, distributeMembers(c.map, c.profile, c.selection, axis), 'They are spread evenly.'),
  })),
  {
    id: 'array',
    label: 'Row of copies …',
    group: 'Move',
    blocked: needAny,
    asks: (c) => {
      const size = boxSize(membersBox(c.map, c.profile, c.selection)!);
      return [
        { id: 'count', label: 'Copies', value: 3 },
        { id: 'x', label: 'Step x', value: Math.ceil(size[0] / c.view.grid) * c.view.grid + c.view.grid },
        { id: 'y', label: 'Step y', value: 0 },
        { id: 'z', label: 'Step z', value: 0 },
      ];
    },
    run: (c, { count, x, y, z }) => {
      if (!(Number(count) >= 1 && Number(count) <= 500)) return 'Between 1 and 500 copies.';
      const made = arrayAlong(c.map, c.profile, c.selection, Math.round(Number(count)), [Number(x), Number(y), Number(z)]);
      return applyMade(c, made && { edit: made.edit, selection: chosen(made.members as Partial<Selection>) });
    },
  },
  {
    id: 'ring',
    label: 'Ring of copies …',
    group: 'Move',
    blocked: needAny,
    asks: (c) => {
      const at = pivot(c);
      return [
        { id: 'count', label: 'In all', value: 6 },
        { id: 'x', label: 'Centre x', value: at[0] + c.view.grid * 8 },
        { id: 'y', label: 'Centre y', value: at[1] },
      ];
    },
    run: (c, { count, x, y }) => {
      if (!(Number(count) >= 2 && Number(count) <= 360)) return 'Between 2 and 360.';
      const made = arrayAround(c.map, c.profile, c.selection, Math.round(Number(count)), [Number(x), Number(y), 0]);
      return applyMade(c, made && { edit: made.edit, selection: chosen(made.members as Partial<Selection>) });
    },
  },
];
