import { describe, expect, it } from '@jest/globals';
import { encode } from 'fast-png';
import { encode as encodeJpeg } from 'jpeg-js';
import fc from 'fast-check';
import { UnreadableInput } from '../../finding.ts';
import { testProfile } from '../../testing/world.ts';
import { convertTexture } from './convert.ts';
import { readImage, type Picture } from './readImage.ts';
import { meanColour, resizePicture } from './resize.ts';

const profile = testProfile();

const flat = (width: number, height: number, rgba: number[]): Picture => ({
  width,
  height,
  data: Uint8Array.from({ length: width * height * 4 }, (_, i) => rgba[i % 4]),
});

describe('textures', () => {
  it('sizes become powers of two within the maximum, and that is said', async () => {
    const odd = encode({ width: 100, height: 60, data: new Uint8Array(100 * 60 * 3).fill(90), channels: 3, depth: 8 });
    const { picture, findings } = await convertTexture(profile, 'odd.png', odd);
    expect([picture.width, picture.height]).toEqual([128, 64]);
    expect(findings.map((f) => f.code)).toEqual(['texture-power-of-two']);
    const large = encode({ width: 2048, height: 8, data: new Uint8Array(2048 * 8 * 3), channels: 3, depth: 8 });
    const reduced = await convertTexture(profile, 'large.png', large);
    expect([reduced.picture.width, reduced.picture.height]).toEqual([1024, 4]);
    expect(reduced.findings.map((f) => f.code)).toEqual(['texture-large']);
  });

  it('halving averages in linear light: black and white make 188, not 128', () => {
    const picture: Picture = { width: 2, height: 1, data: Uint8Array.from([0, 0, 0, 255, 255, 255, 255, 255]) };
    expect([...resizePicture(picture, 1, 1).data]).toEqual([188, 188, 188, 255]);
  });

  it('transparent pixels do not bleed their colour', () => {
    const picture: Picture = { width: 2, height: 1, data: Uint8Array.from([200, 0, 0, 255, 0, 255, 0, 0]) };
    expect([...resizePicture(picture, 1, 1).data]).toEqual([200, 0, 0, 128]);
    expect(meanColour(picture)[1]).toBe(0);
  });

  it('a resize of one colour is that colour', () => {
    fc.assert(
      fc.property(
        fc.nat(255),
        fc.integer({ min: 1, max: 33 }),
        fc.integer({ min: 1, max: 33 }),
        fc.integer({ min: 1, max: 40 }),
        (grey, w, h, to) => {
          for (const value of resizePicture(flat(w, h, [grey, grey, grey, 255]), to, to).data.filter((_, i) => i % 4 === 0))
            expect(Math.abs(value - grey)).toBeLessThanOrEqual(1);
        },
      ),
      { numRuns: 50 },
    );
  });
});

describe('pictures', () => {
  const png = encode({ width: 4, height: 4, data: Uint8Array.from({ length: 48 }, (_, i) => i * 5), channels: 3, depth: 8 });

  it('reads PNG of 8 and 16 bits, grey and colour', () => {
    expect([...readImage(png, 'a.png').data.subarray(4, 8)]).toEqual([15, 20, 25, 255]);
    const deep = encode({ width: 1, height: 1, data: Uint16Array.from([0x8000]), channels: 1, depth: 16 });
    expect([...readImage(deep, 'deep.png').data]).toEqual([128, 128, 128, 255]);
  });

  it('reads JPEG', () => {
    const jpeg = encodeJpeg({ width: 8, height: 8, data: Buffer.from(flat(8, 8, [200, 100, 50, 255]).data) }, 95).data;
    const { data } = readImage(new Uint8Array(jpeg), 'a.jpg');
    expect(Math.abs(data[0] - 200)).toBeLessThan(6);
  });

  it('says what a file is not, by its first bytes', () => {
    expect(() => readImage(new TextEncoder().encode('GIF89a'), 'fake.png')).toThrow(/fake\.png is not a PNG file.*47 49 46 38.*byte 0/);
    expect(() => readImage(new Uint8Array(), 'empty.jpg')).toThrow(/not a JPEG/);
  });

  it('refuses a huge declared size before unpacking', () => {
    const huge = png.slice();
    new DataView(huge.buffer).setUint32(16, 60000);
    new DataView(huge.buffer).setUint32(20, 60000);
    expect(() => readImage(huge, 'huge.png')).toThrow(/60000 × 60000.*byte 16/);
  });

  it('answers damage with a message and nothing else', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: png.length - 1 }), fc.nat(255), fc.boolean(), (at, value, cut) => {
        const damaged = cut ? png.slice(0, at) : png.slice();
        if (!cut) damaged[at] = value;
        try {
          readImage(damaged, 'damaged.png');
        } catch (error) {
          expect(error).toBeInstanceOf(UnreadableInput);
        }
      }),
      { numRuns: 500 },
    );
  });
});
