import { expect, it } from '@jest/globals';
import { testWorld } from '../testing/world.ts';
import { mapDifference } from './changeWords.ts';

it('says what is different between two versions of a map, grouped and by name', () => {
  const before = testWorld().crate.maps.hall;
  const after = structuredClone(before);
  const [a, b] = Object.keys(after.objects);
  after.objects[a].position = [1, 2, 3];
  after.objects[b].name = 'other_name';
  after.objects.n1 = { ...structuredClone(after.objects[a]), name: 'lamp_new' };
  const solids = Object.keys(after.solids);
  for (const id of solids) delete after.solids[id];
  after.settings.skyIntensity = 9;
  const { words, touched } = mapDifference(before, after);
  expect(words).toEqual([
    `${solids.length} solids removed: ${solids.slice(0, 4).join(', ')}${solids.length > 4 ? ' …' : ''}`,
    `1 object moved: ${before.objects[a].name}`,
    '1 object renamed: other_name',
    '1 object added: lamp_new',
    'settings of the map changed',
  ]);
  expect(touched).toEqual({ objects: [a, b, 'n1'] });
  expect(mapDifference(before, structuredClone(before)).words).toEqual([]);
});
