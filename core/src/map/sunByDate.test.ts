import { expect, test } from '@jest/globals';
import { applyEdit, type MapEdit } from '../document/edit.ts';
import { emptyMap } from '../profile/emptyMap.ts';
import { newObject } from '../profile/newObject.ts';
import { testProfile } from '../testing/world.ts';
import { mapSuns } from './lights.ts';
import { sunByDate, sunsIn } from './sunByDate.ts';

const profile = testProfile('skarrow');
const map = {
  ...emptyMap(profile),
  objects: { o1: newObject(profile, 'sun', 'sun', [0, 0, 50]), o2: newObject(profile, 'beacon', 'lamp', [0, 0, 0]) },
};

test('suns are put where the sun stands: in the south at noon, in the east in the morning', () => {
  const suns = sunsIn(profile, map);
  expect(suns).toEqual(['o1']);
  const towards = (hour: number) => mapSuns(profile, applyEdit(map, sunByDate(map, suns, 60, '2024-06-20', hour) as MapEdit))[0].towards;
  const noon = towards(12);
  expect(noon[1]).toBeLessThan(-0.55);
  expect(Math.abs(noon[0])).toBeLessThan(0.05);
  // 90° − 60° + 23.44° over the horizon.
  expect((Math.asin(noon[2]) * 180) / Math.PI).toBeCloseTo(53.44, 0);
  expect(towards(7)[0]).toBeGreaterThan(0.7);
  expect(towards(17)[0]).toBeLessThan(-0.7);
});

test('what cannot be is said', () => {
  expect(sunByDate(map, ['o1'], 60, '2024-12-21', 3)).toMatch(/^The sun is [\d.]+° below the horizon then/);
  expect(sunByDate(map, ['o1'], 60, 'May', 3)).toBe('"May" is no day: write it as 2024-06-20.');
  expect(sunByDate(map, ['o1'], 91, '2024-12-21', 12)).toBe('A latitude lies between -90° and 90°.');
  expect(sunByDate(map, ['o1'], 0, '2024-12-21', 25)).toBe('An hour lies between 0 and 24.');
});
