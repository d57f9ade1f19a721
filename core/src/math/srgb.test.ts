import { describe, expect, it } from '@jest/globals';
import { hexOfLinear, linearOfHex, linearToSrgb, srgbToLinear } from './srgb.ts';

// Outside reference: IEC 61966-2-1:1999, clause 5.2. The listed values follow from its formulas.
describe('sRGB', () => {
  it.each([
    [0, 0],
    [0.04045, 0.0031308],
    [0.5, 0.21404],
    [0.73536, 0.5],
    [1, 1],
  ])('code value %f is linear %f', (code, linear) => {
    expect(srgbToLinear(code)).toBeCloseTo(linear, 4);
    expect(linearToSrgb(linear)).toBeCloseTo(code, 4);
  });

  it('both ways are inverse for all 256 codes', () => {
    for (let i = 0; i < 256; i++) expect(Math.round(linearToSrgb(srgbToLinear(i / 255)) * 255)).toBe(i);
  });

  it('reads and writes hexadecimal colours', () => {
    expect(hexOfLinear(linearOfHex('#8a3fd0'))).toBe('#8a3fd0');
    expect(linearOfHex('not a colour')).toEqual([1, 1, 1]);
  });
});
