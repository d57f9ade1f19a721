/** The files that a model file refers to, read without converting it. */

import type { GLTF } from '@gltf-transform/core';
import { findCompanion, type Companions } from './companions.ts';
import { gltfReferences } from './readGltf.ts';
import { objLibraries, readMtl } from './readObj.ts';

const PICTURE_NAME = /[\w()\-.% ]+\.(?:png|jpe?g|tga|bmp|tiff?|webp|gif)/gi;

function jsonOf(bytes: Uint8Array, file: string): GLTF.IGLTF | null {
  try {
    if (!/\.glb$/i.test(file)) return JSON.parse(new TextDecoder().decode(bytes)) as GLTF.IGLTF;
    const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
    return JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as GLTF.IGLTF;
  } catch {
    // Damage is reported when the file is converted.
    return null;
  }
}

/** Of all files that came along, those that this model asks for. */
export function referencedBy(file: string, bytes: Uint8Array, along: Companions): Map<string, Uint8Array> {
  const found = new Map<string, Uint8Array>();
  const take = (name: string) => {
    const companion = findCompanion(along, name);
    if (companion) found.set(companion.path, companion.bytes);
    return companion;
  };
  if (/\.obj$/i.test(file)) {
    for (const library of objLibraries(bytes)) {
      const mtl = take(library);
      if (mtl) for (const material of Object.values(readMtl(new TextDecoder().decode(mtl.bytes)))) if (material.texture) take(material.texture);
    }
  } else if (/\.(gltf|glb)$/i.test(file)) {
    const json = jsonOf(bytes, file);
    if (json && typeof json === 'object') for (const { uri } of gltfReferences(json)) take(uri);
  } else if (/\.(dae|fbx)$/i.test(file)) {
    // Both name their pictures in plain bytes, whatever else they are.
    for (const [name] of new TextDecoder('latin1').decode(bytes).matchAll(PICTURE_NAME)) take(name.trim());
  }
  return found;
}
