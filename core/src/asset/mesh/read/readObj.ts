/**
 * Reads Wavefront OBJ from its bytes, whole or in pieces: v, vt, vn, f with positive and negative indices, o, g, usemtl,
 * mtllib and line continuations. Polygons are triangulated, concave ones by ear clipping. Colours and texture names
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

/** An OBJ in one piece. @param mtl text of its material libraries */
export function readObj(bytes: Uint8Array, file: string, mtl?: string): Model {
  const reader = new ObjReader(file);
  reader.read(bytes);
  return reader.finish(mtl);
}

/** Takes an OBJ in pieces of whole lines (see `wholeLines`), so that a large file need never be held as a whole. */
export class ObjReader {
  /** Names of the material libraries asked for so far. */
  readonly libraries: string[] = [];
  private readonly v = new FloatList();
  private readonly vt = new FloatList();
  private readonly vn = new FloatList();
  private readonly parts = new Map<string, OpenPart>();
  private readonly leftOut = new Set<string>();
  private group = 'part';
  private material = '';
  private current: OpenPart | null = null;
  private scanner = new ByteScanner(new Uint8Array());
  /** Bytes of the pieces before this one. */
  private before = 0;
  private readonly corners: number[] = [];
  private readonly places: number[] = [];

  constructor(private readonly file: string) {}

  /** @throws UnreadableInput with the line where the file is wrong */
  read(bytes: Uint8Array): void {
    const { file } = this;
    const zero = bytes.indexOf(0);
    if (zero >= 0) {
      const byte = this.before + zero;
      throw new UnreadableInput('obj-invalid', `${file}: not text, so not an OBJ file (byte ${byte}).`, { file, byte });
    }
    this.before += bytes.length;
    const scanner = (this.scanner = new ByteScanner(bytes, this.scanner.line));
    while (!scanner.done) {
      scanner.skipBlanks();
      const first = bytes[scanner.at];
      const second = bytes[scanner.at + 1];
      // The frequent lines are told by their first bytes, without making a string.
      if (first === 118 && second <= 32) {
        scanner.at++;
        this.numbers('v', 3, this.v);
      } else if (first === 102 && second <= 32) {
        scanner.at++;
        this.face();
      } else if (first === 118 && second === 110) {
        scanner.at += 2;
        this.numbers('vn', 3, this.vn);
      } else if (first === 118 && second === 116) {
        scanner.at += 2;
        this.numbers('vt', 2, this.vt, 1);
      } else if (first > 32 && first !== 35) this.statement();
      scanner.nextLine();
    }
  }

  finish(mtl?: string): Model {
    const { file, v, vt, vn } = this;
    const closed = [...this.parts.values()].filter((part) => part.indices.length > 0);
    if (closed.length === 0)
      throw new UnreadableInput('obj-empty', `${file} has no faces.`, { file }, 'Check that the export included the mesh, not only its points.');
    const model = { ...newModel(), parts: closed.map((part) => closePart(part, v, vt, vn)), leftOut: [...this.leftOut] };
    if (mtl) model.materials = readMtl(mtl);
    for (const part of closed) if (!Object.hasOwn(model.materials, part.material)) model.materials[part.material] = plainMaterial();
    return model;
  }

  private statement(): void {
    const { scanner } = this;
    const keyword = scanner.word();
    if (keyword === 'o' || keyword === 'g') {
      this.group = scanner.rest() || 'part';
      this.current = null;
    } else if (keyword === 'usemtl') {
      this.material = scanner.rest();
      this.current = null;
    } else if (keyword === 'mtllib') this.libraries.push(scanner.rest());
    else if (['l', 'p', 'curv', 'curv2', 'surf'].includes(keyword)) this.leftOut.add(`"${keyword}" elements`);
  }

  private fail(message: string, hint?: string): never {
    const { file, scanner } = this;
    throw new UnreadableInput('obj-invalid', `${file}:${scanner.line}: ${message}.`, { file, line: scanner.line }, hint);
  }

  private numbers(keyword: string, count: number, into: FloatList, optional = count): void {
    const { scanner } = this;
    const start = scanner.at;
    for (let i = 0; i < count; i++) {
      const value = i >= optional && scanner.atLineEnd() ? 0 : scanner.number();
      // Beyond single precision a number would become infinite on the way.
      if (!(Math.abs(value) < 3.4e38)) {
        scanner.at = start;
        this.fail(`"${keyword}" needs ${count} numbers, found "${scanner.rest().slice(0, 60)}"`);
      }
      into.push(value);
    }
  }

  private partNow(): OpenPart {
    if (this.current) return this.current;
    const { group, material } = this;
    const key = `${group}\n${material}`;
    let part = this.parts.get(key);
    if (!part) {
      part = { name: group, material, vertices: new VertexTable(), indices: new IndexList(), allNormals: true, allUvs: true };
      this.parts.set(key, part);
    }
    return (this.current = part);
  }

  /** One whole number of a face's corner, resolved to zero-based; -1 where it is left out. */
  private index(count: number, what: string): number {
    const { scanner } = this;
    const { bytes } = scanner;
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
    if (digits === 0 || !ends || value === 0) this.fail(`face index "${scanner.word()}" is not a whole number other than 0`);
    scanner.at = at;
    const resolved = negative ? count - value : value - 1;
    if (resolved < 0 || resolved >= count)
      this.fail(
        `face refers to ${what} ${negative ? -value : value}, but there are ${count} so far`,
        'The file may be cut off, or was edited by hand; export it again.',
      );
    return resolved;
  }

  private face(): void {
    const { scanner, corners, places } = this;
    const { bytes } = scanner;
    const part = this.partNow();
    corners.length = 0;
    places.length = 0;
    while (!scanner.atLineEnd()) {
      const p = this.index(this.v.length / 3, 'vertex');
      let t = -1;
      let n = -1;
      if (bytes[scanner.at] === 47) {
        scanner.at++;
        t = this.index(this.vt.length / 2, 'texture coordinate');
        if (bytes[scanner.at] === 47) {
          scanner.at++;
          n = this.index(this.vn.length / 3, 'normal');
        }
      }
      if (t < 0) part.allUvs = false;
      if (n < 0) part.allNormals = false;
      corners.push(part.vertices.indexOf(p, t, n));
      places.push(p);
    }
    if (corners.length < 3) this.fail(`a face needs at least 3 corners, found ${corners.length}`);
    if (corners.length === 3) {
      part.indices.push(corners[0]);
      part.indices.push(corners[1]);
      part.indices.push(corners[2]);
    } else for (const k of triangulate(places, this.v.array)) part.indices.push(corners[k]);
  }
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
