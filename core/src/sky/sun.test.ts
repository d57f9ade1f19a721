import { describe, expect, test } from '@jest/globals';
import { dayOf, sunOver, sunPlace } from './sun.ts';

describe('the sun', () => {
  // Meeus, Astronomical Algorithms, 2nd edition, example 25.a: 1992 October 13.0 TD.
  test('stands among the stars where the almanac has it', () => {
    const { ascension, declination } = sunPlace(Date.UTC(1992, 9, 13));
    expect(ascension).toBeCloseTo(198.38083, 3);
    expect(declination).toBeCloseTo(-7.78507, 3);
  });

  // I. Reda and A. Andreas, Solar Position Algorithm for Solar Radiation Applications, NREL/TP-560-34302 (2008), worked example: zenith
  // 50.11162° with refraction (0.0163° at that height), azimuth 194.34024°. From memory.
  test('stands over Golden, Colorado, as in the worked example of NREL', () => {
    const { height, azimuth } = sunOver(Date.UTC(2003, 9, 17, 19, 30, 30), 39.742476, -105.1786);
    expect(height).toBeCloseTo(90 - 50.11162 - 0.0163, 1);
    expect(Math.abs(height - (90 - 50.11162 - 0.0163))).toBeLessThan(0.02);
    expect(Math.abs(azimuth - 194.34024)).toBeLessThan(0.02);
  });

  test.each([
    // Overhead at noon of an equinox on the equator, and of the June solstice on the tropic; on the horizon at the poles.
    ['2024-03-20', 12, 0, 90, 2],
    ['2024-06-20', 12, 23.44, 90, 0.5],
    ['2024-03-20', 12, 90, 0, 0.4],
    // A day of the polar night and of the midnight sun: 90° − 66.56° + 23.44° is lost or won against the equinox.
    ['2024-12-21', 12, 80, -13.44, 0.3],
    ['2024-06-20', 0, 80, 13.44, 0.3],
  ] as const)('on %s at %d h stands at latitude %d° at a height of %d°', (day, hour, latitude, wanted, within) => {
    expect(Math.abs(sunOver(dayOf(day)! + hour * 3_600_000, latitude, 0).height - wanted)).toBeLessThan(within);
  });

  test('rises in the east and sets in the west; at noon it is south in the north and north in the south', () => {
    const at = (hour: number, latitude: number) => sunOver(dayOf('2024-03-20')! + hour * 3_600_000, latitude, 0).azimuth;
    expect(at(6.5, 45)).toBeGreaterThan(80);
    expect(at(6.5, 45)).toBeLessThan(110);
    expect(Math.abs(at(12.1, 45) - 180)).toBeLessThan(5);
    expect(Math.cos((at(12.1, -45) * Math.PI) / 180)).toBeGreaterThan(0.99);
    expect(Math.abs(at(17.5, 45) - 262)).toBeLessThan(10);
  });
});

test('days that are none are told apart', () => {
  expect(dayOf('2024-02-29')).toBe(Date.UTC(2024, 1, 29));
  for (const text of ['2023-02-29', '2024-13-01', 'soon', '', '24-1-1']) expect(dayOf(text)).toBeNull();
});
