import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { UnreadableInput } from '../../unreadable.ts';
import { crc32, listZip, readZip, writeZip, writeZipApart } from './zip.ts';

const text = (s: string) => new TextEncoder().encode(s);
const sample = () =>
  writeZip(
    new Map([
      ['crate.json', text('{}')],
      ['scripts/main.lua', text('-- '.repeat(500))],
      ['textures/a.png', new Uint8Array(999).fill(7)],
    ]),
  );

/** The offset of the central directory's entry with this name. */
function directoryEntry(zip: Uint8Array, name: string): number {
  const wanted = text(name);
  const view = new DataView(zip.buffer, zip.byteOffset);
  for (let i = 0; i < zip.length - 46; i++) {
    if (view.getUint32(i, true) === 0x02014b50 && wanted.every((b, k) => zip[i + 46 + k] === b)) return i;
  }
  throw new Error('no such entry');
}

describe('ZIP', () => {
  // Outside reference: check value of CRC-32/ISO-HDLC in the CRC catalogue.
  it('CRC-32 of 123456789 is cbf43926', () => {
    expect(crc32(text('123456789')).toString(16)).toBe('cbf43926');
  });

  // Outside reference: Info-ZIP's unzip.
  it('is accepted by unzip -t', () => {
    const file = join(mkdtempSync(join(tmpdir(), 'violet-zip-')), 'a.zip');
    writeFileSync(file, sample());
    expect(execFileSync('unzip', ['-t', file]).toString()).toContain('No errors detected');
  });

  it('refuses a file that is a folder too, which no disk can hold', () => {
    const both = writeZip(
      new Map([
        ['a', text('x')],
        ['a/b/c', text('x')],
      ]),
    );
    expect(() => readZip(both, 'x.zip')).toThrow(/"a" is a file and a folder/);
  });

  it('refuses what would unpack to hundreds of times its size, and takes as much of what does not shrink', () => {
    const zeros = writeZip(new Map([['a.bmp', new Uint8Array(70 << 20)]]));
    expect(zeros.length).toBeLessThan(200_000);
    expect(() => listZip(zeros, 'x.zip')).toThrow(/unpack to more than 200 times/);
    const picture = writeZip(new Map([['a.bmp', new Uint8Array(20 << 20)]]));
    expect(listZip(picture, 'x.zip')).toHaveLength(1);
  });

  it('comes back as it went in, and equal trees give equal bytes', () => {
    const tree = readZip(sample(), 'a.zip');
    expect([...tree.keys()]).toEqual(['crate.json', 'scripts/main.lua', 'textures/a.png']);
    expect(tree.get('textures/a.png')).toEqual(new Uint8Array(999).fill(7));
    expect(sample()).toEqual(sample());
  });

  // Outside reference: Info-ZIP's unzip.
  it('packed by the platform is the same files, accepted by unzip -t, and no larger', async () => {
    const tree = new Map([
      ['ünder/empty.txt', text('')],
      ['scripts/main.lua', text('-- '.repeat(90_000))],
      ['textures/a.png', Uint8Array.from({ length: 70_000 }, (_, i) => (i * i) % 251)],
    ]);
    const zip = await writeZipApart(tree);
    expect(readZip(zip, 'a.zip')).toEqual(tree);
    expect(await writeZipApart(new Map([...tree].reverse()))).toEqual(zip);
    expect(zip.length).toBeLessThan(writeZip(tree).length * 1.05);
    const file = join(mkdtempSync(join(tmpdir(), 'violet-zip-')), 'a.zip');
    writeFileSync(file, zip);
    expect(execFileSync('unzip', ['-t', file]).toString()).toContain('No errors detected');
  });

  it.each(['../x.txt', '/etc/x', 'a/../../x', 'C:/x.txt', '..\\x.txt'])('refuses an entry that would leave the folder: %s', (path) => {
    const zip = writeZip(new Map([[path, text('x')]]));
    expect(() => readZip(zip, 'bad.zip')).toThrow(/outside the folder \(byte \d+\)/);
  });

  it('refuses a declared size of 2 GB before unpacking anything', () => {
    const zip = sample();
    new DataView(zip.buffer, zip.byteOffset).setUint32(directoryEntry(zip, 'scripts/main.lua') + 24, 2_000_000_000, true);
    expect(() => listZip(zip, 'bomb.zip')).toThrow(/2000000002 bytes/);
  });

  it('refuses what is cut off or not a ZIP, naming the byte', () => {
    const zip = sample();
    expect(() => readZip(zip.subarray(0, zip.length - 30), 'cut.zip')).toThrow(/its end is missing \(byte \d+\)/);
    expect(() => readZip(text('hello'), 'no.zip')).toThrow(UnreadableInput);
  });

  it('answers damage with a message and nothing else', () => {
    const zip = sample();
    fc.assert(
      fc.property(fc.integer({ min: 0, max: zip.length - 1 }), fc.integer({ min: 0, max: 255 }), (at, value) => {
        const damaged = zip.slice();
        damaged[at] = value;
        try {
          readZip(damaged, 'damaged.zip');
        } catch (error) {
          expect(error).toBeInstanceOf(UnreadableInput);
        }
      }),
      { numRuns: 500 },
    );
  });
});
