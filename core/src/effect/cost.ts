/** What an effect costs, measured by playing it where a player comes nearest to it, and what is wrong with it by itself. */

import type { Finding } from '../finding.ts';
import type { Place } from '../place.ts';
import type { Vec3 } from '../math/vec3.ts';
import { curveArea, curveMost } from './curve.ts';
import { assetsOf, type Effect, type Emitter } from './document.ts';
import { EmitterLook } from './look.ts';
import { EFFECT_STEP, EffectPlay, type Air } from './play.ts';
import type { MeshOf } from './source.ts';

/** What a game allows one effect; see `effects` of a profile. */
export interface EffectBudget {
  particles: number;
  overdraw: number;
  screens: number;
  bytes: number;
}

/** Of the player, in units. */
export interface Viewer {
  eyeHeight: number;
  radius: number;
  gravity: number;
}

export interface EffectCost {
  /** Most particles at once. */
  particles: number;
  /** Layers over each other on average where anything of it is seen, in the worst picture. */
  overdraw: number;
  /** All that is drawn of it in the worst picture, in whole pictures. */
  screens: number;
  /** Bytes of its particles and pictures. */
  bytes: number;
  emitters: { name: string; particles: number; screens: number }[];
  /** Seconds that were played; fewer than a round and a life where it is very large. */
  measured: number;
}

/** The picture that is measured: upright field of view in degrees, width by height. */
export const PICTURE = { fov: 60, aspect: 16 / 9 };
/** Cells of the picture in which layers are counted. */
const [COLUMNS, ROWS] = [64, 36];
/** Particle steps that a measurement may take: its time is bounded, whatever an effect asks for. */
const MOST_WORK = 12_000_000;
/** Particles of one emitter that are laid into a picture; where there are more, each stands for several. */
const STAND_INS = 1000;
/** Steps between two pictures. */
const EVERY = 6;

/** Where whoever looks is, and where to: unit vectors. */
export interface Camera {
  eye: Vec3;
  right: Vec3;
  up: Vec3;
  ahead: Vec3;
}

/** A level camera. @param yaw in degrees, 0 along +x; `pitch` upwards */
export function cameraAt(eye: Vec3, yaw: number, pitch: number): Camera {
  const [a, b] = [(yaw * Math.PI) / 180, (pitch * Math.PI) / 180];
  const ahead: Vec3 = [Math.cos(a) * Math.cos(b), Math.sin(a) * Math.cos(b), Math.sin(b)];
  return { eye, ahead, right: [Math.sin(a), -Math.cos(a), 0], up: [-Math.cos(a) * Math.sin(b), -Math.sin(a) * Math.sin(b), Math.cos(b)] };
}

/** A picture in which layers are counted: the share of each cell that squares cover, summed. */
export class FillPicture {
  private readonly cells = new Float64Array(COLUMNS * ROWS);
  /** In whole pictures. */
  screens = 0;
  /** Cells that were counted in since it was cleared: the work it was. */
  looked = 0;

  clear(): void {
    this.cells.fill(0);
    this.screens = 0;
    this.looked = 0;
  }

  /** Adds a square of a width at a point (a number of them: `weight`), as far as it lies in the picture. Answers its share of the picture. */
  add(x: number, y: number, z: number, width: number, weight: number, { eye, right, up, ahead }: Camera): number {
    const [dx, dy, dz] = [x - eye[0], y - eye[1], z - eye[2]];
    const depth = dx * ahead[0] + dy * ahead[1] + dz * ahead[2];
    if (depth <= width / 100 || width <= 0) return 0;
    const scale = 1 / (2 * Math.tan((PICTURE.fov * Math.PI) / 360) * depth);
    const h = width * scale;
    const w = h / PICTURE.aspect;
    const cx = 0.5 + ((dx * right[0] + dy * right[1] + dz * right[2]) * scale) / PICTURE.aspect;
    const cy = 0.5 - (dx * up[0] + dy * up[1] + dz * up[2]) * scale;
    const [left, top, wide, high] = [Math.max(0, cx - w / 2), Math.max(0, cy - h / 2), Math.min(1, cx + w / 2), Math.min(1, cy + h / 2)];
    if (left >= wide || top >= high) return 0;
    const share = (wide - left) * (high - top) * weight;
    this.screens += share;
    this.looked += 1 + (wide - left) * COLUMNS * (high - top) * ROWS;
    for (let row = Math.floor(top * ROWS); row < Math.min(ROWS, Math.ceil(high * ROWS)); row++) {
      const part = (Math.min(high * ROWS, row + 1) - Math.max(top * ROWS, row)) * weight;
      for (let column = Math.floor(left * COLUMNS); column < Math.min(COLUMNS, Math.ceil(wide * COLUMNS)); column++)
        this.cells[row * COLUMNS + column] += part * (Math.min(wide * COLUMNS, column + 1) - Math.max(left * COLUMNS, column));
    }
    return share;
  }

  /** Layers on average over the cells that anything is in. */
  get overdraw(): number {
    let sum = 0;
    let seen = 0;
    for (const cell of this.cells) {
      sum += cell;
      if (cell > 0.01) seen++;
    }
    return seen > 0 ? sum / seen : 0;
  }
}

/** The nearest place of a player's eye: two bodies' width beside it, looking at the middle of what lives. */
function nearestView(play: EffectPlay, { eyeHeight, radius }: Viewer): Camera {
  let [sum, count] = [0, 0];
  for (const pool of play.pools) {
    for (let i = 0; i < pool.count; i++) sum += pool.z[i];
    count += pool.count;
  }
  const away = radius * 2;
  const middle = count > 0 ? sum / count : 0;
  return cameraAt([-away, 0, eyeHeight], 0, (Math.atan2(middle - eyeHeight, away) * 180) / Math.PI);
}

/** Adds all of an effect that stands at the origin to a picture. Answers what each emitter fills. */
function fillWith(picture: FillPicture, play: EffectPlay, looks: readonly EmitterLook[], camera: Camera): number[] {
  return play.effect.emitters.map(({ draw }, e) => {
    if (draw.as === 'nothing') return 0;
    const pool = play.pools[e];
    const seed = play.seedOf(e);
    let screens = 0;
    const every = Math.max(1, Math.ceil(pool.count / STAND_INS));
    for (let i = 0; i < pool.count; i += every) {
      // What is as good as clear is drawn all the same: the card does not know.
      const size = looks[e].sizeOf(seed, pool.birth[i], Math.min(1, pool.age[i] / pool.life[i]));
      screens += picture.add(pool.x[i], pool.y[i], pool.z[i], size, Math.min(every, pool.count - i), camera);
    }
    return screens;
  });
}

/** @param pictureBytes what a picture takes on the card; 0 where that is not known */
export function costOf(effect: Effect, viewer: Viewer, meshOf: MeshOf = () => null, pictureBytes: (path: string) => number = () => 0): EffectCost {
  const air: Air = { gravity: viewer.gravity, wind: [0, 0, 0] };
  const stand = { position: [0, 0, 0] as Vec3, turn: 0 };
  const play = new EffectPlay(effect, 0, meshOf);
  const looks = effect.emitters.map((one) => new EmitterLook(one));
  const picture = new FillPicture();
  const longest = Math.max(...effect.emitters.map(({ life }) => life[1]));
  const steps = Math.ceil((effect.warmUp + Math.min(effect.seconds, 30) + Math.min(longest, 30)) / EFFECT_STEP);
  const pictures = new Set(assetsOf(effect).flatMap(({ kind, path }) => (kind === 'texture' ? [path] : [])));
  const cost: EffectCost = {
    particles: 0,
    overdraw: 0,
    screens: 0,
    bytes: [...play.pools.map(({ bytes }) => bytes), ...[...pictures].map(pictureBytes)].reduce((sum, bytes) => sum + bytes, 0),
    emitters: effect.emitters.map(({ name }) => ({ name, particles: 0, screens: 0 })),
    measured: 0,
  };
  let work = 0;
  for (let step = 0; step < steps && work < MOST_WORK; step++) {
    play.step(stand, air);
    work += play.particles + 20;
    cost.measured = (step + 1) * EFFECT_STEP;
    cost.particles = Math.max(cost.particles, play.particles);
    play.pools.forEach(({ count }, e) => (cost.emitters[e].particles = Math.max(cost.emitters[e].particles, count)));
    if (step % EVERY !== 0) continue;
    picture.clear();
    const filled = fillWith(picture, play, looks, nearestView(play, viewer));
    work += picture.looked;
    filled.forEach((screens, e) => (cost.emitters[e].screens = Math.max(cost.emitters[e].screens, screens)));
    cost.screens = Math.max(cost.screens, picture.screens);
    cost.overdraw = Math.max(cost.overdraw, picture.overdraw);
  }
  return cost;
}

/** Births a second on average over a round. */
function birthsOf({ rate, bursts }: Emitter, seconds: number): number {
  const inBursts = bursts.reduce(
    (sum, { at, count, times, every }) => sum + count * Math.max(0, Math.min(times, Math.ceil((seconds - at) / every))),
    0,
  );
  return Math.max(0, curveArea(rate)) + inBursts / seconds;
}

/** What is wrong with an effect, whatever map it stands in. */
export function effectFindings(effect: Effect, cost: EffectCost, budget: EffectBudget | undefined, place: Place): Finding[] {
  const findings: Finding[] = [];
  const title = effect.title || 'The effect';
  const tell = (code: string, severity: Finding['severity'], message: string, hint: string): void =>
    void findings.push({ code, severity, stage: 'assets', message: `${title}: ${message}`, hint, place });
  const dearest = (what: 'particles' | 'screens') => [...cost.emitters].sort((a, b) => b[what] - a[what])[0].name;
  const number = (value: number) => value.toLocaleString('en', { maximumFractionDigits: 1 });
  if (budget) {
    if (cost.particles > budget.particles)
      tell(
        'effect-particles',
        'warning',
        `${number(cost.particles)} particles at once; the game wants at most ${number(budget.particles)} for one effect.`,
        `Most are of ${dearest('particles')}: give it a lower rate or a shorter life.`,
      );
    if (cost.screens > budget.screens)
      tell(
        'effect-fill',
        'warning',
        `seen from as near as a player comes, it draws ${number(cost.screens)} whole pictures; the game wants at most ${number(budget.screens)}.`,
        `Most are of ${dearest('screens')}: make its particles smaller, or fewer.`,
      );
    if (cost.overdraw > budget.overdraw)
      tell(
        'effect-overdraw',
        'warning',
        `${number(cost.overdraw)} layers lie over each other; the game wants at most ${number(budget.overdraw)}.`,
        `Most are of ${dearest('screens')}: spread its particles, or have fewer and larger ones.`,
      );
    if (cost.bytes > budget.bytes)
      tell(
        'effect-memory',
        'warning',
        `it takes ${number(cost.bytes / 1024)} KiB; the game wants at most ${number(budget.bytes / 1024)}.`,
        'Lower the most particles of its emitters to what they have, or use smaller pictures.',
      );
  }
  const fed = new Set(effect.emitters.flatMap(({ children }) => (children ? [children.emitter] : [])));
  for (const one of effect.emitters) {
    const { name, forces, life, most, draw } = one;
    const births = birthsOf(one, effect.seconds);
    const lives = births * ((life[0] + life[1]) / 2);
    if (lives > most * 1.05)
      tell(
        'effect-full',
        'warning',
        `${name} would have ${number(lives)} particles at once, but has room for ${number(most)}: births fail.`,
        'Give it room for more, or a lower rate.',
      );
    if (births === 0 && !fed.has(name))
      tell(
        'effect-barren',
        'warning',
        `${name} never has a particle: no rate, no bursts, and it is nobody’s child.`,
        'Give it a rate or a burst, or take it out.',
      );
    if (forces.drag === 0 && (forces.wind > 0 || forces.turbulence))
      tell(
        'effect-drag',
        'warning',
        `${name} feels neither wind nor turbulence, since it has no drag.`,
        'Give it some drag: air moves things by it.',
      );
    if (draw.as !== 'nothing' && (curveMost(one.size.over) <= 0 || one.size.from[1] === 0 || one.colour.every(({ alpha }) => alpha === 0)))
      tell(
        'effect-unseen',
        'warning',
        `${name} is never seen: its size or its colour comes to nothing.`,
        'Give it a size and a colour, or draw nothing of it.',
      );
    if (draw.as === 'nothing' && !one.children && !one.light && !one.sounds)
      tell('effect-unseen', 'warning', `${name} draws nothing, and has neither children nor light nor sound.`, 'Take it out.');
  }
  return findings;
}
