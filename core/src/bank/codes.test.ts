/** Checksums, packing, whole numbers and texts of banks, against catalogues and other people's libraries. */

import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateRawSync, inflateRawSync } from 'node:zlib';
import { describe, expect, it } from '@jest/globals';
import { checksum, CHECKSUMS, type ChecksumKind } from './checksum.ts';
import { integerRange, readInteger, writeInteger } from './integers.ts';
import { pack, packLz4, unpack, unpackLz4 } from './packing.ts';
import { readText, writeText } from './texts.ts';

const latin = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
let seed = 11;
const random = (below: number): number => {
  seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
  return (seed >>> 8) % below;
};
/** Bytes with repetitions, as game data has them. */
const sample = (length: number): Uint8Array => {
  const bytes = new Uint8Array(length);
  for (let i = 0; i < length;) {
    if (i > 20 && random(3) > 0) {
      const [from, count] = [random(i), 1 + random(60)];
      for (let n = 0; n < count && i < length; n++, i++) bytes[i] = bytes[from + n];
    } else bytes[i++] = random(256);
  }
  return bytes;
};

describe('checksums', () => {
  // Outside reference: G. Cook, "Catalogue of parametrised CRC algorithms": the check values of "123456789"; from memory.
  const CHECKS: Partial<Record<ChecksumKind, number>> = {
    'CRC-16/ARC': 0xbb3d,
    'CRC-16/IBM-3740': 0x29b1,
    'CRC-16/IBM-SDLC': 0x906e,
    'CRC-16/KERMIT': 0x2189,
    'CRC-16/MODBUS': 0x4b37,
    'CRC-16/USB': 0xb4c8,
    'CRC-16/XMODEM': 0x31c3,
    'CRC-32/BZIP2': 0xfc891918,
    'CRC-32/CKSUM': 0x765e7680,
    'CRC-32/ISCSI': 0xe3069283,
    'CRC-32/ISO-HDLC': 0xcbf43926,
    'CRC-32/JAMCRC': 0x340bc6d9,
    'CRC-32/MPEG-2': 0x0376e6e7,
  };
  const nine = latin('123456789');
  it.each(Object.entries(CHECKS))('%s has the check value of the catalogue', (kind, value) => {
    expect(checksum(kind as ChecksumKind, nine, [[0, 9]])).toBe(value);
    expect(
      checksum(kind as ChecksumKind, nine, [
        [0, 4],
        [4, 9],
      ]),
    ).toBe(value);
  });
  it('every kind that there is was held to one, but for the sums', () => {
    expect(Object.keys(CHECKSUMS).filter((kind) => !Object.hasOwn(CHECKS, kind))).toEqual(['SUM8', 'SUM16', 'SUM32']);
    const bytes = new Uint8Array(600).fill(250);
    expect((['SUM8', 'SUM16', 'SUM32'] as const).map((kind) => checksum(kind, bytes, [[0, 600]]))).toEqual([150000 % 256, 150000 % 65536, 150000]);
  });
});

describe('packing', () => {
  it('LZ4: what is packed is unpacked to the same, of any length and content', () => {
    for (const length of [0, 1, 4, 11, 12, 13, 100, 4000, 70_000]) {
      const bytes = sample(length);
      const packed = packLz4(bytes);
      expect(Buffer.from(unpackLz4(packed, length)!).equals(Buffer.from(bytes))).toBe(true);
      if (length >= 4000) expect(packed.length).toBeLessThan(length);
    }
  });

  // Outside reference: the lz4 program of Debian, which npm test installs; its frames hold the same blocks.
  it('LZ4: the reference program reads our blocks, and we read its', () => {
    const folder = mkdtempSync(join(tmpdir(), 'violet-lz4-'));
    try {
      for (const length of [13, 1000, 60_000]) {
        const bytes = sample(length);
        const [plain, framed] = [join(folder, 'plain'), join(folder, 'framed')];
        writeFileSync(plain, bytes);
        execFileSync('/usr/bin/lz4', ['-q', '-f', '--no-frame-crc', plain, framed]);
        const frame = readFileSync(framed);
        // Frame: magic, FLG, BD, HC, then blocks of four bytes of length, the highest bit set where it is not packed (LZ4 Frame Format 1.6.1).
        const at = 7 + (frame[4] & 8 ? 8 : 0);
        const size = frame.readUInt32LE(at);
        const block = frame.subarray(at + 4, at + 4 + (size & 0x7fffffff));
        const theirs = size >>> 31 ? block : unpackLz4(block, length)!;
        expect(Buffer.from(theirs).equals(Buffer.from(bytes))).toBe(true);
        const ours = packLz4(bytes);
        const head = Buffer.from([...frame.subarray(0, at)]);
        const sizes = Buffer.alloc(4);
        sizes.writeUInt32LE(ours.length);
        writeFileSync(framed, Buffer.concat([head, sizes, ours, Buffer.alloc(4)]));
        expect(execFileSync('/usr/bin/lz4', ['-q', '-d', '-c', framed]).equals(Buffer.from(bytes))).toBe(true);
      }
    } finally {
      rmSync(folder, { recursive: true });
    }
  });

  it('DEFLATE: zlib reads ours, and we read its', () => {
    const bytes = sample(9000);
    expect(inflateRawSync(pack('deflate', bytes)).equals(Buffer.from(bytes))).toBe(true);
    expect(Buffer.from(unpack('deflate', deflateRawSync(bytes), 9000, 0)).equals(Buffer.from(bytes))).toBe(true);
  });

  it('damaged blocks are refused, whatever their bytes, and never grow beyond what was said', () => {
    const whole = packLz4(sample(400));
    let refused = 0;
    for (let n = 0; n < 3000; n++) {
      const block = n % 2 === 0 ? whole.slice() : Uint8Array.from({ length: random(40) }, () => random(256));
      if (block.length > 0) block[random(block.length)] ^= 1 + random(255);
      const out = unpackLz4(block, 400);
      if (out) expect(out).toHaveLength(400);
      else refused++;
    }
    // A byte that is copied as it is changes nothing but itself; most others do.
    expect(refused).toBeGreaterThan(1500);
    expect(refused).toBeLessThan(3000);
    expect(unpackLz4(whole, 400)).toHaveLength(400);
    expect(() => unpack('deflate', new Uint8Array([1, 2, 3]), 10, 77)).toThrow('What is packed at byte 77 is damaged.');
    expect(() => unpack('lz4', new Uint8Array(), 2 ** 31, 5)).toThrow(/would come to 2147483648 bytes/);
  });
});

describe('whole numbers', () => {
  it('of 1 to 8 bytes in either order, signed or not, as DataView has them', () => {
    const bytes = new Uint8Array(16).map(() => random(256));
    const view = new DataView(bytes.buffer);
    expect(readInteger(bytes, 1, 2, 'little')).toBe(BigInt(view.getUint16(1, true)));
    expect(readInteger(bytes, 1, 4, 'big', true)).toBe(BigInt(view.getInt32(1)));
    expect(readInteger(bytes, 3, 8, 'little', true)).toBe(view.getBigInt64(3, true));
    expect(readInteger(bytes, 3, 8, 'big')).toBe(view.getBigUint64(3));
    for (let count = 1; count <= 8; count++)
      for (const order of ['little', 'big'] as const)
        for (const signed of [false, true])
          for (const value of integerRange(count, signed)) {
            writeInteger(bytes, 2, count, order, value);
            expect(readInteger(bytes, 2, count, order, signed)).toBe(value);
          }
  });
});

describe('texts', () => {
  const layout = {
    runs: { '20': ' ', '41': 'ABCDEFGHIJKLMNOPQRSTUVWXYZ', '61': 'abcdefghijklmnopqrstuvwxyz', '80': 'é', f001: 'αβγ' },
    controls: { '\n': 'fd', '{wait %}': 'fc', '{name}': 'fb01' },
    end: '00',
  };
  const read = (...values: number[]) => readText(Uint8Array.from(values), 0, layout, values.length);

  it('letters, letters of two bytes, controls with their bytes, and bytes that are none', () => {
    const bytes = [0x41, 0xf0, 0x02, 0xfd, 0xfc, 0x1e, 0xfb, 0x01, 0x99, 0x20, 0x00];
    expect(read(...bytes)).toEqual({ text: 'Aβ\n{wait 1e}{name}{x99} ', bytes: 11 });
    expect([...writeText('Aβ\n{wait 1e}{name}{x99} ', layout), 0]).toEqual(bytes);
  });

  it('are taken in the composed form, however they were typed', () => {
    // Outside reference: Unicode Standard Annex #15, figure 4: e with acute, composed and not.
    expect(writeText('e\u0301', layout)).toEqual([0x80]);
    expect(writeText('\u00e9', layout)).toEqual([0x80]);
  });

  it('any bytes read as a text are written as the same bytes', () => {
    for (let n = 0; n < 2000; n++) {
      // But for the control that takes a byte with it: at the end it would take the mark.
      const bytes = Array.from({ length: random(20) }, () => 1 + random(255)).filter((byte) => byte !== 0xfc);
      const { text } = read(...bytes, 0);
      expect(writeText(text, layout)).toEqual(bytes);
    }
  });

  it('a letter that the game lacks is told; a text without an end too', () => {
    expect(() => writeText('Kit 4', layout)).toThrow('"4" at letter 5 of "Kit 4" is none of the game');
    expect(() => read(0x41, 0x42)).toThrow('The text at byte 0 has no end within 2 bytes.');
  });
});
