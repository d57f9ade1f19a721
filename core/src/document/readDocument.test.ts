import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { readDocument } from './readDocument.ts';
import { testWorld } from '../testing/world.ts';
import { MapSchema } from './schema.ts';
import { readMap } from '../crate/readMap.ts';
import { serialiseMap } from './serialise.ts';
import { profile } from '../testing/maps.ts';
import { newObject } from '../profile/newObject.ts';

describe('map documents', () => {
  it('come back from text as they were, with any text in any property', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (text) => {
        const map = structuredClone(testWorld().crate.maps.hall);
        map.objects.o9 = { ...newObject(profile, 'sign', 'sign', [0, 0, 0]), properties: { text: `"${text}"\n\\` } };
        const back = readMap(serialiseMap(map), 'm');
        expect(back).toEqual(map);
        expect(serialiseMap(back)).toBe(serialiseMap(map));
      }),
    );
  });

  it('say where they cannot be read', () => {
    const text = serialiseMap(testWorld().crate.maps.hall);
    expect(() => readDocument(text.replace('"signals": {}', '"signals": {'), MapSchema, 'maps/hall.map.json')).toThrow(
      /maps\/hall.map.json is not valid JSON at line \d+/,
    );
    expect(() => readDocument(text.replace('"format": 1', '"format": "one"'), MapSchema, 'maps/hall.map.json')).toThrow(/\/format/);
  });
});
