/** The place of a map where effects cost most: cameras around all of them, and what each would have to draw. */

import { boxOfPoints } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import { cameraAt, FillPicture, type Viewer } from './cost.ts';
import type { Effect } from './document.ts';
import { EmitterLook } from './look.ts';
import { EffectPlay } from './play.ts';

export interface PlacedEffect {
  name: string;
  effect: Effect;
  position: Vec3;
  turn: number;
}

export interface WorstPlace {
  eye: Vec3;
  /** Degrees, 0 along +x. */
  yaw: number;
  screens: number;
  /** Names of what fills it, the most first, with how many whole pictures each is. */
  of: { name: string; screens: number }[];
}

/** Particles that stand for all of an effect. */
const STAND_INS = 80;
/** Cameras at most; where there are more effects than that, every so many of them has some. */
const CAMERAS = 240;
const SIDES = 6;

/** An effect as few particles: x, y, z, width, how many each stands for. */
type Cloud = { rows: Float64Array; reach: number };
const clouds = new WeakMap<Effect, Cloud>();

/** An effect late in its first round, when it is at its fullest as a rule. */
function cloudOf(effect: Effect, { gravity }: Viewer): Cloud {
  const known = clouds.get(effect);
  if (known) return known;
  const play = new EffectPlay(effect);
  const stand = { position: [0, 0, 0] as Vec3, turn: 0 };
  const steps = Math.min(600, Math.ceil((effect.warmUp + effect.seconds) * 60));
  let best = 0;
  let rows: number[] = [];
  for (let step = 0, work = 0; step < steps && work < 2_000_000; step++) {
    play.step(stand, { gravity, wind: [0, 0, 0] });
    work += play.particles + 20;
    if (play.particles <= best && step > 0) continue;
    if (step % 6 !== 0 && step < steps - 1) continue;
    best = play.particles;
    rows = [];
    effect.emitters.forEach((one, e) => {
      if (one.draw.as === 'nothing') return;
      const pool = play.pools[e];
      const look = new EmitterLook(one);
      const every = Math.max(1, Math.ceil(pool.count / STAND_INS));
      for (let i = 0; i < pool.count; i += every)
        rows.push(
          pool.x[i],
          pool.y[i],
          pool.z[i],
          look.sizeOf(play.seedOf(e), pool.birth[i], Math.min(1, pool.age[i] / pool.life[i])),
          Math.min(every, pool.count - i),
        );
    });
  }
  const points: Vec3[] = [];
  for (let i = 0; i < rows.length; i += 5) points.push([rows[i], rows[i + 1], rows[i + 2]]);
  const box = boxOfPoints([...points, [0, 0, 0]]);
  const reach = Math.max(...box.max.map(Math.abs), ...box.min.map(Math.abs));
  const cloud = { rows: Float64Array.from(rows), reach };
  clouds.set(effect, cloud);
  return cloud;
}

const levelAt = ({ levels }: Effect, away: number): number => levels.reduce((share, level) => (away > level.beyond ? level.share : share), 1);

/**
 * @param seen whether anything solid lies between two points
 * @returns null where there is no effect
 */
export function worstPlace(placed: readonly PlacedEffect[], viewer: Viewer, seen: (from: Vec3, to: Vec3) => boolean): WorstPlace | null {
  const picture = new FillPicture();
  let worst: WorstPlace | null = null;
  const every = Math.max(1, Math.ceil((placed.length * SIDES) / CAMERAS));
  for (let n = 0; n < placed.length; n += every) {
    const { position, effect } = placed[n];
    const away = Math.max(viewer.radius * 2, cloudOf(effect, viewer).reach * 0.5);
    for (let side = 0; side < SIDES; side++) {
      const yaw = (side / SIDES) * 360;
      const [c, s] = [Math.cos((yaw * Math.PI) / 180), Math.sin((yaw * Math.PI) / 180)];
      const eye: Vec3 = [position[0] - c * away, position[1] - s * away, position[2] + Math.min(viewer.eyeHeight, away)];
      const middle: Vec3 = [position[0], position[1], eye[2]];
      if (!seen(eye, middle)) continue;
      const camera = cameraAt(eye, yaw, 0);
      picture.clear();
      const of: WorstPlace['of'] = [];
      for (const other of placed) {
        const cloud = cloudOf(other.effect, viewer);
        const distance = Math.hypot(...other.position.map((v, k) => v - eye[k]));
        const share = levelAt(other.effect, distance);
        if (share === 0 || distance > cloud.reach + viewer.eyeHeight * 200) continue;
        if (other !== placed[n] && distance > cloud.reach && !seen(eye, other.position)) continue;
        const [oc, os] = [Math.cos((other.turn * Math.PI) / 180), Math.sin((other.turn * Math.PI) / 180)];
        const { rows } = cloud;
        const [ox, oy, oz] = other.position;
        let screens = 0;
        for (let i = 0; i < rows.length; i += 5)
          screens += picture.add(
            ox + oc * rows[i] - os * rows[i + 1],
            oy + os * rows[i] + oc * rows[i + 1],
            oz + rows[i + 2],
            rows[i + 3],
            rows[i + 4] * share,
            camera,
          );
        if (screens > 0) of.push({ name: other.name, screens });
      }
      if (worst && picture.screens <= worst.screens) continue;
      worst = { eye, yaw, screens: picture.screens, of: of.sort((a, b) => b.screens - a.screens) };
    }
  }
  return worst;
}
