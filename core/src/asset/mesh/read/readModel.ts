import { UnreadableInput } from '../../../unreadable.ts';
import { findCompanion, imageType, type Companions } from './companions.ts';
import type { Model } from '../model/model.ts';
import { readGltf } from './readGltf.ts';
import { joined, wholeLines } from './byteScanner.ts';
import { ObjReader } from './readObj.ts';
import { readPly } from './readPly.ts';
import { readStl } from './readStl.ts';

export const MODEL_FILE = /\.(obj|glb|gltf|stl|ply|dae|fbx)$/i;

/** A file as a whole, or as pieces in their order, of any size. */
export type FileBytes = Uint8Array | AsyncIterable<Uint8Array>;

/**
 * Reads a model of any known format. `file` says which; `companions` hold what it refers to. An OBJ in pieces is never
 * held as a whole; the other formats have to be.
 */
export async function readModel(given: FileBytes, file: string, companions: Companions = new Map()): Promise<Model> {
  const ending = MODEL_FILE.exec(file)?.[1].toLowerCase();
  if (ending === 'obj') return readObjWithMaterials(given, file, companions);
  const bytes = given instanceof Uint8Array ? given : await wholeFile(given);
  switch (ending) {
    case 'glb':
    case 'gltf':
      return readGltf(bytes, file, companions);
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

async function wholeFile(pieces: AsyncIterable<Uint8Array>): Promise<Uint8Array> {
  const all: Uint8Array[] = [];
  for await (const piece of pieces) all.push(piece);
  return joined(all);
}

async function readObjWithMaterials(given: FileBytes, file: string, companions: Companions): Promise<Model> {
  const reader = new ObjReader(file);
  if (given instanceof Uint8Array) reader.read(given);
  else for await (const lines of wholeLines(given)) reader.read(lines);
  const libraries = reader.libraries.map((name) => ({ name, found: findCompanion(companions, name) }));
  const text = libraries.flatMap(({ found }) => (found ? [new TextDecoder().decode(found.bytes)] : [])).join('\n');
  const model = reader.finish(text || undefined);
  for (const { name, found } of libraries) if (!found?.exact) model.textures.push({ wanted: name, found: found?.path ?? null });
  for (const material of Object.values(model.materials)) {
    if (!material.texture) continue;
    const found = findCompanion(companions, material.texture);
    if (found) material.image = { mimeType: imageType(found.path), bytes: found.bytes };
    if (!found?.exact) model.textures.push({ wanted: material.texture, found: found?.path ?? null });
  }
  return model;
}
