/** Models and textures of the open crate and its game, loaded once and shared. */

import type { Group } from 'three';
import { RepeatWrapping, SRGBColorSpace, TextureLoader, type Texture } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { previewPath } from '@violet-crate/core/crate/contents';
import type { CrateMaterial } from '@violet-crate/core/crate/manifest';
import type { CrateView } from '../api/types.ts';

export interface AssetSource {
  view: CrateView;
  profileId: string;
}

/** Address of a file: the crate's own, else the game's. Own addresses change with their content. */
export function fileUrl({ view, profileId }: AssetSource, path: string): string {
  const own = view.files.find((file) => file.path === path);
  return own ? `/api/crates/${view.id}/files/${path}?v=${own.sha256.slice(0, 12)}` : `/api/games/${profileId}/base/${path}`;
}

const models = new Map<string, Promise<Group>>();
const textures = new Map<string, Texture>();
const loader = new GLTFLoader();

/** A copy of a model, in metres and y up; null when it cannot be loaded. */
export async function loadModel(source: AssetSource, path: string): Promise<Group | null> {
  const url = fileUrl(source, path);
  let model = models.get(url);
  if (!model) models.set(url, (model = loader.loadAsync(url).then((gltf) => gltf.scene)));
  try {
    return (await model).clone(true);
  } catch {
    models.delete(url);
    return null;
  }
}

export const previewUrl = (source: AssetSource, texture: string): string => fileUrl(source, previewPath(texture));

/** The preview of a material's texture for editing views, or null. `onLoad` runs when it has arrived. */
export function previewTexture(source: AssetSource, material: CrateMaterial, onLoad: () => void): Texture | null {
  if (!material.texture) return null;
  const url = previewUrl(source, material.texture);
  const known = textures.get(url);
  if (known) return known;
  const texture = new TextureLoader().load(url, onLoad);
  texture.colorSpace = SRGBColorSpace;
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.anisotropy = 4;
  texture.flipY = false;
  textures.set(url, texture);
  return texture;
}
