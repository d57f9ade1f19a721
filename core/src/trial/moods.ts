/** In which of its moods a map is in a run, and how it goes over from one to another. */

import type { MapSettings, Mood } from '../document/schema.ts';
import { blendMoods } from '../mood/blend.ts';

export class Moods {
  private from: Mood | null;
  private to: Mood | null;
  private seconds = 0;
  private passed = 0;

  constructor(private readonly settings: MapSettings) {
    this.from = this.to = settings.moods?.[0] ?? null;
  }

  /** As it is now; null where the map has no moods. */
  get now(): Mood | null {
    return this.from && this.to && blendMoods(this.from, this.to, this.share);
  }

  get weather(): Pick<NonNullable<MapSettings['weather']>, 'wind' | 'windFrom' | 'gusts'> | undefined {
    return this.now ?? this.settings.weather;
  }

  private get share(): number {
    return this.seconds > 0 ? Math.min(1, this.passed / this.seconds) : 1;
  }

  /** Goes over into a mood from what it is now, also where it was on its way to another. Answers whether there is one of that name. */
  change(name: string, seconds: number): boolean {
    const wanted = this.settings.moods?.find((one) => one.name === name);
    if (!wanted) return false;
    this.from = this.now;
    this.to = wanted;
    this.seconds = seconds;
    this.passed = 0;
    return true;
  }

  step(seconds: number): void {
    if (this.passed < this.seconds) this.passed += seconds;
  }
}
