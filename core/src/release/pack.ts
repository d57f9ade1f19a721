/** From a built crate to a package, and from a package back to verified files. */

import { readZip, writeZipApart } from '../asset/archive/zip.ts';
import { isFileKind } from '../crate/assetKind.ts';
import { isBankPatch } from '../crate/contents.ts';
import type { FileTree } from '../crate/fileTree.ts';
import type { CrateWorld } from '../crate/world.ts';
import { readDocument } from '../document/readDocument.ts';
import type { Finding } from '../finding.ts';
import { UnreadableInput } from '../unreadable.ts';
import { sha256Hex } from '../hash.ts';
import type { Platform } from '../profile/schema.ts';
import { LinkGraph } from '../link/graph.ts';
import { linksFile } from '../link/linksFile.ts';
import { reportOf } from '../link/report.ts';
import { checkLedger, creditsFile, creditsText, ledgerOf } from './ledger.ts';
import { RELEASE_FILE, ReleaseManifestSchema, type ReleaseManifest } from './manifest.ts';
import { ASSETS_FILE, travellingRecords } from './packOfRelease.ts';
import { PREVIEW_FILE } from './moving.ts';
import { checkPicture } from './pictures.ts';
import { forPlatform } from './platform.ts';
import { SIGNATURE_FILE, type Sign } from './signature.ts';
import { foldedPath, misnamedFile, pathTrouble, shownPath } from '../crate/portableName.ts';

const encoder = new TextEncoder();

export interface PackageInputs {
  world: CrateWorld;
  /** What the build made, for every map of the crate. */
  artefacts: FileTree;
  /** Bytes of the crate's own binary files by path. */
  readFile(path: string): Promise<Uint8Array>;
  /** PNG. */
  thumbnail: Uint8Array;
  /** Further pictures by their path in the package. */
  pictures?: FileTree;
  /** Animated WebP. */
  preview?: Uint8Array;
  /** By the author's key; without it the package is not signed. */
  sign?: Sign;
  /** One of the profile's that the package is made for; without it, it is as built. */
  platform?: Platform;
}

export interface Package {
  manifest: ReleaseManifest;
  zip: Uint8Array;
  findings: Finding[];
  /** In what it is another one than the package that is as built, a sentence for each file. */
  differences: string[];
}

/** What stands against publishing: blockers only where the workshop or the game could not take it. */
export function checkRelease(world: CrateWorld, graph = new LinkGraph(world)): Finding[] {
  const { manifest } = world.crate;
  const findings: Finding[] = [];
  const place = { file: 'crate.json' };
  if (manifest.description.trim() === '')
    findings.push({
      code: 'release-no-description',
      severity: 'warning',
      stage: 'publish',
      message: 'The crate has no description.',
      hint: 'People choose by it; two sentences are enough.',
      place,
    });
  if (manifest.authors.length === 0)
    findings.push({
      code: 'release-no-author',
      severity: 'warning',
      stage: 'publish',
      message: 'No author is named.',
      hint: 'Add yourself under Publish.',
      place,
    });
  return [...findings, ...checkLedger(world, ledgerOf(world, graph))];
}

/** The files of a package, with its manifest as one of them. Stock files never travel. */
async function releaseTree(
  { world, artefacts, readFile, platform }: Omit<PackageInputs, 'thumbnail'>,
  more: Pick<ReleaseManifest, 'thumbnail' | 'local' | 'pictures' | 'preview'>,
  shown: FileTree = new Map(),
): Promise<Omit<Package, 'zip'> & { tree: FileTree }> {
  const { crate, profile, base } = world;
  let tree: FileTree = new Map(artefacts);
  for (const [path, source] of Object.entries({ ...crate.scripts, ...crate.data })) tree.set(path, encoder.encode(source));
  const graph = new LinkGraph(world);
  const ledger = ledgerOf(world, graph);
  tree.set('CREDITS.md', encoder.encode(creditsText(crate.manifest, ledger)));
  tree.set('credits.json', encoder.encode(JSON.stringify(creditsFile(crate.manifest, ledger))));
  for (const map of Object.keys(crate.maps)) {
    const report = reportOf(graph, world, map);
    tree.set(`maps/${map}/links.json`, encoder.encode(JSON.stringify(linksFile(report))));
    for (const link of report.links) {
      if (link.origin !== 'crate' || !isFileKind(link.kind) || tree.has(link.name)) continue;
      tree.set(link.name, await readFile(link.name));
    }
  }
  for (const { path } of crate.files) if (isBankPatch(path)) tree.set(path, await readFile(path));
  tree.set('materials.json', encoder.encode(JSON.stringify(crate.manifest.materials)));
  tree.set(ASSETS_FILE, encoder.encode(JSON.stringify(travellingRecords(crate.manifest.assets, tree))));
  for (const [path, picture] of shown) tree.set(path, picture);
  let differences: string[] = [];
  let findings: Finding[] = [];
  if (platform) ({ tree, differences, findings } = await forPlatform(tree, platform));
  const manifest: ReleaseManifest = {
    format: 1,
    name: crate.manifest.name,
    title: crate.manifest.title,
    description: crate.manifest.description,
    version: crate.manifest.version,
    profile: profile.id,
    mainMap: crate.manifest.mainMap,
    authors: crate.manifest.authors,
    credits: crate.manifest.credits,
    ...(crate.manifest.licence ? { licence: crate.manifest.licence } : {}),
    ...(crate.manifest.about ? { about: crate.manifest.about } : {}),
    ...(crate.manifest.requires ? { requires: crate.manifest.requires } : {}),
    ...more,
    ...(platform ? { platform: platform.id } : {}),
    ...(base.version ? { gameVersion: base.version } : {}),
    files: [...tree.keys()].sort().map((path) => ({ path, bytes: tree.get(path)!.length, sha256: sha256Hex(tree.get(path)!) })),
  };
  tree.set(RELEASE_FILE, encoder.encode(JSON.stringify(manifest, null, 2)));
  return { manifest, tree, differences, findings };
}

/** What goes into the mods folder to try a crate there: the files of its package, marked as a copy of its author's. */
export const localRelease = (inputs: Omit<PackageInputs, 'thumbnail'>): Promise<{ manifest: ReleaseManifest; tree: FileTree }> =>
  releaseTree(inputs, { local: true });

/** Packs the built maps, the scripts and those own files that a map needs. */
export async function packRelease(inputs: PackageInputs): Promise<Package> {
  const { world } = inputs;
  const { profile } = world;
  const { pictures = new Map<string, Uint8Array>(), preview } = inputs;
  const shown: FileTree = new Map([['thumbnail.png', inputs.thumbnail], ...pictures]);
  const moving: FileTree = new Map(preview ? [[PREVIEW_FILE, preview]] : []);
  const {
    manifest,
    tree,
    differences,
    findings: ofPlatform,
  } = await releaseTree(
    inputs,
    {
      thumbnail: 'thumbnail.png',
      ...(pictures.size > 0 ? { pictures: [...pictures.keys()] } : {}),
      ...(preview ? { preview: PREVIEW_FILE } : {}),
    },
    new Map([...shown, ...moving]),
  );
  if (inputs.sign) tree.set(SIGNATURE_FILE, encoder.encode(JSON.stringify(inputs.sign(tree.get(RELEASE_FILE)!))));
  const zip = await writeZipApart(tree);
  const { thumbnailWidth: width, thumbnailHeight: height } = profile.package;
  const misnamed = manifest.files.flatMap(({ path }) => {
    const trouble = pathTrouble(path);
    return trouble ? [misnamedFile(path, trouble, 'publish')] : [];
  });
  const findings = [
    ...misnamed,
    ...checkRelease(world),
    ...ofPlatform,
    ...[...shown].flatMap(([path, picture]) => checkPicture(picture, path, { width, height })),
  ];
  if (zip.length > profile.package.maxBytes) {
    const largest = [...manifest.files].sort((a, b) => b.bytes - a.bytes).slice(0, 3);
    findings.push({
      code: 'release-too-large',
      severity: 'blocker',
      stage: 'publish',
      message: `The package has ${zip.length} bytes; ${profile.title} takes at most ${profile.package.maxBytes}.`,
      hint: `Largest: ${largest.map((f) => `${f.path} (${f.bytes})`).join(', ')}.`,
    });
  }
  return { manifest, zip, findings, differences };
}

/** Unpacks a package and verifies every file against the manifest; a package that differs is refused whole. */
export function openRelease(zip: Uint8Array, file: string): { manifest: ReleaseManifest; tree: FileTree } {
  const tree = readZip(zip, file);
  const own = tree.get(RELEASE_FILE);
  if (!own)
    throw new UnreadableInput(
      'release-manifest',
      `${file} has no ${RELEASE_FILE}: it is not a package.`,
      { file },
      'Make one with "crate pack" or under Publish.',
    );
  const manifest = readDocument(new TextDecoder().decode(own), ReleaseManifestSchema, RELEASE_FILE);
  const problem = verifyTree(manifest, tree);
  if (problem)
    throw new UnreadableInput('release-hash', `${file}: ${problem}`, { file }, 'Fetch it again; if it stays so, the publisher has to pack it anew.');
  return { manifest, tree };
}

/** The first difference between a manifest and files, or name that not every disk can hold, as a sentence, or null. */
export function verifyTree(manifest: ReleaseManifest, tree: FileTree): string | null {
  const listed = new Set([RELEASE_FILE, SIGNATURE_FILE]);
  const folded = new Map<string, string>();
  for (const record of manifest.files) {
    if (record.path.split('/').some((part) => part.startsWith('.'))) return `${record.path} is a hidden file, which packages do not carry.`;
    const trouble = pathTrouble(record.path);
    if (trouble) return `${shownPath(record.path)} ${trouble}.`;
    const twin = folded.get(foldedPath(record.path));
    if (twin !== undefined) return `${record.path} and ${twin} are the same file on some systems.`;
    folded.set(foldedPath(record.path), record.path);
    listed.add(record.path);
    const bytes = tree.get(record.path);
    if (!bytes) return `${record.path} is missing.`;
    if (bytes.length !== record.bytes || sha256Hex(bytes) !== record.sha256) return `${record.path} does not match its SHA-256.`;
  }
  for (const path of tree.keys()) if (!listed.has(path)) return `${path} is not in the manifest.`;
  return null;
}
