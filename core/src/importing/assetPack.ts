/** `pack.json`: what a shared pack of assets says of itself. A pack without one is just a folder of files. */

import { Type, type Static } from '@sinclair/typebox';
import { readDocument } from '../document/readDocument.ts';
import { assetKindOf, isCompanion, type AssetKind } from '../crate/assetKind.ts';
import type { FileTree } from '../crate/fileTree.ts';
import type { Credit, CrateManifest } from '../crate/manifest.ts';

export const ASSET_PACK_FILE = 'pack.json';

export const AssetPackSchema = Type.Object(
  {
    format: Type.Literal(1),
    title: Type.String({ minLength: 1 }),
    author: Type.String(),
    licence: Type.String(),
    instructions: Type.Optional(Type.String()),
  },
  { additionalProperties: false },
);

export type AssetPack = Static<typeof AssetPackSchema>;

export interface PackEntry {
  path: string;
  /** Null for files that are no assets: companions, texts. */
  kind: AssetKind | null;
  bytes: number;
}

export interface OpenPack {
  about: AssetPack;
  /** False where the pack had no pack.json and `about` was made up from its name. */
  described: boolean;
  entries: PackEntry[];
}

/** Reads what a pack holds without importing anything. Archives of a folder may hold that folder itself. */
export function openPack(tree: FileTree, name: string): OpenPack {
  const described = [...tree.keys()].find((path) => path === ASSET_PACK_FILE || /^[^/]+\/pack\.json$/.test(path));
  const about = described
    ? readDocument(new TextDecoder().decode(tree.get(described)), AssetPackSchema, described)
    : { format: 1 as const, title: name.replace(/\.zip$/i, ''), author: '', licence: '' };
  return {
    about,
    described: described !== undefined,
    entries: [...tree]
      .filter(([path]) => path !== described)
      .map(([path, bytes]) => ({ path, kind: isCompanion(path) ? null : assetKindOf(path), bytes: bytes.length }))
      .sort((a, b) => (a.path < b.path ? -1 : 1)),
  };
}

/** The credits with the pack's author added once. */
export function creditPack(manifest: CrateManifest, about: AssetPack): Credit[] {
  const credit = { author: about.author, work: about.title, licence: about.licence };
  const known = manifest.credits.some((c) => c.author === credit.author && c.work === credit.work);
  return known || about.author === '' ? manifest.credits : [...manifest.credits, credit];
}
