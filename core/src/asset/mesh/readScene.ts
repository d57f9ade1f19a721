/**
 * Reads COLLADA and FBX through three's loaders, away from any page: the XML parser and the few browser
 * objects that the loaders ask for are lent to them while they run. Both loaders turn the scene to y up;
 * COLLADA comes out in metres, FBX in its stated unit (centimetres unless it says otherwise).
 */

import { DOMParser } from '@xmldom/xmldom';
import {
  DataTexture,
  DataTextureLoader,
  LoadingManager,
  PropertyBinding,
  Texture,
  TextureLoader,
  type AnimationClip,
  type BufferGeometry,
  type Material,
  type Mesh,
  type MeshStandardMaterial,
  type Object3D,
  type SkinnedMesh,
} from 'three';
import { ColladaLoader } from 'three/examples/jsm/loaders/ColladaLoader.js';
import { FBXLoader } from 'three/examples/jsm/loaders/FBXLoader.js';
import { UnreadableInput } from '../../finding.ts';
import { findCompanion, imageType, type Companions } from './companions.ts';
import { newModel, plainMaterial, type ClipChannel, type Model, type ModelMaterial, type ModelPart } from './model.ts';

/** Notes the address of a picture instead of loading it, as the loaders' own texture loaders would. */
function noteAddress<T extends Texture>(make: () => T): (url: string) => T {
  return (url) => {
    const texture = make();
    texture.userData.url = url;
    return texture;
  };
}

interface Lent {
  result: Object3D;
  blobs: Map<string, Blob>;
}

/** Runs a loader with what it expects of a browser, and takes everything back afterwards. */
function lend(file: string, run: (manager: LoadingManager) => Object3D): Lent {
  const scope = globalThis as Record<string, unknown>;
  const before = { DOMParser: scope.DOMParser, window: scope.window, createObjectURL: URL.createObjectURL };
  const voices = { log: console.log, warn: console.warn, error: console.error, debug: console.debug };
  const loads = { picture: TextureLoader.prototype.load, data: DataTextureLoader.prototype.load };
  const blobs = new Map<string, Blob>();
  const manager = new LoadingManager();
  try {
    scope.DOMParser = class extends DOMParser {
      constructor() {
        super({ onError: (level, message) => void (level !== 'warning' && raise(message)) });
      }
    };
    TextureLoader.prototype.load = noteAddress(() => new Texture()) as typeof TextureLoader.prototype.load;
    DataTextureLoader.prototype.load = noteAddress(() => new DataTexture()) as typeof DataTextureLoader.prototype.load;
    scope.window = { innerWidth: 16, innerHeight: 9 };
    URL.createObjectURL = (blob) => {
      const url = `kept:${blobs.size}`;
      blobs.set(url, blob as Blob);
      return url;
    };
    Object.assign(console, { log: quiet, warn: quiet, error: quiet, debug: quiet });
    return { result: run(manager), blobs };
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    throw new UnreadableInput(
      'model-invalid',
      `${file}: ${reason.split('\n')[0].replace(/\.$/, '')}.`,
      { file },
      'Export it again, or as GLB, which keeps most.',
    );
  } finally {
    scope.DOMParser = before.DOMParser;
    if (before.window === undefined) delete scope.window;
    else scope.window = before.window;
    URL.createObjectURL = before.createObjectURL;
    TextureLoader.prototype.load = loads.picture;
    DataTextureLoader.prototype.load = loads.data;
    Object.assign(console, voices);
  }
}

const quiet = () => {};
const raise = (message: string): never => {
  throw new Error(message);
};

export async function readCollada(bytes: Uint8Array, file: string, companions: Companions): Promise<Model> {
  const text = new TextDecoder().decode(bytes);
  if (!/<COLLADA[\s>]/.test(text))
    throw new UnreadableInput('dae-invalid', `${file} is not a COLLADA file: it has no <COLLADA> element (byte 0).`, { file, byte: 0 });
  const lent = lend(file, (manager) => {
    const parsed = new ColladaLoader(manager).parse(text, '');
    return parsed ? parsed.scene : raise('the XML cannot be read');
  });
  return readScene(lent, file, companions, { metres: 1, upAxis: 'y' });
}

export async function readFbx(bytes: Uint8Array, file: string, companions: Companions): Promise<Model> {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 2048));
  if (!head.startsWith('Kaydara FBX Binary') && !/FBXHeaderExtension|; FBX \d/.test(head))
    throw new UnreadableInput('fbx-invalid', `${file} is not an FBX file: its header is missing (byte 0).`, { file, byte: 0 });
  const lent = lend(file, (manager) => new FBXLoader(manager).parse(bytes.slice().buffer, ''));
  const scale = Number(lent.result.userData.unitScaleFactor ?? 1) || 1;
  return readScene(lent, file, companions, { metres: 0.01 * scale, upAxis: 'y' });
}

async function readScene(lent: Lent, file: string, companions: Companions, stated: Model['stated']): Promise<Model> {
  const root = lent.result;
  root.updateMatrixWorld(true);
  const model = newModel();
  model.stated = stated;
  const nodes: Object3D[] = [];
  root.traverse((object) => void nodes.push(object));
  const meshes = nodes.filter((object): object is Mesh => (object as Mesh).isMesh);
  const rigged = root.animations.some((clip) => clip.tracks.length > 0) || meshes.some((mesh) => (mesh as SkinnedMesh).isSkinnedMesh);
  const skins: SkinnedMesh[] = [];
  try {
    for (const mesh of meshes) {
      const skinned = (mesh as SkinnedMesh).isSkinnedMesh ? (mesh as SkinnedMesh) : null;
      if (skinned) skins.push(skinned);
      for (const part of partsOf(mesh, file, rigged)) {
        if (rigged) part.node = nodes.indexOf(mesh);
        if (skinned && part.joints) part.skin = skins.length - 1;
        model.parts.push(part);
      }
      for (const material of [mesh.material].flat()) model.materials[material.name] ??= await readMaterial(material, lent.blobs, companions, model);
    }
  } catch (error) {
    if (error instanceof UnreadableInput) throw error;
    throw new UnreadableInput('model-invalid', `${file}: ${error instanceof Error ? error.message : String(error)}.`, { file });
  }
  if (nodes.some((object) => (object as Object3D & { isLine?: boolean }).isLine)) model.leftOut.push('lines');
  if (model.parts.length === 0)
    throw new UnreadableInput('model-empty', `${file} has no triangles.`, { file }, 'Check that the export included the mesh.');
  if (meshes.length === 1) {
    const e = meshes[0].matrixWorld.elements;
    if (e[12] !== 0 || e[13] !== 0 || e[14] !== 0) model.origin = [e[12], e[13], e[14]];
  }
  if (rigged) model.rig = rigOf(root, nodes, skins);
  return model;
}

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

function rigOf(root: Object3D, nodes: Object3D[], skins: SkinnedMesh[]): Model['rig'] {
  return {
    nodes: nodes.map((node, i) => ({
      name: node.name || `node_${i}`,
      parent: node === root ? -1 : nodes.indexOf(node.parent!),
      translation: node.position.toArray(),
      rotation: node.quaternion.toArray() as [number, number, number, number],
      scale: node.scale.toArray(),
    })),
    skins: skins.map((mesh) => {
      const { bones, boneInverses } = mesh.skeleton;
      const inverseBind = new Float32Array(bones.length * 16);
      bones.forEach((_, j) => inverseBind.set(boneInverses[j].clone().multiply(mesh.bindMatrix).elements, j * 16));
      return { joints: bones.map((bone) => nodes.indexOf(bone)), inverseBind };
    }),
    clips: root.animations
      .filter((clip: AnimationClip) => clip.tracks.length > 0)
      .map((clip, i) => ({
        name: clip.name || `clip_${i + 1}`,
        channels: clip.tracks.flatMap((track): ClipChannel[] => {
          const { nodeName, propertyName } = PropertyBinding.parseTrackName(track.name);
          const node = nodes.findIndex((n) => n.name === nodeName || n.uuid === nodeName);
          const path = TRACKS[propertyName];
          return node >= 0 && path
            ? [{ node, path, interpolation: 'LINEAR', times: Float32Array.from(track.times), values: Float32Array.from(track.values) }]
            : [];
        }),
      })),
  };
}
