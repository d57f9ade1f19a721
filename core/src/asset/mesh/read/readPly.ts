/**
 * Reads PLY (Stanford polygon format) in ASCII and both binary byte orders: positions, normals, texture
 * coordinates (s/t, u/v), colours, and faces of any number of corners. Other elements are skipped.
 */

import { UnreadableInput } from '../../../unreadable.ts';
import { srgbToLinear } from '../../../math/srgb.ts';
import { ByteScanner } from './byteScanner.ts';
import { IndexList } from './growing.ts';
import { newModel, plainMaterial, type Model } from '../model/model.ts';
import { triangulate } from '../geometry/triangulate.ts';

const SIZES: Record<string, number> = { int8: 1, uint8: 1, int16: 2, uint16: 2, int32: 4, uint32: 4, float32: 4, float64: 8 };
const ALIASES: Record<string, string> = {
  char: 'int8',
  uchar: 'uint8',
  short: 'int16',
  ushort: 'uint16',
  int: 'int32',
  uint: 'uint32',
  float: 'float32',
  double: 'float64',
};

interface Property {
  name: string;
  type: string;
  /** Type of the count of a list. */
  count?: string;
}

interface Element {
  name: string;
  length: number;
  properties: Property[];
}

/** Takes one value after another, whatever the encoding. */
interface Values {
  next(type: string): number;
}

export function readPly(bytes: Uint8Array, file: string): Model {
  const scanner = new ByteScanner(bytes);
  const failLine = (message: string): never => {
    throw new UnreadableInput('ply-invalid', `${file}:${scanner.line}: ${message}.`, { file, line: scanner.line });
  };
  if (scanner.word() !== 'ply')
    throw new UnreadableInput('ply-invalid', `${file} is not a PLY file: it does not begin with "ply" (byte 0).`, { file, byte: 0 });
  scanner.nextLine();
  const elements: Element[] = [];
  let format = '';
  for (;;) {
    if (scanner.done) failLine('the header has no "end_header"');
    const keyword = scanner.word();
    if (keyword === 'end_header') break;
    if (keyword === 'format') format = scanner.word();
    else if (keyword === 'element') {
      const name = scanner.word();
      const length = scanner.number();
      if (!Number.isInteger(length) || length < 0) failLine(`element "${name}" has no count`);
      // Every entry takes at least one byte, so a larger count is a lie.
      if (length > bytes.length) failLine(`element "${name}" declares ${length} entries, more than the file has bytes`);
      elements.push({ name, length, properties: [] });
    } else if (keyword === 'property') {
      const element = elements.at(-1) ?? failLine('"property" stands before any "element"');
      const type = (word: string) => {
        const known = ALIASES[word] ?? word;
        return SIZES[known] ? known : failLine(`type "${word}" is not known`);
      };
      const first = scanner.word();
      element.properties.push(
        first === 'list'
          ? { count: type(scanner.word()), type: type(scanner.word()), name: scanner.word() }
          : { type: type(first), name: scanner.word() },
      );
    }
    scanner.nextLine();
  }
  scanner.nextLine();
  const values =
    format === 'ascii'
      ? asciiValues(scanner, file)
      : format === 'binary_little_endian' || format === 'binary_big_endian'
        ? binaryValues(bytes, scanner.at, format === 'binary_little_endian', file)
        : failLine(`format "${format}" is not known`);
  return readElements(elements, values, file);
}

function asciiValues(scanner: ByteScanner, file: string): Values {
  return {
    next() {
      while (!scanner.done && scanner.atLineEnd()) scanner.nextLine();
      const value = scanner.number();
      if (Number.isNaN(value))
        throw new UnreadableInput('ply-invalid', `${file}:${scanner.line}: ${scanner.done ? 'the file ends too early' : 'not a number'}.`, {
          file,
          line: scanner.line,
        });
      return value;
    },
  };
}

function binaryValues(bytes: Uint8Array, from: number, little: boolean, file: string): Values {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = from;
  const read: Record<string, () => number> = {
    int8: () => view.getInt8(at),
    uint8: () => view.getUint8(at),
    int16: () => view.getInt16(at, little),
    uint16: () => view.getUint16(at, little),
    int32: () => view.getInt32(at, little),
    uint32: () => view.getUint32(at, little),
    float32: () => view.getFloat32(at, little),
    float64: () => view.getFloat64(at, little),
  };
  return {
    next(type) {
      if (at + SIZES[type] > bytes.length)
        throw new UnreadableInput(
          'ply-invalid',
          `${file} is cut off (byte ${bytes.length}).`,
          { file, byte: bytes.length },
          'Copy or export it again.',
        );
      const value = read[type]();
      at += SIZES[type];
      return value;
    },
  };
}

/** What a vertex property feeds: the array and the place in it. */
const VERTEX: Record<string, ['positions' | 'normals' | 'uvs' | 'colours', number]> = {
  x: ['positions', 0],
  y: ['positions', 1],
  z: ['positions', 2],
  nx: ['normals', 0],
  ny: ['normals', 1],
  nz: ['normals', 2],
  s: ['uvs', 0],
  t: ['uvs', 1],
  u: ['uvs', 0],
  v: ['uvs', 1],
  texture_u: ['uvs', 0],
  texture_v: ['uvs', 1],
  red: ['colours', 0],
  green: ['colours', 1],
  blue: ['colours', 2],
  alpha: ['colours', 3],
};
const WIDTH = { positions: 3, normals: 3, uvs: 2, colours: 4 };

function readElements(elements: Element[], values: Values, file: string): Model {
  let vertices = 0;
  const arrays: Partial<Record<keyof typeof WIDTH, Float32Array>> = {};
  const indices = new IndexList();
  for (const element of elements) {
    const isVertex = element.name === 'vertex';
    if (isVertex) {
      vertices = element.length;
      for (const { name } of element.properties) {
        const target = VERTEX[name];
        if (target) arrays[target[0]] ??= new Float32Array(vertices * WIDTH[target[0]]).fill(target[0] === 'colours' ? 1 : 0);
      }
    }
    const isFace = element.name === 'face';
    for (let i = 0; i < element.length; i++) {
      for (const property of element.properties) {
        if (!property.count) {
          const value = values.next(property.type);
          const target = isVertex ? VERTEX[property.name] : undefined;
          if (!target) continue;
          const share = target[0] !== 'colours' ? value : property.type === 'uint8' ? value / 255 : value;
          const stored =
            target[0] === 'colours' && target[1] < 3
              ? srgbToLinear(Math.min(1, Math.max(0, share)))
              : target[0] === 'uvs' && target[1] === 1
                ? 1 - share
                : share;
          if (!Number.isFinite(stored) || Math.abs(stored) > 3.4e38)
            throw new UnreadableInput('model-not-finite', `${file}: ${property.name} of vertex ${i} is not a usable number.`, { file });
          arrays[target[0]]![i * WIDTH[target[0]] + target[1]] = stored;
          continue;
        }
        const count = values.next(property.count);
        if (!Number.isInteger(count) || count < 0 || count > 100_000)
          throw new UnreadableInput('ply-invalid', `${file}: a list of ${element.name} ${i} declares ${count} entries.`, { file });
        const list: number[] = [];
        for (let k = 0; k < count; k++) list.push(values.next(property.type));
        if (!isFace || !/^vertex_ind/.test(property.name) || count < 3) continue;
        for (const index of list)
          if (!Number.isInteger(index) || index < 0 || index >= vertices)
            throw new UnreadableInput('model-index', `${file}: face ${i} refers to vertex ${index}, but there are ${vertices}.`, { file });
        for (const k of triangulate(list, arrays.positions ?? [])) indices.push(list[k]);
      }
    }
  }
  if (!arrays.positions || indices.length === 0)
    throw new UnreadableInput('ply-empty', `${file} has no faces.`, { file }, 'A cloud of points has to be meshed before it can be a model.');
  return {
    ...newModel(),
    parts: [
      {
        name: 'part',
        material: '',
        positions: arrays.positions,
        normals: arrays.normals ?? null,
        uvs: arrays.uvs ?? null,
        colours: arrays.colours ?? null,
        indices: indices.finish(),
      },
    ],
    materials: { '': plainMaterial() },
  };
}
