/**
 * Reads COLLADA and FBX through three's loaders, away from any page (`lendBrowser.ts`). Both loaders turn the scene to y up;
 * COLLADA comes out in metres, FBX in its stated unit (centimetres unless it says otherwise).
 */

import { DOMParser, type Document } from '@xmldom/xmldom';
import {
  PropertyBinding,
  type AnimationClip,
  type BufferGeometry,
  type Material,
  type Mesh,
  type MeshStandardMaterial,
  type Object3D,
  type SkinnedMesh,
  type Texture,
} from 'three';
import { ColladaLoader } from 'three/examples/jsm/loaders/ColladaLoader.js';
import { FBXLoader } from 'three/examples/jsm/loaders/FBXLoader.js';
import { UnreadableInput } from '../../../unreadable.ts';
import { COLLADA_OPTIONAL, normaliseCollada, withoutElements } from './colladaDocument.ts';
import { findCompanion, imageType, type Companions } from './companions.ts';
import { decodeText } from './decodeText.ts';
import { lendBrowser, type Lent } from './lendBrowser.ts';
import { prepareFbxText } from './fbxText.ts';
import { FBX_OPTIONAL, fbxOutline, isBinaryFbx, OLDEST } from './fbxRecords.ts';
import { newModel, plainMaterial, type ClipChannel, type Model, type ModelMaterial, type ModelPart } from '../model/model.ts';
import { leaveOut, oncePerTarget } from './readGltf.ts';

/** What a loader says of a file that it cannot read: mostly the name of a property within itself, which helps nobody. */
function unreadable(error: unknown, file: string, format: string): UnreadableInput {
  if (error instanceof UnreadableInput) return error;
  return new UnreadableInput(
    'model-invalid',
    `${file}: its ${format} cannot be read: its meshes or the tree of its scene are not as the format has them, also without animations, materials and texture coordinates.`,
    { file },
    'Export it again, or as GLB, which keeps most.',
  );
}

/**
 * Reads with all that there is; where the loader stops, again without what it may have stopped at: the geometry that is there comes in.
 *
 * @param attempt is given how many groups of optional parts are left out, from 0 on
 * @param groups what is said of each
 */
async function readFewer(attempt: (without: number) => Promise<Model>, groups: readonly string[]): Promise<Model> {
  for (let without = 0; ; without++) {
    try {
      const model = await attempt(without);
      for (const what of groups.slice(0, without)) leaveOut(model, what);
      return model;
    } catch (error) {
      const again = error instanceof UnreadableInput && (error.code === 'model-invalid' || error.code === 'model-not-finite');
      if (without === groups.length || !again) throw error;
    }
  }
}

export async function readCollada(bytes: Uint8Array, file: string, companions: Companions): Promise<Model> {
  const text = decodeText(bytes);
  if (!text.slice(0, 65_536).includes('<COLLADA'))
    throw new UnreadableInput('dae-invalid', `${file} is not a COLLADA file: it has no <COLLADA> element (byte 0).`, { file, byte: 0 });
  const attempt = async (without: number): Promise<Model> => {
    const leftOut = new Set<string>();
    const document = parseXml(text, file);
    const lent = lendBrowser(
      (manager) => {
        for (const [, names] of COLLADA_OPTIONAL.slice(0, without)) withoutElements(document, names);
        normaliseCollada(document, file, (what) => void leftOut.add(what));
        return new ColladaLoader(manager).parse('prepared', '')!.scene;
      },
      (error) => unreadable(error, file, 'COLLADA'),
      document,
    );
    const model = await readScene(lent, file, companions, { metres: 1, upAxis: 'y' });
    for (const what of leftOut) leaveOut(model, what);
    return model;
  };
  return readFewer(
    attempt,
    COLLADA_OPTIONAL.map(([what]) => what),
  );
}

function parseXml(text: string, file: string): Document {
  try {
    const parser = new DOMParser({
      onError: (level, message) => {
        if (level !== 'warning') throw new Error(message);
      },
    });
    // A byte-order mark or blank line before the declaration is no part of the document.
    return parser.parseFromString(text.trimStart(), 'text/xml');
  } catch (error) {
    const { lineNumber } = (error as { locator?: { lineNumber?: number } }).locator ?? {};
    const line = typeof lineNumber === 'number' && lineNumber > 0 ? lineNumber : undefined;
    throw new UnreadableInput(
      'dae-invalid',
      `${file}${line ? `:${line}` : ''}: its XML cannot be read: a tag is not closed, or the file is cut off.`,
      { file, ...(line ? { line } : {}) },
      'Export or copy the file again.',
    );
  }
}

export async function readFbx(bytes: Uint8Array, file: string, companions: Companions): Promise<Model> {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 2048));
  if (!isBinaryFbx(bytes) && !/FBXHeaderExtension|; FBX \d/.test(head))
    throw new UnreadableInput('fbx-invalid', `${file} is not an FBX file: its header is missing (byte 0).`, { file, byte: 0 });
  const { version, sections, binary, emptyMeshes, optional } = fbxOutline(bytes, file);
  if (version > 0 && version < OLDEST)
    throw new UnreadableInput(
      'fbx-version',
      `${file} is FBX ${version / 1000}; only 7.0 and newer are read.`,
      { file },
      'Export it as FBX 2011 or newer, or as GLB, which keeps most.',
    );
  for (const section of ['Objects', 'Connections'])
    if (!sections.includes(section))
      throw new UnreadableInput(
        'model-empty',
        `${file} has no ${section}: nothing is in its scene.`,
        { file },
        'Check that the export included the mesh.',
      );
  const plain = binary ? bytes : new TextEncoder().encode(prepareFbxText(decodeText(bytes)));
  const none = new TextEncoder().encode('Null');
  const attempt = (without: number): Promise<Model> => {
    const groups = FBX_OPTIONAL.slice(0, without).map(([, names]) => names);
    const left = (name: string) => groups.some((names) => names.has(name));
    const prepared = binary ? plain.slice() : withoutFbxText(plain, left);
    for (const at of emptyMeshes) prepared.set(none, at);
    // Under a name that means nothing it is read and not looked at; its place and length stay.
    for (const [name, at] of optional) if (left(name)) prepared[at] = UNKNOWN;
    const lent = lendBrowser(
      (manager) => new FBXLoader(manager).parse(prepared.buffer, ''),
      (error) => unreadable(error, file, 'FBX'),
    );
    const scale = Number(lent.result.userData.unitScaleFactor ?? 1) || 1;
    return readScene(lent, file, companions, { metres: 0.01 * scale, upAxis: 'y' });
  };
  return readFewer(
    attempt,
    FBX_OPTIONAL.map(([what]) => what),
  );
}

/** The first letter of a record that means nothing: `_`. */
const UNKNOWN = 0x5f;

/** The same in the text form: records begin a line. */
function withoutFbxText(bytes: Uint8Array, left: (name: string) => boolean): Uint8Array<ArrayBuffer> {
  const text = new TextDecoder()
    .decode(bytes)
    .replace(/^([\t ]*)(\w+)(?=:)/gm, (whole, indent: string, name: string) => (left(name) ? `${indent}_${name.slice(1)}` : whole));
  return new TextEncoder().encode(text);
}

async function readScene(lent: Lent<Object3D>, file: string, companions: Companions, stated: Model['stated']): Promise<Model> {
  const root = lent.result;
  root.updateMatrixWorld(true);
  const model = newModel();
  model.stated = stated;
  const nodes: Object3D[] = [];
  root.traverse((object) => void nodes.push(object));
  const indexOf = new Map(nodes.map((node, i) => [node, i]));
  const meshes = nodes.filter((object): object is Mesh => (object as Mesh).isMesh);
  const rigged = root.animations.some((clip) => clip.tracks.length > 0) || meshes.some((mesh) => skinOf(mesh) !== null);
  const skins: SkinnedMesh[] = [];
  try {
    for (const mesh of meshes) {
      const skinned = skinOf(mesh);
      if (skinned) skins.push(skinned);
      for (const part of partsOf(mesh, file, rigged)) {
        if (rigged) part.node = indexOf.get(mesh);
        if (skinned && part.joints) part.skin = skins.length - 1;
        model.parts.push(part);
      }
      for (const material of [mesh.material].flat())
        if (!Object.hasOwn(model.materials, material.name))
          model.materials[material.name] = await readMaterial(material, lent.blobs, companions, model);
    }
  } catch (error) {
    throw unreadable(error, file, 'scene');
  }
  if (nodes.some((object) => (object as Object3D & { isLine?: boolean }).isLine)) model.leftOut.push('lines');
  if (model.parts.length === 0)
    throw new UnreadableInput('model-empty', `${file} has no triangles.`, { file }, 'Check that the export included the mesh.');
  if (meshes.length === 1) {
    const e = meshes[0].matrixWorld.elements;
    if (e[12] !== 0 || e[13] !== 0 || e[14] !== 0) model.origin = [e[12], e[13], e[14]];
  }
  if (rigged) model.rig = rigOf(root, nodes, indexOf, skins, model);
  return model;
}

/** A mesh with bones; one that is called skinned, and whose bones are missing, is none. */
const skinOf = (mesh: Mesh): SkinnedMesh | null =>
  (mesh as SkinnedMesh).isSkinnedMesh && (mesh as SkinnedMesh).skeleton ? (mesh as SkinnedMesh) : null;

/** One part per material group of a mesh. */
function partsOf(mesh: Mesh, file: string, rigged: boolean): ModelPart[] {
  const geometry = mesh.geometry as BufferGeometry;
  const position = geometry.getAttribute('position');
  if (!position) return [];
  const count = position.count;
  const matrix = mesh.matrixWorld;
  const mirrored = !rigged && matrix.determinant() < 0;
  const baked = rigged ? geometry : geometry.clone().applyMatrix4(matrix);
  const attribute = (name: string, width: number): Float32Array | null => {
    const source = baked.getAttribute(name);
    if (!source || source.count !== count) return null;
    const out = new Float32Array(count * width);
    for (let i = 0; i < count; i++) for (let k = 0; k < width; k++) out[i * width + k] = k < source.itemSize ? source.getComponent(i, k) : 1;
    for (const value of out)
      if (!Number.isFinite(value))
        throw new UnreadableInput('model-not-finite', `${file}: ${name} of ${mesh.name || 'a part'} is not a number.`, { file });
    return out;
  };
  const uvs = attribute('uv', 2);
  // Both formats count v upwards, glTF downwards.
  if (uvs) for (let i = 1; i < uvs.length; i += 2) uvs[i] = 1 - uvs[i];
  const joints = rigged ? attribute('skinIndex', 4) : null;
  const shared = {
    name: mesh.name || 'part',
    positions: attribute('position', 3)!,
    normals: attribute('normal', 3),
    uvs,
    colours: attribute('color', 4),
    joints: joints && Uint16Array.from(joints),
    weights: rigged ? attribute('skinWeight', 4) : null,
  };
  const index = geometry.index ? Uint32Array.from(geometry.index.array) : Uint32Array.from({ length: count }, (_, i) => i);
  const materials = [mesh.material].flat();
  const groups = Array.isArray(mesh.material) && geometry.groups.length > 0 ? geometry.groups : [{ start: 0, count: index.length, materialIndex: 0 }];
  return groups.flatMap((group) => {
    const indices = index.slice(group.start, group.start + group.count - (group.count % 3));
    if (mirrored) for (let i = 0; i < indices.length; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2], indices[i + 1]];
    for (const i of indices)
      if (i >= count) throw new UnreadableInput('model-index', `${file}: a triangle refers to vertex ${i}, but there are ${count}.`, { file });
    return indices.length > 0 ? [{ ...shared, indices, material: materials[group.materialIndex ?? 0]?.name ?? '' }] : [];
  });
}

async function readMaterial(source: Material, blobs: Map<string, Blob>, companions: Companions, model: Model): Promise<ModelMaterial> {
  const material = source as MeshStandardMaterial & { shininess?: number };
  const out = plainMaterial();
  if (material.color) out.colour = [material.color.r, material.color.g, material.color.b, material.opacity];
  if (material.emissive) out.emission = [material.emissive.r, material.emissive.g, material.emissive.b];
  // Blinn's exponent as the roughness of the same highlight width (Walter et al. 2007, from memory).
  out.roughness = material.roughness ?? (material.shininess === undefined ? undefined : Math.sqrt(2 / (material.shininess + 2)));
  const imageOf = async (texture: Texture | null): Promise<ModelMaterial['image']> => {
    const url = texture?.userData.url as string | undefined;
    if (!url) return undefined;
    const blob = blobs.get(url);
    if (blob) return { mimeType: blob.type, bytes: new Uint8Array(await blob.arrayBuffer()) };
    if (url.startsWith('data:')) {
      const [, mimeType, base64] = /^data:([^;,]+);base64,(.*)$/s.exec(url) ?? [];
      return mimeType ? { mimeType, bytes: Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)) } : undefined;
    }
    const found = findCompanion(companions, url);
    if (!found?.exact) model.textures.push({ wanted: url.replaceAll('\\', '/').split('/').pop()!, found: found?.path ?? null });
    return found ? { mimeType: imageType(found.path), bytes: found.bytes } : undefined;
  };
  out.image = await imageOf(material.map ?? null);
  out.normalImage = await imageOf(material.normalMap ?? null);
  return out;
}

const TRACKS: Record<string, ClipChannel['path']> = { position: 'translation', quaternion: 'rotation', scale: 'scale' };

function rigOf(root: Object3D, nodes: Object3D[], indexOf: ReadonlyMap<Object3D, number>, skins: SkinnedMesh[], model: Model): Model['rig'] {
  const byName = new Map(nodes.flatMap((node, i) => [[node.name, i] as const, [node.uuid, i] as const]).reverse());
  return {
    nodes: nodes.map((node, i) => ({
      name: node.name || `node_${i}`,
      parent: node === root ? -1 : indexOf.get(node.parent!)!,
      translation: node.position.toArray(),
      rotation: node.quaternion.toArray() as [number, number, number, number],
      scale: node.scale.toArray(),
    })),
    skins: skins.map((mesh) => {
      const { bones, boneInverses } = mesh.skeleton;
      const inverseBind = new Float32Array(bones.length * 16);
      bones.forEach((_, j) => inverseBind.set(boneInverses[j].clone().multiply(mesh.bindMatrix).elements, j * 16));
      return { joints: bones.map((bone) => indexOf.get(bone) ?? -1), inverseBind };
    }),
    clips: root.animations
      .filter((clip: AnimationClip) => clip.tracks.length > 0)
      .map((clip, i) => ({
        name: clip.name || `clip_${i + 1}`,
        channels: clip.tracks.flatMap((track): ClipChannel[] => {
          const { nodeName, propertyName } = PropertyBinding.parseTrackName(track.name);
          const node = byName.get(nodeName) ?? -1;
          const path = TRACKS[propertyName];
          return node >= 0 && path
            ? [{ node, path, interpolation: 'LINEAR', times: Float32Array.from(track.times), values: Float32Array.from(track.values) }]
            : [];
        }),
      }))
      .map((clip) => oncePerTarget(clip, model))
      .filter((clip) => clip.channels.length > 0),
  };
}
