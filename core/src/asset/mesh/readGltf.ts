/**
 * Reads glTF 2.0: a GLB, or a .gltf with its buffers and pictures embedded or beside it, plain or
 * compressed with Draco or meshopt. Without skins and animations the node transforms are applied, so that
 * the model is one rigid thing; otherwise nodes, skins and clips are kept. Not handled: morph targets,
 * points, lines and strips (named in `leftOut`).
 */

import { WebIO, type Document, type GLTF, type JSONDocument, type Node, type Primitive, type Texture } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer';
import { UnreadableInput } from '../../finding.ts';
import type { Vec3 } from '../../math/vec3.ts';
import { findCompanion, type Companions } from './companions.ts';
import { newModel, plainMaterial, type ClipChannel, type Model, type ModelImage, type ModelPart } from './model.ts';

const MAGIC = 0x46546c67;
const CHUNK_JSON = 0x4e4f534a;
const TRIANGLES = 4;
const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** Checks the container by itself first, so that damage is named by its byte. */
function checkContainer(bytes: Uint8Array, file: string): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const fail = (message: string, byte: number, hint = 'Export or copy the file again; it may be cut off.'): never => {
    throw new UnreadableInput('glb-invalid', `${file}: ${message} (byte ${byte}).`, { file, byte }, hint);
  };
  if (bytes.length < 12) fail(`only ${bytes.length} bytes, less than a GLB header`, bytes.length);
  if (view.getUint32(0, true) !== MAGIC) fail('not a GLB file: it does not begin with "glTF"', 0, 'Choose the file that the exporter wrote.');
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

/** The files that a .gltf or GLB refers to. */
export function gltfReferences(json: GLTF.IGLTF): { uri: string; kind: 'buffer' | 'image' }[] {
  const outside = (uri: unknown): uri is string => typeof uri === 'string' && !uri.startsWith('data:');
  return [
    ...(json.buffers ?? []).flatMap((b) => (outside(b.uri) ? [{ uri: b.uri, kind: 'buffer' as const }] : [])),
    ...(json.images ?? []).flatMap((i) => (outside(i.uri) ? [{ uri: i.uri, kind: 'image' as const }] : [])),
  ];
}

export async function readGltf(bytes: Uint8Array, file: string, companions: Companions = new Map()): Promise<Model> {
  const binary = /\.glb$/i.test(file);
  if (binary) checkContainer(bytes, file);
  const model = newModel();
  const broken = (error: unknown): UnreadableInput => {
    if (error instanceof UnreadableInput) return error;
    const reason = error instanceof Error ? error.message : String(error);
    return new UnreadableInput(
      'glb-invalid',
      `${file}: ${reason.replace(/\.$/, '')}.`,
      { file },
      'Export it again as one GLB file with everything embedded.',
    );
  };
  let document: Document;
  try {
    const io = await newIo(bytes, binary);
    const json = binary ? await io.binaryToJSON(bytes) : parseJson(bytes, file);
    resolveReferences(json, file, companions, model);
    document = await io.readJSON(json);
  } catch (error) {
    throw broken(error);
  }
  try {
    readDocument(document, file, model, companions);
  } catch (error) {
    throw broken(error);
  }
  if (model.parts.length === 0)
    throw new UnreadableInput('glb-empty', `${file} has no triangles in its scene.`, { file }, 'Check that the export included the mesh.');
  return model;
}

async function newIo(bytes: Uint8Array, binary: boolean): Promise<WebIO> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
  const head = new TextDecoder('latin1').decode(
    binary ? bytes.subarray(0, 20 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true)) : bytes,
  );
  // Decoders are started only for files that name their extension.
  if (head.includes('EXT_meshopt_compression') || head.includes('KHR_meshopt_compression')) {
    await MeshoptDecoder.ready;
    io.registerDependencies({ 'meshopt.decoder': MeshoptDecoder });
  }
  if (head.includes('KHR_draco_mesh_compression')) {
    const draco = (await import('draco3dgltf')).default;
    io.registerDependencies({ 'draco3d.decoder': await draco.createDecoderModule() });
  }
  return io;
}

function parseJson(bytes: Uint8Array, file: string): JSONDocument {
  let json: GLTF.IGLTF;
  try {
    json = JSON.parse(new TextDecoder().decode(bytes)) as GLTF.IGLTF;
  } catch (error) {
    throw new UnreadableInput('gltf-invalid', `${file} is not JSON: ${error instanceof Error ? error.message : String(error)}.`, { file });
  }
  if (json?.asset?.version !== '2.0')
    throw new UnreadableInput(
      'gltf-invalid',
      `${file} states glTF version ${String(json?.asset?.version)}; only 2.0 is read.`,
      { file },
      'Export as glTF 2.0.',
    );
  return { json, resources: {} };
}

/** Gives every outside file its bytes. A missing picture is remembered, a missing buffer ends the reading. */
function resolveReferences(document: JSONDocument, file: string, companions: Companions, model: Model): void {
  for (const { uri, kind } of gltfReferences(document.json)) {
    const found = findCompanion(companions, uri);
    if (kind === 'buffer' && !found)
      throw new UnreadableInput(
        'gltf-missing-file',
        `${file} keeps its geometry in ${uri}, which did not come with it.`,
        { file },
        'Give both files together, or export as GLB, which is one file.',
      );
    if (kind === 'image' && !found?.exact) model.textures.push({ wanted: uri, found: found?.path ?? null });
    document.resources[uri] = (found?.bytes ?? new Uint8Array()) as Uint8Array<ArrayBuffer>;
  }
}

function readDocument(document: Document, file: string, model: Model, companions: Companions): void {
  const root = document.getRoot();
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  const nodes: Node[] = [];
  const parents: number[] = [];
  const visit = (node: Node, parent: number) => {
    // Damaged files can make a node its own ancestor.
    if (nodes.includes(node)) throw new Error(`node "${node.getName()}" stands twice in the scene`);
    const own = nodes.push(node) - 1;
    parents.push(parent);
    for (const child of node.listChildren()) visit(child, own);
  };
  for (const child of scene?.listChildren() ?? []) visit(child, -1);

  const rigged = root.listAnimations().length > 0 || nodes.some((node) => node.getSkin());
  const skins = root.listSkins();
  const meshNodes = nodes.filter((node) => node.getMesh());
  for (const node of meshNodes) {
    const skin = node.getSkin();
    for (const primitive of node.getMesh()!.listPrimitives()) {
      if (primitive.listTargets().length > 0) leaveOut(model, 'morph targets');
      if (primitive.getMode() !== TRIANGLES) {
        leaveOut(model, 'points, lines or strips');
        continue;
      }
      const part = readPrimitive(node, primitive, file, model, rigged ? IDENTITY : node.getWorldMatrix(), companions);
      if (!part) continue;
      if (rigged) part.node = nodes.indexOf(node);
      if (rigged && skin && part.joints) part.skin = skins.indexOf(skin);
      model.parts.push(part);
    }
  }
  if (meshNodes.length === 1) {
    const [x, y, z] = meshNodes[0].getWorldTranslation();
    if (x !== 0 || y !== 0 || z !== 0) model.origin = [x, y, z];
  }
  model.stated = { metres: 1, upAxis: 'y' };
  if (!rigged) return;
  model.rig = {
    nodes: nodes.map((node, i) => ({
      name: node.getName() || `node_${i}`,
      parent: parents[i],
      translation: node.getTranslation() as Vec3,
      rotation: node.getRotation() as [number, number, number, number],
      scale: node.getScale() as Vec3,
    })),
    skins: skins.map((skin) => {
      const joints = skin.listJoints().map((joint) => nodes.indexOf(joint));
      if (joints.includes(-1)) throw new Error('a skin uses a joint that is not in the scene');
      const bind = skin.getInverseBindMatrices();
      const inverseBind = new Float32Array(joints.length * 16);
      for (let j = 0; j < joints.length; j++) inverseBind.set(bind && j < bind.getCount() ? bind.getElement(j, []) : IDENTITY, j * 16);
      return { joints, inverseBind };
    }),
    clips: root.listAnimations().map((animation, i) => ({
      name: animation.getName() || `clip_${i + 1}`,
      channels: animation.listChannels().flatMap((channel): ClipChannel[] => {
        const node = channel.getTargetNode();
        const path = channel.getTargetPath();
        const sampler = channel.getSampler();
        const times = sampler?.getInput();
        const values = sampler?.getOutput();
        if (!node || !nodes.includes(node) || !times || !values) return [];
        if (path !== 'translation' && path !== 'rotation' && path !== 'scale') {
          leaveOut(model, 'morph targets');
          return [];
        }
        return [
          {
            node: nodes.indexOf(node),
            path,
            interpolation: sampler!.getInterpolation(),
            times: floats(times, 1),
            values: floats(values, path === 'rotation' ? 4 : 3),
          },
        ];
      }),
    })),
  };
}

function leaveOut(model: Model, what: string): void {
  if (!model.leftOut.includes(what)) model.leftOut.push(what);
}

interface AccessorLike {
  getArray(): ArrayLike<number> | null;
  getCount(): number;
  getElementSize(): number;
  getElement(index: number, target: number[]): number[];
}

/** An accessor's numbers as floats, `width` per element; plain float data is copied in one go. */
function floats(accessor: AccessorLike, width: number): Float32Array {
  const array = accessor.getArray();
  if (array instanceof Float32Array && accessor.getElementSize() === width) return array.slice();
  const out = new Float32Array(accessor.getCount() * width);
  const element: number[] = [];
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, element);
    for (let k = 0; k < width; k++) out[i * width + k] = element[k] ?? 0;
  }
  return out;
}

function readPrimitive(
  node: Node,
  primitive: Primitive,
  file: string,
  model: Model,
  matrix: readonly number[],
  companions: Companions,
): ModelPart | null {
  const position = primitive.getAttribute('POSITION');
  if (!position) return null;
  const name = node.getName() || 'part';
  const positions = floats(position, 3);
  const count = positions.length / 3;
  const still = IDENTITY.every((value, i) => value === matrix[i]);
  for (let i = 0; i < positions.length; i += 3) {
    if (!still) {
      const [x, y, z] = [positions[i], positions[i + 1], positions[i + 2]];
      positions[i] = matrix[0] * x + matrix[4] * y + matrix[8] * z + matrix[12];
      positions[i + 1] = matrix[1] * x + matrix[5] * y + matrix[9] * z + matrix[13];
      positions[i + 2] = matrix[2] * x + matrix[6] * y + matrix[10] * z + matrix[14];
    }
    if (!Number.isFinite(positions[i] + positions[i + 1] + positions[i + 2])) {
      throw new UnreadableInput(
        'model-not-finite',
        `${file}: vertex ${i / 3} of ${name} is not a number.`,
        { file },
        'The exporter wrote NaN or infinity; check the model for collapsed scales.',
      );
    }
  }
  const source = primitive.getIndices()?.getArray();
  let indices = source ? Uint32Array.from(source) : Uint32Array.from({ length: count }, (_, i) => i);
  if (indices.length % 3 !== 0) indices = indices.slice(0, indices.length - (indices.length % 3));
  for (let i = 0; i < indices.length; i++) {
    if (indices[i] >= count)
      throw new UnreadableInput('model-index', `${file}: a triangle of ${name} refers to vertex ${indices[i]}, but it has ${count}.`, { file });
  }
  const linear = cofactors(matrix);
  const mirrored = matrix[0] * linear[0] + matrix[4] * linear[3] + matrix[8] * linear[6] < 0;
  // A mirrored node turns its triangles inside out.
  if (mirrored) for (let i = 0; i < indices.length; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2], indices[i + 1]];

  const read = (semantic: string, width: number): Float32Array | null => {
    const accessor = primitive.getAttribute(semantic);
    if (!accessor || accessor.getCount() !== count) return null;
    const out = floats(accessor, width);
    for (const value of out)
      if (!Number.isFinite(value))
        throw new UnreadableInput('model-not-finite', `${file}: ${semantic} of ${name} holds something that is not a number.`, { file });
    return out;
  };
  const normals = read('NORMAL', 3);
  if (normals && !still) {
    // The cofactor matrix carries normals through any linear map; its sign follows the determinant.
    const sign = mirrored ? -1 : 1;
    for (let i = 0; i < normals.length; i += 3) {
      const [x, y, z] = [normals[i], normals[i + 1], normals[i + 2]];
      const n = [0, 1, 2].map((k) => linear[k] * x + linear[3 + k] * y + linear[6 + k] * z);
      const size = (Math.hypot(...n) || 1) * sign;
      for (let k = 0; k < 3; k++) normals[i + k] = n[k] / size;
    }
  }
  const colourAccessor = primitive.getAttribute('COLOR_0');
  const colours = read('COLOR_0', 4);
  if (colours && colourAccessor!.getElementSize() === 3) for (let i = 3; i < colours.length; i += 4) colours[i] = 1;
  const joints = read('JOINTS_0', 4);
  const weights = read('WEIGHTS_0', 4);
  const jointCount = node.getSkin()?.listJoints().length ?? 0;
  const bends = joints && weights && jointCount > 0;
  if (bends) for (const joint of joints) if (joint >= jointCount) throw new Error(`a vertex of ${name} follows joint ${joint} of ${jointCount}`);

  const material = primitive.getMaterial();
  const slot = material?.getName() || (material ? 'material' : '');
  if (!model.materials[slot]) {
    const plain = plainMaterial();
    const image = imageOf(material?.getBaseColorTexture(), companions);
    model.materials[slot] = material
      ? {
          colour: material.getBaseColorFactor() as [number, number, number, number],
          image,
          normalImage: imageOf(material.getNormalTexture(), companions),
          texture: material.getBaseColorTexture()?.getURI() || undefined,
          roughness: material.getRoughnessFactor(),
          metalness: material.getMetallicFactor(),
          emission: material.getEmissiveFactor() as [number, number, number],
          cutout: material.getAlphaMode() === 'MASK',
          doubleSided: material.getDoubleSided(),
        }
      : plain;
  }
  return {
    name,
    material: slot,
    positions,
    normals,
    uvs: read('TEXCOORD_0', 2),
    lightUvs: read('TEXCOORD_1', 2),
    tangents: still ? read('TANGENT', 4) : null,
    colours,
    joints: bends ? Uint16Array.from(joints) : null,
    weights: bends ? weights : null,
    indices,
  };
}

function imageOf(texture: Texture | null | undefined, companions: Companions): ModelImage | undefined {
  const image = texture?.getImage();
  if (image && image.length > 0) return { mimeType: texture!.getMimeType(), bytes: image };
  const found = texture?.getURI() ? findCompanion(companions, texture.getURI()) : null;
  return found ? { mimeType: texture!.getMimeType(), bytes: found.bytes } : undefined;
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
