import { UnreadableInput } from '../../../unreadable.ts';
import { findCompanion, imageType, type Companions } from './companions.ts';
import type { Model } from '../model/model.ts';
import { readGltf } from './readGltf.ts';
import { objLibraries, readObj } from './readObj.ts';
import { readPly } from './readPly.ts';
import { readStl } from './readStl.ts';

export const MODEL_FILE = /\.(obj|glb|gltf|stl|ply|dae|fbx)$/i;

/** Reads a model of any known format. `file` says which; `companions` hold what it refers to. */
export async function readModel(bytes: Uint8Array, file: string, companions: Companions = new Map()): Promise<Model> {
  const ending = MODEL_FILE.exec(file)?.[1].toLowerCase();
  switch (ending) {
    case 'glb':
    case 'gltf':
      return readGltf(bytes, file, companions);
    case 'obj':
      return readObjWithMaterials(bytes, file, companions);
    case 'stl':
      return readStl(bytes, file);
    case 'ply':
      return readPly(bytes, file);
    case 'dae':
    case 'fbx': {
      // Loaded on demand: these two bring a large part of three and an XML parser along.
      const { readCollada, readFbx } = await import('./readScene.ts');
      return ending === 'dae' ? readCollada(bytes, file, companions) : readFbx(bytes, file, companions);
    }
    default:
      throw new UnreadableInput(
        'model-kind',
        `${file}: only .glb, .gltf, .obj, .stl, .ply, .dae and .fbx models are read.`,
        { file },
        'Export it as GLB, which keeps units, normals and materials.',
      );
  }
}

function readObjWithMaterials(bytes: Uint8Array, file: string, companions: Companions): Model {
  const libraries = objLibraries(bytes).map((name) => ({ name, found: findCompanion(companions, name) }));
  const text = libraries.flatMap(({ found }) => (found ? [new TextDecoder().decode(found.bytes)] : [])).join('\n');
  const model = readObj(bytes, file, text || undefined);
  for (const { name, found } of libraries) if (!found?.exact) model.textures.push({ wanted: name, found: found?.path ?? null });
  for (const material of Object.values(model.materials)) {
    if (!material.texture) continue;
    const found = findCompanion(companions, material.texture);
    if (found) material.image = { mimeType: imageType(found.path), bytes: found.bytes };
    if (!found?.exact) model.textures.push({ wanted: material.texture, found: found?.path ?? null });
  }
  return model;
}
