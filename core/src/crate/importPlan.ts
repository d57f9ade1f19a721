/**
 * What a batch of files becomes: one unit per asset, with the files that go along, its name in the crate
 * and the settings remembered for it. Planning reads names and references only; converting comes after.
 */

import { readZip } from '../asset/archive/zip.ts';
import { referencedBy } from '../asset/mesh/references.ts';
import { roleOf } from '../asset/texture/options.ts';
import { UnreadableInput } from '../finding.ts';
import type { Profile } from '../profile/schema.ts';
import { assetKindOf, isCompanion, type AssetKind } from './assetKind.ts';
import { ASSET_PACK_FILE } from './assetPack.ts';
import type { FileTree } from './contents.ts';
import { originHash, type ImportInput } from './importAsset.ts';
import type { AssetRecord, CrateManifest } from './manifest.ts';
import { freeName, properName } from './naming.ts';

export interface ImportUnit extends ImportInput {
  kind: AssetKind;
  /** Asset that is made anew from this source, if there is one. */
  replaces?: string;
  /** Neither source nor settings have changed since the last time. */
  unchanged: boolean;
}

export interface ImportPlan {
  units: ImportUnit[];
  /** Files that are no assets, and why. */
  skipped: { file: string; reason: string }[];
}

/** What to do with a file whose name is taken by an asset from elsewhere. */
export type Clash = 'keep' | 'replace' | 'rename';

export interface PlanOptions {
  /** Per file; the default is "rename", which loses nothing. */
  clashes?: Readonly<Record<string, Clash>>;
  /** Settings for this batch, over what is remembered. */
  options?: Partial<Record<AssetKind, Record<string, unknown>>>;
  /** Names of the game's own materials, for the slots of models. */
  stockMaterials?: readonly string[];
  /** Scripts that exist. */
  scripts?: readonly string[];
  fromPack?: string;
}

/** Files with every ZIP among them replaced by what it holds, under the archive's own name. */
export function unpackArchives(files: FileTree): { files: FileTree; broken: { file: string; reason: string }[] } {
  const out: FileTree = new Map();
  const broken: { file: string; reason: string }[] = [];
  for (const [path, bytes] of files) {
    if (!/\.zip$/i.test(path)) {
      out.set(path, bytes);
      continue;
    }
    try {
      for (const [inner, content] of readZip(bytes, path)) out.set(`${path.replace(/\.zip$/i, '')}/${inner}`, content);
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
      broken.push({ file: path, reason: error.message });
    }
  }
  return { files: out, broken };
}

const stemOf = (file: string): string =>
  file
    .split('/')
    .pop()!
    .replace(/\.[^.]+$/, '');
const folderOf = (file: string): string => file.split('/').slice(0, -1).join('/');
const FOLDERS: Record<AssetKind, string> = { model: 'models', texture: 'textures', sound: 'sounds', script: 'scripts' };
const CHANNELS = ['occlusion', 'roughness', 'metalness'] as const;

export function planImport(profile: Profile, manifest: CrateManifest, given: FileTree, options: PlanOptions = {}): ImportPlan {
  const { files, broken } = unpackArchives(given);
  const plan: ImportPlan = { units: [], skipped: broken };
  const along = new Map([...files].filter(([path]) => isCompanion(path) || assetKindOf(path) === 'texture'));
  const claimed = new Set<string>();
  const models = [...files].filter(([path]) => assetKindOf(path) === 'model');
  const companionsOf = new Map(
    models.map(([path, bytes]) => {
      const found = referencedBy(path, bytes, nearFirst(along, folderOf(path)));
      for (const file of found.keys()) claimed.add(file);
      return [path, found] as const;
    }),
  );
  const packs = packedChannels([...files.keys()].filter((path) => assetKindOf(path) === 'texture' && !claimed.has(path)));
  const named = namer(profile, manifest, options);
  const materials = [...manifest.materials.map((m) => m.name), ...(options.stockMaterials ?? [])];

  for (const [file, bytes] of files) {
    const kind = assetKindOf(file);
    if (!kind) {
      const name = file.split('/').pop()!;
      if (!isCompanion(file) && name !== ASSET_PACK_FILE && !name.startsWith('.'))
        plan.skipped.push({ file, reason: 'not a kind of file that is imported' });
      continue;
    }
    if (claimed.has(file)) continue;
    const pack = packs.get(file);
    // The first picture of a packed set stands for all of it.
    if (pack && pack.first !== file) continue;
    const companions =
      kind === 'model'
        ? companionsOf.get(file)!
        : pack
          ? new Map(pack.others.map((path) => [path, files.get(path)!]))
          : new Map<string, Uint8Array>();
    const place = named(kind, file, pack ? `${roleOf(stemOf(file)).base}_orm` : stemOf(file));
    if (!place) continue;
    const earlier = place.replaces === undefined ? undefined : manifest.assets[place.replaces];
    const unit: ImportUnit = {
      kind,
      file,
      bytes,
      name: place.name,
      companions,
      materials: kind === 'model' ? materials : undefined,
      fromPack: options.fromPack,
      pack: pack?.channels,
      options: { ...rulesFor(manifest, kind, file), ...earlier?.options, ...variantOf(kind, stemOf(file), models), ...options.options?.[kind] },
      replaces: place.replaces,
      unchanged: false,
    };
    unit.unchanged =
      earlier?.origin?.sha256 === originHash(bytes, companions) && earlier.origin.path === file && sameSettings(earlier, unit.options!);
    plan.units.push(unit);
  }
  return plan;
}

/** Companions sorted so that those of the model's own folder are found before others of the same name. */
function nearFirst(along: FileTree, folder: string): FileTree {
  const near = (path: string) => (folderOf(path) === folder ? 0 : path.startsWith(`${folder}/`) ? 1 : 2);
  return new Map([...along].sort(([a], [b]) => near(a) - near(b)));
}

interface PackedSet {
  first: string;
  others: string[];
  channels: NonNullable<ImportInput['pack']>;
}

/** Roughness, metalness and occlusion pictures of one material in one folder become one texture. */
function packedChannels(pictures: string[]): Map<string, PackedSet> {
  const sets = new Map<string, PackedSet>();
  const out = new Map<string, PackedSet>();
  for (const file of pictures) {
    const { role, base } = roleOf(stemOf(file));
    if (!CHANNELS.includes(role as (typeof CHANNELS)[number])) continue;
    const key = `${folderOf(file)}/${base.toLowerCase()}`;
    const set = sets.get(key) ?? { first: file, others: [], channels: {} };
    if (set.first !== file) set.others.push(file);
    set.channels[role as (typeof CHANNELS)[number]] = file;
    sets.set(key, set);
    out.set(file, set);
  }
  return out;
}

/** Gives every file its place: the asset it made before, or a free name by the profile's rule. */
function namer(profile: Profile, manifest: CrateManifest, options: PlanOptions) {
  const byOrigin = new Map(Object.entries(manifest.assets).flatMap(([path, record]) => (record.origin ? [[record.origin.path, path] as const] : [])));
  const taken = Object.fromEntries(Object.keys(FOLDERS).map((kind) => [kind, new Set<string>()])) as Record<AssetKind, Set<string>>;
  for (const kind of Object.keys(FOLDERS) as AssetKind[])
    for (const path of [...Object.keys(manifest.assets), ...(options.scripts ?? [])])
      if (path.startsWith(`${FOLDERS[kind]}/`)) taken[kind].add(stemOf(path));
  return (kind: AssetKind, file: string, stem: string): { name: string; replaces?: string } | null => {
    const before = byOrigin.get(file);
    if (before !== undefined) return { name: stemOf(before), replaces: before };
    const name = properName(profile, 'file', stem);
    if (taken[kind].has(name)) {
      const clash = options.clashes?.[file] ?? 'rename';
      if (clash === 'keep') return null;
      const existing = Object.keys(manifest.assets).find((path) => path.startsWith(`${FOLDERS[kind]}/`) && stemOf(path) === name);
      if (clash === 'replace') return { name, replaces: existing };
    }
    const free = freeName(name, taken[kind]);
    taken[kind].add(free);
    return { name: free };
  };
}

/** Settings that were given for all files of a folder and those below it; the nearest folder's win. */
export function rulesFor(manifest: CrateManifest, kind: AssetKind, file: string): Record<string, unknown> {
  const rules = (manifest.importRules ?? []).filter(
    (rule) => rule.kind === kind && (rule.folder === '' ? !file.includes('/') : file.startsWith(`${rule.folder}/`)),
  );
  return Object.assign({}, ...rules.sort((a, b) => a.folder.length - b.folder.length).map((rule) => rule.options)) as Record<string, unknown>;
}

/** `crate_broken.glb` beside `crate.glb` or `crate_whole.glb` is a variant of the same model. */
const VARIANTS = /_(whole|intact|broken|damaged|open|closed|lit|off|on)$/i;

function variantOf(kind: AssetKind, stem: string, models: readonly (readonly [string, Uint8Array])[]): Record<string, string> {
  const variant = VARIANTS.exec(stem)?.[1];
  if (kind !== 'model' || variant === undefined) return {};
  const base = stem.replace(VARIANTS, '');
  const family = models.filter(([path]) => stemOf(path).replace(VARIANTS, '') === base);
  return family.length > 1 ? { variantOf: base.toLowerCase(), variant: variant.toLowerCase() } : {};
}

/** Whether the remembered settings contain all that is now asked for. */
function sameSettings(earlier: AssetRecord, wanted: Record<string, unknown>): boolean {
  return Object.entries(wanted).every(([key, value]) => JSON.stringify(earlier.options[key]) === JSON.stringify(value));
}
