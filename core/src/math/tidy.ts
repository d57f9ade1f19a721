/** A number without the dust of rounding: to a millionth, never minus zero. */
export const tidy = (v: number): number => Math.round(v * 1e6) / 1e6 + 0;
