/** The light of a mood: sun and moon by place, day and hour, dimmed and reddened by the air that they shine through. */

import type { GameMap, MapSettings, Mood } from '../document/schema.ts';
import type { SunLight } from '../part/lightSource.ts';
import { bearing } from '../part/lightSource.ts';
import { hexOfLinear, linearOfHex } from '../math/srgb.ts';
import { hasPart } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import { moonOver } from '../sky/moon.ts';
import { dayOf, sunOver } from '../sky/sun.ts';

/** Where and when a map is that says nothing of it. */
export const PLACE = { latitude: 52, day: '2024-06-21' };

/** Optical depths of clean air straight up, for red, green, blue; from memory: Rayleigh's law with a little haze. */
const DEPTHS = [0.1, 0.17, 0.32];
/** How wide both discs are, radians: half a degree. */
const DISC = (0.53 * Math.PI) / 180;
/** Degrees below the horizon at which the last of twilight is gone: civil twilight, common practice. */
const TWILIGHT = 6;

/**
 * How much air light goes through, straight up being 1: F. Kasten and A. T. Young, "Revised optical air mass tables and approximation formula",
 * Applied Optics 28 (1989), 4735. @param height degrees over the horizon
 */
export const airMass = (height: number): number =>
  1 / (Math.sin((Math.max(0, height) * Math.PI) / 180) + 0.50572 * (Math.max(0, height) + 6.07995) ** -1.6364);

export interface MoodLight {
  sun: SunLight | null;
  moon: SunLight | null;
  /** Degrees over the horizon. */
  sunHeight: number;
  /** Share of daylight in the sky: 1 by day, falling through twilight to 0. */
  day: number;
}

function through(height: number, intensity: number, clouds: number): Pick<SunLight, 'colour' | 'intensity'> {
  const mass = airMass(height);
  const left = DEPTHS.map((depth) => Math.exp(-depth * mass));
  const most = Math.max(...left);
  // Clouds take most of what comes straight, and give some of it back from everywhere.
  return { colour: left.map((value) => value / most) as SunLight['colour'], intensity: intensity * most * (1 - 0.92 * clouds) };
}

const towards = ({ height, azimuth }: { height: number; azimuth: number }) => bearing((450 - azimuth) % 360, height);

export function lightOfMood({ hour, sunIntensity, moonIntensity, clouds }: Mood, place: MapSettings['place'] = PLACE): MoodLight {
  const time = (dayOf(place.day) ?? dayOf(PLACE.day)!) + hour * 3_600_000;
  const sun = sunOver(time, place.latitude, 0);
  const moon = moonOver(time, place.latitude, 0);
  const shines = (height: number, intensity: number) => height > 0 && intensity > 0;
  return {
    sun: shines(sun.height, sunIntensity) ? { towards: towards(sun), size: DISC, ...through(sun.height, sunIntensity, clouds) } : null,
    moon:
      shines(moon.height, moonIntensity) && moon.lit > 0.02
        ? { towards: towards(moon), size: DISC, ...through(moon.height, moonIntensity * moon.lit, clouds) }
        : null,
    sunHeight: sun.height,
    day: Math.min(1, Math.max(0, (sun.height + TWILIGHT) / (TWILIGHT * 2))),
  };
}

/** Of the whole sky: the mean of above and horizon, with the share of daylight that is left. */
export function skyLightOf(mood: Mood, { day }: Pick<MoodLight, 'day'>): { colour: string; intensity: number } {
  const [above, beside] = [linearOfHex(mood.skyColour), linearOfHex(mood.horizonColour)];
  return { colour: hexOfLinear(above.map((value, k) => (value * 2 + beside[k]) / 3)), intensity: mood.skyIntensity * (0.02 + 0.98 * day) };
}

/** The weather of a mood, as maps without moods have one. */
export const weatherOfMood = ({ windFrom, wind, gusts, fogColour, fog, falling }: Mood): NonNullable<MapSettings['weather']> => ({
  windFrom,
  wind,
  gusts,
  fogColour,
  fog,
  falling,
});

/**
 * A map as one of its moods has it: sky and weather of the mood, and its suns where that mood's sun is, or its moon where there is no sun.
 * The same map where it has no moods. Suns of the map that a mood has no use for give no light.
 */
export function inMood(profile: Profile, map: GameMap, index: number): GameMap {
  const moods = map.settings.moods ?? [];
  if (moods.length === 0) return map;
  const mood = moods[Math.min(moods.length - 1, Math.max(0, index))];
  const light = lightOfMood(mood, map.settings.place);
  const sky = skyLightOf(mood, light);
  const shines = light.sun ?? light.moon;
  const objects = { ...map.objects };
  let used = false;
  for (const [id, object] of Object.entries(map.objects)) {
    if (!hasPart(profile, object.class, 'sun')) continue;
    const { towards: to, colour, intensity, size } = shines ?? { towards: [0, 0, 1], colour: [1, 1, 1], intensity: 0, size: DISC };
    objects[id] = {
      ...object,
      turn: (Math.atan2(to[1], to[0]) * 180) / Math.PI,
      properties: {
        ...object.properties,
        height: (Math.asin(Math.min(1, Math.max(-1, to[2]))) * 180) / Math.PI,
        colour: hexOfLinear(colour),
        intensity: used ? 0 : intensity,
        size: (size * 180) / Math.PI,
      },
    };
    used = true;
  }
  const { skyMaterial: _picture, ...settings } = map.settings;
  return { ...map, objects, settings: { ...settings, skyColour: sky.colour, skyIntensity: sky.intensity, weather: weatherOfMood(mood) } };
}
