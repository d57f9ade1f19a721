import { describe, expect, it } from '@jest/globals';
import { applyEdit } from '@violet-crate/core/document/edit';
import { AT_REST, turnAbout } from '@violet-crate/core/math/pose';
import { hall, made, profile } from '@violet-crate/core/testing/maps';
import type { MapObject } from '@violet-crate/core/document/schema';
import type { ShownObject } from '@violet-crate/core/trial/apart';
import { keepEdit, runChanges } from './keep.ts';

const shown = (id: string, object: MapObject, change: Partial<ShownObject> = {}): ShownObject => ({
  id,
  object,
  box: {
    min: [object.position[0] - 12, object.position[1] - 12, object.position[2]],
    max: [object.position[0] + 12, object.position[1] + 12, object.position[2] + 24],
  },
  properties: { ...object.properties },
  pose: AT_REST,
  gone: false,
  live: {},
  ...change,
});

const crate: MapObject = { ...made('prop', 'crate_1', [100, 0, 0], { movable: true }), turn: 20 };
const gate = made('sluice', 'gate', [0, 0, 0]);
const map = { ...hall(), objects: { c: crate, g: gate } };

describe('what differs between a run and its map', () => {
  it('is nothing at first, and nothing of what only moves by itself', () => {
    expect(runChanges(profile, map, [shown('c', crate), shown('g', gate, { pose: { ...AT_REST, offset: [0, 0, 80] } })])).toEqual([]);
    expect(runChanges(profile, map, [shown('gone', crate, { properties: {} })])).toEqual([]);
  });

  it('names what was moved, turned and set, and keeps it in one edit', () => {
    const changes = runChanges(profile, map, [
      shown('c', crate, { pose: { offset: [30, 40, 0.1], turn: turnAbout([0, 0, 1], 350) } }),
      shown('g', gate, { properties: { ...gate.properties, speed: 7 } }),
    ]);
    expect(changes.map(({ name, says }) => [name, says])).toEqual([
      ['crate_1', ['moved by 50', 'turned by -10°']],
      ['gate', ['Speed 7']],
    ]);
    const edit = keepEdit(changes);
    expect(edit.name).toBe('keep 2 things as in the run');
    const kept = applyEdit(map, edit);
    expect(kept.objects.c).toMatchObject({ position: [130, 40, 0.1], turn: 10 });
    expect(kept.objects.g.properties.speed).toBe(7);
    expect(kept.objects.g.position).toEqual([0, 0, 0]);
  });

  it('stands up what lies on its side, where its middle is', () => {
    // On its side about y: the middle of its bottom is now the middle of a side, 12 above the floor.
    const pose = { offset: [40, 0, 12] as [number, number, number], turn: turnAbout([0, 1, 0], 90) };
    const [change] = runChanges(profile, map, [shown('c', crate, { pose })]);
    expect(change.to.position).toEqual([152, 0, 0]);
  });
});
