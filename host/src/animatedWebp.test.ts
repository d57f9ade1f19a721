import { describe, expect, it } from '@jest/globals';
import sharp from 'sharp';
import { animatedWebp } from './animatedWebp.ts';

const frame = (red: number) => {
  const data = new Uint8Array(32 * 18 * 3);
  for (let i = 0; i < data.length; i += 3) data[i] = red;
  return { width: 32, height: 18, data };
};

/** Chunks of a WebP by name. Outside reference: RFC 9649, "WebP Image Format", sections 2.3 to 2.7. */
function chunks(bytes: Uint8Array): [name: string, content: DataView][] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const word = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
  expect([word(0), word(8), view.getUint32(4, true)]).toEqual(['RIFF', 'WEBP', bytes.length - 8]);
  const found: [string, DataView][] = [];
  for (let at = 12; at < bytes.length;) {
    const length = view.getUint32(at + 4, true);
    found.push([word(at), new DataView(bytes.buffer, bytes.byteOffset + at + 8, length)]);
    at += 8 + length + (length & 1);
  }
  return found;
}
const uint24 = (view: DataView, at: number) => view.getUint16(at, true) | (view.getUint8(at + 2) << 16);

describe('an animated WebP', () => {
  it('holds its frames one after the other, each for its time, and goes on for ever', async () => {
    const bytes = await animatedWebp([frame(0), frame(120), frame(240)], 8);
    const found = chunks(bytes);
    const [, head] = found.find(([name]) => name === 'VP8X')!;
    expect([head.getUint8(0) & 2, uint24(head, 4) + 1, uint24(head, 7) + 1]).toEqual([2, 32, 18]);
    expect(found.find(([name]) => name === 'ANIM')![1].getUint16(4, true)).toBe(0);
    const frames = found.filter(([name]) => name === 'ANMF').map(([, content]) => uint24(content, 12));
    expect(frames).toEqual([125, 125, 125]);
    const { data, info } = await sharp(bytes, { animated: true }).raw().toBuffer({ resolveWithObject: true });
    expect([info.width, info.height]).toEqual([32, 54]);
    for (const [n, red] of [0, 120, 240].entries()) expect(Math.abs(data[n * 32 * 18 * info.channels] - red)).toBeLessThan(6);
  });

  it('the same frames are the same bytes', async () => {
    const make = () => animatedWebp([frame(10), frame(200)], 8);
    expect(Buffer.from(await make()).equals(Buffer.from(await make()))).toBe(true);
  });
});
