/**
 * What a batch of files becomes: one unit per asset, with the files that go along, its name in the crate
 * and the settings remembered for it. Planning reads names and references only; converting comes after.
 */

import { readZip, ZIP_LIMITS, type ZipLimits } from '../asset/archive/zip.ts';
import { referencedBy } from '../asset/mesh/read/references.ts';
import { roleOf } from '../asset/texture/options.ts';
import { UnreadableInput } from '../unreadable.ts';
import { sha256Hex } from '../hash.ts';
import { own } from '../own.ts';
import type { Profile } from '../profile/schema.ts';
import { ASSET_KINDS, assetKindOf, ASSETS, isCompanion, type AssetKind } from '../crate/assetKind.ts';
import { ASSET_PACK_FILE } from './assetPack.ts';
import type { FileTree } from '../crate/fileTree.ts';
import { originHash } from './importAsset.ts';
import type { ImportInput } from './kind/made.ts';
import type { AssetRecord, CrateManifest } from '../crate/manifest.ts';
import { freeName, properName } from '../crate/naming.ts';
import { effectPath } from '../effect/document.ts';

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
export const CLASHES = ['keep', 'replace', 'rename'] as const;
export type Clash = (typeof CLASHES)[number];

export interface PlanOptions {
  /** Per file; the default is "rename", which loses nothing. */
  clashes?: Readonly<Record<string, Clash>>;
  /** Settings for this batch, over what is remembered. */
  options?: Partial<Record<AssetKind, Record<string, unknown>>>;
  /** Names of the game's own materials, for the slots of models. */
  stockMaterials?: readonly string[];
  /** Scripts and effects that exist, with their text. */
  scripts?: Readonly<Record<string, string>>;
  /** Assets that other batches are about to make: their names are taken, and the same source means the same asset. */
  underWay?: readonly { file: string; path: string }[];
  fromPack?: string;
}

export interface Unpacked {
  files: FileTree;
  broken: { file: string; reason: string }[];
}

const isArchive = (path: string): boolean => /\.zip$/i.test(path);

/**
 * Files with every ZIP among them replaced by what it holds, under the archive's own name. One budget holds for
 * all archives together: what goes beyond it is named and left out. Archives within archives are not opened.
 */
export function unpackArchives(files: FileTree, budget: ZipLimits = ZIP_LIMITS): Unpacked {
  const out: FileTree = new Map();
  const taken = { has: (path: string) => out.has(path) || files.has(path) };
  const broken: Unpacked['broken'] = [];
  const left = { ...budget };
  for (const [path, bytes] of files) {
    if (!isArchive(path)) {
      out.set(path, bytes);
      continue;
    }
    try {
      const tree = readZip(bytes, path, left);
      left.maxEntries -= tree.size;
      for (const [inner, content] of tree) {
        left.maxTotal -= content.length;
        if (isArchive(inner)) broken.push({ file: `${path}/${inner}`, reason: `${inner} is an archive within ${path}; unpack it first` });
        else out.set(distinctPath(`${path.replace(/\.zip$/i, '')}/${inner}`, taken), content);
      }
    } catch (error) {
      broken.push({ file: path, reason: error instanceof UnreadableInput ? error.message : `${path} cannot be opened; pack it again` });
    }
  }
  return { files: out, broken };
}

/** A path that no other file of a batch has: `door.lua`, `2/door.lua`, `3/door.lua`. */
export function distinctPath(path: string, taken: { has(path: string): boolean }): string {
  let free = path;
  for (let n = 2; taken.has(free); n++) free = `${n}/${path}`;
  return free;
}

const stemOf = (file: string): string =>
  file
    .split('/')
    .pop()!
    .replace(/(\.effect)?\.[^.]+$/, '');
const folderOf = (file: string): string => file.split('/').slice(0, -1).join('/');
const FOLDERS = Object.fromEntries(ASSET_KINDS.map((kind) => [kind, ASSETS[kind].folder])) as Record<AssetKind, string>;
const CHANNELS = ['occlusion', 'roughness', 'metalness'] as const;

export function planImport(profile: Profile, manifest: CrateManifest, given: FileTree, options: PlanOptions = {}): ImportPlan {
  const { files, broken } = unpackArchives(given);
  const plan: ImportPlan = { units: [], skipped: broken };
  const along = new Map([...files].filter(([path]) => isCompanion(path) || assetKindOf(path) === 'texture'));
  const claimed = new Set<string>();
  const models = [...files].filter(([path]) => assetKindOf(path) === 'model');
  const companionsOf = new Map(
    models.map(([path, bytes]) => {
      const found = companionsFor(path, bytes, along);
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
    const place = named(kind, file, pack ? `${roleOf(stemOf(file)).base}_orm` : stemOf(file), bytes);
    if (!place) continue;
    const earlier = place.replaces === undefined ? undefined : own(manifest.assets, place.replaces);
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
      place.same ||
      (earlier?.origin?.sha256 === originHash(bytes, companions) && earlier.origin.path === file && sameSettings(earlier, unit.options!));
    plan.units.push(unit);
  }
  return plan;
}

/** What a model asks for; one that cannot be looked through says why when it is converted, and holds up no other. */
function companionsFor(path: string, bytes: Uint8Array, along: FileTree): FileTree {
  try {
    return referencedBy(path, bytes, nearFirst(along, folderOf(path)));
  } catch {
    return new Map();
  }
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

interface PlaceInCrate {
  name: string;
  replaces?: string;
  /** The crate has just this already. */
  same?: boolean;
}

/** Gives every file its place: the asset it made before, or a free name by the profile's rule. */
function namer(profile: Profile, manifest: CrateManifest, options: PlanOptions) {
  const scripts = options.scripts ?? {};
  const underWay = options.underWay ?? [];
  const byOrigin = new Map(Object.entries(manifest.assets).flatMap(([path, record]) => (record.origin ? [[record.origin.path, path] as const] : [])));
  const twins = new Map(underWay.map(({ file, path }) => [file, path] as const));
  const taken = Object.fromEntries(Object.keys(FOLDERS).map((kind) => [kind, new Set<string>()])) as Record<AssetKind, Set<string>>;
  for (const kind of Object.keys(FOLDERS) as AssetKind[])
    for (const path of [...Object.keys(manifest.assets), ...Object.keys(scripts), ...underWay.map((other) => other.path)])
      if (path.startsWith(`${FOLDERS[kind]}/`)) taken[kind].add(stemOf(path));
  return (kind: AssetKind, file: string, stem: string, bytes: Uint8Array): PlaceInCrate | null => {
    const name = properName(profile, 'file', stem);
    if (kind === 'script' || kind === 'effect') {
      const known = knownScript(manifest, scripts, file, scriptText(bytes), kind === 'script' ? `scripts/${name}.lua` : effectPath(name));
      if (known) return { name: stemOf(known.path), replaces: known.path, same: known.same };
    }
    const before = byOrigin.get(file);
    if (before !== undefined) return { name: stemOf(before), replaces: before };
    const twin = twins.get(file);
    if (twin?.startsWith(`${FOLDERS[kind]}/`)) return { name: stemOf(twin) };
    if (taken[kind].has(name)) {
      const clash = own(options.clashes ?? {}, file) ?? 'rename';
      if (clash === 'keep') return null;
      const existing = [...Object.keys(manifest.assets), ...Object.keys(scripts)].find(
        (path) => path.startsWith(`${FOLDERS[kind]}/`) && stemOf(path) === name,
      );
      if (clash === 'replace') return { name, replaces: existing };
    }
    const free = freeName(name, taken[kind]);
    taken[kind].add(free);
    return { name: free };
  };
}

/**
 * The script that a file became earlier, or that reads the same. One that was changed both here and there is neither:
 * then the newcomer gets a name of its own, so that nothing is lost.
 */
function knownScript(
  manifest: CrateManifest,
  scripts: Readonly<Record<string, string>>,
  file: string,
  text: string,
  likely: string,
): { path: string; same: boolean } | null {
  if (own(scripts, likely) === text) return { path: likely, same: true };
  const found = Object.entries(manifest.scriptOrigins ?? {}).find(([path, origin]) => origin.path === file && own(scripts, path) !== undefined);
  if (!found) return null;
  const [path, origin] = found;
  const changedThere = origin.sha256 !== sha256Hex(text);
  const changedHere = origin.sha256 !== sha256Hex(scripts[path]);
  return changedThere && changedHere ? null : { path, same: !changedThere };
}

/** The text of a script as it lies in the crate: with line ends of one character. */
export const scriptText = (bytes: Uint8Array): string => new TextDecoder().decode(bytes).replaceAll('\r\n', '\n');

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
