/**
 * Reads glTF 2.0: a GLB, or a .gltf with its buffers and pictures embedded or beside it, plain or
 * compressed with Draco or meshopt. Without skins and animations the node transforms are applied, so that
 * the model is one rigid thing; otherwise nodes, skins and clips are kept. Not handled: morph targets,
 * points and lines (named in `leftOut`).
 */

import { WebIO, type Document, type GLTF, type JSONDocument, type Node, type Primitive, type Root, type Texture } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer';
import { UnreadableInput } from '../../../unreadable.ts';
import { isTooDeep, MOST_DEPTH } from '../../../jsonDepth.ts';
import type { Vec3 } from '../../../math/vec3.ts';
import { findCompanion, type Companions } from './companions.ts';
import { checkGltf } from './gltfCheck.ts';
import { newModel, plainMaterial, type Clip, type ClipChannel, type Model, type ModelImage, type ModelPart } from '../model/model.ts';

const MAGIC = 0x46546c67;
const CHUNK_JSON = 0x4e4f534a;
const TRIANGLES = 4;
const STRIP = 5;
const FAN = 6;
/** Vertices that all parts may have together: a scene can name one mesh any number of times. */
const MOST_VERTICES = 30_000_000;
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
  // Also of files that are not as they should be: whatever else is wrong is told when they are read.
  const outside = (list: unknown, kind: 'buffer' | 'image') =>
    (Array.isArray(list) ? (list as ({ uri?: unknown } | null)[]) : []).flatMap((item) => {
      const uri = item?.uri;
      return typeof uri === 'string' && uri !== '' && !uri.startsWith('data:') ? [{ uri, kind }] : [];
    });
  return [...outside(json.buffers, 'buffer'), ...outside(json.images, 'image')];
}

export async function readGltf(bytes: Uint8Array, file: string, companions: Companions = new Map()): Promise<Model> {
  const binary = /\.glb$/i.test(file);
  if (binary) checkContainer(bytes, file);
  const model = newModel();
  const broken = (error: unknown): UnreadableInput => {
    if (error instanceof UnreadableInput) return error;
    return new UnreadableInput('glb-invalid', `${file}: ${reasonOf(error)}.`, { file }, 'Export it again as one GLB file with everything embedded.');
  };
  let document: Document;
  try {
    const io = await newIo(bytes, binary);
    if (isTooDeep(jsonPart(bytes, binary)))
      throw new UnreadableInput('gltf-invalid', `${file}: its JSON is nested more than ${MOST_DEPTH} levels deep.`, { file });
    const json = binary ? await io.binaryToJSON(bytes) : parseJson(bytes, file);
    checkVersion(json.json, file);
    checkGltf(json.json, file);
    resolveReferences(json, file, companions, model);
    checkGltf(json.json, file, bufferSizes(json));
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

/** The bytes of the document: the first chunk of a GLB, or all. */
const jsonPart = (bytes: Uint8Array, binary: boolean): Uint8Array =>
  binary ? bytes.subarray(20, 20 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true)) : bytes;

async function newIo(bytes: Uint8Array, binary: boolean): Promise<WebIO> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
  const head = new TextDecoder('latin1').decode(jsonPart(bytes, binary));
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
    const position = /position (\d+)/.exec(String(error))?.[1];
    const byte = position === undefined ? bytes.length : Number(position);
    throw new UnreadableInput('gltf-invalid', `${file} is not JSON (character ${byte}).`, { file, byte }, 'Export it again; it may be cut off.');
  }
  return { json, resources: {} };
}

/** Any 2.x is meant to be read by what reads 2.0 (glTF 2.0, 3.2). Version 1 is another format under the same name. */
function checkVersion(json: GLTF.IGLTF | null, file: string): void {
  const version: unknown = json?.asset?.version;
  if (typeof version === 'string' && version.startsWith('2.')) {
    json!.asset.version = '2.0';
    return;
  }
  const stated = typeof version === 'string' || typeof version === 'number' ? `glTF version ${version}` : 'no version of glTF';
  throw new UnreadableInput(
    'gltf-version',
    `${file} states ${stated}; only version 2 is read.`,
    { file },
    version === '1.0' || version === 1 ? 'Open it in a modelling program and export it as glTF 2.0 or GLB.' : 'Export it as glTF 2.0 or GLB.',
  );
}

/** Bytes of the buffers as far as they are at hand. */
function bufferSizes({ json, resources }: JSONDocument): (number | undefined)[] {
  return (json.buffers ?? []).map(({ uri }, i) => {
    if (uri?.startsWith('data:')) return undefined;
    // WebIO keeps a GLB's own chunk under this name.
    const bytes = uri === undefined ? (i === 0 ? resources['@glb.bin'] : undefined) : resources[uri];
    return bytes?.byteLength;
  });
}

/** What a library says of a file that it cannot read, unless that speaks of its own insides. */
function reasonOf(error: unknown): string {
  const text = error instanceof Error ? error.message : String(error);
  const inside =
    error instanceof TypeError || error instanceof RangeError || error instanceof ReferenceError || /undefined|null|not a function|wasm/i.test(text);
  return inside ? 'it is not as glTF 2.0 has it, and cannot be decoded' : text.replace(/\.$/, '');
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
  const indexOf = new Map<Node, number>();
  const parents: number[] = [];
  // A list of what is still to come instead of calls within calls: chains of nodes may be of any length.
  const open = (scene?.listChildren() ?? []).map((node) => ({ node, parent: -1 })).reverse();
  for (let next = open.pop(); next; next = open.pop()) {
    const { node, parent } = next;
    // Damaged files can make a node its own ancestor.
    if (indexOf.has(node)) throw new Error(`node "${node.getName()}" stands twice in the scene`);
    const own = nodes.push(node) - 1;
    indexOf.set(node, own);
    parents.push(parent);
    for (const child of node.listChildren().reverse()) open.push({ node: child, parent: own });
  }
  const clips = clipsOf(root, indexOf, model);
  const rigged = clips.length > 0 || nodes.some((node) => node.getSkin());
  const skins = root.listSkins();
  const meshNodes = nodes.filter((node) => node.getMesh());
  let vertices = 0;
  for (const node of meshNodes) {
    const skin = node.getSkin();
    for (const primitive of node.getMesh()!.listPrimitives()) {
      if (primitive.listTargets().length > 0) leaveOut(model, 'morph targets');
      if (primitive.getMode() < TRIANGLES) {
        leaveOut(model, 'points or lines');
        continue;
      }
      vertices += primitive.getAttribute('POSITION')?.getCount() ?? 0;
      if (vertices > MOST_VERTICES)
        throw new UnreadableInput(
          'model-too-large',
          `${file} places more than ${MOST_VERTICES.toLocaleString('en')} vertices in its scene.`,
          { file },
          'Split it.',
        );
      const part = readPrimitive(node, primitive, file, model, rigged ? IDENTITY : node.getWorldMatrix(), companions);
      if (!part) continue;
      if (rigged) part.node = indexOf.get(node);
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
      const joints = skin.listJoints().map((joint) => indexOf.get(joint) ?? -1);
      if (joints.includes(-1)) throw new Error('a skin uses a joint that is not in the scene');
      const bind = skin.getInverseBindMatrices();
      const inverseBind = new Float32Array(joints.length * 16);
      for (let j = 0; j < joints.length; j++) inverseBind.set(bind && j < bind.getCount() ? bind.getElement(j, []) : IDENTITY, j * 16);
      return { joints, inverseBind };
    }),
    clips,
  };
}

/** Animations with at least one channel that is kept: those of morph weights alone leave nothing. */
function clipsOf(root: Root, indexOf: ReadonlyMap<Node, number>, model: Model): Clip[] {
  const clips = root.listAnimations().map((animation, i) => ({
    name: animation.getName() || `clip_${i + 1}`,
    channels: animation.listChannels().flatMap((channel): ClipChannel[] => {
      const node = channel.getTargetNode();
      const path = channel.getTargetPath();
      const sampler = channel.getSampler();
      const times = sampler?.getInput();
      const values = sampler?.getOutput();
      const target = node ? indexOf.get(node) : undefined;
      if (target === undefined || !times || !values) return [];
      if (path !== 'translation' && path !== 'rotation' && path !== 'scale') {
        leaveOut(model, 'morph targets');
        return [];
      }
      return [
        {
          node: target,
          path,
          interpolation: sampler!.getInterpolation(),
          times: floats(times, 1),
          values: floats(values, path === 'rotation' ? 4 : 3),
        },
      ];
    }),
  }));
  return clips.map((clip) => oncePerTarget(clip, model)).filter((clip) => clip.channels.length > 0);
}

/** A clip that moves each thing by one channel only: two of one target are not valid, and nobody could say which holds. */
export function oncePerTarget(clip: Clip, model: Model): Clip {
  const seen = new Set<string>();
  const channels = clip.channels.filter(({ node, path }) => {
    const key = `${node}/${path}`;
    if (seen.has(key)) leaveOut(model, 'second animations of the same thing');
    return !seen.has(key) && seen.add(key);
  });
  return { ...clip, channels };
}

export function leaveOut(model: Model, what: string): void {
  if (!model.leftOut.includes(what)) model.leftOut.push(what);
}

/** Indices of triangles, of strips and of fans as triangles that face the same way (glTF 2.0, 3.7.2.1). */
function asTriangles(given: Uint32Array, mode: number): Uint32Array {
  if (mode !== STRIP && mode !== FAN) return given.length % 3 === 0 ? given : given.slice(0, given.length - (given.length % 3));
  const out: number[] = [];
  for (let i = 0; i + 2 < given.length; i++) {
    const [a, b, c] = mode === FAN ? [given[i + 1], given[i + 2], given[0]] : [given[i], given[i + 1 + (i % 2)], given[i + 2 - (i % 2)]];
    // Strips are joined by triangles without area.
    if (a !== b && b !== c && c !== a) out.push(a, b, c);
  }
  return Uint32Array.from(out);
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
  const given = source ? Uint32Array.from(source) : Uint32Array.from({ length: count }, (_, i) => i);
  const indices = asTriangles(given, primitive.getMode());
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
  // A material says which set its picture lies on; another one is for light.
  const base = primitive.getMaterial()?.getBaseColorTextureInfo()?.getTexCoord() ?? 0;
  const sets = [base, 0, 1].filter((set, i, all) => all.indexOf(set) === i && primitive.getAttribute(`TEXCOORD_${set}`));
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
  if (!Object.hasOwn(model.materials, slot)) {
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
    uvs: sets.length > 0 ? read(`TEXCOORD_${sets[0]}`, 2) : null,
    lightUvs: sets.length > 1 ? read(`TEXCOORD_${sets[1]}`, 2) : null,
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
