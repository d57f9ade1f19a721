import { describe, expect, it } from '@jest/globals';
import { decodeTga } from '@lunapaint/tga-codec';
import { encode as encodeBmp } from 'bmp-ts';
import { decode as decodeFastBmp } from 'fast-bmp';
import { encode } from 'fast-png';
import { zlibSync } from 'fflate';
import fc from 'fast-check';
import { encode as encodeJpeg } from 'jpeg-js';
import { read } from 'ktx-parse';
import omggif from 'omggif';
import { PNG } from 'pngjs';
import { DataUtils } from 'three';
import UTIF from 'utif2';
import { testProfile } from '../../testing/world.ts';
import { crc32 } from '../archive/zip.ts';
import { convertPacked, convertTexture } from './convert.ts';
import { encodeKtx2 } from './encodeKtx2.ts';
import { coverage, mipmaps } from './mipmaps.ts';
import { normalFromHeight, normalQuality } from './normalMap.ts';
import { roleOf } from './options.ts';
import { packChannels } from './packChannels.ts';
import type { Picture } from './picture.ts';
import { readImage } from './readImage.ts';
import { upright } from './readJpeg.ts';
import { readLight } from './readLight.ts';
import { readKtx2 } from './readKtx2.ts';
import { meanColour, resizePicture } from './resize.ts';
import { seamError } from './tiling.ts';

const profile = testProfile();
const text = (content: string) => new TextEncoder().encode(content);

const paint = (width: number, height: number, colour: (x: number, y: number) => number[]): Picture => ({
  width,
  height,
  data: Uint8Array.from({ length: width * height * 4 }, (_, i) => colour((i >> 2) % width, Math.floor((i >> 2) / width))[i % 4] ?? 255),
});
const flat = (width: number, height: number, rgba: number[]) => paint(width, height, () => rgba);
/** Smooth, tileable, with some detail: what textures are like. */
const stone = paint(64, 64, (x, y) => {
  const wave = (k: number) => Math.sin((2 * Math.PI * k * x) / 64) * Math.cos((2 * Math.PI * k * y) / 64);
  return [120 + 50 * wave(1) + 12 * wave(5), 100 + 40 * wave(2), 90 + 20 * wave(3), 255].map(Math.round);
});
const pngOf = ({ width, height, data }: Picture) => encode({ width, height, data, channels: 4, depth: 8 });
const psnr = (a: Uint8Array, b: Uint8Array) => {
  let sum = 0;
  for (let i = 0; i < a.length; i++) if (i % 4 !== 3) sum += (a[i] - b[i]) ** 2;
  return 10 * Math.log10(255 ** 2 / (sum / ((a.length * 3) / 4)));
};

describe('sizes and averages', () => {
  it('become powers of two within the maximum, and that is said', async () => {
    const odd = await convertTexture(profile, 'odd.png', pngOf(flat(100, 60, [90, 90, 90])));
    expect([odd.picture.width, odd.picture.height]).toEqual([128, 64]);
    expect(odd.findings.map((f) => f.code)).toEqual(['texture-power-of-two']);
    const reduced = await convertTexture(profile, 'large.png', pngOf(flat(2048, 8, [0, 0, 0])));
    expect([reduced.picture.width, reduced.picture.height]).toEqual([1024, 4]);
    expect(reduced.findings.map((f) => f.code)).toEqual(['texture-large']);
    expect((await convertTexture(profile, 'large.png', pngOf(flat(256, 8, [0, 0, 0])), { maxSize: 64 })).picture.width).toBe(64);
  });

  it('halving averages in linear light: black and white make 188, not 128', () => {
    // IEC 61966-2-1: half of the light of white is encoded as 188.
    const picture: Picture = { width: 2, height: 1, data: Uint8Array.from([0, 0, 0, 255, 255, 255, 255, 255]) };
    expect([...resizePicture(picture, 1, 1).data]).toEqual([188, 188, 188, 255]);
    expect([...resizePicture(picture, 1, 1, 'data').data]).toEqual([128, 128, 128, 255]);
  });

  it('transparent pixels do not bleed their colour', () => {
    const picture: Picture = { width: 2, height: 1, data: Uint8Array.from([200, 0, 0, 255, 0, 255, 0, 0]) };
    expect([...resizePicture(picture, 1, 1).data]).toEqual([200, 0, 0, 128]);
    expect(meanColour(picture)[1]).toBe(0);
  });

  it('a resize of one colour is that colour', () => {
    const size = fc.integer({ min: 1, max: 33 });
    fc.assert(
      fc.property(fc.nat(255), size, size, size, fc.constantFrom('colour' as const, 'data' as const), (grey, w, h, to, meaning) => {
        for (const value of resizePicture(flat(w, h, [grey, grey, grey, 255]), to, to, meaning).data.filter((_, i) => i % 4 === 0))
          expect(Math.abs(value - grey)).toBeLessThanOrEqual(1);
      }),
      { numRuns: 80 },
    );
  });
});

describe('mipmaps', () => {
  it('keep the share of a cut-out that passes the cut', () => {
    const leaves = paint(64, 64, (x, y) => [60, 120, 50, Math.sin(x * 0.9) + Math.sin(y * 0.7 + x * 0.3) > 0.8 ? 255 : 0]);
    const wanted = coverage(leaves, 1);
    const kept = mipmaps(leaves, 'colour', true);
    const thinned = mipmaps(leaves, 'colour', false);
    // Down to 4 × 4, below which a share can no longer be met.
    for (let level = 1; level <= 3; level++) expect(Math.abs(coverage(kept[level], 1) - wanted)).toBeLessThan(0.06);
    const off = (levels: Picture[]) => Math.abs(coverage(levels[2], 1) - wanted);
    expect(off(thinned)).toBeGreaterThan(off(kept) * 2);
  });

  it('keep normals at length 1', () => {
    const bumps = normalFromHeight(stone, 8);
    for (const level of mipmaps(bumps, 'normal', false)) expect(normalQuality(level).length).toBeCloseTo(1, 1);
    expect(normalQuality(resizePicture(bumps, 8, 8, 'data')).length).toBeLessThan(normalQuality(resizePicture(bumps, 8, 8, 'normal')).length);
  });
});

describe('normal maps', () => {
  it('of a slope lean against it, and of a plain point out', () => {
    expect([...normalFromHeight(flat(8, 8, [90, 90, 90]), 4).data.slice(0, 3)]).toEqual([128, 128, 255]);
    // Rising to the right: the normal leans to the left; by hand, a rise of 1/8 texel per texel.
    const ramp = paint(32, 32, (x) => [x * 8, x * 8, x * 8]);
    const at = (16 * 32 + 16) * 4;
    const [x, y, z] = [...normalFromHeight(ramp, 255 / 64).data.slice(at, at + 3)].map((v) => v / 127.5 - 1);
    expect(-x / z).toBeCloseTo(1 / 8, 1);
    expect(y).toBeCloseTo(0, 1);
  });

  it('a picture that is none is named, with a way out', async () => {
    const found = (await convertTexture(profile, 'brick_n.png', pngOf(flat(16, 16, [160, 60, 40])))).findings.find(
      (f) => f.code === 'texture-not-normal',
    )!;
    expect(found.fix).toMatchObject({ kind: 'reconvert', options: { use: 'height' } });
    const made = await convertTexture(profile, 'brick_n.png', pngOf(flat(16, 16, [160, 60, 40])), { use: 'height' });
    expect(made.findings).toEqual([]);
    expect(normalQuality(made.picture)).toMatchObject({ length: expect.closeTo(1, 1) });
    const turned = await convertTexture(profile, 'a_n.png', pngOf(flat(4, 4, [128, 40, 210])), { flipGreen: true });
    expect(turned.picture.data[1]).toBe(215);
  });
});

describe('packing and roles', () => {
  it('occlusion, roughness and metalness go to red, green and blue', async () => {
    const packed = packChannels({ roughness: flat(2, 2, [77, 0, 0]), metalness: flat(4, 4, [200, 0, 0]) });
    expect([packed.width, ...packed.data.slice(0, 4)]).toEqual([4, 255, 77, 200, 255]);
    const { ktx2, options } = await convertPacked(profile, 'rock_orm.png', { roughness: flat(4, 4, [77, 0, 0]) });
    expect(options.use).toBe('data');
    expect(read(ktx2).dataFormatDescriptor[0].transferFunction).toBe(1);
  });

  it.each([
    ['rock_n', 'normal', 'rock'],
    ['rock-Normal', 'normal', 'rock'],
    ['rock_r', 'roughness', 'rock'],
    ['rock_h', 'height', 'rock'],
    ['rock_albedo', 'colour', 'rock'],
    ['rock', 'colour', 'rock'],
    ['_n', 'colour', '_n'],
  ])('%s is the %s of %s (common practice)', (stem, role, base) => {
    expect(roleOf(stem)).toEqual({ role, base });
  });
});

describe('tiling', () => {
  it('a picture that tiles has no seam, half of one has', async () => {
    expect(seamError(stone)).toBeLessThan(1.5);
    const ramp = paint(64, 64, (x) => [x * 4, x * 4, x * 4]);
    expect(seamError(ramp)).toBeGreaterThan(3);
    expect((await convertTexture(profile, 'ramp.png', pngOf(ramp))).findings.map((f) => f.code)).toContain('texture-seam');
  });
});

describe('KTX2', () => {
  // Outside references: ktx-parse for the container, the Basis transcoder for the pixels.
  it('UASTC holds every level and decodes above 38 dB', async () => {
    const { ktx2, picture } = await convertTexture(profile, 'stone.png', pngOf(stone));
    const container = read(ktx2);
    expect(container).toMatchObject({ pixelWidth: 64, pixelHeight: 64, supercompressionScheme: 2 });
    expect(container.levels).toHaveLength(7);
    expect(container.dataFormatDescriptor[0].transferFunction).toBe(2);
    expect(psnr((await readKtx2(ktx2, 'stone.ktx2')).data, picture.data)).toBeGreaterThan(38);
  });

  it('ETC1S is smaller and still like its source', async () => {
    const small = await convertTexture(profile, 'stone.png', pngOf(stone), { compression: 'small' });
    const sharp = await convertTexture(profile, 'stone.png', pngOf(stone));
    expect(small.ktx2.length).toBeLessThan(sharp.ktx2.length);
    expect(psnr((await readKtx2(small.ktx2, 'a.ktx2')).data, stone.data)).toBeGreaterThan(28);
  });

  it('comes back in as a source', async () => {
    const first = await encodeKtx2([flat(8, 8, [200, 40, 90, 255])], { form: 'uastc', srgb: true, normal: false });
    const [r, g, b, a] = (await readImage(first, 'again.ktx2')).data;
    expect([r, g, b, a].every((v, i) => Math.abs(v - [200, 40, 90, 255][i]) <= 3)).toBe(true);
    await expect(readImage(first.slice(0, 90), 'cut.ktx2')).rejects.toThrow(/cut\.ktx2 is damaged/);
  });

  it('skies keep light above white', async () => {
    // Radiance RGBE, uncompressed: 2 × 1 pixels of 4.0 and 0.25 (mantissa × 2^(e - 136)).
    const hdr = new Uint8Array([...text('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 2\n'), 128, 128, 128, 131, 128, 128, 128, 127]);
    const { light } = readLight(hdr, 'sky.hdr');
    expect(light[0]).toBeCloseTo(4, 1);
    expect(light[4]).toBeCloseTo(0.25, 2);
    const sky = await convertTexture(profile, 'sky.hdr', hdr);
    expect(sky.options.use).toBe('sky');
    expect(sky.findings.map((f) => f.code)).not.toContain('texture-sky-shape');
    const square = new Uint8Array([...text('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 1\n'), 128, 128, 128, 131]);
    expect((await convertTexture(profile, 'square.hdr', square)).findings.map((f) => f.code)).toContain('texture-sky-shape');
    const container = read(sky.ktx2);
    expect(container.vkFormat).toBe(97);
    const zstd = await import('@bokuweb/zstd-wasm');
    const halves = new Uint16Array(zstd.decompress(container.levels[0].levelData).slice().buffer);
    expect(DataUtils.fromHalfFloat(halves[0])).toBeCloseTo(4, 1);
    expect(() => readLight(text('#?RADIANCE\n\n-Y 90000 +X 90000\n'), 'huge.hdr')).toThrow(/90000 × 90000/);
  });
});

describe('pictures', () => {
  const photo = paint(20, 12, (x, y) => [x * 12, y * 20, (x * y) % 256, 255]);
  const png = pngOf(photo);
  const alike = (a: Uint8Array, b: Uint8Array, tolerance: number) =>
    expect(Math.max(...a.map((v, i) => Math.abs(v - b[i])))).toBeLessThanOrEqual(tolerance);

  it('PNG of 8 and 16 bits, grey and colour', async () => {
    expect([...(await readImage(png, 'a.png')).data]).toEqual([...photo.data]);
    const deep = encode({ width: 1, height: 1, data: Uint16Array.from([0x8000]), channels: 1, depth: 16 });
    expect([...(await readImage(deep, 'deep.png')).data]).toEqual([128, 128, 128, 255]);
  });

  // Outside reference: pngjs reads and writes the same files.
  it('PNG reads as pngjs reads it, of every colour type that it writes', async () => {
    for (const [colorType, inputHasAlpha] of [
      [0, true],
      [2, true],
      [4, true],
      [6, true],
    ] as const) {
      const image = new PNG({ width: 20, height: 12, colorType, inputHasAlpha });
      image.data = Buffer.from(photo.data);
      const file = new Uint8Array(PNG.sync.write(image, { colorType, inputHasAlpha }));
      expect([...(await readImage(file, 'a.png')).data]).toEqual([...PNG.sync.read(Buffer.from(file)).data]);
    }
  });

  it('interlaced PNG (Adam7) reads as pngjs reads it', async () => {
    // 4 × 4 greys, interlaced, made by hand: seven passes of unfiltered rows.
    const { deflateSync } = await import('node:zlib');
    const { crc32 } = await import('../archive/zip.ts');
    const value = (x: number, y: number) => x * 16 + y * 60;
    const passes = [
      [0, 0, 8, 8],
      [4, 0, 8, 8],
      [0, 4, 4, 8],
      [2, 0, 4, 4],
      [0, 2, 2, 4],
      [1, 0, 2, 2],
      [0, 1, 1, 2],
    ];
    const rows: number[] = [];
    for (const [x0, y0, dx, dy] of passes)
      for (let y = y0; y < 4; y += dy) {
        if (x0 >= 4) continue;
        rows.push(0);
        for (let x = x0; x < 4; x += dx) rows.push(value(x, y));
      }
    const chunk = (name: string, data: Uint8Array) => {
      const body = new Uint8Array([...text(name), ...data]);
      const out = new Uint8Array(body.length + 8);
      new DataView(out.buffer).setUint32(0, data.length);
      out.set(body, 4);
      new DataView(out.buffer).setUint32(body.length + 4, crc32(body));
      return out;
    };
    const file = new Uint8Array([
      ...[0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a],
      ...chunk('IHDR', new Uint8Array([0, 0, 0, 4, 0, 0, 0, 4, 8, 0, 0, 0, 1])),
      ...chunk('IDAT', new Uint8Array(deflateSync(Buffer.from(rows)))),
      ...chunk('IEND', new Uint8Array()),
    ]);
    const ours = await readImage(file, 'a.png');
    expect([...ours.data]).toEqual([...PNG.sync.read(Buffer.from(file)).data]);
    expect(ours.data[(2 * 4 + 3) * 4]).toBe(value(3, 2));
  });

  // Outside references: fast-bmp and @lunapaint/tga-codec.
  it('BMP and TGA read as second decoders read them', async () => {
    const bmp = new Uint8Array(
      encodeBmp({
        data: Buffer.from(Uint8Array.from(photo.data, (_, i) => photo.data[i - (i % 4) + [3, 2, 1, 0][i % 4]])),
        width: 20,
        height: 12,
        bitPP: 24,
      } as never).data,
    );
    const second = decodeFastBmp(bmp);
    const rgb = [...(await readImage(bmp, 'a.bmp')).data].filter((_, i) => i % 4 !== 3);
    expect(rgb).toEqual([...(second.data as Uint8Array)]);
    const header = (type: number, bits: number, flags: number) => {
      const out = new Uint8Array(18);
      out[2] = type;
      new DataView(out.buffer).setUint16(12, 20, true);
      new DataView(out.buffer).setUint16(14, 12, true);
      out[16] = bits;
      out[17] = flags;
      return out;
    };
    const bgra = Uint8Array.from(photo.data, (_, i) => photo.data[i - (i % 4) + [2, 1, 0, 3][i % 4]]);
    const bgr = bgra.filter((_, i) => i % 4 !== 3);
    const runs = new Uint8Array([...header(10, 24, 0x20), ...Array.from({ length: 240 / 20 }, (_, y) => [0x80 | 19, y, 2 * y, 3 * y]).flat()]);
    for (const file of [
      new Uint8Array([...header(2, 24, 0x20), ...bgr]),
      new Uint8Array([...header(2, 32, 0x28), ...bgra]),
      new Uint8Array([...header(2, 24, 0), ...bgr]),
      runs,
    ]) {
      const theirs = await decodeTga(file);
      expect([...(await readImage(file, 'a.tga')).data]).toEqual([...theirs.image.data]);
    }
  });

  it('JPEG, upright whatever its orientation says', async () => {
    const jpeg = new Uint8Array(encodeJpeg({ width: 8, height: 8, data: Buffer.from(flat(8, 8, [200, 100, 50, 255]).data) }, 95).data);
    expect(Math.abs((await readImage(jpeg, 'a.jpg')).data[0] - 200)).toBeLessThan(6);
    // A left-to-right pair of pixels under each of the eight orientations of Exif 2.3.
    const pair: Picture = { width: 2, height: 1, data: Uint8Array.from([1, 0, 0, 255, 2, 0, 0, 255]) };
    const order = (orientation: number) => {
      const out = upright(pair, orientation);
      return [out.width, out.height, out.data[0]];
    };
    expect([1, 2, 3, 4, 5, 6, 7, 8].map(order)).toEqual([
      [2, 1, 1],
      [2, 1, 2],
      [2, 1, 2],
      [2, 1, 1],
      [1, 2, 1],
      [1, 2, 1],
      [1, 2, 2],
      [1, 2, 2],
    ]);
    // Orientation 6 in an Exif segment: the picture lies on its side.
    const exif = [0xff, 0xe1, 0, 34, ...text('Exif\0\0'), 0x4d, 0x4d, 0, 42, 0, 0, 0, 8, 0, 1, 1, 0x12, 0, 3, 0, 0, 0, 1, 0, 6, 0, 0, 0, 0, 0, 0];
    const wide = new Uint8Array(encodeJpeg({ width: 16, height: 8, data: Buffer.from(flat(16, 8, [9, 9, 9, 255]).data) }, 95).data);
    const turned = await readImage(new Uint8Array([...wide.slice(0, 2), ...exif, ...wide.slice(2)]), 'turned.jpg');
    expect([turned.width, turned.height]).toEqual([8, 16]);
  });

  it('GIF, TIFF and WebP', async () => {
    // Outside reference: omggif writes it and reads it as well.
    const noise = Array.from({ length: 90 * 70 }, (_, i) => (Math.imul(i, 2654435761) >>> 20) % 16);
    const buffer = new Uint8Array(20000);
    const writer = new omggif.GifWriter(buffer as unknown as Buffer, 90, 70, { palette: Array.from({ length: 16 }, (_, i) => i * 0x0f1103) });
    writer.addFrame(0, 0, 90, 70, noise);
    const file = buffer.slice(0, writer.end());
    const theirs = new Uint8Array(90 * 70 * 4);
    new omggif.GifReader(file as unknown as Buffer).decodeAndBlitFrameRGBA(0, theirs);
    expect([...(await readImage(file, 'a.gif')).data]).toEqual([...theirs]);
    const tiff = new Uint8Array(UTIF.encodeImage(photo.data.slice(), 20, 12));
    alike((await readImage(tiff, 'a.tif')).data, photo.data, 0);
    // A lossless WebP (RFC 9649) of two red and two blue columns, as Chromium encodes it.
    const chunk = Buffer.from('VlA4TBkAAAAvA0AAAA9wKOyDoBZ0/oODQgABUNBE9D8eAA==', 'base64');
    const webp = await readImage(new Uint8Array([...text('RIFF'), 4 + chunk.length, 0, 0, 0, ...text('WEBP'), ...chunk]), 'a.webp');
    expect([webp.width, webp.height, ...webp.data.slice(4, 12)]).toEqual([4, 2, 0xc8, 0x28, 0x40, 255, 0x20, 0x50, 0xa0, 255]);
  });

  it('says what a file is not, by its first bytes', async () => {
    await expect(readImage(text('GIMP none'), 'fake.png')).rejects.toThrow(/fake\.png is not a PNG file.*47 49 4d 50.*byte 0/);
    await expect(readImage(new Uint8Array(), 'empty.jpg')).rejects.toThrow(/not a JPEG/);
    // What a file is decides, not what it is called.
    expect((await readImage(png, 'really.jpg')).width).toBe(20);
  });

  it('PNG without looking into what its pixels do not need, nor at more pixels than it has', async () => {
    const chunk = (name: string, data: Uint8Array) => {
      const out = Buffer.alloc(12 + data.length);
      out.writeUInt32BE(data.length, 0);
      out.write(name, 4, 'latin1');
      out.set(data, 8);
      out.writeUInt32BE(crc32(out.subarray(4, 8 + data.length)), 8 + data.length);
      return out;
    };
    const plain = encode({ width: 2, height: 1, data: Uint8Array.of(1, 2, 3, 4, 5, 6), channels: 3, depth: 8 });
    const idat = Buffer.from(plain).indexOf('IDAT') - 4;
    // A profile that is no profile, and 30 MB of pixels behind those of two.
    const pixels = chunk('IDAT', zlibSync(Uint8Array.from({ length: 30_000_000 }, (_, i) => (i < 7 ? i : 0))));
    const odd = Buffer.concat([plain.subarray(0, idat), chunk('iCCP', text('x\0\0not packed at all')), pixels, chunk('IEND', new Uint8Array())]);
    expect((await readImage(new Uint8Array(odd), 'a.png')).data).toEqual(Uint8Array.of(1, 2, 3, 255, 4, 5, 6, 255));
    const torn = odd.slice();
    torn[torn.indexOf('IDAT') + 9] ^= 1;
    await expect(readImage(new Uint8Array(torn), 'a.png')).rejects.toThrow(/IDAT does not match its checksum/);
  });

  it('refuses a huge declared size before unpacking', async () => {
    const huge = png.slice();
    new DataView(huge.buffer).setUint32(16, 60000);
    new DataView(huge.buffer).setUint32(20, 60000);
    await expect(readImage(huge, 'huge.png')).rejects.toThrow(/60000 × 60000.*byte 16/);
    const tga = new Uint8Array(18);
    tga.set([0, 0, 2]);
    tga.set([0xff, 0xff, 0xff, 0xff, 24], 12);
    await expect(readImage(tga, 'huge.tga')).rejects.toThrow(/65535 × 65535/);
    // Pixels that are missing are found before room is taken for all that are declared.
    for (const type of [2, 10]) {
      const cut = new Uint8Array(40);
      cut.set([0, 0, type]);
      cut.set([0, 32, 0, 32, 24], 12);
      const before = process.cpuUsage().user;
      await expect(readImage(cut, 'cut.tga')).rejects.toThrow(/fewer pixels than it declares/);
      expect((process.cpuUsage().user - before) / 1e6).toBeLessThan(0.5);
    }
    const tiff = (strip: number, length: number) => {
      const out = new DataView(new ArrayBuffer(8 + 2 + 9 * 12 + 4 + length));
      out.setUint32(0, 0x49492a00);
      out.setUint32(4, 8, true);
      out.setUint16(8, 9, true);
      const entries = [
        [256, 512],
        [257, 512],
        [258, 8],
        [259, 1],
        [262, 1],
        [273, 122],
        [277, 1],
        [278, 512],
        [279, strip],
      ];
      entries.forEach(([tag, value], i) => {
        out.setUint16(10 + i * 12, tag, true);
        out.setUint16(12 + i * 12, 4, true);
        out.setUint32(14 + i * 12, 1, true);
        out.setUint32(18 + i * 12, value, true);
      });
      return new Uint8Array(out.buffer);
    };
    expect(await readImage(tiff(512 * 512, 512 * 512), 'a.tif')).toMatchObject({ width: 512, height: 512 });
    await expect(readImage(tiff(512 * 512, 100), 'cut.tif')).rejects.toThrow(/fewer pixels/);
    await expect(readImage(tiff(100, 100), 'short.tif')).rejects.toThrow(/fewer pixels/);
  });
});
