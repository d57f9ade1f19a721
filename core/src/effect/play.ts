/**
 * An effect that plays: the same numbers, to the bit, in the preview, in the map, in the test run and without a screen.
 * A step is a sixtieth of a second. Within it forces are even, so that gravity, drag and wind are the exact way of a body
 * with linear drag: v∞ = u + a/k, v(t) = v∞ + (v − v∞) e^(−kt), x(t) = x + v∞ t + (v − v∞)(1 − e^(−kt))/k.
 */

import { sha256Hex } from '../hash.ts';
import { cosineOfTurns, decay, sineOfTurns } from '../math/exact.ts';
import type { Vec3 } from '../math/vec3.ts';
import { curl } from './curl.ts';
import { curveAt } from './curve.ts';
import type { Effect, Emitter } from './document.ts';
import { Pool } from './pool.ts';
import { LANE, mix, roll, rollIn } from './roll.ts';
import { sourceOf, type MeshOf, type Source } from './source.ts';

export const EFFECT_STEP = 1 / 60;
/** Steps between two looks of a particle at the turbulent air around it: eddies are larger than its way in that time. */
const LOOK_EVERY = 8;
/** Sounds told of in one step. */
const MOST_SOUNDS = 8;

/** What is around an effect. */
export interface Air {
  /** Units per second squared, downwards. */
  gravity: number;
  /** Units per second, in the map. */
  wind: Vec3;
  /** Height of what lies below a point of the map; null where nothing does. */
  below?(x: number, y: number, z: number): number | null;
}

/** Where an effect stands, in the map. */
export interface Stand {
  position: Vec3;
  /** Degrees about z. */
  turn: number;
  /** Share of particles that are born: what is far away needs fewer. */
  share?: number;
}

export interface EffectSound {
  sound: string;
  volume: number;
  /** In the map. */
  at: Vec3;
}

interface Playing {
  of: Emitter;
  pool: Pool;
  seed: number;
  source: Source;
  /** Births that are due, in parts of one. */
  owed: number;
  /** Index of the emitter of its children; -1 for none. */
  children: number;
  /** Cosine of half the cone, and two directions across it. */
  cone: { cosine: number; along: Vec3; side: Vec3; up: Vec3 };
}

/** A unit vector and two across it, by square roots alone. */
function coneOf({ direction, spread }: Emitter): Playing['cone'] {
  const length = Math.sqrt(direction[0] ** 2 + direction[1] ** 2 + direction[2] ** 2);
  const along: Vec3 = length > 0 ? [direction[0] / length, direction[1] / length, direction[2] / length] : [0, 0, 1];
  const [x, y, z] = along;
  const flat = Math.sqrt(x * x + y * y);
  const side: Vec3 = flat > 1e-9 ? [-y / flat, x / flat, 0] : [1, 0, 0];
  const up: Vec3 = [y * side[2] - z * side[1], z * side[0] - x * side[2], x * side[1] - y * side[0]];
  return { cosine: spread === 0 ? 1 : cosineOfTurns(spread / 360), along, side, up };
}

export class EffectPlay {
  /** Steps since it began, the warm-up included. */
  steps = 0;
  /** Whether it gives birth by itself. */
  running: boolean;
  /** Sounds of the last step. */
  sounds: EffectSound[] = [];
  private readonly playing: Playing[];
  /** Steps since its round began. */
  private round = 0;
  /** Bursts asked for since the last step. */
  private asked = 0;
  private last: Vec3 | null = null;
  private readonly place = new Float64Array(3);
  private readonly flow = new Float64Array(3);

  constructor(
    readonly effect: Effect,
    /** Of the one object: two lamps flicker each in its own way. */
    salt = 0,
    meshOf: MeshOf = () => null,
    running = true,
  ) {
    this.running = running;
    const indexOf = new Map(effect.emitters.map(({ name }, i) => [name, i]));
    this.playing = effect.emitters.map((of, i) => ({
      of,
      pool: new Pool(of.most, of.forces.turbulence !== undefined),
      seed: mix(effect.seed, salt, i + 1) | 0,
      source: sourceOf(of, meshOf),
      owed: 0,
      children: of.children ? (indexOf.get(of.children.emitter) ?? -1) : -1,
      cone: coneOf(of),
    }));
  }

  get pools(): readonly Pool[] {
    return this.playing.map(({ pool }) => pool);
  }

  get particles(): number {
    return this.playing.reduce((sum, { pool }) => sum + pool.count, 0);
  }

  /** What chance is asked with for what is drawn of an emitter. */
  seedOf(emitter: number): number {
    return this.playing[emitter].seed;
  }

  /** Begins a round anew. */
  start(): void {
    this.running = true;
    this.round = 0;
  }

  stop(): void {
    this.running = false;
  }

  /** All bursts of all emitters at once, with the next step; an emitter without any throws out what its rate gives in a tenth of a second. */
  burst(): void {
    this.asked++;
  }

  /** Lets the seconds pass that have passed when it is first seen. */
  warmUp(stand: Stand, air: Air): void {
    if (!this.running) return;
    for (let left = Math.round(this.effect.warmUp / EFFECT_STEP); left > 0; left--) this.step(stand, air);
  }

  step(stand: Stand, air: Air): void {
    this.sounds = [];
    const before = this.last ?? stand.position;
    this.last = [...stand.position];
    const moved = stand.position.map((v, k) => (v - before[k]) / EFFECT_STEP) as Vec3;
    const turn = stand.turn / 360;
    const turned: [number, number] = [cosineOfTurns(turn), sineOfTurns(turn)];
    // Children are born into the emitters after all have been moved, so that their first step is a whole one.
    const begotten: { emitter: number; count: number; at: Vec3; speed: Vec3 }[] = [];
    for (const one of this.playing) this.move(one, stand, turned, air, begotten);
    if (this.running) this.emit(stand, turned, moved);
    for (; this.asked > 0; this.asked--) for (const one of this.playing) this.bear(one, burstOf(one.of), stand, turned, moved);
    for (const { emitter, count, at, speed } of begotten) this.bearAt(this.playing[emitter], count, at, turned, speed);
    this.steps++;
    if (!this.running) return;
    this.round++;
    if (this.round * EFFECT_STEP < this.effect.seconds - EFFECT_STEP / 2) return;
    this.round = 0;
    if (!this.effect.loop) this.running = false;
  }

  private emit(stand: Stand, turned: [number, number], moved: Vec3): void {
    const { seconds } = this.effect;
    const time = this.round * EFFECT_STEP;
    const share = stand.share ?? 1;
    for (const one of this.playing) {
      one.owed += Math.max(0, curveAt(one.of.rate, time / seconds)) * EFFECT_STEP * share;
      for (const { at, count, times, every } of one.of.bursts)
        for (let n = Math.max(0, Math.floor((time - at) / every)); n < times && at + n * every < time + EFFECT_STEP; n++)
          if (at + n * every >= time) one.owed += count * share;
      const due = Math.floor(one.owed);
      one.owed -= due;
      if (due > 0) this.bear(one, due, stand, turned, moved);
    }
  }

  private bear(one: Playing, count: number, stand: Stand, [c, s]: [number, number], moved: Vec3): void {
    const { of, pool, seed, source } = one;
    const { place } = this;
    const inMap = of.frame === 'map';
    const inherit = inMap ? of.inherit : 0;
    for (let n = Math.min(count, pool.most - pool.count); n > 0; n--) {
      source(seed, pool.born, place);
      const [x, y, z] = place;
      if (inMap) {
        place[0] = stand.position[0] + c * x - s * y;
        place[1] = stand.position[1] + s * x + c * y;
        place[2] = stand.position[2] + z;
      }
      this.put(one, c, s, moved[0] * inherit, moved[1] * inherit, moved[2] * inherit);
      this.hear(of.sounds?.birth, of, pool.count - 1, pool, stand, c, s);
    }
  }

  /** Children, where a particle of another emitter is; both in the frame of the map, or both in the object's. */
  private bearAt(one: Playing, count: number, at: Vec3, [c, s]: [number, number], speed: Vec3): void {
    const { pool, seed, source } = one;
    const { place } = this;
    for (let n = Math.min(count, pool.most - pool.count); n > 0; n--) {
      source(seed, pool.born, place);
      for (let k = 0; k < 3; k++) place[k] += at[k];
      this.put(one, c, s, ...speed);
    }
  }

  /** Enters a particle at `place` with what chance gives it and a speed added. */
  private put({ of, pool, seed, cone }: Playing, c: number, s: number, mx: number, my: number, mz: number): void {
    const i = pool.count++;
    const birth = pool.born++;
    const cosine = 1 - roll(seed, birth, LANE.coneAngle) * (1 - cone.cosine);
    const sine = Math.sqrt(Math.max(0, 1 - cosine * cosine));
    const about = roll(seed, birth, LANE.coneTurn);
    const [p, q] = [sine * cosineOfTurns(about), sine * sineOfTurns(about)];
    const speed = rollIn(of.speed, seed, birth, LANE.speed);
    const { along, side, up } = cone;
    const x = (cosine * along[0] + p * side[0] + q * up[0]) * speed;
    const y = (cosine * along[1] + p * side[1] + q * up[1]) * speed;
    const z = (cosine * along[2] + p * side[2] + q * up[2]) * speed;
    const inMap = of.frame === 'map';
    pool.x[i] = this.place[0];
    pool.y[i] = this.place[1];
    pool.z[i] = this.place[2];
    pool.vx[i] = (inMap ? c * x - s * y : x) + mx;
    pool.vy[i] = (inMap ? s * x + c * y : y) + my;
    pool.vz[i] = z + mz;
    pool.age[i] = 0;
    pool.life[i] = rollIn(of.life, seed, birth, LANE.life);
    pool.birth[i] = birth;
  }

  private hear(sound: string | undefined, of: Emitter, i: number, pool: Pool, stand: Stand, c: number, s: number): void {
    if (!sound || this.sounds.length >= MOST_SOUNDS) return;
    const [x, y, z] = [pool.x[i], pool.y[i], pool.z[i]];
    const { position } = stand;
    const at: Vec3 = of.frame === 'map' ? [x, y, z] : [position[0] + c * x - s * y, position[1] + s * x + c * y, position[2] + z];
    this.sounds.push({ sound, volume: of.sounds!.volume, at });
  }

  /** Moves all particles of an emitter on, takes out those that die, and says which of them beget what. */
  private move(
    { of, pool, children }: Playing,
    stand: Stand,
    [c, s]: [number, number],
    air: Air,
    begotten: { emitter: number; count: number; at: Vec3; speed: Vec3 }[],
  ): void {
    const { x, y, z, vx, vy, vz, age, life, birth, flow: eddies } = pool;
    const dt = EFFECT_STEP;
    const { forces, ground, frame } = of;
    const inMap = frame === 'map';
    const { turbulence, vortex, attractor } = forces;
    const k = forces.drag;
    const kept = decay(k * dt);
    const way = k > 0 ? (1 - kept) / k : dt;
    // The wind, turned into the object's frame where the particles are in that.
    const [wx, wy, wz] = air.wind;
    const windX = forces.wind * (inMap ? wx : c * wx + s * wy);
    const windY = forces.wind * (inMap ? wy : c * wy - s * wx);
    const windZ = forces.wind * wz;
    const fall = -forces.gravity * air.gravity;
    const [ox, oy, oz] = inMap ? stand.position : [0, 0, 0];
    const pulled = vortex !== undefined || attractor !== undefined;
    const [tx, ty, tz] = attractor
      ? inMap
        ? [ox + c * attractor.at[0] - s * attractor.at[1], oy + s * attractor.at[0] + c * attractor.at[1], oz + attractor.at[2]]
        : attractor.at
      : [0, 0, 0];
    const drift = turbulence ? this.steps * dt * turbulence.pace : 0;
    const plane = oz + ground.height;
    const touches = ground.against !== 'none';
    const deep = ground.against === 'depth' && air.below;
    const begets = children >= 0 && of.children ? of.children : null;
    const deathSound = of.sounds?.death;
    const { flow } = this;
    let left = 0;
    // Where the forces are the same for all, so is what they come to.
    const even = !turbulence && !pulled;
    const evenX = k > 0 ? windX : 0;
    const evenY = k > 0 ? windY : 0;
    const evenZ = k > 0 ? windZ + fall / k : 0;
    const goneX = k > 0 ? evenX * (dt - way) : 0;
    const goneY = k > 0 ? evenY * (dt - way) : 0;
    const goneZ = k > 0 ? evenZ * (dt - way) : (fall * dt * dt) / 2;
    const moreX = evenX * (1 - kept);
    const moreY = evenY * (1 - kept);
    const moreZ = k > 0 ? evenZ * (1 - kept) : fall * dt;
    for (let i = 0; i < pool.count; i++) {
      const older = age[i] + dt;
      let dies = older >= life[i];
      let touched = false;
      let px = x[i];
      let py = y[i];
      let pz = z[i];
      let sx = vx[i];
      let sy = vy[i];
      let sz = vz[i];
      if (even) {
        px += sx * way + goneX;
        py += sy * way + goneY;
        pz += sz * way + goneZ;
        sx = sx * kept + moreX;
        sy = sy * kept + moreY;
        sz = sz * kept + moreZ;
      } else {
        let ax = 0;
        let ay = 0;
        let az = fall;
        let ux = windX;
        let uy = windY;
        let uz = windZ;
        if (turbulence) {
          if (age[i] === 0 || (birth[i] + this.steps) % LOOK_EVERY === 0) {
            curl(px / turbulence.size, py / turbulence.size, pz / turbulence.size - drift, flow);
            eddies[i * 3] = flow[0] * turbulence.speed;
            eddies[i * 3 + 1] = flow[1] * turbulence.speed;
            eddies[i * 3 + 2] = flow[2] * turbulence.speed;
          }
          ux += eddies[i * 3];
          uy += eddies[i * 3 + 1];
          uz += eddies[i * 3 + 2];
        }
        if (pulled) {
          if (vortex) {
            const dx = px - ox;
            const dy = py - oy;
            const r = Math.sqrt(dx * dx + dy * dy);
            if (r > 1e-9 && r < vortex.radius) {
              const fade = (1 - r / vortex.radius) / r;
              ax += (-dy * vortex.spin - dx * vortex.pull) * fade;
              ay += (dx * vortex.spin - dy * vortex.pull) * fade;
            }
          }
          if (attractor) {
            const dx = tx - px;
            const dy = ty - py;
            const dz = tz - pz;
            const r = Math.sqrt(dx * dx + dy * dy + dz * dz);
            if (r > 1e-9 && r < attractor.reach) {
              const pull = (attractor.pull * (1 - r / attractor.reach)) / r;
              ax += dx * pull;
              ay += dy * pull;
              az += dz * pull;
            }
          }
        }
        if (k > 0) {
          const ex = ux + ax / k;
          const ey = uy + ay / k;
          const ez = uz + az / k;
          px += ex * dt + (sx - ex) * way;
          py += ey * dt + (sy - ey) * way;
          pz += ez * dt + (sz - ez) * way;
          sx = ex + (sx - ex) * kept;
          sy = ey + (sy - ey) * kept;
          sz = ez + (sz - ez) * kept;
        } else {
          px += sx * dt + (ax * dt * dt) / 2;
          py += sy * dt + (ay * dt * dt) / 2;
          pz += sz * dt + (az * dt * dt) / 2;
          sx += ax * dt;
          sy += ay * dt;
          sz += az * dt;
        }
      }
      if (touches && sz < 0) {
        let floor = plane;
        if (deep) {
          // Asked from where it was: what it has sunk into since is below that.
          const found = inMap
            ? air.below!(px, py, z[i])
            : air.below!(stand.position[0] + c * px - s * py, stand.position[1] + s * px + c * py, stand.position[2] + z[i]);
          floor = found === null ? -Infinity : inMap ? found : found - stand.position[2];
        }
        if (pz < floor && (!deep || z[i] >= floor)) {
          touched = true;
          pz = floor + (floor - pz) * ground.bounce;
          sz = -sz * ground.bounce;
          sx *= 1 - ground.friction;
          sy *= 1 - ground.friction;
          if (ground.dies) {
            dies = true;
            pz = floor;
          }
        }
      }
      if (begets && begets.when === (touched ? 'touch' : dies ? 'death' : ''))
        begotten.push({
          emitter: children,
          count: begets.count,
          at: [px, py, pz],
          speed: [sx * begets.inherit, sy * begets.inherit, sz * begets.inherit],
        });
      if (dies) {
        if (deathSound) {
          x[i] = px;
          y[i] = py;
          z[i] = pz;
          this.hear(deathSound, of, i, pool, stand, c, s);
        }
        continue;
      }
      const w = left++;
      x[w] = px;
      y[w] = py;
      z[w] = pz;
      vx[w] = sx;
      vy[w] = sy;
      vz[w] = sz;
      age[w] = older;
      life[w] = life[i];
      birth[w] = birth[i];
      if (!turbulence || w === i) continue;
      eddies[w * 3] = eddies[i * 3];
      eddies[w * 3 + 1] = eddies[i * 3 + 1];
      eddies[w * 3 + 2] = eddies[i * 3 + 2];
    }
    pool.count = left;
  }

  /** SHA-256 of all that lives: equal hashes are equal states to the bit. */
  hash(): string {
    const states = this.playing.map(({ pool }) => pool.state());
    const all = new Uint8Array(states.reduce((sum, { length }) => sum + length, 0));
    let at = 0;
    for (const state of states) {
      all.set(state, at);
      at += state.length;
    }
    return sha256Hex(all);
  }

  /** All of it as a value, to go back to. */
  keep(): Kept {
    return {
      steps: this.steps,
      running: this.running,
      round: this.round,
      last: this.last && [...this.last],
      emitters: this.playing.map(({ pool, owed }) => ({ state: pool.state(), owed })),
    };
  }

  restore({ steps, running, round, last, emitters }: Kept): void {
    Object.assign(this, { steps, running, round, last: last && [...last], sounds: [], asked: 0 });
    emitters.forEach(({ state, owed }, i) => {
      this.playing[i].pool.restore(state);
      this.playing[i].owed = owed;
    });
  }
}

export interface Kept {
  steps: number;
  running: boolean;
  round: number;
  last: Vec3 | null;
  emitters: { state: Uint8Array; owed: number }[];
}

/** How many an emitter throws out when it is told to; one that is only fed by others none. */
function burstOf({ bursts, rate, most }: Emitter): number {
  const own = bursts.reduce((sum, { count }) => sum + count, 0);
  return Math.min(most, own > 0 ? own : Math.ceil(curveAt(rate, 0) / 10));
}
