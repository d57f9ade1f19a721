/**
 * Where the moon stands: J. Meeus, Astronomical Algorithms, 2nd edition, chapter 47, with the largest of its terms, to about a tenth of a
 * degree; seen from the middle of the earth, which is up to a degree beside where it is seen from the ground. The terms are from memory and
 * checked against the book's example.
 */

import { horizontal } from './sun.ts';

const RADIANS = Math.PI / 180;
const sin = (degrees: number) => Math.sin(degrees * RADIANS);
const cos = (degrees: number) => Math.cos(degrees * RADIANS);
const turned = (degrees: number) => ((degrees % 360) + 360) % 360;

/** Degrees times 10⁶ of the sine of D, M, M′, F taken so often each: longitude, then latitude. */
const LONGITUDE: readonly (readonly [number, number, number, number, number])[] = [
  [0, 0, 1, 0, 6288774],
  [2, 0, -1, 0, 1274027],
  [2, 0, 0, 0, 658314],
  [0, 0, 2, 0, 213618],
  [0, 1, 0, 0, -185116],
  [0, 0, 0, 2, -114332],
  [2, 0, -2, 0, 58793],
  [2, -1, -1, 0, 57066],
  [2, 0, 1, 0, 53322],
  [2, -1, 0, 0, 45758],
  [0, 1, -1, 0, -40923],
  [1, 0, 0, 0, -34720],
  [0, 1, 1, 0, -30383],
  [2, 0, 0, -2, 15327],
  [0, 0, 1, 2, -12528],
  [0, 0, 1, -2, 10980],
  [4, 0, -1, 0, 10675],
  [0, 0, 3, 0, 10034],
];
const LATITUDE: readonly (readonly [number, number, number, number, number])[] = [
  [0, 0, 0, 1, 5128122],
  [0, 0, 1, 1, 280602],
  [0, 0, 1, -1, 277693],
  [2, 0, 0, -1, 173237],
  [2, 0, -1, 1, 55413],
  [2, 0, -1, -1, 46271],
  [2, 0, 0, 1, 32573],
  [0, 0, 2, 1, 17198],
  [2, 0, 1, -1, 9266],
  [0, 0, 2, -1, 8822],
];

/** Ecliptic longitude and latitude in degrees, and the share of its disc that is lit. @param time milliseconds since 1970, dynamical time */
export function moonPlace(time: number): { longitude: number; latitude: number; lit: number } {
  const t = (time / 86_400_000 + 2_440_587.5 - 2_451_545) / 36525;
  const d = 297.8501921 + t * (445267.1114034 - 0.0018819 * t);
  const m = 357.5291092 + t * (35999.0502909 - 0.0001536 * t);
  const anomaly = 134.9633964 + t * (477198.8675055 + 0.0087414 * t);
  const f = 93.272095 + t * (483202.0175233 - 0.0036539 * t);
  // Terms with the sun's anomaly shrink with the ellipse of the earth's way.
  const e = 1 - 0.002516 * t;
  const sum = (terms: typeof LONGITUDE) =>
    terms.reduce((all, [a, b, c, g, size]) => all + size * e ** Math.abs(b) * sin(a * d + b * m + c * anomaly + g * f), 0) / 1e6;
  const longitude = turned(218.3164477 + t * (481267.88123421 - 0.0015786 * t) + sum(LONGITUDE));
  const latitude = sum(LATITUDE);
  // Elongation by the mean sun and its largest term is enough for the lit share: chapter 48.
  const sun = turned(280.46646 + 36000.76983 * t + 1.914602 * sin(m));
  const apart = Math.acos(cos(latitude) * cos(longitude - sun)) / RADIANS;
  return { longitude, latitude, lit: (1 - cos(apart)) / 2 };
}

/** Degrees over the horizon, clockwise from north, and the lit share. @param latitude, east of the place, in degrees */
export function moonOver(time: number, latitude: number, east: number): { height: number; azimuth: number; lit: number } {
  const { longitude, latitude: beta, lit } = moonPlace(time);
  const tilt = 23.4392911;
  const ascension = Math.atan2(sin(longitude) * cos(tilt) - (sin(beta) / cos(beta)) * sin(tilt), cos(longitude)) / RADIANS;
  const declination = Math.asin(sin(beta) * cos(tilt) + cos(beta) * sin(tilt) * sin(longitude)) / RADIANS;
  return { ...horizontal(time, { ascension, declination }, latitude, east), lit };
}
