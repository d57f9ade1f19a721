/** Whether a stair can be walked: by the game's rules, and by the comfort rule of builders. */

/** Blondel's rule (F. Blondel, Cours d'architecture, 1675): two risers and a tread make a stride, in metres. */
export const STRIDE = { min: 0.6, max: 0.64 };

/** Shortest tread that a foot can stand on, in metres. Common practice: 210 mm. */
export const LEAST_TREAD = 0.21;

export interface StairVerdict {
  /** False: the player cannot climb it. */
  climbable: boolean;
  /** Two risers and one tread, in metres. */
  stride: number;
  comfortable: boolean;
  /** One sentence for the user. */
  says: string;
}

/** `riser`, `tread` and `stepHeight` in units. */
export function checkStair(riser: number, tread: number, stepHeight: number, metresPerUnit: number): StairVerdict {
  const stride = (2 * riser + tread) * metresPerUnit;
  const climbable = riser <= stepHeight + 1e-9;
  const short = tread * metresPerUnit < LEAST_TREAD - 1e-9;
  const comfortable = !short && stride >= STRIDE.min - 1e-9 && stride <= STRIDE.max + 1e-9;
  const millimetres = Math.round(stride * 1000);
  const rises = `Risers of ${round(riser)}, treads of ${round(tread)}`;
  if (!climbable)
    return { climbable, stride, comfortable, says: `${rises}: too high to step, the player manages ${round(stepHeight)}. Use more steps.` };
  if (comfortable) return { climbable, stride, comfortable, says: `${rises}: a comfortable stride of ${millimetres} mm.` };
  if (short)
    return {
      climbable,
      stride,
      comfortable,
      says: `${rises}: ${Math.round(tread * metresPerUnit * 1000)} mm are too short to stand on (210 at least). Use a longer run.`,
    };
  const way = stride < STRIDE.min ? 'short: use fewer steps or a longer run' : 'long: use more steps or a shorter run';
  return { climbable, stride, comfortable, says: `${rises}: the stride of ${millimetres} mm (600 to 640 is comfortable) is ${way}.` };
}

/** The number of steps that comes nearest to a comfortable stride among those the player can climb. */
export function bestSteps(rise: number, run: number, stepHeight: number, metresPerUnit: number): number {
  const least = Math.max(1, Math.ceil(rise / stepHeight - 1e-9));
  let best = least;
  let away = Infinity;
  for (let steps = least; steps <= Math.max(least * 4, 4); steps++) {
    const off = Math.abs((2 * (rise / steps) + run / steps) * metresPerUnit - 0.62);
    if (off < away) [best, away] = [steps, off];
  }
  return best;
}

const round = (v: number) => Math.round(v * 100) / 100;
