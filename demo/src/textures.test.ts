import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import { read } from 'ktx-parse';
import { convertTexture } from '@violet-crate/core/asset/texture/convert';
import { loadProfile } from '@violet-crate/core/profile/load';
import { paintTexture, TEXTURES } from './textures.ts';

const profile = loadProfile(readFileSync(new URL('../../core/profiles/brinewick.json', import.meta.url), 'utf8'), 'brinewick.json');

interface Transcoder {
  initializeBasis(): void;
  KTX2File: new (bytes: Uint8Array) => {
    isValid(): boolean;
    getLevels(): number;
    startTranscoding(): boolean;
    getImageTranscodedSizeInBytes(level: number, layer: number, face: number, format: number): number;
    transcodeImage(
      target: Uint8Array,
      level: number,
      layer: number,
      face: number,
      format: number,
      unused: number,
      first: number,
      second: number,
    ): boolean;
    delete(): void;
  };
}

/** The Basis Universal transcoder that ships with three; format 13 is RGBA with 8 bits each. */
async function transcoder(): Promise<Transcoder> {
  const folder = join(dirname(createRequire(import.meta.url).resolve('three')), '../examples/jsm/libs/basis');
  const source = readFileSync(join(folder, 'basis_transcoder.js'), 'utf8');
  // A classic script that expects Node's require; it is no module.
  const load = new Function('require', '__dirname', `${source}; return BASIS;`)(createRequire(import.meta.url), folder) as (
    options: object,
  ) => Promise<Transcoder>;
  const module = await load({ wasmBinary: readFileSync(join(folder, 'basis_transcoder.wasm')) });
  module.initializeBasis();
  return module;
}

function psnr(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) if (i % 4 !== 3) sum += (a[i] - b[i]) ** 2;
  return 10 * Math.log10(255 ** 2 / (sum / ((a.length * 3) / 4)));
}

describe('stock textures', () => {
  // Outside references: ktx-parse for the container, the Basis transcoder for the pixels.
  it('KTX2 parses, has all mip levels, and decodes above 38 dB, for every demo texture', async () => {
    const basis = await transcoder();
    for (const [name, painter] of Object.entries(TEXTURES)) {
      const { ktx2, picture } = await convertTexture(profile, `${name}.png`, paintTexture(painter, 64));
      const container = read(ktx2);
      expect(container.pixelWidth).toBe(64);
      expect(container.levels).toHaveLength(7);
      const file = new basis.KTX2File(ktx2);
      expect(Boolean(file.isValid() && file.startTranscoding())).toBe(true);
      const decoded = new Uint8Array(file.getImageTranscodedSizeInBytes(0, 0, 0, 13));
      expect(Boolean(file.transcodeImage(decoded, 0, 0, 0, 13, 0, -1, -1))).toBe(true);
      file.delete();
      expect(psnr(picture.data, decoded)).toBeGreaterThan(38);
    }
  });

  it('tile without a seam: the step over the edge is like the steps within', () => {
    for (const painter of Object.values(TEXTURES)) {
      const step = (u: number) => {
        let sum = 0;
        for (let i = 0; i < 64; i++) {
          const [a, b] = [painter(u - 1 / 512, (i + 0.5) / 64), painter((u + 1 / 512) % 1, (i + 0.5) / 64)];
          sum += Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
        }
        return sum / 64;
      };
      const within = Array.from({ length: 31 }, (_, k) => step((k + 1) / 32));
      expect(step(1)).toBeLessThanOrEqual(Math.max(...within) * 1.5 + 12);
    }
  });
});
