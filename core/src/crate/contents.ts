/**
 * A crate in memory, and how it is read from and written to a tree of files. The same tree is a folder on
 * disk for the command line, rows and blobs for the server, and a ZIP for export and import.
 */

import { canonicalJson, sha256Hex } from '../hash.ts';
import { readDocument } from '../document/readDocument.ts';
import type { Finding } from '../finding.ts';
import { UnreadableInput } from '../unreadable.ts';
import { readMap, recoverMap } from './readMap.ts';
import { completeMap, type GameMap } from '../document/schema.ts';
import { serialiseMap } from '../document/serialise.ts';
import { ASSET_KINDS, ASSETS, type AssetKind } from './assetKind.ts';
import type { FileRecord } from './basePack.ts';
import type { FileTree } from './fileTree.ts';
import { LOCK_FILE } from './lock.ts';
import { CrateManifestSchema, type CrateManifest } from './manifest.ts';

export interface CrateContents {
  manifest: CrateManifest;
  /** By name: `pumphouse` for `maps/pumphouse.map.json`. */
  maps: Record<string, GameMap>;
  /** Lua source by path. */
  scripts: Record<string, string>;
  /** Game data by path, as text: rows of tables and conversations. */
  data: Record<string, string>;
  /** All other files: models, textures, sounds, sources. */
  files: FileRecord[];
}

/** The folders of a crate in the order in which people fill them. */
export const CRATE_FOLDERS = [
  'maps',
  ...ASSET_KINDS.map((kind) => ASSETS[kind].folder),
  'records',
  'talk',
  'banks',
  'sources',
  'previews',
  'walks',
] as const;

/** What lies in a crate's folder and is none of the crate: results, what others make there, and what a merge could not merge. */
export const isBesideCrate = (path: string): boolean => path === 'build' || path === 'node_modules' || /^maps\/[^/]+\.conflicts\.json$/.test(path);

/** A crate’s own picture, where it has one; it stays with the sources. */
export const CRATE_PICTURE = 'sources/picture.png';

/** Patches of the game's banks: they travel whether a map names them or not. */
export const isBankPatch = (path: string): boolean => /^banks\/[^/]+\.(vcdiff|json)$/.test(path);

/** Files that serve the work on a crate and are never packaged: what assets were made from, pictures of them, recorded walks, the lock. */
export const isWorkingFile = (path: string): boolean => path === LOCK_FILE || /^(sources|previews|walks)\//.test(path);

/** The PNG that shows an asset in lists: `previews/models/pump.png` for `models/pump.glb`. */
export const previewPath = (asset: string): string => `previews/${asset.replace(/\.[^./]+$/, '')}.png`;

export const sourceFolder = (kind: AssetKind, name: string): string => `sources/${ASSETS[kind].folder}/${name}`;

const MAP_PATH = /^maps\/([^/]+)\.map\.json$/;
export const mapPath = (name: string): string => `maps/${name}.map.json`;
export const isScript = (path: string): boolean => path.startsWith('scripts/') && path.endsWith('.lua');
/** Rows of a table (`records/people.json`), conversations (`talk/keeper.json`), effects (`effects/smoke.effect.json`). */
export const isData = (path: string): boolean => /^((records|talk)\/[^/]+\.json|effects\/[^/]+\.effect\.json)$/.test(path);
/** Kept as text with the crate, edited as text and told apart line by line. */
export const isText = (path: string): boolean => isScript(path) || isData(path);

const decoder = new TextDecoder('utf-8', { fatal: true });

function readText(path: string, bytes: Uint8Array): string {
  try {
    return decoder.decode(bytes);
  } catch {
    throw new UnreadableInput('text-encoding', `${path} is not UTF-8 text.`, { file: path }, 'Save the file as UTF-8.');
  }
}

/** A map's file; with `report`, a damaged one is read as far as it goes and what is lost is reported. */
function readMapFile(text: string, path: string, profile: string, report?: Finding[]): GameMap {
  if (!report) return readMap(text, path);
  const blank: GameMap = completeMap({
    format: 1,
    profile,
    settings: { skyColour: '#808080', skyIntensity: 1, trial: [] },
    bands: {},
    solids: {},
    objects: {},
    signals: {},
  });
  const { map, findings } = recoverMap(text, path, blank);
  // Drawing needs a band, and an empty one says as much as a lost one.
  if (Object.keys(map.bands).length === 0) map.bands = { b1: { name: 'Ground', bottom: 0, top: 128 } };
  report.push(...findings);
  return map;
}

/** All of a crate's folder. Damaged maps throw `UnreadableInput`, or are recovered where `report` takes what is lost. */
export function readCrate(tree: FileTree, report?: Finding[]): CrateContents {
  const manifestBytes = tree.get('crate.json');
  if (!manifestBytes)
    throw new UnreadableInput(
      'crate-missing',
      'This folder has no crate.json.',
      { file: 'crate.json' },
      'Choose a crate’s own folder, or make one with "crate new".',
    );
  const manifest = readDocument(readText('crate.json', manifestBytes), CrateManifestSchema, 'crate.json');
  const contents: CrateContents = { manifest, maps: {}, scripts: {}, data: {}, files: [] };
  for (const path of [...tree.keys()].sort()) {
    const bytes = tree.get(path)!;
    const map = MAP_PATH.exec(path);
    if (path === 'crate.json') continue;
    if (map) contents.maps[map[1]] = readMapFile(readText(path, bytes), path, manifest.profile, report);
    else if (isScript(path)) contents.scripts[path] = readText(path, bytes);
    else if (isData(path)) contents.data[path] = readText(path, bytes);
    else contents.files.push({ path, bytes: bytes.length, sha256: sha256Hex(bytes) });
  }
  return contents;
}

const encoder = new TextEncoder();

/** The documents of a crate (manifest, maps, scripts, game data) as files; binary files are the caller's. */
export function writeDocuments(contents: Pick<CrateContents, 'manifest' | 'maps' | 'scripts'> & Partial<Pick<CrateContents, 'data'>>): FileTree {
  const tree: FileTree = new Map();
  tree.set('crate.json', encoder.encode(JSON.stringify(contents.manifest, null, 2) + '\n'));
  for (const [name, map] of Object.entries(contents.maps)) tree.set(mapPath(name), encoder.encode(serialiseMap(map)));
  for (const [path, source] of Object.entries({ ...contents.scripts, ...contents.data })) tree.set(path, encoder.encode(source));
  return tree;
}

/** Hash of all that a build of one map depends on. Two equal hashes mean that the build is fresh. */
export function buildInputHash(contents: CrateContents, mapName: string, extra: unknown): string {
  return sha256Hex(
    canonicalJson({
      map: contents.maps[mapName],
      scripts: contents.scripts,
      data: contents.data,
      materials: contents.manifest.materials,
      files: contents.files.filter((f) => !isWorkingFile(f.path)),
      extra,
    }),
  );
}
