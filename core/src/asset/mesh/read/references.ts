/** The files that a model file refers to, read without converting it. */

import type { GLTF } from '@gltf-transform/core';
import { decodeText } from './decodeText.ts';
import { fbxOutline } from './fbxRecords.ts';
import { findCompanion, type Companions } from './companions.ts';
import { gltfReferences } from './readGltf.ts';
import { objLibraries, readMtl } from './readObj.ts';

/** Characters that a picture's name may have; more is a picture written into the file. */
const LONGEST_NAME = 4096;

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

/** What stands in `init_from`, in 1.5 within a `ref`; found by its tags, since a whole document would be parsed twice. */
function colladaPictures(text: string): string[] {
  const names: string[] = [];
  for (let at = text.indexOf('<init_from'); at >= 0; at = text.indexOf('<init_from', at + 1)) {
    // Looked for nearby only, so that tags which are never closed cost no more than others.
    const near = text.slice(at, at + LONGEST_NAME);
    const open = near.indexOf('>');
    const close = near.indexOf('</init_from>');
    if (open < 0 || close < open || near[open - 1] === '/') continue;
    const name = near
      .slice(open + 1, close)
      .replaceAll(/<\/?ref>/g, '')
      .trim();
    if (name !== '') names.push(name.replaceAll('&amp;', '&'));
  }
  return names;
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
  } else if (/\.dae$/i.test(file)) for (const name of colladaPictures(decodeText(bytes))) take(name);
  else if (/\.fbx$/i.test(file)) for (const name of fbxOutline(bytes, file).pictures) take(name);
  return found;
}
