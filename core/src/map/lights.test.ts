import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { sealingInputs } from '../stages/inputs.ts';
import { intensityForReach, mapLights, mapSuns, readableReach } from './lights.ts';
import { profile, hall, blank, withChanges, object } from '../testing/maps.ts';
import { testWorld } from '../testing/world.ts';

describe('lights', () => {
  it('the ring that is drawn is where the inverse square law falls to the readable level', () => {
    const metres = profile.unit.metres;
    fc.assert(
      fc.property(fc.double({ min: 1, max: 500, noNaN: true }), (candela) => {
        const distance = readableReach(candela, 0, metres);
        expect(candela / (distance * metres) ** 2 / Math.PI).toBeCloseTo(0.02, 6);
        expect(intensityForReach(distance, metres)).toBeCloseTo(candela, 6);
        expect(readableReach(candela, 100, metres)).toBeLessThanOrEqual(100);
      }),
    );
  });

  it('spots and suns are handed to the build as they are placed', () => {
    const map = withChanges(
      blank(),
      object('o1', 'spot', 'spot', [0, 0, 64], { tilt: -90, cone: 60, soft: 0 }),
      object('o2', 'sun', 'sun', [0, 0, 0], { height: 90 }),
    );
    const [spot] = mapLights(profile, map);
    expect(spot.cone!.direction).toEqual([0, 0, -1]);
    expect(spot.cone!.outer).toBeCloseTo(Math.cos(Math.PI / 6), 9);
    expect(mapSuns(profile, map)[0].towards).toEqual([0, 0, 1]);
  });
});

describe('a sun', () => {
  it('that is marked outside opens no leak', () => {
    const map = withChanges(hall(), object('o20', 'sun', 'sun', [5000, 0, 900]), object('o21', 'lamp', 'lost', [5000, 0, 900]));
    const { sources } = sealingInputs({ ...testWorld(), crate: { ...testWorld().crate, maps: { hall: map } } }, map);
    expect(sources.map((s) => s.id)).toEqual(['o1', 'o2', 'o21']);
  });
});
