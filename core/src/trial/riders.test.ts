import { expect, test } from '@jest/globals';
import { recordsPath } from '../table/document.ts';
import { testProfile } from '../testing/world.ts';
import { ridersOf } from './riders.ts';

const profile = testProfile('skarrow');
const data = (racers: object[]) => ({
  [recordsPath('kit')]: JSON.stringify({ format: 1, table: 'kit', rows: [{ id: 'keel', name: 'Keel', mass: 9, kite: 1, grip: 0.2 }] }),
  [recordsPath('racers')]: JSON.stringify({ format: 1, table: 'racers', rows: racers }),
});

test('riders are rows: temper becomes nerve, kit becomes the sled', () => {
  const { riders, problems } = ridersOf(
    profile,
    data([{ id: 'orm', name: 'Orm', temper: 'careful', nerve: 0.8, weight: 90, kit: ['keel', 'keel'] }]),
  );
  expect(problems).toEqual([]);
  expect(riders).toEqual([{ key: 'orm', name: 'Orm', nerve: 0.8, vehicle: { mass: 148, kite: 10, edge: 0.9 + 0.4 } }]);
});

test('a game without riders has none, and a formula that fails is told with the name', () => {
  expect(ridersOf(testProfile(), {})).toEqual({ riders: [], problems: [] });
  const broken = { ...profile, riders: { ...profile.riders!, nerve: 'nerves' } };
  expect(ridersOf(broken, data([{ id: 'orm', name: 'Orm' }])).problems).toEqual(['Orm cannot ride: Racers has no column "nerves".']);
});
