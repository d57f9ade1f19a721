/** Masks of surfaces by a second decoder, and a ground as a model by the validator. */

import { describe, expect, it } from '@jest/globals';
import { PNG } from 'pngjs';
import { writeGlb } from '../../asset/mesh/write/writeGlb.ts';
import { newModel } from '../../asset/mesh/model/model.ts';
import { applyEdit } from '../../document/edit.ts';
import { glbErrors } from '../../testing/glb.ts';
import { shaped, terrain } from '../../testing/terrains.ts';
import { groundOf } from '../ground.ts';
import { groundParts } from './groundModel.ts';
import { coverByMask, readMask, writeMask } from './masks.ts';

const grey = (width: number, height: number, at: (x: number, y: number) => number): Uint8Array => {
  const png = new PNG({ width, height, colorType: 0, inputColorType: 0, bitDepth: 8 });
  png.data = Buffer.from(Uint8Array.from({ length: width * height }, (_, k) => at(k % width, Math.floor(k / width))));
  return PNG.sync.write(png, { colorType: 0, inputColorType: 0 });
};

describe('masks', () => {
  const { map, ground } = shaped(terrain([150, 140]), (i, j) => Math.sin(i / 9) * 4 + j * 0.05);

  it('cover as they are white, read back by another decoder, the first row at the greatest y', () => {
    const mask = readMask(
      grey(150, 140, (x, y) => (y < 70 ? Math.round((x / 149) * 255) : 0)),
      'rock.png',
      ground,
    );
    const next = groundOf(applyEdit(map, { name: 'mask', changes: coverByMask(ground, 'rock', mask) }), 'e1')!;
    expect(next.weightsAt(149, 139)).toEqual([0, 1]);
    expect(next.weightsAt(75, 100)[1]).toBeCloseTo(75 / 149, 2);
    expect(next.weightsAt(75, 10)).toEqual([1, 0]);
    const out = PNG.sync.read(Buffer.from(writeMask(next, 'rock')));
    expect([out.width, out.height, out.data[0], out.data[149 * 4], out.data[139 * 150 * 4]]).toEqual([150, 140, 0, 255, 0]);
    const snow = PNG.sync.read(Buffer.from(writeMask(next, 'snow')));
    for (let k = 0; k < 150 * 140; k++) expect(Math.abs(out.data[k * 4] + snow.data[k * 4] - 255)).toBeLessThanOrEqual(1);
  });

  it('of the wrong size, in colour, deeper or no PNG are refused with what is wanted', () => {
    const refusal = (bytes: Uint8Array) => {
      try {
        readMask(bytes, 'rock.png', ground);
      } catch (error) {
        return error as { code: string; message: string; hint: string };
      }
      return null;
    };
    expect(refusal(grey(64, 64, () => 0))).toMatchObject({
      code: 'mask-size',
      message: expect.stringContaining('64 × 64'),
      hint: expect.stringContaining('150 × 140'),
    });
    const colour = new PNG({ width: 150, height: 140 });
    expect(refusal(PNG.sync.write(colour))).toMatchObject({ code: 'mask-depth', message: expect.stringContaining('in colour') });
    expect(refusal(PNG.sync.write(colour, { bitDepth: 16, colorType: 0 }))).toMatchObject({
      code: 'mask-depth',
      message: expect.stringContaining('16 bits'),
    });
    expect(refusal(new TextEncoder().encode('no picture at all, but long enough to be one'))).toMatchObject({ code: 'mask-format' });
    expect(refusal(grey(150, 140, () => 9).slice(0, 60))).toMatchObject({ message: expect.stringContaining('rock.png') });
  });
});

describe('a ground as a model', () => {
  it('passes the validator, in metres, with all of its area and its corners in the texture’s corners', async () => {
    const { ground } = shaped(terrain([65, 33], { spacing: 2 }), (i, j) => Math.sin(i / 5) + Math.cos(j / 4));
    const model = {
      ...newModel(),
      materials: { snow: { colour: [1, 1, 1, 1] as [number, number, number, number] } },
      parts: groundParts(ground, 0, 0.5, ['snow', 'rock']),
    };
    expect(await glbErrors(await writeGlb({ model, lods: [], collision: null, slots: [] }))).toEqual([]);
    const [{ positions, uvs, indices, normals }] = model.parts;
    let area = 0;
    for (let t = 0; t < indices.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => indices[t + k] * 3);
      area +=
        ((positions[b] - positions[a]) * -(positions[c + 2] - positions[a + 2]) -
          (positions[c] - positions[a]) * -(positions[b + 2] - positions[a + 2])) /
        2;
    }
    // 128 × 64 units of half a metre.
    expect(area).toBeCloseTo(64 * 32, 3);
    expect([Math.min(...uvs!), Math.max(...uvs!)]).toEqual([0, 1]);
    for (let k = 1; k < normals!.length; k += 3) expect(normals![k]).toBeGreaterThan(0);
  });

  it('is coarser where it may be', () => {
    const { ground } = shaped(terrain([129, 129]), (i, j) => Math.sin(i / 20) * 3 + Math.cos(j / 25) * 2);
    const count = (error: number) => groundParts(ground, error, 1, ['snow', 'rock'])[0].indices.length / 3;
    expect(count(0)).toBeGreaterThan(30_000);
    expect(count(0.2)).toBeLessThan(count(0) / 4);
  });
});
