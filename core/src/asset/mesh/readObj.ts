/**
 * Reads Wavefront OBJ: v, vt, vn, f with positive and negative indices, o, g, usemtl and line
 * continuations. Polygons are triangulated, concave ones by ear clipping. Colours come from a companion
 * MTL file where given. Not handled: curves and surfaces (curv, surf), lines and points.
 */

import earcut from 'earcut';
import { UnreadableInput } from '../../finding.ts';
import { srgbToLinear } from '../../math/srgb.ts';
import { cross, dot, normalise, sub, type Vec3 } from '../../math/vec3.ts';
import { newell } from '../../solid/winding.ts';
import { vertexAt, type Model, type ModelMaterial, type ModelPart } from './model.ts';

interface OpenPart {
  name: string;
  material: string;
  vertex: Map<number, number>;
  positions: number[];
  normals: number[];
  uvs: number[];
  indices: number[];
  allNormals: boolean;
  allUvs: boolean;
}

export function readObj(text: string, file: string, mtl?: string): Model {
  const v: number[] = [];
  const vt: number[] = [];
  const vn: number[] = [];
  const parts = new Map<string, OpenPart>();
  const leftOut = new Set<string>();
  let group = 'part';
  let material = '';
  let current: OpenPart | null = null;
  let line = 0;
  let at = 0;

  const fail = (message: string, hint?: string): never => {
    throw new UnreadableInput('obj-invalid', `${file}:${line}: ${message}.`, { file, line }, hint);
  };
  const numbers = (words: string[], count: number, into: number[]) => {
    for (let i = 1; i <= count; i++) {
      const value = Number(words[i]);
      if (words[i] === undefined || words[i] === '' || !Number.isFinite(value))
        fail(`"${words[0]}" needs ${count} numbers, found "${words.slice(1).join(' ')}"`);
      into.push(value);
    }
  };
  const resolve = (word: string, count: number, what: string): number => {
    const index = Number(word);
    if (!Number.isInteger(index) || index === 0) fail(`face index "${word}" is not a whole number other than 0`);
    const resolved = index > 0 ? index - 1 : count + index;
    if (resolved < 0 || resolved >= count)
      fail(`face refers to ${what} ${index}, but there are ${count} so far`, 'The file may be cut off, or was edited by hand; export it again.');
    return resolved;
  };
  const partNow = (): OpenPart => {
    if (current) return current;
    const key = `${group}\n${material}`;
    let part = parts.get(key);
    if (!part) {
      part = { name: group, material, vertex: new Map(), positions: [], normals: [], uvs: [], indices: [], allNormals: true, allUvs: true };
      parts.set(key, part);
    }
    return (current = part);
  };

  const face = (words: string[]) => {
    if (words.length < 4) fail(`a face needs at least 3 corners, found ${words.length - 1}`);
    const part = partNow();
    const corners: number[] = [];
    for (let i = 1; i < words.length; i++) {
      const [pv, pt, pn] = words[i].split('/');
      const p = resolve(pv, v.length / 3, 'vertex');
      const t = pt ? resolve(pt, vt.length / 2, 'texture coordinate') : -1;
      const n = pn ? resolve(pn, vn.length / 3, 'normal') : -1;
      if (t < 0) part.allUvs = false;
      if (n < 0) part.allNormals = false;
      const key = (p * (vt.length / 2 + 1) + t + 1) * (vn.length / 3 + 1) + n + 1;
      let index = part.vertex.get(key);
      if (index === undefined) {
        index = part.positions.length / 3;
        part.vertex.set(key, index);
        part.positions.push(v[p * 3], v[p * 3 + 1], v[p * 3 + 2]);
        part.uvs.push(t < 0 ? 0 : vt[t * 2], t < 0 ? 0 : 1 - vt[t * 2 + 1]);
        part.normals.push(n < 0 ? 0 : vn[n * 3], n < 0 ? 0 : vn[n * 3 + 1], n < 0 ? 0 : vn[n * 3 + 2]);
      }
      corners.push(index);
    }
    triangulate(corners, part.positions, part.indices);
  };

  while (at < text.length) {
    let end = text.indexOf('\n', at);
    if (end < 0) end = text.length;
    let content = text.slice(at, end);
    line++;
    at = end + 1;
    while (/\\\s*$/.test(content) && at < text.length) {
      end = text.indexOf('\n', at);
      if (end < 0) end = text.length;
      content = content.replace(/\\\s*$/, ' ') + text.slice(at, end);
      line++;
      at = end + 1;
    }
    const hash = content.indexOf('#');
    const words = (hash >= 0 ? content.slice(0, hash) : content).trim().split(/\s+/);
    switch (words[0]) {
      case 'v':
        numbers(words, 3, v);
        break;
      case 'vt':
        numbers(words.length === 2 ? [...words, '0'] : words, 2, vt);
        break;
      case 'vn':
        numbers(words, 3, vn);
        break;
      case 'f':
        face(words);
        break;
      case 'o':
      case 'g':
        group = words.slice(1).join(' ') || 'part';
        current = null;
        break;
      case 'usemtl':
        material = words.slice(1).join(' ');
        current = null;
        break;
      case 'l':
      case 'p':
      case 'curv':
      case 'curv2':
      case 'surf':
        leftOut.add(`"${words[0]}" elements`);
        break;
    }
  }

  const closed = [...parts.values()].filter((part) => part.indices.length > 0);
  if (closed.length === 0)
    throw new UnreadableInput('obj-empty', `${file} has no faces.`, { file }, 'Check that the export included the mesh, not only its points.');
  const materials = mtl ? readMtl(mtl) : {};
  for (const part of closed) materials[part.material] ??= { colour: [0.6, 0.6, 0.6, 1] };
  return { parts: closed.map(closePart), materials, leftOut: [...leftOut] };
}

function closePart(part: OpenPart): ModelPart {
  return {
    name: part.name,
    material: part.material,
    positions: Float32Array.from(part.positions),
    normals: part.allNormals ? Float32Array.from(part.normals) : null,
    uvs: part.allUvs ? Float32Array.from(part.uvs) : null,
    indices: Uint32Array.from(part.indices),
  };
}

/** Triangulates one polygon given by vertex indices; appends to `into`. Fans convex ones, clips ears of others. */
export function triangulate(corners: readonly number[], positions: readonly number[], into: number[]): void {
  if (corners.length === 3) {
    into.push(corners[0], corners[1], corners[2]);
    return;
  }
  const points = corners.map((index) => vertexAt(positions, index));
  const normal = normalise(newell(points));
  const convex = points.every((p, i) => {
    const a = sub(points[(i + 1) % points.length], p);
    const b = sub(points[(i + 2) % points.length], points[(i + 1) % points.length]);
    return dot(cross(a, b), normal) >= -1e-9;
  });
  if (convex && corners.length <= 4) {
    for (let i = 2; i < corners.length; i++) into.push(corners[0], corners[i - 1], corners[i]);
    return;
  }
  const helper: Vec3 = Math.abs(normal[2]) < 0.7 ? [0, 0, 1] : [1, 0, 0];
  const right = normalise(cross(helper, normal));
  const up = cross(normal, right);
  const flat = points.flatMap((p) => [dot(p, right), dot(p, up)]);
  for (const index of earcut(flat)) into.push(corners[index]);
}

/** Diffuse colours (Kd, taken as sRGB) and opacity (d) of an MTL file. */
function readMtl(text: string): Record<string, ModelMaterial> {
  const materials: Record<string, ModelMaterial> = {};
  let current: ModelMaterial | null = null;
  for (const line of text.split('\n')) {
    const words = line.trim().split(/\s+/);
    if (words[0] === 'newmtl') materials[words.slice(1).join(' ')] = current = { colour: [0.6, 0.6, 0.6, 1] };
    else if (words[0] === 'Kd' && current)
      for (let k = 0; k < 3; k++) current.colour[k] = srgbToLinear(Math.min(1, Math.max(0, Number(words[k + 1]) || 0)));
    else if (words[0] === 'd' && current && words[1]) current.colour[3] = Math.min(1, Math.max(0, Number(words[1]) || 0));
  }
  return materials;
}
