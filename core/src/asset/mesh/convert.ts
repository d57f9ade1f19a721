/** From a model file to the GLB that a game loads, with everything noticed on the way. */

import { Document, WebIO } from '@gltf-transform/core';
import { UnreadableInput, type Finding, type Fix } from '../../finding.ts';
import { boxSize, emptyBox, expandBox, type Box3 } from '../../math/box3.ts';
import { cross, length, sub, type Vec3 } from '../../math/vec3.ts';
import type { Profile } from '../../profile/schema.ts';
import { LENGTH_UNITS, triangleCount, vertexAt, type Model, type ModelPart } from './model.ts';
import { computeNormals } from './normals.ts';
import { readGlb } from './readGlb.ts';
import { readObj } from './readObj.ts';

export const PIVOTS = ['file', 'base', 'centre'] as const;
export const NORMAL_MODES = ['keep', 'smooth', 'flat'] as const;

export interface ModelOptions {
  /** A key of LENGTH_UNITS, or "game" for the profile's unit. */
  unit: string;
  upAxis: 'y' | 'z';
  /** Where the origin goes: as in the file, the middle of the base, or the middle of the box. */
  pivot: (typeof PIVOTS)[number];
  normals: (typeof NORMAL_MODES)[number];
  /** Degrees under which neighbouring faces are smoothed. */
  smoothAngle: number;
}

export interface ConvertedModel {
  glb: Uint8Array;
  options: ModelOptions;
  /** About the origin in units, z up. */
  bounds: Box3;
  triangles: number;
  vertices: number;
  materials: string[];
  findings: Finding[];
}

/** The settings that apply where the user chose none. GLB states unit and axis itself (glTF 2.0, 3.4). */
export function defaultModelOptions(profile: Profile, file: string): ModelOptions {
  const gltf = /\.glb$/i.test(file);
  return { unit: gltf ? 'm' : profile.models.unit, upAxis: gltf ? 'y' : profile.models.upAxis, pivot: 'file', normals: 'keep', smoothAngle: 40 };
}

export async function convertModel(
  profile: Profile,
  file: string,
  bytes: Uint8Array,
  given: Partial<ModelOptions> = {},
  companions: Map<string, Uint8Array> = new Map(),
): Promise<ConvertedModel> {
  const options = { ...defaultModelOptions(profile, file), ...given };
  const metres = options.unit === 'game' ? profile.unit.metres : LENGTH_UNITS[options.unit];
  if (!metres) throw new UnreadableInput('option-unit', `Unit "${options.unit}" is not known; use game, ${Object.keys(LENGTH_UNITS).join(', ')}.`);
  const source = await readModel(file, bytes, companions);
  const findings = checkSource(profile, source, file);

  const parts = source.parts.map((part) => toGltfSpace(part, metres, options.upAxis));
  const box = boxOf(parts);
  const shift: Vec3 =
    options.pivot === 'file'
      ? [0, 0, 0]
      : [-(box.min[0] + box.max[0]) / 2, options.pivot === 'base' ? -box.min[1] : -(box.min[1] + box.max[1]) / 2, -(box.min[2] + box.max[2]) / 2];
  for (const part of parts) for (let i = 0; i < part.positions.length; i++) part.positions[i] += shift[i % 3];
  const finished = parts.map((part) => {
    if (options.normals === 'flat') return computeNormals(part, 0);
    if (options.normals === 'smooth' || !part.normals) return computeNormals(part, options.smoothAngle);
    return part;
  });

  const bounds = inUnits(boxOf(finished), profile.unit.metres);
  findings.push(...checkBounds(profile, bounds, file, options));
  return {
    glb: await writeGlb(finished, source),
    options,
    bounds,
    triangles: triangleCount(source),
    vertices: finished.reduce((sum, part) => sum + part.positions.length / 3, 0),
    materials: [...new Set(finished.map((part) => part.material))],
    findings,
  };
}

async function readModel(file: string, bytes: Uint8Array, companions: Map<string, Uint8Array>): Promise<Model> {
  if (/\.glb$/i.test(file)) return readGlb(bytes, file);
  if (/\.obj$/i.test(file)) {
    const text = new TextDecoder().decode(bytes);
    if (text.includes('\0'))
      throw new UnreadableInput('obj-invalid', `${file}: not text, so not an OBJ file (byte ${text.indexOf('\0')}).`, {
        file,
        byte: text.indexOf('\0'),
      });
    const library = /^\s*mtllib\s+(.+?)\s*$/m.exec(text)?.[1];
    const mtl = library ? companions.get(library) : undefined;
    return readObj(text, file, mtl && new TextDecoder().decode(mtl));
  }
  throw new UnreadableInput(
    'model-kind',
    `${file}: only .obj and .glb models are read.`,
    { file },
    'Export it as GLB, which keeps units, normals and materials.',
  );
}

/** Scales to metres and turns z up to y up: (x, y, z) becomes (x, z, -y), a rotation, never a mirror. */
function toGltfSpace(part: ModelPart, metres: number, upAxis: 'y' | 'z'): ModelPart {
  const turn = (source: Float32Array, factor: number) => {
    const out = new Float32Array(source.length);
    for (let i = 0; i < source.length; i += 3) {
      out[i] = source[i] * factor;
      out[i + 1] = (upAxis === 'z' ? source[i + 2] : source[i + 1]) * factor;
      out[i + 2] = (upAxis === 'z' ? -source[i + 1] : source[i + 2]) * factor;
    }
    return out;
  };
  return { ...part, positions: turn(part.positions, metres), normals: part.normals && unitNormals(turn(part.normals, 1)) };
}

/** glTF asks for unit length; exporters round. */
function unitNormals(normals: Float32Array): Float32Array {
  for (let i = 0; i < normals.length; i += 3) {
    const size = Math.hypot(normals[i], normals[i + 1], normals[i + 2]);
    if (size > 1e-6) for (let k = 0; k < 3; k++) normals[i + k] /= size;
    else normals.set([0, 1, 0], i);
  }
  return normals;
}

function boxOf(parts: readonly ModelPart[]): Box3 {
  const box = emptyBox();
  for (const part of parts) for (let i = 0; i < part.positions.length; i += 3) expandBox(box, part.positions.subarray(i, i + 3));
  return box;
}

/** glTF metres (y up) to map units (z up): (x, y, z) becomes (x, -z, y). */
function inUnits(box: Box3, metresPerUnit: number): Box3 {
  const tidy = (v: number) => Math.round((v / metresPerUnit) * 1e4) / 1e4 + 0;
  return { min: [tidy(box.min[0]), tidy(-box.max[2]), tidy(box.min[1])], max: [tidy(box.max[0]), tidy(-box.min[2]), tidy(box.max[1])] };
}

async function writeGlb(parts: readonly ModelPart[], source: Model): Promise<Uint8Array> {
  const document = new Document();
  document.getRoot().getAsset().generator = 'Violet Crate';
  const buffer = document.createBuffer();
  const materials = new Map(
    [...new Set(parts.map((part) => part.material))].map((name) => {
      const own = source.materials[name];
      const material = document
        .createMaterial(name || 'unnamed')
        .setBaseColorFactor(own?.colour ?? [0.6, 0.6, 0.6, 1])
        .setMetallicFactor(0)
        .setRoughnessFactor(0.9);
      if (own && own.colour[3] < 1) material.setAlphaMode('BLEND');
      if (own?.image)
        material.setBaseColorTexture(
          document
            .createTexture(name)
            .setMimeType(own.image.mimeType)
            .setImage(own.image.bytes as Uint8Array<ArrayBuffer>),
        );
      return [name, material] as const;
    }),
  );
  const mesh = document.createMesh('model');
  for (const part of parts) {
    const attribute = (type: 'VEC3' | 'VEC2', array: Float32Array) =>
      document
        .createAccessor()
        .setType(type)
        .setArray(array as Float32Array<ArrayBuffer>)
        .setBuffer(buffer);
    const primitive = document
      .createPrimitive()
      .setMaterial(materials.get(part.material)!)
      .setAttribute('POSITION', attribute('VEC3', part.positions));
    if (part.normals) primitive.setAttribute('NORMAL', attribute('VEC3', part.normals));
    if (part.uvs) primitive.setAttribute('TEXCOORD_0', attribute('VEC2', part.uvs));
    primitive.setIndices(
      document
        .createAccessor()
        .setType('SCALAR')
        .setArray(part.indices as Uint32Array<ArrayBuffer>)
        .setBuffer(buffer),
    );
    mesh.addPrimitive(primitive);
  }
  const scene = document.createScene('model').addChild(document.createNode('model').setMesh(mesh));
  document.getRoot().setDefaultScene(scene);
  return new WebIO().writeBinary(document);
}

function checkSource(profile: Profile, model: Model, file: string): Finding[] {
  const findings: Finding[] = [];
  const place = { file };
  const note = (code: string, severity: Finding['severity'], message: string, hint?: string, fix?: Fix) =>
    findings.push({ code, severity, stage: 'assets', message, hint, place, fix });
  const without = (test: (part: ModelPart) => boolean) => model.parts.filter(test).map((part) => part.name);
  const noNormals = without((part) => !part.normals);
  if (noNormals.length > 0)
    note(
      'model-no-normals',
      'note',
      `${file} has no normals in ${noNormals.join(', ')}; they were made from the faces.`,
      'Export with normals or smoothing groups to keep your own shading.',
    );
  const noUvs = without((part) => !part.uvs);
  if (noUvs.length > 0)
    note(
      'model-no-uvs',
      'warning',
      `${file} has no texture coordinates in ${noUvs.join(', ')}.`,
      'A texture would show as one colour. Unwrap the model before exporting.',
    );
  let flat = 0;
  for (const part of model.parts) {
    for (let i = 0; i < part.indices.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => vertexAt(part.positions, part.indices[i + k]));
      if (length(cross(sub(b, a), sub(c, a))) === 0) flat++;
    }
  }
  if (flat > 0)
    note(
      'model-flat-faces',
      'note',
      `${file} has ${flat} triangles without area.`,
      'They do no harm but cost time; merge vertices by distance before exporting.',
    );
  const triangles = triangleCount(model);
  if (triangles > profile.models.maxTriangles)
    note(
      'model-triangles',
      'warning',
      `${file} has ${triangles} triangles; ${profile.title} takes up to ${profile.models.maxTriangles} per model.`,
      'Reduce it, or split it into several models.',
    );
  const materials = new Set(model.parts.map((part) => part.material)).size;
  if (materials > profile.models.maxMaterials)
    note('model-materials', 'warning', `${file} uses ${materials} materials; ${profile.title} takes up to ${profile.models.maxMaterials}.`);
  if (model.leftOut.length > 0) note('model-left-out', 'note', `${file}: ${model.leftOut.join(', ')} were left out.`);
  return findings;
}

function checkBounds(profile: Profile, bounds: Box3, file: string, options: ModelOptions): Finding[] {
  const findings: Finding[] = [];
  const size = boxSize(bounds);
  const reconvert = (label: string, change: Partial<ModelOptions>): Fix => ({ kind: 'reconvert', label, file, options: { ...options, ...change } });
  const height = size[2];
  if (bounds.min[2] < -Math.max(0.02 * height, 0.5 * profile.grid.min) && height > 0) {
    const share = Math.round((-bounds.min[2] / height) * 100);
    findings.push({
      code: 'model-sinks',
      severity: 'warning',
      stage: 'assets',
      message: `${file} sinks into the floor: ${Math.min(100, share)} % of it lies below its pivot.`,
      hint: 'Objects stand on their pivot.',
      place: { file },
      fix: reconvert('Put the pivot at the base', { pivot: 'base' }),
    });
  }
  const largest = Math.max(...size);
  const unit = profile.unit.plural;
  if (largest > profile.models.maxSize) {
    findings.push({
      code: 'model-large',
      severity: 'warning',
      stage: 'assets',
      message: `${file} is ${Math.round(largest)} ${unit} long, ${Math.round(largest / profile.player.height)} times the player; at most ${profile.models.maxSize} are planned for.`,
      hint: 'The unit may be wrong.',
      place: { file },
      fix: options.unit === 'm' ? reconvert('Read it as centimetres', { unit: 'cm' }) : undefined,
    });
  } else if (largest < profile.player.height / 60) {
    findings.push({
      code: 'model-small',
      severity: 'warning',
      stage: 'assets',
      message: `${file} is only ${largest.toPrecision(2)} ${unit} large, beside a player of ${profile.player.height}.`,
      hint: 'The unit may be wrong.',
      place: { file },
      fix: options.unit !== 'm' ? reconvert('Read it as metres', { unit: 'm' }) : undefined,
    });
  }
  return findings;
}
