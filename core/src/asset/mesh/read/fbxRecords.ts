/**
 * Walks through the records of an FBX file, binary or ASCII, without decoding what they hold: it names damage by its
 * byte or line before a loader meets it, and finds the pictures that the file asks for.
 *
 * A binary record (as all exporters write it; the format itself is not published):
 *
 * | bytes (version below 7500 / from 7500 on) | what |
 * |---|---|
 * | 4 / 8 | where the record ends, from the start of the file; 0 ends a list |
 * | 4 / 8 | number of properties |
 * | 4 / 8 | bytes of all properties |
 * | 1, n | length of the name, and the name |
 * | … | properties: a letter for the type, then the value |
 * | … | records within this one, and an empty record |
 */

import { UnreadableInput } from '../../../unreadable.ts';
import { modelsWithoutGeometry, type FbxLinks } from './fbxLinks.ts';

const MAGIC = 'Kaydara FBX Binary';
const FIRST_RECORD = 27;
const WIDE_FROM = 7500;
/** Oldest version that is read: 7.0, of 2011. */
export const OLDEST = 7000;
/** Bytes that arrays may have together, as decoded. */
const MOST_BYTES = 2 ** 30;
/** Deflate makes at most so many times its input (RFC 1951, by the shortest code for the longest match). */
const DEFLATE = 1032;

const FIXED: Record<string, number> = { Y: 2, C: 1, B: 1, I: 4, F: 4, D: 8, L: 8 };
const ARRAYS: Record<string, number> = { f: 4, d: 8, l: 8, i: 4, b: 1, c: 1 };
const PICTURE_RECORDS = new Set(['RelativeFilename', 'Filename', 'FileName']);

export interface FbxOutline {
  version: number;
  binary: boolean;
  /** Binary files: byte of the text "Mesh" in models that have no geometry. */
  emptyMeshes: number[];
  /** Names of pictures as the file has them, paths included. */
  pictures: string[];
  /** Names of the records at the top. */
  sections: string[];
  /** Binary files: byte of the name of each record that can be left out (`FBX_OPTIONAL`), by name. */
  optional: [name: string, at: number][];
}

/** Records that a mesh is there without, from what is missed least: what is said where they are left out, and their names. */
export const FBX_OPTIONAL: readonly [what: string, names: ReadonlySet<string>][] = [
  [
    'animations, skins, lights and cameras that cannot be read',
    new Set(['AnimationCurve', 'AnimationCurveNode', 'AnimationLayer', 'AnimationStack', 'Deformer', 'Pose', 'NodeAttribute', 'Constraint']),
  ],
  ['materials that cannot be read', new Set(['Material', 'Texture', 'Video', 'LayeredTexture', 'LayerElementMaterial'])],
  [
    'texture coordinates, colours and normals that cannot be read',
    new Set(['LayerElementUV', 'LayerElementColor', 'LayerElementNormal', 'LayerElementSmoothing', 'LayerElementTangent', 'LayerElementBinormal']),
  ],
];

const ALL_OPTIONAL = new Set(FBX_OPTIONAL.flatMap(([, names]) => [...names]));

export const isBinaryFbx = (bytes: Uint8Array): boolean => new TextDecoder('latin1').decode(bytes.subarray(0, MAGIC.length)) === MAGIC;

/** @throws UnreadableInput where the records do not fit into each other, or declare more than a file may take */
export function fbxOutline(bytes: Uint8Array, file: string): FbxOutline {
  return isBinaryFbx(bytes) ? binaryOutline(bytes, file) : textOutline(bytes, file);
}

function binaryOutline(bytes: Uint8Array, file: string): FbxOutline {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const fail = (message: string, byte: number): never => {
    throw new UnreadableInput(
      'fbx-invalid',
      `${file}: ${message} (byte ${byte}).`,
      { file, byte },
      'Export or copy the file again; it may be cut off.',
    );
  };
  if (bytes.length < FIRST_RECORD + 4) fail('it ends within its header', bytes.length);
  const version = view.getUint32(23, true);
  const wide = version >= WIDE_FROM;
  const size = wide ? 8 : 4;
  const latin = new TextDecoder('latin1');
  const utf8 = new TextDecoder();
  const outline: FbxOutline = { version, binary: true, emptyMeshes: [], pictures: [], sections: [], optional: [] };
  const links: FbxLinks = { meshModels: [], geometries: new Set(), connections: [] };
  const typeAt = new Map<string, number>();
  let decoded = 0;
  const number = (at: number): number => (wide ? Number(view.getBigUint64(at, true)) : view.getUint32(at, true));

  /** Checks the properties of a record and answers its texts, and its ids as texts. */
  const properties = (from: number, count: number, end: number): { texts: string[]; ids: string[]; last: number } => {
    const texts: string[] = [];
    const ids: string[] = [];
    let last = 0;
    let at = from;
    for (let i = 0; i < count; i++) {
      if (at >= end) fail('a record has fewer properties than it declares', at);
      const type = String.fromCharCode(bytes[at++]);
      if (Object.hasOwn(FIXED, type)) {
        if (at + FIXED[type] > end) fail('a property is cut off', end);
        if (type === 'L') ids.push(String(view.getBigInt64(at, true)));
        at += FIXED[type];
      } else if (Object.hasOwn(ARRAYS, type)) {
        if (at + 12 > end) fail('an array is cut off', at);
        const [length, packed, stored] = [view.getUint32(at, true), view.getUint32(at + 4, true), view.getUint32(at + 8, true)];
        const wanted = length * ARRAYS[type];
        if (packed > 1) fail(`an array is packed in a way that is not known (${packed})`, at + 4);
        const held = packed === 0 ? wanted : stored;
        if (at + 12 + held > end) fail('an array is cut off', at);
        if (packed === 1 && wanted > stored * DEFLATE) fail(`an array declares ${wanted} bytes in ${stored}`, at);
        decoded += wanted;
        if (decoded > MOST_BYTES) fail(`what its arrays declare comes to more than ${MOST_BYTES >> 20} MB`, at);
        at += 12 + held;
      } else if (type === 'S' || type === 'R') {
        if (at + 4 > end) fail('a text is cut off', at);
        const length = view.getUint32(at, true);
        if (at + 4 + length > end) fail('a text is cut off', at);
        last = at + 4;
        if (type === 'S' && length < 4096) texts.push(utf8.decode(bytes.subarray(at + 4, at + 4 + length)));
        at += 4 + length;
      } else fail(`a property of unknown type ${JSON.stringify(type)}`, at - 1);
      if (at > end) fail('a property is cut off', end);
    }
    return { texts, ids, last };
  };
  const finish = (): FbxOutline => ({ ...outline, emptyMeshes: [...modelsWithoutGeometry(links)].map((id) => typeAt.get(id)!) });

  // Records within records, by a list of where each open one ends.
  const ends: number[] = [];
  let at = FIRST_RECORD;
  for (;;) {
    while (ends.length > 0 && at >= ends[ends.length - 1]) {
      if (at > ends[ends.length - 1]) fail('a record runs beyond the one that holds it', at);
      ends.pop();
    }
    const limit = ends.length > 0 ? ends[ends.length - 1] : bytes.length;
    if (at + size * 3 + 1 > limit) {
      // The file ends without the empty record that closes the list.
      if (ends.length > 0 || outline.sections.length === 0) fail('a record is cut off', at);
      return finish();
    }
    const end = number(at);
    if (end === 0) {
      at += size * 3 + 1;
      if (ends.length === 0) return finish();
      continue;
    }
    const [count, length] = [number(at + size), number(at + size * 2)];
    const nameLength = bytes[at + size * 3];
    const first = at + size * 3 + 1 + nameLength;
    if (end > limit || first + length > end) fail(`a record ends at byte ${end}, beyond what holds it`, at);
    const name = latin.decode(bytes.subarray(first - nameLength, first));
    if (ends.length === 0) outline.sections.push(name);
    else if (ALL_OPTIONAL.has(name)) outline.optional.push([name, first - nameLength]);
    const { texts, ids, last } = properties(first, count, first + length);
    if (PICTURE_RECORDS.has(name)) outline.pictures.push(...texts.slice(0, 1));
    else if (name === 'C' && texts[0] === 'OO' && ids.length > 1) links.connections.push([ids[0], ids[1]]);
    else if (name === 'Geometry' && ids.length > 0) links.geometries.add(ids[0]);
    else if (name === 'Model' && ids.length > 0 && texts.at(-1) === 'Mesh') {
      links.meshModels.push(ids[0]);
      typeAt.set(ids[0], last);
    }
    at = first + length;
    if (at < end) ends.push(end);
  }
}

/** ASCII: `Name: values {` and `}`, with comments from `;` on. */
function textOutline(bytes: Uint8Array, file: string): FbxOutline {
  const text = new TextDecoder().decode(bytes);
  const outline: FbxOutline = { version: 0, binary: false, emptyMeshes: [], pictures: [], sections: [], optional: [] };
  let depth = 0;
  let line = 0;
  for (let from = 0; from < text.length;) {
    const to = text.indexOf('\n', from);
    const whole = to < 0 ? text.length : to;
    line++;
    // Lines of numbers may be megabytes long and name nothing.
    const statement = text.slice(from, Math.min(whole, from + 4096)).trim();
    const last = text.slice(Math.max(from, whole - 8), whole).trim();
    from = whole + 1;
    if (statement === '' || statement.startsWith(';')) continue;
    const colon = statement.indexOf(':');
    const name = colon > 0 ? statement.slice(0, colon) : '';
    if (/^\w+$/.test(name)) {
      if (depth === 0) outline.sections.push(name);
      if (name === 'FBXVersion') outline.version ||= Number(statement.slice(colon + 1).trim()) || 0;
      if (PICTURE_RECORDS.has(name)) {
        const [, value] = statement.slice(colon + 1).split('"');
        if (value) outline.pictures.push(value);
      }
    }
    if (last.endsWith('{')) depth++;
    if (statement.startsWith('}')) depth--;
    if (depth < 0)
      throw new UnreadableInput('fbx-invalid', `${file}:${line}: a bracket closes that was never opened.`, { file, line }, 'Export the file again.');
  }
  if (depth > 0)
    throw new UnreadableInput(
      'fbx-invalid',
      `${file}: ${depth} ${depth === 1 ? 'bracket is' : 'brackets are'} open at its end (line ${line}).`,
      { file, line },
      'Export or copy the file again; it may be cut off.',
    );
  return outline;
}
