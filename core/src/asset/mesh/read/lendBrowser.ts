/**
 * What three's loaders of COLLADA and FBX expect of a browser, lent to them while they run: an XML parser, a window with
 * a size, addresses of blobs. Pictures are noted instead of loaded. Loaders run to their end without a pause, so two are
 * never under way at once, and all is taken back before anything else runs.
 */

import type { Document } from '@xmldom/xmldom';
import { DataTexture, DataTextureLoader, LoadingManager, Texture, TextureLoader } from 'three';
import { hushed } from '../../hushed.ts';

export interface Lent<T> {
  result: T;
  /** Pictures that lay within the file, by the addresses that the textures carry. */
  blobs: Map<string, Blob>;
}

/** Notes the address of a picture instead of loading it, as the loaders' own texture loaders would. */
function noteAddress<T extends Texture>(make: () => T): (url: string) => T {
  return (url) => {
    const texture = make();
    texture.userData.url = url;
    return texture;
  };
}

/**
 * Runs a loader, and takes back afterwards what it was lent.
 *
 * @param explain turns what the loader throws into what is thrown on
 * @param document what its XML parser answers, whatever it is given
 */
export function lendBrowser<T>(run: (manager: LoadingManager) => T, explain: (error: unknown) => Error, document?: Document): Lent<T> {
  const scope = globalThis as Record<string, unknown>;
  const before = { DOMParser: scope.DOMParser, window: scope.window };
  const { createObjectURL } = URL;
  const loads = { picture: TextureLoader.prototype.load, data: DataTextureLoader.prototype.load };
  const blobs = new Map<string, Blob>();
  try {
    scope.DOMParser = class {
      parseFromString() {
        return document;
      }
    };
    scope.window = { innerWidth: 16, innerHeight: 9 };
    TextureLoader.prototype.load = noteAddress(() => new Texture()) as typeof TextureLoader.prototype.load;
    DataTextureLoader.prototype.load = noteAddress(() => new DataTexture()) as typeof DataTextureLoader.prototype.load;
    URL.createObjectURL = (blob) => {
      const url = `kept:${blobs.size}`;
      blobs.set(url, blob as Blob);
      return url;
    };
    return { result: hushed(() => run(new LoadingManager())), blobs };
  } catch (error) {
    throw explain(error);
  } finally {
    for (const name of ['DOMParser', 'window'] as const)
      if (before[name] === undefined) delete scope[name];
      else scope[name] = before[name];
    URL.createObjectURL = createObjectURL;
    TextureLoader.prototype.load = loads.picture;
    DataTextureLoader.prototype.load = loads.data;
  }
}
