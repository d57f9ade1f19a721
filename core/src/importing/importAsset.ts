/** Takes a file into a crate: converted file, preview, source with its companions, and their record. */

import { encode as encodePng } from 'fast-png';
import { convertModel } from '../asset/mesh/convert.ts';
import type { Companions } from '../asset/mesh/read/companions.ts';
import type { ModelOptions } from '../asset/mesh/model/options.ts';
import { writeObj } from '../asset/mesh/write/writeObj.ts';
import { convertSound } from '../asset/sound/convert.ts';
import type { SoundOptions } from '../asset/sound/options.ts';
import { convertPacked, convertTexture } from '../asset/texture/convert.ts';
import { roleOf, type TextureOptions } from '../asset/texture/options.ts';
import { readImage } from '../asset/texture/readImage.ts';
import type { Finding } from '../finding.ts';
import { UnreadableInput } from '../unreadable.ts';
import { sha256Hex } from '../hash.ts';
import type { Profile } from '../profile/schema.ts';
import { assetKind, type AssetKind } from '../crate/assetKind.ts';
import { previewPath } from '../crate/contents.ts';
import type { FileTree } from '../crate/fileTree.ts';
import type { AssetRecord, CrateManifest, CrateMaterial, Origin } from '../crate/manifest.ts';

export interface ImportInput {
  /** Path as the user has it; it says what the file is. */
  file: string;
  bytes: Uint8Array;
  /** Name in the crate, by the profile's rule; `planImport` gives it. */
  name: string;
  companions?: Companions;
  /** Pictures of single channels that become one texture, by channel. */
  pack?: Partial<Record<'occlusion' | 'roughness' | 'metalness', string>>;
  /** Names of the materials that a model's slots can take. */
  materials?: readonly string[];
  /** Title of the asset pack it comes from. */
  fromPack?: string;
  /** Another format beside the game's own: OBJ with its MTL for models, PNG at full size for textures. */
  also?: 'obj' | 'png';
  options?: Record<string, unknown>;
}

export interface ImportedAsset {
  kind: AssetKind;
  /** Path of the converted file in the crate. */
  path: string;
  /** Everything to be written: converted file, preview, source and its companions. */
  files: FileTree;
  /** Scripts have none: they are their own source. */
  record: AssetRecord | null;
  /** Where a script came from. */
  scriptOrigin?: Origin;
  /** What a texture adds to the material that it belongs to. */
  material?: { name: string; add: Partial<CrateMaterial>; makes: boolean };
  findings: Finding[];
}

const extensionOf = (file: string): string => /\.[^.]+$/.exec(file)![0].toLowerCase();

export const sourceFolder = (kind: AssetKind, name: string): string => `sources/${kind}s/${name}`;

export async function importAsset(profile: Profile, input: ImportInput): Promise<ImportedAsset> {
  const kind = assetKind(input.file);
  const made = await (kind === 'model' ? importModel : kind === 'texture' ? importTexture : kind === 'sound' ? importSound : importScript)(
    profile,
    input,
  );
  if (made.record) {
    const { source } = made.record;
    made.files.set(source, input.bytes);
    for (const [path, content] of input.companions ?? []) made.files.set(`${sourceFolder(kind, input.name)}/${path}`, content);
    made.record.origin = { path: input.file, sha256: originHash(input.bytes, input.companions), ...(input.fromPack ? { pack: input.fromPack } : {}) };
  }
  return { ...made, kind, findings: made.findings.map((finding) => retarget(finding, made.path)) };
}

type Made = Omit<ImportedAsset, 'kind'>;

/** The hash by which a changed source is noticed: of the file and of all that it refers to. */
export function originHash(bytes: Uint8Array, companions: Companions = new Map()): string {
  const own = sha256Hex(bytes);
  if (companions.size === 0) return own;
  const parts = [...companions].map(([path, content]) => `${path}:${sha256Hex(content)}`).sort();
  return sha256Hex(new TextEncoder().encode([own, ...parts].join('\n')));
}

async function importModel(profile: Profile, input: ImportInput): Promise<Made> {
  const { file, bytes, companions, materials, name } = input;
  const converted = await convertModel(profile, { file, bytes, companions, materials }, input.options as Partial<ModelOptions>);
  const path = `models/${name}.glb`;
  const { options } = converted;
  const files: FileTree = new Map([
    [path, converted.glb],
    [previewPath(path), converted.preview],
  ]);
  if (input.also === 'obj') {
    const text = writeObj(converted.model, name);
    files.set(`models/${name}.obj`, new TextEncoder().encode(text.obj));
    files.set(`models/${name}.mtl`, new TextEncoder().encode(text.mtl));
  }
  return {
    path,
    files,
    record: {
      source: `sources/models/${name}${extensionOf(file)}`,
      options: { ...options },
      bounds: converted.bounds,
      pivotAt: converted.pivotAt,
      triangles: converted.triangles,
      vertices: converted.vertices,
      slots: converted.slots,
      lods: converted.lods,
      ...(converted.collision ? { collision: converted.collision } : {}),
      movable: options.movable,
      clips: converted.clips,
      bones: converted.bones,
      ...(options.variantOf ? { variantOf: options.variantOf, variant: options.variant } : {}),
    },
    findings: converted.findings,
  };
}

async function importTexture(profile: Profile, input: ImportInput): Promise<Made> {
  const { file, bytes, name, companions = new Map(), pack } = input;
  const path = `textures/${name}.ktx2`;
  const pictureOf = async (wanted: string | undefined) => {
    if (wanted === undefined) return undefined;
    const content = wanted === file ? bytes : companions.get(wanted);
    if (!content) throw new UnreadableInput('file-missing', `${wanted} is missing.`, { file: wanted });
    return await readImage(content, wanted);
  };
  const converted = pack
    ? await convertPacked(profile, file, {
        occlusion: await pictureOf(pack.occlusion),
        roughness: await pictureOf(pack.roughness),
        metalness: await pictureOf(pack.metalness),
      })
    : await convertTexture(profile, file, bytes, input.options as Partial<TextureOptions>);
  const { role, base } = roleOf(name);
  const { use } = converted.options;
  const add: Partial<CrateMaterial> = pack
    ? { packed: path }
    : use === 'normal' || use === 'height'
      ? { normal: path }
      : role === 'emission'
        ? { emissionMap: path }
        : { texture: path, colour: converted.colour };
  const makes = !pack && add.texture !== undefined && use !== 'data';
  const sky = use === 'sky' ? profile.materialTypes.find((type) => type.sky)?.id : undefined;
  const type = sky ?? (converted.options.cutout ? profile.materialTypes.find((t) => t.id === 'cutout')?.id : undefined);
  const files: FileTree = new Map([
    [path, converted.ktx2],
    [previewPath(path), converted.preview],
  ]);
  const { width, height, data } = converted.picture;
  if (input.also === 'png') files.set(`textures/${name}.png`, encodePng({ width, height, data, channels: 4, depth: 8 }));
  return {
    path,
    files,
    record: {
      source: `sources/textures/${name}${extensionOf(file)}`,
      options: { ...converted.options, ...(pack ? { pack } : {}) },
      width,
      height,
      seam: Math.round(converted.seam * 100) / 100,
    },
    material: {
      name: pack ? name.replace(/_orm$/, '') : base,
      add: makes ? { type: type ?? profile.materialTypes[0].id, unitsPerRepeat: profile.textures.unitsPerRepeat, ...add } : add,
      makes,
    },
    findings: converted.findings,
  };
}

async function importSound(profile: Profile, input: ImportInput): Promise<Made> {
  const { file, bytes, name } = input;
  const converted = await convertSound(profile, file, bytes, input.options as Partial<SoundOptions>);
  const path = `sounds/${name}.${converted.extension}`;
  const rounded = (value: number | null) => (value === null ? null : Math.round(value * 10) / 10);
  return {
    path,
    files: new Map([
      [path, converted.bytes],
      [previewPath(path), converted.preview],
    ]),
    record: {
      source: `sources/sounds/${name}${extensionOf(file)}`,
      options: { ...converted.options },
      seconds: Math.round(converted.seconds * 1000) / 1000,
      sampleRate: converted.sampleRate,
      channels: converted.channels,
      loudness: rounded(converted.loudness),
      truePeak: rounded(converted.truePeak),
    },
    findings: converted.findings,
  };
}

function importScript(_profile: Profile, { file, bytes, name, fromPack }: ImportInput): Promise<Made> {
  const path = `scripts/${name}.lua`;
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    throw new UnreadableInput('text-encoding', `${file} is not UTF-8 text.`, { file }, 'Save the file as UTF-8.');
  }
  // A syntax error is no reason to refuse it: the editor is where it gets mended, and the tray names it.
  const content = text.replaceAll('\r\n', '\n');
  return Promise.resolve({
    path,
    files: new Map([[path, new TextEncoder().encode(content)]]),
    record: null,
    scriptOrigin: { path: file, sha256: sha256Hex(content), ...(fromPack ? { pack: fromPack } : {}) },
    findings: [],
  });
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
