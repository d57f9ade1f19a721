import { describe, expect, it } from '@jest/globals';
import { PointLight, SpotLight } from 'three';
import { made, profile } from '@violet-crate/core/testing/maps';
import { changedLamps, LiveLamps } from './liveLamps.ts';

const lamp = (at: [number, number, number], properties = {}) =>
  made('lamp', 'lamp', at, { colour: '#ffffff', intensity: 20, reach: 100, lit: true, ...properties });

describe('lamps since the build', () => {
  it('are those that were put, moved or changed, as long as they are lit', () => {
    const [stays, moved] = [lamp([0, 0, 50]), lamp([40, 0, 50])];
    const built = { stays, moved, gone: lamp([80, 0, 50]) };
    const now = {
      stays,
      moved: lamp([44, 0, 50]),
      added: lamp([9, 9, 50]),
      dark: lamp([9, 9, 90], { lit: false }),
      renamed: { ...stays, name: 'x' },
    };
    expect(changedLamps(profile, { ...built, renamed: stays }, now).lamps.map(({ id }) => id)).toEqual(['moved', 'added']);
    const many = Object.fromEntries(Array.from({ length: 11 }, (_, i) => [`l${i}`, lamp([i, 0, 50])]));
    expect(changedLamps(profile, {}, many)).toMatchObject({ lamps: { length: 8 }, missing: 3 });
  });

  it('are lights of the picture in its metres, with their cone, and go with what is taken back', () => {
    const lamps = new LiveLamps(profile, {});
    lamps.follow({ a: lamp([0, 0, 0]), b: made('spot', 'spot', [0, 0, 100], { intensity: 9, cone: 60, lit: true }) });
    const [point, spot] = lamps.group.children;
    expect(point).toBeInstanceOf(PointLight);
    expect((point as PointLight).distance).toBeCloseTo(100 * profile.unit.metres, 6);
    expect((point as PointLight).intensity).toBe(20);
    expect(spot).toBeInstanceOf(SpotLight);
    expect((spot as SpotLight).target.position.y).toBeLessThan(spot.position.y);
    lamps.follow({});
    expect(lamps.group.children).toEqual([]);
  });
});
