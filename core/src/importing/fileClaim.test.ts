import { describe, expect, it } from '@jest/globals';
import { crc32 } from 'node:zlib';
import { encode } from 'fast-png';
import { fileClaim } from './fileClaim.ts';

const text = (value: string) => new TextEncoder().encode(value);

function glb(json: object): Uint8Array {
  const body = text(JSON.stringify(json).padEnd(Math.ceil(JSON.stringify(json).length / 4) * 4));
  const bytes = new Uint8Array(20 + body.length);
  const view = new DataView(bytes.buffer);
  [0x46546c67, 2, bytes.length, body.length, 0x4e4f534a].forEach((value, i) => view.setUint32(i * 4, value, true));
  bytes.set(body, 20);
  return bytes;
}

/** A PNG with texts behind its header, as encoders of other people write them (PNG 3rd edition, 11.3.3.2). */
function png(texts: Record<string, string>): Uint8Array {
  const plain = encode({ width: 2, height: 2, data: new Uint8Array(12), channels: 3, depth: 8 });
  const chunks = Object.entries(texts).map(([key, value]) => {
    const body = text(`tEXt${key}\0${value}`);
    const chunk = new Uint8Array(8 + body.length);
    new DataView(chunk.buffer).setUint32(0, body.length - 4);
    chunk.set(body, 4);
    new DataView(chunk.buffer).setUint32(4 + body.length, crc32(body));
    return chunk;
  });
  return new Uint8Array(Buffer.concat([plain.subarray(0, 33), ...chunks, plain.subarray(33)]));
}

const little = (value: number) => {
  const bytes = new Uint8Array(4);
  new DataView(bytes.buffer).setUint32(0, value, true);
  return bytes;
};
const vorbisComments = (...lines: string[]) =>
  Buffer.concat([little(4), text('test'), little(lines.length), ...lines.flatMap((line) => [little(text(line).length), text(line)])]);

function flac(...lines: string[]): Uint8Array {
  const body = vorbisComments(...lines);
  return new Uint8Array(
    Buffer.concat([text('fLaC'), Buffer.from([0x00, 0, 0, 34]), new Uint8Array(34), Buffer.from([0x84, 0, 0, body.length]), body]),
  );
}

function ogg(...lines: string[]): Uint8Array {
  const packet = Buffer.concat([Buffer.from([3]), text('vorbis'), vorbisComments(...lines)]);
  const page = (payload: Uint8Array) => {
    const laces = [...Array.from({ length: Math.floor(payload.length / 255) }, () => 255), payload.length % 255];
    return Buffer.concat([text('OggS'), new Uint8Array(22), Buffer.from([laces.length, ...laces]), payload]);
  };
  return new Uint8Array(Buffer.concat([page(new Uint8Array(30)), page(packet)]));
}

describe('what files say of their authors', () => {
  it('glTF by its copyright and by the extras that model sites write', () => {
    expect(fileClaim('a.glb', glb({ asset: { version: '2.0', copyright: '© 2024 Ada Reed, CC BY 4.0' } }))).toEqual({
      author: 'Ada Reed',
      licence: 'CC-BY-4.0',
    });
    const extras = { author: 'Bo (a link)', license: 'CC-BY-SA-4.0 (terms)', title: 'Pump', source: 'a link' };
    expect(fileClaim('a.gltf', text(JSON.stringify({ asset: { extras } })))).toMatchObject({ author: 'Bo (a link)', work: 'Pump', source: 'a link' });
    expect(fileClaim('a.glb', glb({ asset: { version: '2.0' } }))).toBeUndefined();
  });

  it('PNG by its texts', () => {
    expect(fileClaim('a.png', png({ Author: 'Cy Fenn', Copyright: 'CC0', Title: 'Moss' }))).toEqual({
      author: 'Cy Fenn',
      work: 'Moss',
      licence: 'CC0-1.0',
    });
    expect(fileClaim('a.png', png({}))).toBeUndefined();
  });

  it('FLAC and Ogg by their comments', () => {
    const lines = ['ARTIST=Di Sedge', 'title=Drip', 'LICENSE=CC BY-SA 4.0', 'ARTIST=second'];
    const claim = { author: 'Di Sedge', work: 'Drip', licence: 'CC-BY-SA-4.0' };
    expect(fileClaim('a.flac', flac(...lines))).toEqual(claim);
    expect(fileClaim('a.ogg', ogg(...lines))).toEqual(claim);
    // A comment longer than a lace.
    expect(fileClaim('a.ogg', ogg(`DESCRIPTION=${'x'.repeat(700)}`, ...lines))).toEqual(claim);
  });

  it('damaged and foreign files say nothing', () => {
    for (const name of ['a.glb', 'a.gltf', 'a.png', 'a.jpg', 'a.flac', 'a.ogg', 'a.obj'])
      for (const bytes of [new Uint8Array(), text('no'), text('fLaC'), text('OggS'.padEnd(40)), new Uint8Array(64).fill(255)])
        expect([name, fileClaim(name, bytes)]).toEqual([name, undefined]);
    const cut = flac('ARTIST=someone');
    expect(fileClaim('a.flac', cut.subarray(0, cut.length - 9))).toBeUndefined();
  });
});
