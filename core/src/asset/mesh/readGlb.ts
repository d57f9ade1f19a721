/**
 * Reads a binary glTF 2.0 file (GLB) with its buffers inside. Node transforms are applied, so that the
 * model is one rigid thing. Not handled: skins, animations, morph targets, points and lines (named in
 * `leftOut`), and Draco compression (refused).
 */

import { WebIO, type Node, type Primitive } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer';
import { UnreadableInput } from '../../finding.ts';
import type { Model, ModelPart } from './model.ts';

const MAGIC = 0x46546c67;
const CHUNK_JSON = 0x4e4f534a;
const TRIANGLES = 4;

/** Checks the container by itself first, so that damage is named by its byte. */
function checkContainer(bytes: Uint8Array, file: string): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const fail = (message: string, byte: number, hint = 'Export or copy the file again; it may be cut off.'): never => {
    throw new UnreadableInput('glb-invalid', `${file}: ${message} (byte ${byte}).`, { file, byte }, hint);
  };
  if (bytes.length < 12) fail(`only ${bytes.length} bytes, less than a GLB header`, bytes.length);
  if (view.getUint32(0, true) !== MAGIC) fail('not a GLB file: it does not begin with "glTF"', 0, 'Choose a .glb or .obj file.');
  if (view.getUint32(4, true) !== 2) fail(`glTF version ${view.getUint32(4, true)}; only version 2 is read`, 4, 'Export as glTF 2.0.');
  const declared = view.getUint32(8, true);
  if (declared > bytes.length) fail(`cut off: the header declares ${declared} bytes, the file has ${bytes.length}`, bytes.length);
  let at = 12;
  let first = true;
  while (at < declared) {
    if (at + 8 > declared) fail('a chunk header is cut off', at);
    const length = view.getUint32(at, true);
    if (at + 8 + length > declared) fail(`a chunk declares ${length} bytes, more than are left`, at);
    if (first && view.getUint32(at + 4, true) !== CHUNK_JSON) fail('the first chunk is not JSON', at + 4);
    first = false;
    at += 8 + length;
  }
  if (first) fail('it has no JSON chunk', 12);
}

export async function readGlb(bytes: Uint8Array, file: string): Promise<Model> {
  checkContainer(bytes, file);
  await MeshoptDecoder.ready;
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({ 'meshopt.decoder': MeshoptDecoder });
  let document;
  try {
    document = await io.readBinary(bytes);
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    throw new UnreadableInput(
      'glb-invalid',
      `${file}: ${reason.replace(/\.$/, '')}.`,
      { file },
      'Export it again as one GLB file with everything embedded.',
    );
  }
  const root = document.getRoot();
  const model: Model = { parts: [], materials: {}, leftOut: [] };
  if (root.listAnimations().length > 0) model.leftOut.push(`${root.listAnimations().length} animations`);
  if (root.listSkins().length > 0) model.leftOut.push(`${root.listSkins().length} skins`);
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  scene?.traverse((node) => {
    for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
      if (primitive.getMode() !== TRIANGLES) {
        if (!model.leftOut.includes('points, lines or strips')) model.leftOut.push('points, lines or strips');
        continue;
      }
      const part = readPrimitive(node, primitive, file, model);
      if (part) model.parts.push(part);
    }
  });
  if (model.parts.length === 0)
    throw new UnreadableInput('glb-empty', `${file} has no triangles in its scene.`, { file }, 'Check that the export included the mesh.');
  return model;
}

function readPrimitive(node: Node, primitive: Primitive, file: string, model: Model): ModelPart | null {
  const position = primitive.getAttribute('POSITION');
  if (!position) return null;
  const count = position.getCount();
  const matrix = node.getWorldMatrix();
  const positions = new Float32Array(count * 3);
  const element: number[] = [];
  for (let i = 0; i < count; i++) {
    const [x, y, z] = position.getElement(i, element);
    positions[i * 3] = matrix[0] * x + matrix[4] * y + matrix[8] * z + matrix[12];
    positions[i * 3 + 1] = matrix[1] * x + matrix[5] * y + matrix[9] * z + matrix[13];
    positions[i * 3 + 2] = matrix[2] * x + matrix[6] * y + matrix[10] * z + matrix[14];
    if (!Number.isFinite(positions[i * 3] + positions[i * 3 + 1] + positions[i * 3 + 2])) {
      throw new UnreadableInput(
        'model-not-finite',
        `${file}: vertex ${i} of ${node.getName() || 'a part'} is not a number.`,
        { file },
        'The exporter wrote NaN or infinity; check the model for collapsed scales.',
      );
    }
  }
  const determinant =
    matrix[0] * (matrix[5] * matrix[10] - matrix[6] * matrix[9]) -
    matrix[4] * (matrix[1] * matrix[10] - matrix[2] * matrix[9]) +
    matrix[8] * (matrix[1] * matrix[6] - matrix[2] * matrix[5]);
  const source = primitive.getIndices()?.getArray();
  const indices = source ? Uint32Array.from(source) : Uint32Array.from({ length: count }, (_, i) => i);
  for (let i = 0; i < indices.length; i++) {
    if (indices[i] >= count)
      throw new UnreadableInput(
        'model-index',
        `${file}: a triangle of ${node.getName() || 'a part'} refers to vertex ${indices[i]}, but it has ${count}.`,
        { file },
      );
  }
  // A mirrored node turns its triangles inside out.
  if (determinant < 0) for (let i = 0; i + 2 < indices.length; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2], indices[i + 1]];
  const usable = indices.length - (indices.length % 3);

  const normal = primitive.getAttribute('NORMAL');
  let normals: Float32Array | null = null;
  if (normal) {
    // The cofactor matrix carries normals through any linear map; its sign follows the determinant.
    const c = cofactors(matrix);
    const sign = determinant < 0 ? -1 : 1;
    normals = new Float32Array(count * 3);
    for (let i = 0; i < count; i++) {
      const [x, y, z] = normal.getElement(i, element);
      const n = [c[0] * x + c[3] * y + c[6] * z, c[1] * x + c[4] * y + c[7] * z, c[2] * x + c[5] * y + c[8] * z];
      const size = (Math.hypot(...n) || 1) * sign;
      for (let k = 0; k < 3; k++) normals[i * 3 + k] = n[k] / size;
    }
  }
  const uv = primitive.getAttribute('TEXCOORD_0');
  let uvs: Float32Array | null = null;
  if (uv) {
    uvs = new Float32Array(count * 2);
    for (let i = 0; i < count; i++) {
      const [u, v] = uv.getElement(i, element);
      uvs[i * 2] = u;
      uvs[i * 2 + 1] = v;
    }
  }
  const material = primitive.getMaterial();
  const name = material?.getName() || (material ? 'material' : '');
  if (!model.materials[name]) {
    const texture = material?.getBaseColorTexture();
    const image = texture?.getImage();
    model.materials[name] = {
      colour: material ? (material.getBaseColorFactor() as [number, number, number, number]) : [0.6, 0.6, 0.6, 1],
      image: image && texture ? { mimeType: texture.getMimeType(), bytes: image } : undefined,
    };
  }
  return { name: node.getName() || 'part', material: name, positions, normals, uvs, indices: indices.subarray(0, usable) };
}

function cofactors(m: readonly number[]): number[] {
  return [
    m[5] * m[10] - m[6] * m[9],
    m[6] * m[8] - m[4] * m[10],
    m[4] * m[9] - m[5] * m[8],
    m[9] * m[2] - m[10] * m[1],
    m[10] * m[0] - m[8] * m[2],
    m[8] * m[1] - m[9] * m[0],
    m[1] * m[6] - m[2] * m[5],
    m[2] * m[4] - m[0] * m[6],
    m[0] * m[5] - m[1] * m[4],
  ];
}
