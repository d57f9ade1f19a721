/** Takes a file into a crate: converted file, preview, source with its companions, and their record. */

import type { Companions } from '../asset/mesh/read/companions.ts';
import { roleOf } from '../asset/texture/options.ts';
import { assetKind, type AssetKind } from '../crate/assetKind.ts';
import { sourceFolder } from '../crate/contents.ts';
import type { CrateManifest, CrateMaterial } from '../crate/manifest.ts';
import type { Finding } from '../finding.ts';
import { sha256Hex } from '../hash.ts';
import type { Profile } from '../profile/schema.ts';
import { fileClaim } from './fileClaim.ts';
import { IMPORT_KINDS } from './kind/kinds.ts';
import type { ImportInput, Made } from './kind/made.ts';

export interface ImportedAsset extends Made {
  kind: AssetKind;
}

export async function importAsset(profile: Profile, input: ImportInput): Promise<ImportedAsset> {
  const kind = assetKind(input.file);
  const made = await IMPORT_KINDS[kind].convert(profile, input);
  if (made.record) {
    const { source } = made.record;
    made.files.set(source, input.bytes);
    for (const [path, content] of input.companions ?? []) made.files.set(`${sourceFolder(kind, input.name)}/${path}`, content);
    const credit = fileClaim(input.file, input.bytes);
    if (credit) made.record.credit = credit;
    made.record.origin = { path: input.file, sha256: originHash(input.bytes, input.companions), ...(input.fromPack ? { pack: input.fromPack } : {}) };
  }
  return { ...made, kind, findings: made.findings.map((finding) => retarget(finding, made.path)) };
}

/** The hash by which a changed source is noticed: of the file and of all that it refers to. */
export function originHash(bytes: Uint8Array, companions: Companions = new Map()): string {
  const own = sha256Hex(bytes);
  if (companions.size === 0) return own;
  const parts = [...companions].map(([path, content]) => `${path}:${sha256Hex(content)}`).sort();
  return sha256Hex(new TextEncoder().encode([own, ...parts].join('\n')));
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
export function enterAsset(manifest: CrateManifest, asset: Pick<ImportedAsset, 'path' | 'record' | 'scriptOrigin' | 'material'>): CrateManifest {
  if (asset.scriptOrigin) return { ...manifest, scriptOrigins: { ...manifest.scriptOrigins, [asset.path]: asset.scriptOrigin } };
  if (!asset.record) return manifest;
  // A sound that changed its format leaves its old file's record behind otherwise.
  const assets = { ...manifest.assets, [asset.path]: asset.record };
  const { material } = asset;
  if (!material) return { ...manifest, assets };
  const known = manifest.materials.find((m) => m.name === material.name);
  if (known) {
    // What the user set by hand stays; only the pictures and the mean colour follow.
    const { type: _type, unitsPerRepeat: _repeat, ...pictures } = material.add;
    return { ...manifest, assets, materials: manifest.materials.map((m) => (m === known ? { ...known, ...pictures } : m)) };
  }
  if (!material.makes) return { ...manifest, assets };
  const made = { name: material.name, ...material.add } as CrateMaterial;
  return { ...manifest, assets, materials: [...manifest.materials, { ...made, ...partnersOf(assets, material.name) }] };
}

/** Normal, packed and emission maps that came before the picture whose material they belong to. */
function partnersOf(assets: CrateManifest['assets'], base: string): Partial<CrateMaterial> {
  const out: Partial<CrateMaterial> = {};
  for (const path of Object.keys(assets)) {
    const name = /^textures\/(.*)\.ktx2$/.exec(path)?.[1];
    if (name === undefined || name === base) continue;
    if (name === `${base}_orm`) out.packed = path;
    const { role, base: own } = roleOf(name);
    if (own !== base) continue;
    if (role === 'normal' || role === 'height') out.normal = path;
    if (role === 'emission') out.emissionMap = path;
  }
  return out;
}
