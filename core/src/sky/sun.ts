/**
 * Where the sun stands: its apparent place by J. Meeus, Astronomical Algorithms, 2nd edition, chapter 25 ("low accuracy", a hundredth of a
 * degree), over the horizon by chapters 12 and 13. Without refraction, which lifts it by 0.6° at the horizon and by 0.02° half way up.
 */

const RADIANS = Math.PI / 180;
const sin = (degrees: number) => Math.sin(degrees * RADIANS);
const cos = (degrees: number) => Math.cos(degrees * RADIANS);
const turned = (degrees: number) => ((degrees % 360) + 360) % 360;

/** Days since noon of 1 January 2000, universal time. */
const daysOf = (time: number): number => time / 86_400_000 + 2_440_587.5 - 2_451_545;

/** Right ascension and declination in degrees. @param time milliseconds since 1970; dynamical time, which is a minute ahead of universal time: 0.0007° here */
export function sunPlace(time: number): { ascension: number; declination: number } {
  const t = daysOf(time) / 36525;
  const anomaly = 357.52911 + t * (35999.05029 - 0.0001537 * t);
  const centre =
    (1.914602 - t * (0.004817 + 0.000014 * t)) * sin(anomaly) + (0.019993 - 0.000101 * t) * sin(2 * anomaly) + 0.000289 * sin(3 * anomaly);
  const node = 125.04 - 1934.136 * t;
  const longitude = 280.46646 + t * (36000.76983 + 0.0003032 * t) + centre - 0.00569 - 0.00478 * sin(node);
  const tilt = 23.4392911 - t * (0.0130042 + t * (1.64e-7 - 5.04e-7 * t)) + 0.00256 * cos(node);
  return {
    ascension: turned(Math.atan2(cos(tilt) * sin(longitude), cos(longitude)) / RADIANS),
    declination: Math.asin(sin(tilt) * sin(longitude)) / RADIANS,
  };
}

/** Where a place of the sky stands over the horizon: degrees over it, and clockwise from north. Chapter 13, with the sidereal time of 12. */
export function horizontal(
  time: number,
  { ascension, declination }: { ascension: number; declination: number },
  latitude: number,
  longitude: number,
): { height: number; azimuth: number } {
  const sidereal = 280.46061837 + 360.98564736629 * daysOf(time);
  const hour = sidereal + longitude - ascension;
  const height = Math.asin(sin(latitude) * sin(declination) + cos(latitude) * cos(declination) * cos(hour)) / RADIANS;
  const south = Math.atan2(sin(hour), cos(hour) * sin(latitude) - (sin(declination) / cos(declination)) * cos(latitude)) / RADIANS;
  return { height, azimuth: turned(south + 180) };
}

/**
 * @param time milliseconds since 1970, universal time
 * @param latitude degrees, north positive
 * @param longitude degrees, east positive
 * @returns degrees over the horizon, and clockwise from north
 */
export const sunOver = (time: number, latitude: number, longitude: number): { height: number; azimuth: number } =>
  horizontal(time, sunPlace(time), latitude, longitude);

/** Midnight of a day that is written YYYY-MM-DD; null where there is no such day. */
export function dayOf(text: string): number | null {
  const [, year, month, day] = (/^(\d{4})-(\d{2})-(\d{2})$/.exec(text.trim()) ?? []).map(Number);
  const time = Date.UTC(year, month - 1, day);
  const made = new Date(time);
  return made.getUTCFullYear() === year && made.getUTCMonth() === month - 1 && made.getUTCDate() === day ? time : null;
}
