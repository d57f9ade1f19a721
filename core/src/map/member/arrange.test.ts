import { describe, expect, it } from '@jest/globals';
import { shapeOf } from '../../solid/shape.ts';
import { rotation, translation } from '../../solid/transform.ts';
import { alignMembers, arrayAlong, arrayAround, copyMembers, distributeMembers, transformMembers } from './arrange.ts';
import { memberBox } from './members.ts';
import { applyEdit, invertEdit } from '../../document/edit.ts';
import { serialiseMap } from '../../document/serialise.ts';
import { profile, blank, withChanges, cube, solid, object } from '../../testing/maps.ts';
import { noMembers } from '../../document/members.ts';

describe('arranging', () => {
  const three = withChanges(blank(), solid('s1', cube([0, 0, 0])), solid('s2', cube([20, 7, 0])), solid('s3', cube([100, 3, 0], 32)));
  const all = { ...noMembers, solids: ['s1', 's2', 's3'] };

  it('aligns lower sides, and spreads with equal gaps while the outermost stay', () => {
    const aligned = applyEdit(three, alignMembers(three, profile, all, 1, 'min')!);
    expect(all.solids.map((id) => shapeOf(aligned.solids[id]).box.min[1])).toEqual([0, 0, 0]);
    const spread = applyEdit(three, distributeMembers(three, profile, all, 0)!);
    const boxes = all.solids.map((id) => shapeOf(spread.solids[id]).box);
    expect([boxes[0].min[0], boxes[2].max[0]]).toEqual([0, 132]);
    expect(boxes[1].min[0] - boxes[0].max[0]).toBeCloseTo(boxes[2].min[0] - boxes[1].max[0], 9);
  });

  it('turns objects with what stands beside them, and undo gives back the identical map', () => {
    const map = withChanges(three, object('o1', 'lamp', 'lamp', [16, 0, 8]));
    const edit = transformMembers(map, { ...all, objects: ['o1'] }, rotation(2, 90, [0, 0, 0]), 'turn')!;
    const turned = applyEdit(map, edit);
    expect(turned.objects.o1).toMatchObject({ position: [0, 16, 8], turn: 90 });
    expect(serialiseMap(applyEdit(turned, invertEdit(map, edit)))).toBe(serialiseMap(map));
  });

  it('copies signals among the copied and gives free names', () => {
    const map = withChanges(blank(), object('o1', 'crank', 'crank', [0, 0, 0]), object('o2', 'sluice', 'gate', [64, 0, 0]), {
      of: 'signals',
      id: 'g1',
      to: { from: 'o1', event: 'turned', to: { object: 'o2', action: 'raise' }, delay: 0 },
    });
    const made = copyMembers(map, profile, { ...noMembers, objects: ['o1', 'o2'] }, [translation([0, 64, 0])], 'copy')!;
    const after = applyEdit(map, made.edit);
    expect(made.members.objects.map((id) => after.objects[id].name)).toEqual(['crank_2', 'gate_2']);
    expect(after.signals.g2).toMatchObject({ from: made.members.objects[0], to: { object: made.members.objects[1] } });
  });

  it('rows and rings have as many as asked for', () => {
    const one = { ...noMembers, solids: ['s1'] };
    expect(arrayAlong(three, profile, one, 4, [32, 0, 0])!.members.solids).toHaveLength(4);
    const ring = arrayAround(three, profile, one, 6, [64, 64, 0])!;
    const map = applyEdit(three, ring.edit);
    const away = [...ring.members.solids, 's1'].map((id) => {
      const { min, max } = memberBox(map, profile, 'solids', id)!;
      return Math.hypot((min[0] + max[0]) / 2 - 64, (min[1] + max[1]) / 2 - 64);
    });
    for (const d of away) expect(d).toBeCloseTo(away[0], 3);
  });
});
