/** A release as stock for other crates: what of it they may use. */

import { Type } from '@sinclair/typebox';
import { assetKindOf } from '../crate/assetKind.ts';
import type { BasePack } from '../crate/basePack.ts';
import type { FileTree } from '../crate/fileTree.ts';
import { AssetRecordSchema, CrateMaterialSchema, type AssetRecord } from '../crate/manifest.ts';
import { readDocument } from '../document/readDocument.ts';
import type { ReleaseManifest } from './manifest.ts';

/** In a package: what is known of its models, pictures and sounds, without where they came from on their author's machine. */
export const ASSETS_FILE = 'assets.json';
const MATERIALS_FILE = 'materials.json';

export function travellingRecords(assets: Readonly<Record<string, AssetRecord>>, tree: FileTree): Record<string, AssetRecord> {
  return Object.fromEntries(
    Object.keys(assets)
      .sort()
      .flatMap((path) => {
        if (!tree.has(path)) return [];
        const { origin: _, ...record } = assets[path];
        return [[path, { ...record, source: '', options: {} }]];
      }),
  );
}

const Materials = Type.Array(CrateMaterialSchema);
const Records = Type.Record(Type.String(), AssetRecordSchema);

/**
 * What a verified release offers: its models, pictures, sounds and subtitles, and those materials whose pictures came with it. Maps and
 * scripts are its own affair.
 *
 * @throws UnreadableInput where a list in it is damaged
 */
export function packOfRelease(manifest: ReleaseManifest, tree: FileTree): BasePack {
  const list = <T extends typeof Materials | typeof Records>(file: string, schema: T, none: string) => {
    const bytes = tree.get(file);
    return readDocument(bytes ? new TextDecoder().decode(bytes) : none, schema, file);
  };
  const files = manifest.files.filter(({ path }) => {
    const kind = assetKindOf(path);
    return kind !== null && kind !== 'script' && /^(models|textures|sounds|subtitles)\//.test(path);
  });
  const there = new Set(files.map(({ path }) => path));
  const records = list(ASSETS_FILE, Records, '{}');
  return {
    format: 1,
    title: manifest.title,
    version: manifest.version,
    materials: list(MATERIALS_FILE, Materials, '[]').filter((one) =>
      [one.texture, one.normal, one.packed, one.emissionMap].every((path) => path === undefined || there.has(path)),
    ),
    assets: Object.fromEntries(Object.entries(records).filter(([path]) => there.has(path))),
    files,
  };
}
