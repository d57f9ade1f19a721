/** What of an effect's particles is drawn: as columns for the GPU, in the frame of the emitter. */

import { curveTable, gradientTable, STEPS } from './curve.ts';
import type { Emitter } from './document.ts';
import type { Pool } from './pool.ts';
import { LANE, roll, rollIn } from './roll.ts';

/**
 * | column | of particle i                                                      |
 * | ------ | ------------------------------------------------------------------ |
 * | place  | x, y, z in units                                                   |
 * | speed  | x, y, z in units a second                                          |
 * | shape  | width in units, turn in degrees, number of the picture in its sheet |
 * | colour | linear red, green, blue, alpha, not multiplied in                  |
 */
export interface ParticleColumns {
  place: Float32Array;
  speed: Float32Array;
  shape: Float32Array;
  colour: Float32Array;
}

export const columnsFor = (most: number): ParticleColumns => ({
  place: new Float32Array(most * 3),
  speed: new Float32Array(most * 3),
  shape: new Float32Array(most * 3),
  colour: new Float32Array(most * 4),
});

/** How one emitter's particles look by their age; made once. */
export class EmitterLook {
  private readonly sizes: Float64Array;
  private readonly colours: Float32Array;

  constructor(private readonly of: Emitter) {
    this.sizes = curveTable(of.size.over);
    this.colours = gradientTable(of.colour);
  }

  /** Width of a particle, in units. */
  sizeOf(seed: number, birth: number, share: number): number {
    return rollIn(this.of.size.from, seed, birth, LANE.size) * this.sizes[Math.min(STEPS, Math.floor(share * STEPS))];
  }

  alphaOf(share: number): number {
    return this.colours[Math.min(STEPS, Math.floor(share * STEPS)) * 4 + 3];
  }

  /** Fills the columns with all that live. Answers how many. */
  fill(pool: Pool, seed: number, out: ParticleColumns): number {
    const { turn, draw } = this.of;
    const pictures = draw.as === 'sprite' ? draw.columns * draw.rows : 1;
    const rate = draw.as === 'sprite' ? draw.rate : 0;
    const { sizes, colours } = this;
    const [least, most] = this.of.size.from;
    const turns = turn.start[0] !== turn.start[1] || turn.rate[0] !== turn.rate[1] || turn.start[0] !== 0 || turn.rate[0] !== 0;
    for (let i = 0; i < pool.count; i++) {
      const birth = pool.birth[i];
      const age = pool.age[i];
      const share = Math.min(1, age / pool.life[i]);
      const step = Math.min(STEPS, Math.floor(share * STEPS));
      const three = i * 3;
      out.place[three] = pool.x[i];
      out.place[three + 1] = pool.y[i];
      out.place[three + 2] = pool.z[i];
      out.speed[three] = pool.vx[i];
      out.speed[three + 1] = pool.vy[i];
      out.speed[three + 2] = pool.vz[i];
      out.shape[three] = (least + (most - least) * roll(seed, birth, LANE.size)) * sizes[step];
      out.shape[three + 1] = !turns ? 0 : rollIn(turn.start, seed, birth, LANE.turn) + rollIn(turn.rate, seed, birth, LANE.turnRate) * age;
      out.shape[three + 2] =
        pictures === 1
          ? 0
          : rate > 0
            ? Math.floor(age * rate + roll(seed, birth, LANE.frame) * pictures) % pictures
            : Math.min(pictures - 1, Math.floor(share * pictures));
      const four = i * 4;
      const from = step * 4;
      out.colour[four] = colours[from];
      out.colour[four + 1] = colours[from + 1];
      out.colour[four + 2] = colours[from + 2];
      out.colour[four + 3] = colours[from + 3];
    }
    return pool.count;
  }
}
