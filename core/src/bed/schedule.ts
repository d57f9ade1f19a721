/** When sounds of a bed are heard now and then: the same for the same seed, whatever the time between two looks is. */

import type { Bed, Mood } from '../document/schema.ts';
import { lightOfMood, type PLACE } from '../mood/light.ts';
import { roll } from '../effect/roll.ts';

/** What the time of day and the weather let one hear. A map without moods has a dry day. */
export function isHeard({ when, weather }: Pick<Bed['loops'][number], 'when' | 'weather'>, mood: Mood | null, place?: typeof PLACE): boolean {
  const day = !mood || lightOfMood(mood, place).day > 0.5;
  if (when !== 'always' && (when === 'day') !== day) return false;
  const falling = mood && mood.heavy > 0 ? mood.falling : 'none';
  return weather === 'any' || weather === (falling === 'none' ? 'dry' : falling);
}

/** One kind of shot of one area. */
export class ShotClock {
  private next: number;
  private count = 0;

  constructor(
    private readonly every: readonly [number, number],
    private readonly seed: number,
    begin = 0,
  ) {
    this.next = begin + this.gap();
  }

  private gap(): number {
    const [least, most] = this.every;
    return least + (Math.max(least, most) - least) * roll(this.seed, this.count++, 1);
  }

  /** Numbers of the shots that are due until a time. After a long pause only the last of them is. */
  due(time: number): number[] {
    const shots: number[] = [];
    while (this.next <= time) {
      shots.push(this.count);
      this.next += this.gap();
    }
    return shots.slice(-1);
  }
}
