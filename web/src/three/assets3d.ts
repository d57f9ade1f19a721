/** Models and textures of the open crate and its game, loaded once and shared. */

import {
  Color,
  MeshStandardMaterial,
  NoColorSpace,
  RepeatWrapping,
  SRGBColorSpace,
  TextureLoader,
  type Group,
  type Material,
  type Mesh,
  type Object3D,
  type Texture,
  Vector3,
} from 'three';
import { rendererFor } from './stage3d.ts';
import { GLTFLoader, type GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { clone } from 'three/examples/jsm/utils/SkeletonUtils.js';
import type { BasePack } from '@violet-crate/core/crate/basePack';
import type { CrateMaterial } from '@violet-crate/core/crate/manifest';
import { materialType, type Profile } from '@violet-crate/core/profile/schema';
import { fromGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { fileUrl, previewUrl, type AssetSource } from '../api/assetUrl.ts';
import { store } from '../state/store.ts';
import { ktx2Loader } from './ktx2.ts';

const models = new Map<string, Promise<Group>>();
const textures = new Map<string, Texture>();
let loader: GLTFLoader | null = null;

/** The loader with its texture transcoder, which is served by the application itself. */
function gltfLoader(): GLTFLoader {
  if (loader) return loader;
  // Which compressed formats the graphics card takes is asked once.
  const renderer = rendererFor();
  const ktx2 = ktx2Loader(renderer);
  renderer.dispose();
  return (loader = new GLTFLoader().setKTX2Loader(ktx2));
}

/** A model with all its scenes and clips, not shared. */
export const loadGltf = (source: AssetSource, path: string): Promise<GLTF> => gltfLoader().loadAsync(fileUrl(source, path));

/** A copy of a model, in metres and y up, its slots dressed; null when it cannot be loaded. */
export async function loadModel(source: AssetSource, path: string): Promise<Group | null> {
  const url = fileUrl(source, path);
  let model = models.get(url);
  if (!model)
    models.set(
      url,
      (model = loadGltf(source, path).then((gltf) => {
        dressSlots(gltf.scene, source, () => {});
        return gltf.scene;
      })),
    );
  try {
    return clone(await model) as Group;
  } catch {
    models.delete(url);
    return null;
  }
}

/** All triangles of a model, nine numbers each, in units and z up about its own point; null when it cannot be loaded. */
export async function trianglesOf(source: AssetSource, path: string, metres: number): Promise<Float32Array | null> {
  const model = await loadModel(source, path);
  if (!model) return null;
  model.updateMatrixWorld(true);
  const out: number[] = [];
  const point = new Vector3();
  model.traverse((child) => {
    const mesh = child as Mesh;
    if (!mesh.isMesh) return;
    const { index } = mesh.geometry;
    const position = mesh.geometry.getAttribute('position');
    for (let i = 0; i < (index?.count ?? position.count); i++) {
      point.fromBufferAttribute(position, index ? index.getX(i) : i).applyMatrix4(mesh.matrixWorld);
      out.push(...fromGltf([point.x, point.y, point.z], metres));
    }
  });
  return Float32Array.from(out);
}

function findMaterial(source: AssetSource, name: string): CrateMaterial | undefined {
  const base: BasePack | null = store.getState().crate.base;
  return source.view.manifest.materials.find((m) => m.name === name) ?? base?.materials.find((m) => m.name === name);
}

/** Gives the slots of a model that name a material of crate or game that material's looks. */
export function dressSlots(root: Object3D, source: AssetSource, onLoad: () => void): void {
  const { profile } = store.getState().crate;
  root.traverse((child) => {
    const mesh = child as Mesh;
    if (!mesh.isMesh || Array.isArray(mesh.material)) return;
    const name = (mesh.material as Material).userData.material as string | undefined;
    const found = name && profile ? findMaterial(source, name) : undefined;
    if (found) mesh.material = standardMaterial(source, found, profile!, onLoad);
  });
}

/** The preview of a texture, shared; `onLoad` runs when it has arrived. */
function shared(source: AssetSource, path: string, colour: boolean, onLoad: () => void): Texture {
  const url = previewUrl(source, path);
  const known = textures.get(url);
  if (known) return known;
  const texture = new TextureLoader().load(url, onLoad);
  texture.colorSpace = colour ? SRGBColorSpace : NoColorSpace;
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.anisotropy = 4;
  texture.flipY = false;
  textures.set(url, texture);
  return texture;
}

/** A texture of crate or game by its path, shared. `onLoad` runs when it has arrived. */
export const pictureTexture = (source: AssetSource, path: string, onLoad: () => void): Texture => shared(source, path, true, onLoad);

/** The preview of a material's texture for editing views, or null. `onLoad` runs when it has arrived. */
export function previewTexture(source: AssetSource, material: CrateMaterial, onLoad: () => void): Texture | null {
  return material.texture ? shared(source, material.texture, true, onLoad) : null;
}

/** A material as three shades it. Its maps are copies, so that whoever uses it may repeat them at will. */
export function standardMaterial(source: AssetSource, material: CrateMaterial, profile: Profile, onLoad: () => void): MeshStandardMaterial {
  const type = materialType(profile, material.type);
  const map = (path: string | undefined, colour: boolean) => {
    if (!path) return null;
    const texture = new TextureLoader().load(previewUrl(source, path), onLoad);
    texture.colorSpace = colour ? SRGBColorSpace : NoColorSpace;
    texture.wrapS = texture.wrapT = RepeatWrapping;
    texture.flipY = false;
    return texture;
  };
  const packed = map(material.packed, false);
  const glow = material.emission ?? 0;
  const made = new MeshStandardMaterial({
    color: material.texture ? '#ffffff' : material.colour,
    map: map(material.texture, true),
    normalMap: map(material.normal, false),
    roughnessMap: packed,
    metalnessMap: packed,
    roughness: packed ? 1 : (material.roughness ?? 0.9),
    metalness: packed ? 1 : (material.metalness ?? 0),
    emissiveMap: map(material.emissionMap, true),
    emissive: new Color(glow > 0 || material.emissionMap ? '#ffffff' : '#000000'),
    emissiveIntensity: glow > 0 ? glow : 1,
  });
  if (glow > 0 && !material.emissionMap) {
    // Without a map of its own it glows in its colour.
    made.emissiveMap = made.map;
    if (!made.map) made.emissive.set(material.colour);
  }
  if (type && !type.opaque && !type.sky) {
    if (type.id === 'cutout') made.alphaTest = 0.5;
    else Object.assign(made, { transparent: true, opacity: type.drawn ? 0.65 : 0.25 });
  }
  return made;
}
