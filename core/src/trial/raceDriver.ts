/**
 * A driver that follows the route by itself: pure pursuit of a point ahead on its line (R. C. Coulter, "Implementation of the pure
 * pursuit path tracking algorithm", CMU-RI-TR-92-01), no faster than the bends ahead allow. It knows nothing that a player does not see.
 */

import { smoothLine } from '../math/smoothLine.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { Route } from '../document/schema.ts';
import { onLine } from './race.ts';
import { STILL, type Intent } from './move.ts';
import type { Vehicle } from './vehicles.ts';
import type { TrialWorld } from './world.ts';

/** How far ahead it looks: seconds of its speed, and least metres. */
const AHEAD = 0.7;
const LEAST = 7;

/** Sideways acceleration that it dares, metres per second squared; and how it slows down, at most. */
const DARES = 7;
const SLOWS = 3.5;

/** Metres of line that it looks at for bends, and of how many the radius is taken. */
const SEES = 90;
const BEND = 12;

/** Seconds without getting on after which it asks to be put back. */
const STUCK = 6;

/** Fastest that it goes, metres per second. */
const FASTEST = 26;

export class RaceDriver {
  private readonly line: Vec3[];
  private readonly lengths: number[] = [0];
  private along = 0;
  private bestAlong = 0;
  private bestAt = 0;
  private asking = 0;

  /**
   * @param metres of a unit
   * @param ridden what it rides now
   * @param nerve what the speed that it dares in bends is multiplied by
   */
  constructor(
    private readonly world: { readonly time: number },
    route: Pick<Route, 'points'>,
    metres: number,
    private readonly ridden: () => Vehicle | undefined,
    private readonly nerve = 1,
  ) {
    // Metres from here on.
    this.line = smoothLine(route.points, false, 2 / metres).map((p) => p.map((v) => v * metres) as Vec3);
    for (let n = 1; n < this.line.length; n++) {
      const [a, b] = [this.line[n - 1], this.line[n]];
      this.lengths.push(this.lengths[n - 1] + Math.hypot(b[0] - a[0], b[1] - a[1]));
    }
  }

  /** One that rides in the first player's place. */
  static ofPlayer(world: TrialWorld, nerve?: number): RaceDriver {
    const ridden = () => world.vehicles.get(world.players.first.riding ?? '');
    return new RaceDriver(world, world.race!.route, world.profile.unit.metres, ridden, nerve);
  }

  private pointAt(along: number): Vec3 {
    const wanted = Math.min(this.lengths.at(-1)!, Math.max(0, along));
    let [low, high] = [0, this.lengths.length - 1];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (this.lengths[middle] <= wanted) low = middle;
      else high = middle;
    }
    const t = (wanted - this.lengths[low]) / (this.lengths[high] - this.lengths[low] || 1);
    const [a, b] = [this.line[low], this.line[high]];
    return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t];
  }

  /** Radius of the bend about a place, metres: of the circle through three points of the line. */
  private radiusAt(along: number): number {
    const [a, b, c] = [along - BEND / 2, along, along + BEND / 2].map((at) => this.pointAt(at));
    const [ab, bc, ca] = [Math.hypot(b[0] - a[0], b[1] - a[1]), Math.hypot(c[0] - b[0], c[1] - b[1]), Math.hypot(a[0] - c[0], a[1] - c[1])];
    const area = Math.abs((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])) / 2;
    return area < 1e-6 ? Infinity : (ab * bc * ca) / (4 * area);
  }

  /** What it does in this step. */
  tick(): Intent {
    const { world } = this;
    const vehicle = this.ridden();
    if (!vehicle || vehicle.down !== null) return STILL;
    const { at, velocity, heading, onGround } = vehicle.state;
    const speed = Math.hypot(velocity[0], velocity[1]);
    this.along = this.nearest(at);
    if (this.along > this.bestAlong + 1 || this.along < this.bestAlong - 30) {
      this.bestAlong = this.along;
      this.bestAt = world.time;
    }
    // Stuck, or thrown back: held for as long as it takes to be put back.
    if (world.time - this.bestAt > STUCK) {
      this.bestAt = world.time;
      this.asking = 1;
    }
    if (this.asking > 0) {
      this.asking -= 1 / 60;
      return { ...STILL, crouch: true };
    }
    const target = this.pointAt(this.along + Math.max(LEAST, speed * AHEAD));
    const [dx, dy] = [target[0] - at[0], target[1] - at[1]];
    const off = Math.atan2(Math.sin(Math.atan2(dy, dx) - heading), Math.cos(Math.atan2(dy, dx) - heading));
    // Curvature of the circle that leads to the target (pure pursuit): 2 sin(off) / distance.
    const turn = ((2 * Math.sin(off)) / Math.max(1, Math.hypot(dx, dy))) * Math.max(speed, 2);
    const steer = Math.max(-1, Math.min(1, Math.abs(off) > 1 ? Math.sign(off) : turn / vehicle.facts.steer));
    let most = FASTEST * Math.max(1, this.nerve);
    for (let ahead = 0; ahead <= SEES; ahead += 6) {
      const bend = this.nerve * Math.sqrt(DARES * this.radiusAt(this.along + ahead));
      most = Math.min(most, Math.sqrt(bend * bend + 2 * SLOWS * ahead));
    }
    const brake = onGround && speed > most + 0.5 ? Math.min(1, (speed - most) / 4) : 0;
    const sheet = brake > 0 ? 0 : Math.min(1, Math.max(0, (most - speed) / 3));
    const forward = brake > 0 ? -brake : sheet;
    const [c, s] = [Math.cos(heading), Math.sin(heading)];
    return { ...STILL, move: [forward * c - steer * s, forward * s + steer * c, 0] };
  }

  /** Where on the line it is, at or after where it was, unless it was put back. */
  private nearest(at: Vec3): number {
    // A line that comes near itself: the nearest place within what can have been covered.
    let best = this.along;
    let nearest = Infinity;
    for (let d = -40; d <= 60; d += 1) {
      const p = this.pointAt(this.along + d);
      const away = Math.hypot(p[0] - at[0], p[1] - at[1]);
      if (away < nearest) [best, nearest] = [Math.max(0, this.along + d), away];
    }
    return nearest < 45 ? best : onLine(this.line, at).along;
  }
}
