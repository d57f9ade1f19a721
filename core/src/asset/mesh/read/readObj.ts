/**
 * Reads Wavefront OBJ from its bytes: v, vt, vn, f with positive and negative indices, o, g, usemtl and
 * line continuations. Polygons are triangulated, concave ones by ear clipping. Colours and texture names
 * come from a companion MTL file. Not handled: curves and surfaces (curv, surf), lines and points.
 */

import { UnreadableInput } from '../../../unreadable.ts';
import { srgbToLinear } from '../../../math/srgb.ts';
import { ByteScanner } from './byteScanner.ts';
import { FloatList, IndexList } from './growing.ts';
import { newModel, plainMaterial, type Model, type ModelMaterial, type ModelPart } from '../model/model.ts';
import { triangulate } from '../geometry/triangulate.ts';
import { VertexTable } from '../geometry/vertexTable.ts';

interface OpenPart {
  name: string;
  material: string;
  vertices: VertexTable;
  indices: IndexList;
  allNormals: boolean;
  allUvs: boolean;
}

/** The names of the material libraries that an OBJ asks for. */
export function objLibraries(bytes: Uint8Array): string[] {
  const names: string[] = [];
  const scanner = new ByteScanner(bytes);
  // "mtllib" stands before the first face that needs it; exporters write it at the top.
  const lines = 5000;
  while (!scanner.done && scanner.line < lines) {
    if (bytes[scanner.at] === 109 && scanner.word() === 'mtllib') names.push(scanner.rest());
    scanner.nextLine();
  }
  return names;
}

export function readObj(bytes: Uint8Array, file: string, mtl?: string): Model {
  const zero = bytes.indexOf(0);
  if (zero >= 0) throw new UnreadableInput('obj-invalid', `${file}: not text, so not an OBJ file (byte ${zero}).`, { file, byte: zero });
  const v = new FloatList();
  const vt = new FloatList();
  const vn = new FloatList();
  const parts = new Map<string, OpenPart>();
  const leftOut = new Set<string>();
  let group = 'part';
  let material = '';
  let current: OpenPart | null = null;
  const scanner = new ByteScanner(bytes);
  const corners: number[] = [];
  const places: number[] = [];

  const fail = (message: string, hint?: string): never => {
    throw new UnreadableInput('obj-invalid', `${file}:${scanner.line}: ${message}.`, { file, line: scanner.line }, hint);
  };
  const numbers = (keyword: string, count: number, into: FloatList, optional = count) => {
    const start = scanner.at;
    for (let i = 0; i < count; i++) {
      const value = i >= optional && scanner.atLineEnd() ? 0 : scanner.number();
      // Beyond single precision a number would become infinite on the way.
      if (!(Math.abs(value) < 3.4e38)) {
        scanner.at = start;
        fail(`"${keyword}" needs ${count} numbers, found "${scanner.rest().slice(0, 60)}"`);
      }
      into.push(value);
    }
  };
  const partNow = (): OpenPart => {
    if (current) return current;
    const key = `${group}\n${material}`;
    let part = parts.get(key);
    if (!part) {
      part = { name: group, material, vertices: new VertexTable(), indices: new IndexList(), allNormals: true, allUvs: true };
      parts.set(key, part);
    }
    return (current = part);
  };
  /** One whole number of a face's corner, resolved to zero-based; -1 where it is left out. */
  const index = (count: number, what: string): number => {
    let at = scanner.at;
    const negative = bytes[at] === 45;
    if (negative) at++;
    let value = 0;
    let digits = 0;
    for (let c = bytes[at]; c >= 48 && c <= 57; c = bytes[++at]) {
      value = value * 10 + (c - 48);
      digits++;
    }
    if (digits === 0 && !negative && (bytes[at] === 47 || !(bytes[at] > 32)) && what !== 'vertex') return -1;
    const ends = at >= scanner.end || bytes[at] <= 32 || bytes[at] === 47;
    if (digits === 0 || !ends || value === 0) fail(`face index "${scanner.word()}" is not a whole number other than 0`);
    scanner.at = at;
    const resolved = negative ? count - value : value - 1;
    if (resolved < 0 || resolved >= count)
      fail(
        `face refers to ${what} ${negative ? -value : value}, but there are ${count} so far`,
        'The file may be cut off, or was edited by hand; export it again.',
      );
    return resolved;
  };

  const face = () => {
    const part = partNow();
    corners.length = 0;
    places.length = 0;
    while (!scanner.atLineEnd()) {
      const p = index(v.length / 3, 'vertex');
      let t = -1;
      let n = -1;
      if (bytes[scanner.at] === 47) {
        scanner.at++;
        t = index(vt.length / 2, 'texture coordinate');
        if (bytes[scanner.at] === 47) {
          scanner.at++;
          n = index(vn.length / 3, 'normal');
        }
      }
      if (t < 0) part.allUvs = false;
      if (n < 0) part.allNormals = false;
      corners.push(part.vertices.indexOf(p, t, n));
      places.push(p);
    }
    if (corners.length < 3) fail(`a face needs at least 3 corners, found ${corners.length}`);
    if (corners.length === 3) {
      part.indices.push(corners[0]);
      part.indices.push(corners[1]);
      part.indices.push(corners[2]);
    } else for (const k of triangulate(places, v.array)) part.indices.push(corners[k]);
  };

  while (!scanner.done) {
    scanner.skipBlanks();
    const first = bytes[scanner.at];
    const second = bytes[scanner.at + 1];
    // The frequent lines are told by their first bytes, without making a string.
    if (first === 118 && second <= 32) {
      scanner.at++;
      numbers('v', 3, v);
    } else if (first === 102 && second <= 32) {
      scanner.at++;
      face();
    } else if (first === 118 && second === 110) {
      scanner.at += 2;
      numbers('vn', 3, vn);
    } else if (first === 118 && second === 116) {
      scanner.at += 2;
      numbers('vt', 2, vt, 1);
    } else if (first > 32 && first !== 35) {
      const keyword = scanner.word();
      if (keyword === 'o' || keyword === 'g') {
        group = scanner.rest() || 'part';
        current = null;
      } else if (keyword === 'usemtl') {
        material = scanner.rest();
        current = null;
      } else if (['l', 'p', 'curv', 'curv2', 'surf'].includes(keyword)) leftOut.add(`"${keyword}" elements`);
    }
    scanner.nextLine();
  }

  const closed = [...parts.values()].filter((part) => part.indices.length > 0);
  if (closed.length === 0)
    throw new UnreadableInput('obj-empty', `${file} has no faces.`, { file }, 'Check that the export included the mesh, not only its points.');
  const model = { ...newModel(), parts: closed.map((part) => closePart(part, v, vt, vn)), leftOut: [...leftOut] };
  if (mtl) model.materials = readMtl(mtl);
  for (const part of closed) if (!Object.hasOwn(model.materials, part.material)) model.materials[part.material] = plainMaterial();
  return model;
}

function closePart(part: OpenPart, v: FloatList, vt: FloatList, vn: FloatList): ModelPart {
  const { vertices } = part;
  const gather = (width: number, source: Float32Array, which: 0 | 1 | 2) => {
    const out = new Float32Array(vertices.size * width);
    for (let i = 0; i < vertices.size; i++) {
      const from = vertices.keys[i * 3 + which] * width;
      for (let k = 0; k < width; k++) out[i * width + k] = source[from + k];
    }
    return out;
  };
  const uvs = part.allUvs ? gather(2, vt.array, 1) : null;
  // OBJ counts v upwards, glTF downwards.
  if (uvs) for (let i = 1; i < uvs.length; i += 2) uvs[i] = 1 - uvs[i];
  return {
    name: part.name,
    material: part.material,
    positions: gather(3, v.array, 0),
    normals: part.allNormals ? gather(3, vn.array, 2) : null,
    uvs,
    indices: part.indices.finish(),
  };
}

/** Diffuse colour (Kd, taken as sRGB), opacity (d or Tr), roughness (Pr) and texture names (map_Kd, norm, map_Bump) of an MTL. */
export function readMtl(text: string): Record<string, ModelMaterial> {
  const materials = Object.create(null) as Record<string, ModelMaterial>;
  let current: ModelMaterial | null = null;
  const share = (word: string | undefined) => Math.min(1, Math.max(0, Number(word) || 0));
  for (const line of text.split('\n')) {
    const words = line.trim().split(/\s+/);
    if (words[0] === 'newmtl') materials[words.slice(1).join(' ')] = current = plainMaterial();
    if (!current) continue;
    if (words[0] === 'Kd') for (let k = 0; k < 3; k++) current.colour[k] = srgbToLinear(share(words[k + 1]));
    else if (words[0] === 'd' && words[1]) current.colour[3] = share(words[1]);
    else if (words[0] === 'Tr' && words[1]) current.colour[3] = 1 - share(words[1]);
    else if (words[0] === 'Pr' && words[1]) current.roughness = share(words[1]);
    else if (words[0] === 'map_Kd') current.texture = textureName(words);
  }
  return materials;
}

/** The file of a map statement: what follows its options. Names with spaces are kept whole. */
function textureName(words: string[]): string {
  let at = 1;
  const takes: Record<string, number> = { '-bm': 1, '-blendu': 1, '-blendv': 1, '-boost': 1, '-cc': 1, '-clamp': 1, '-imfchan': 1, '-texres': 1 };
  while (words[at]?.startsWith('-')) {
    const option = words[at++];
    if (takes[option]) at += takes[option];
    else while (words[at] !== undefined && words[at] !== '' && Number.isFinite(Number(words[at]))) at++;
  }
  return words.slice(at).join(' ');
}
