/** Between two moods: light is mixed as light, angles and hours go the shorter way round. */

import type { Mood } from '../document/schema.ts';
import { hexOfLinear, linearOfHex } from '../math/srgb.ts';

const mix = (a: number, b: number, share: number): number => a + (b - a) * share;

/** The shorter way round a circle of a length. */
function round(a: number, b: number, share: number, length: number): number {
  const way = ((((b - a + length / 2) % length) + length) % length) - length / 2;
  return (((a + way * share) % length) + length) % length;
}

function colour(a: string, b: string, share: number): string {
  const [from, to] = [linearOfHex(a), linearOfHex(b)];
  return hexOfLinear(from.map((value, k) => mix(value, to[k], share)));
}

/**
 * @param share 0 is all of `a`, 1 all of `b`
 * Fog is mixed by its density, which is the inverse of its distance. What falls is that of whichever falls, as heavy as its share;
 * of rain and snow, the nearer mood's.
 */
export function blendMoods(a: Mood, b: Mood, share: number): Mood {
  if (share <= 0) return a;
  if (share >= 1) return b;
  const density = mix(a.fog > 0 ? 1 / a.fog : 0, b.fog > 0 ? 1 / b.fog : 0, share);
  const heavy = [a.falling === 'none' ? 0 : a.heavy * (1 - share), b.falling === 'none' ? 0 : b.heavy * share];
  const falling = heavy[0] === 0 && heavy[1] === 0 ? 'none' : heavy[1] >= heavy[0] ? b.falling : a.falling;
  return {
    name: share < 0.5 ? a.name : b.name,
    hour: round(a.hour, b.hour, share, 24),
    skyColour: colour(a.skyColour, b.skyColour, share),
    horizonColour: colour(a.horizonColour, b.horizonColour, share),
    skyIntensity: mix(a.skyIntensity, b.skyIntensity, share),
    clouds: mix(a.clouds, b.clouds, share),
    sunIntensity: mix(a.sunIntensity, b.sunIntensity, share),
    moonIntensity: mix(a.moonIntensity, b.moonIntensity, share),
    fogColour: colour(a.fogColour, b.fogColour, share),
    fog: density > 0 ? 1 / density : 0,
    fogHeight: a.fogHeight === 0 || b.fogHeight === 0 ? (share < 0.5 ? a.fogHeight : b.fogHeight) : mix(a.fogHeight, b.fogHeight, share),
    windFrom: round(a.windFrom, b.windFrom, share, 360),
    wind: mix(a.wind, b.wind, share),
    gusts: mix(a.gusts, b.gusts, share),
    falling,
    heavy: falling === 'none' ? 0 : falling === a.falling && falling === b.falling ? heavy[0] + heavy[1] : Math.max(...heavy),
    exposure: Math.exp(mix(Math.log(a.exposure), Math.log(b.exposure), share)),
  };
}
