/** The wind of a run: what the map's weather says, or what a trial of many winds sets in its place. It repeats to the bit. */

import type { MapSettings } from '../document/schema.ts';
import { chance } from '../math/chance.ts';
import type { Vec3 } from '../math/vec3.ts';

export interface WindSetting {
  /** Chance of the gusts. */
  seed: number;
  /** Degrees by which it comes from elsewhere, and what its speed is multiplied by. */
  veer: number;
  factor: number;
}

const PLAIN: WindSetting = { seed: 1, veer: 0, factor: 1 };

/** Waves of a gust, and their shortest and longest length in seconds. */
const WAVES = 5;
const SHORT = 3;
const LONG = 19;

export class Wind {
  private readonly waves: { length: number; phase: number }[];

  constructor(
    /** As it is at the moment: moods change it. */
    private readonly weather: () => Pick<NonNullable<MapSettings['weather']>, 'wind' | 'windFrom' | 'gusts'> | undefined,
    private readonly setting: WindSetting = PLAIN,
  ) {
    const random = chance(setting.seed);
    this.waves = Array.from({ length: WAVES }, () => ({ length: SHORT + (LONG - SHORT) * random(), phase: random() * 2 * Math.PI }));
  }

  /** Where the air goes at a time in seconds, units per second. */
  at(time: number): Vec3 {
    const weather = this.weather();
    if (!weather || weather.wind === 0) return [0, 0, 0];
    const { wind, windFrom, gusts } = weather;
    let wave = 0;
    for (const { length, phase } of this.waves) wave += Math.sin((time / length) * 2 * Math.PI + phase) / WAVES;
    const speed = wind * this.setting.factor * (1 + gusts * wave);
    const to = ((windFrom + this.setting.veer + 180) * Math.PI) / 180;
    return [Math.cos(to) * speed, Math.sin(to) * speed, 0];
  }
}
