/** The transfer functions of sRGB, IEC 61966-2-1:1999 clause 5.2. Values in 0..1. */

export const srgbToLinear = (value: number): number => (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4);

export const linearToSrgb = (value: number): number => (value <= 0.0031308 ? value * 12.92 : 1.055 * value ** (1 / 2.4) - 0.055);

/** Linear red, green, blue of a `#rrggbb` colour. Anything else is white. */
export function linearOfHex(hex: string): [number, number, number] {
  const match = /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(hex);
  if (!match) return [1, 1, 1];
  return [1, 2, 3].map((i) => srgbToLinear(parseInt(match[i], 16) / 255)) as [number, number, number];
}

export function hexOfLinear(rgb: readonly number[]): string {
  const byte = (v: number) =>
    Math.round(linearToSrgb(Math.min(1, Math.max(0, v))) * 255)
      .toString(16)
      .padStart(2, '0');
  return `#${byte(rgb[0])}${byte(rgb[1])}${byte(rgb[2])}`;
}
