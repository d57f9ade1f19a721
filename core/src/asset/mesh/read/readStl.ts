/**
 * Reads STL, binary and ASCII. Facet normals are ignored: they are those of flat faces, and exporters get
 * them wrong; the order of the corners decides. STL knows no unit, texture or material.
 */

import { UnreadableInput } from '../../../unreadable.ts';
import { ByteScanner } from './byteScanner.ts';
import { FloatList } from './growing.ts';
import { newModel, plainMaterial, type Model } from '../model/model.ts';

const HEADER = 84;
const FACET = 50;

export function readStl(bytes: Uint8Array, file: string): Model {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const declared = bytes.length >= HEADER ? view.getUint32(80, true) : -1;
  const text = /^\s*solid/i.test(new TextDecoder('latin1').decode(bytes.subarray(0, 64)));
  const needed = HEADER + FACET * declared;
  // Binary headers may begin with "solid" too, so the length decides first. Some programs append bytes of their own.
  const binary = declared >= 0 && (bytes.length === needed || (!text && bytes.length > needed));
  const positions = binary ? readBinary(view, declared, file) : text ? readText(bytes, file) : fail();
  if (positions.length === 0) throw new UnreadableInput('stl-empty', `${file} has no triangles.`, { file });
  const indices = Uint32Array.from({ length: positions.length / 3 }, (_, i) => i);
  return {
    ...newModel(),
    parts: [{ name: 'part', material: '', positions, normals: null, uvs: null, indices }],
    materials: { '': plainMaterial() },
  };

  function fail(): never {
    const byte = bytes.length;
    const message =
      declared >= 0
        ? `its header declares ${declared} triangles, which would be ${HEADER + FACET * declared} bytes; it has ${byte}`
        : `only ${byte} bytes, less than an STL header`;
    throw new UnreadableInput(
      'stl-invalid',
      `${file}: ${message} (byte ${Math.min(80, byte)}).`,
      { file, byte: Math.min(80, byte) },
      'It may be cut off; export it again.',
    );
  }
}

function readBinary(view: DataView, count: number, file: string): Float32Array {
  const positions = new Float32Array(count * 9);
  for (let t = 0; t < count; t++) {
    const at = HEADER + t * FACET + 12;
    for (let k = 0; k < 9; k++) {
      const value = view.getFloat32(at + k * 4, true);
      if (!Number.isFinite(value))
        throw new UnreadableInput('model-not-finite', `${file}: triangle ${t} has a corner that is not a number (byte ${at + k * 4}).`, {
          file,
          byte: at + k * 4,
        });
      positions[t * 9 + k] = value;
    }
  }
  return positions;
}

function readText(bytes: Uint8Array, file: string): Float32Array {
  const scanner = new ByteScanner(bytes);
  const positions = new FloatList();
  let inFacet = 0;
  const fail = (message: string): never => {
    throw new UnreadableInput('stl-invalid', `${file}:${scanner.line}: ${message}.`, { file, line: scanner.line });
  };
  while (!scanner.done) {
    const word = scanner.word().toLowerCase();
    if (word === 'facet') inFacet = 0;
    else if (word === 'vertex') {
      if (++inFacet > 3) fail('a facet has more than three corners');
      for (let k = 0; k < 3; k++) {
        const value = scanner.number();
        if (!Number.isFinite(value)) fail('"vertex" needs three numbers');
        positions.push(value);
      }
    } else if (word === 'endfacet' && inFacet !== 3) fail(`a facet has ${inFacet} corners instead of three`);
    scanner.nextLine();
  }
  if (positions.length % 9 !== 0) fail('the last facet is cut off');
  return positions.finish();
}
