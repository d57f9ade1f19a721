/**
 * Functions that come to the same bits on every machine. IEEE 754 settles sums, products, quotients and square roots;
 * what `Math.sin` or `Math.exp` answer is each engine's own affair.
 */

const HALVINGS = 10;

/** e to the power of `-x`, x ≥ 0: the series to the eighth power at x/1024, squared ten times. Relative error below 1e-12 for x ≤ 30. */
export function decay(x: number): number {
  if (x > 700) return 0;
  const y = -x / 2 ** HALVINGS;
  let value = 1;
  for (let n = 8; n > 0; n--) value = 1 + (y / n) * value;
  for (let i = 0; i < HALVINGS; i++) value *= value;
  return value;
}

/** Sine of a quarter turn at most, by its series to the seventeenth power; error below 1e-13. */
function sineOfQuarter(turn: number): number {
  const x = turn * 2 * 3.141592653589793;
  const s = x * x;
  let value = 1;
  for (let n = 16; n > 0; n -= 2) value = 1 - (s / (n * (n + 1))) * value;
  return x * value;
}

/** Sine of an angle in turns (1 is all the way round). */
export function sineOfTurns(turns: number): number {
  const t = turns - Math.floor(turns);
  if (t <= 0.25) return sineOfQuarter(t);
  if (t <= 0.75) return sineOfQuarterSigned(0.5 - t);
  return -sineOfQuarter(1 - t);
}

const sineOfQuarterSigned = (turn: number): number => (turn < 0 ? -sineOfQuarter(-turn) : sineOfQuarter(turn));

export const cosineOfTurns = (turns: number): number => sineOfTurns(turns + 0.25);
