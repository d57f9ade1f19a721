/** A small made-up bank for tests: people with parties, texts that share their ends, a packed list, checksums, and bytes that nobody knows. */

import { checksum } from './checksum.ts';
import { writeInteger } from './integers.ts';
import type { BankLayout } from './layout.ts';
import { packLz4 } from './packing.ts';

export const LAYOUT: BankLayout = {
  format: 1,
  id: 'small',
  title: 'A small bank',
  order: 'little',
  known: [{ version: '1', bytes: 2048 }],
  texts: {
    plain: {
      runs: { '20': ' ', '41': 'ABCDEFGHIJKLMNOPQRSTUVWXYZ', '61': 'abcdefghijklmnopqrstuvwxyz', e0: 'äöüÄÖÜß' },
      controls: { '\n': 'fd', '{wait %}': 'fc' },
      end: '00',
    },
  },
  records: {
    person: {
      key: 'name',
      bytes: 16,
      fields: [
        { name: 'name', is: 'pointer', pointer: { bytes: 2 }, to: { is: 'text', text: 'plain' } },
        {
          name: 'looks',
          is: 'bits',
          bytes: 1,
          parts: [
            { name: 'turn', from: 0, count: 2 },
            { name: 'sees', from: 2, count: 4 },
          ],
        },
        { name: 'size', is: 'number', bytes: 1 },
        { name: 'party', is: 'pointer', pointer: { bytes: 2, none: 0 }, to: { is: 'list', record: 'member', count: { field: 'size' } } },
        { name: 'speed', is: 'number', bytes: 2, signed: true, fraction: 8 },
        { name: 'tag', is: 'text', text: 'plain', bytes: 4 },
      ],
    },
    member: {
      fields: [
        { name: 'kind', is: 'number', bytes: 1 },
        { name: 'level', is: 'number', bytes: 1 },
        { name: 'kit', is: 'number', bytes: 2, order: 'big' },
      ],
    },
    step: {
      fields: [
        { name: 'does', is: 'number', bytes: 1 },
        { name: 'far', is: 'number', bytes: 1, signed: true },
      ],
    },
    scene: {
      fields: [
        {
          name: 'steps',
          is: 'pointer',
          pointer: { bytes: 2, window: { size: 1024, number: 'after' } },
          to: { is: 'list', record: 'step', count: { end: 'ff' } },
        },
        {
          name: 'lines',
          is: 'pointer',
          pointer: { bytes: 3, none: 0 },
          to: { is: 'packed', by: 'lz4', holds: { is: 'list', record: 'member', count: 12 } },
        },
      ],
    },
  },
  sections: [
    { name: 'people', record: 'person', at: 16, count: { at: 4, bytes: 2 }, most: 6 },
    { name: 'scenes', record: 'scene', by: { at: 8, pointer: { bytes: 2 } }, count: { end: 'eeee' } },
  ],
  free: { fill: 255, regions: [[1024, 2000]], align: 4, margin: 2 },
  checksums: [{ at: 12, kind: 'CRC-16/ARC', over: [[16, 2048]] }],
};

const latin = (text: string): number[] => [...text].map((letter) => letter.charCodeAt(0));

/** @returns the bank's bytes, and the place of everything in it */
export function smallBank(): Uint8Array {
  const bytes = new Uint8Array(2048).fill(255);
  const put = (at: number, values: readonly number[]): void => bytes.set(values, at);
  const word = (at: number, value: number, count = 2): void => writeInteger(bytes, at, count, 'little', BigInt(value));
  put(0, latin('BANK'));
  word(4, 3);
  word(6, 0x1234);
  word(8, 320);
  word(10, 0);
  // Names: "Ada", "Old Ada" with the end shared, "Wil".
  put(200, [...latin('Old Ada'), 0, ...latin('Wil'), 0]);
  const person = (n: number, name: number, party: number, size: number): void => {
    const at = 16 + n * 16;
    bytes.fill(0x77, at, at + 16);
    word(at, name);
    put(at + 2, [0b11_0101_10, size]);
    word(at + 4, party);
    word(at + 6, 0x0180);
    put(at + 8, [...latin('ab'), 0, 0]);
  };
  person(0, 200, 240, 3);
  person(1, 204, 252, 1);
  person(2, 208, 0, 0);
  bytes.fill(0, 64, 112);
  put(240, [1, 10, 0, 5, 2, 12, 1, 0, 3, 14, 0, 9]);
  put(252, [7, 40, 0, 0]);
  // Two scenes and the mark of their end; steps and a packed list behind.
  put(320, [376 & 255, 376 >> 8, 0, 0, 0, 0]);
  put(326, [380 & 255, 380 >> 8, 0, 0, 0, 0]);
  word(329, 400, 3);
  put(332, [0xee, 0xee]);
  put(376, [1, 5, 2, 0xff]);
  put(378, [2, 250, 0xff]);
  put(380, [3, 1, 4, 2, 0xff]);
  const lines = Uint8Array.from(Array.from({ length: 12 }, (_, n) => [n % 3, 5, 0, 1]).flat());
  const packed = packLz4(lines);
  word(400, lines.length, 4);
  word(404, packed.length, 4);
  put(408, [...packed]);
  // What nobody knows, with fill bytes of its own, and a byte right before the free region.
  put(700, [9, 9, 255, 255, 255, 255, 255, 255, 255, 255, 9]);
  bytes[1500] = 42;
  word(12, checksum('CRC-16/ARC', bytes, [[16, 2048]]));
  return bytes;
}
