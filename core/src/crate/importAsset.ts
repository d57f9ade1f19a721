/** Takes a model or texture file into a crate: converted file, preview, source, and their record. */

import { convertModel, type ModelOptions } from '../asset/mesh/convert.ts';
import { convertTexture } from '../asset/texture/convert.ts';
import { UnreadableInput, type Finding } from '../finding.ts';
import type { Profile } from '../profile/schema.ts';
import { previewPath, type FileTree } from './contents.ts';
import type { CrateManifest, CrateMaterial } from './manifest.ts';
import { properName } from './naming.ts';

export type AssetKind = 'model' | 'texture';

export interface ImportedAsset {
  kind: AssetKind;
  /** Path of the converted file in the crate. */
  path: string;
  /** Everything to be written: converted file, preview, source and its companions. */
  files: FileTree;
  record: CrateManifest['assets'][string];
  /** Textures come with a material of the same name. */
  material?: CrateMaterial;
  findings: Finding[];
  vertices?: number;
}

export function assetKind(file: string): AssetKind {
  if (/\.(obj|glb)$/i.test(file)) return 'model';
  if (/\.(png|jpe?g)$/i.test(file)) return 'texture';
  throw new UnreadableInput('asset-kind', `${file}: only .obj and .glb models and .png and .jpg textures are converted.`, { file });
}

const stem = (file: string): string =>
  file
    .split('/')
    .pop()!
    .replace(/\.[^.]+$/, '');

/**
 * @param file name as the user has it; the crate's name follows the profile's rule
 * @param companions other files that were given along, e.g. an OBJ's MTL
 */
export async function importAsset(
  profile: Profile,
  file: string,
  bytes: Uint8Array,
  options: Partial<ModelOptions> = {},
  companions: Map<string, Uint8Array> = new Map(),
): Promise<ImportedAsset> {
  const kind = assetKind(file);
  const name = properName(profile, 'file', stem(file));
  const extension = /\.[^.]+$/.exec(file)![0].toLowerCase();
  const source = `sources/${name}${extension}`;
  const files: FileTree = new Map([[source, bytes]]);
  if (kind === 'model') {
    const path = `models/${name}.glb`;
    const converted = await convertModel(profile, file, bytes, options, companions);
    files.set(path, converted.glb);
    for (const [companion, content] of companions) files.set(`sources/${companion.split('/').pop()!}`, content);
    const findings = converted.findings.map((finding) => retarget(finding, path));
    return {
      kind,
      path,
      files,
      record: { source, options: { ...converted.options }, bounds: converted.bounds, triangles: converted.triangles },
      findings,
      vertices: converted.vertices,
    };
  }
  const path = `textures/${name}.ktx2`;
  const converted = await convertTexture(profile, file, bytes);
  files.set(path, converted.ktx2);
  files.set(previewPath(path), converted.preview);
  return {
    kind,
    path,
    files,
    record: { source, options: {}, width: converted.picture.width, height: converted.picture.height },
    material: { name, type: profile.materialTypes[0].id, texture: path, colour: converted.colour, unitsPerRepeat: profile.textures.unitsPerRepeat },
    findings: converted.findings.map((finding) => retarget(finding, path)),
  };
}

/** Findings of a conversion speak of the given file; in the crate they belong to the converted one. */
function retarget(finding: Finding, path: string): Finding {
  return {
    ...finding,
    place: { ...finding.place, file: path },
    fix: finding.fix?.kind === 'reconvert' ? { ...finding.fix, file: path } : finding.fix,
  };
}

/** The manifest with an imported asset entered; an earlier one of the same path is replaced. */
export function enterAsset(manifest: CrateManifest, asset: ImportedAsset): CrateManifest {
  const assets = { ...manifest.assets, [asset.path]: asset.record };
  const { material } = asset;
  if (!material) return { ...manifest, assets };
  const known = manifest.materials.find((m) => m.name === material.name);
  const materials = known
    ? manifest.materials.map((m) => (m === known ? { ...known, texture: material.texture, colour: material.colour } : m))
    : [...manifest.materials, material];
  return { ...manifest, assets, materials };
}
