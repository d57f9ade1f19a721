/** The library: all assets of crate and game as one searchable list. */

import type { Finding } from '../finding.ts';
import { ASSETS, assetKindOf, type AssetKind } from '../crate/assetKind.ts';
import { previewPath } from '../crate/contents.ts';
import type { AssetRecord, CrateMaterial } from '../crate/manifest.ts';
import { usageOf, type Use } from './usage.ts';
import type { CrateWorld } from '../crate/world.ts';

export interface LibraryEntry {
  /** Path of a file, or `material:NAME`. */
  id: string;
  kind: AssetKind | 'material';
  name: string;
  origin: 'crate' | 'game';
  /** Title of the pack that it came with. */
  pack: string;
  bytes: number;
  /** Materials and textures of one: type of the material. */
  materialType: string;
  /** Path of a PNG, where there is one. */
  preview: string | null;
  uses: Use[];
  findings: Finding[];
  /** The source on disk differs from the one it was made of. */
  stale: boolean;
  /** Stands in for something unfinished, by the profile. */
  placeholder: boolean;
  record?: AssetRecord;
  material?: CrateMaterial;
  /** What searching looks at, lower case. */
  text: string;
}

export interface LibraryInput {
  world: CrateWorld;
  /** Findings by file. */
  findings?: ReadonlyMap<string, Finding[]>;
  /** Assets whose source has changed. */
  stale?: ReadonlySet<string>;
}

export function libraryOf({ world, findings = new Map(), stale = new Set() }: LibraryInput): LibraryEntry[] {
  const uses = usageOf(world);
  const placeholders = new Set(world.profile.placeholders);
  const entries: LibraryEntry[] = [];
  for (const origin of ['crate', 'game'] as const) {
    const source = origin === 'crate' ? { files: world.crate.files, ...world.crate.manifest } : world.base;
    const here = new Set(source.files.map((file) => file.path));
    const previewOf = (path: string) => (here.has(previewPath(path)) ? previewPath(path) : null);
    const typeOf = new Map(source.materials.flatMap((material) => (material.texture ? [[material.texture, material.type] as const] : [])));
    const scripts = origin === 'crate' ? Object.entries(world.crate.scripts).map(([path, text]) => ({ path, bytes: text.length })) : [];
    for (const { path, bytes } of [...source.files, ...scripts]) {
      const kind = assetKindOf(path);
      // Sources and pictures of assets lie elsewhere.
      if (!kind || !path.startsWith(`${ASSETS[kind].folder}/`)) continue;
      const record = source.assets[path];
      entries.push(
        withText({
          id: path,
          kind,
          name: path.slice(ASSETS[kind].folder.length + 1),
          origin,
          pack: record?.origin?.pack ?? (origin === 'game' ? world.base.title : ''),
          bytes,
          materialType: typeOf.get(path) ?? '',
          preview: previewOf(path),
          uses: uses.get(path) ?? [],
          findings: findings.get(path) ?? [],
          stale: stale.has(path),
          placeholder: placeholders.has(path),
          record,
        }),
      );
    }
    for (const material of source.materials) {
      // The crate's own hides one of the game with the same name.
      if (origin === 'game' && world.crate.manifest.materials.some((own) => own.name === material.name)) continue;
      entries.push(
        withText({
          id: `material:${material.name}`,
          kind: 'material',
          name: material.name,
          origin,
          pack: origin === 'game' ? world.base.title : '',
          bytes: 0,
          materialType: material.type,
          preview: material.texture ? previewOf(material.texture) : null,
          uses: uses.get(`material:${material.name}`) ?? [],
          findings: [],
          stale: false,
          placeholder: placeholders.has(material.name),
          material,
        }),
      );
    }
  }
  return entries;
}

const withText = (entry: Omit<LibraryEntry, 'text'>): LibraryEntry => ({
  ...entry,
  text: `${entry.name} ${entry.kind} ${entry.materialType} ${entry.pack} ${entry.record?.origin?.path ?? ''}`.toLowerCase(),
});

export interface LibraryFilter {
  query: string;
  kind: LibraryEntry['kind'] | '';
  origin: 'crate' | 'game' | '';
  materialType: string;
  pack: string;
  use: 'used' | 'unused' | '';
  onlyFindings: boolean;
  onlyStale: boolean;
}

export const NO_FILTER: LibraryFilter = {
  query: '',
  kind: '',
  origin: '',
  materialType: '',
  pack: '',
  use: '',
  onlyFindings: false,
  onlyStale: false,
};

/** Entries that hold every word of the query; names that begin with it come first, then by name. */
export function searchLibrary(entries: readonly LibraryEntry[], filter: LibraryFilter): LibraryEntry[] {
  const words = filter.query.toLowerCase().split(/\s+/).filter(Boolean);
  const found = entries.filter(
    (entry) =>
      (filter.kind === '' || entry.kind === filter.kind) &&
      (filter.origin === '' || entry.origin === filter.origin) &&
      (filter.materialType === '' || entry.materialType === filter.materialType) &&
      (filter.pack === '' || entry.pack === filter.pack) &&
      (filter.use === '' || entry.uses.length > 0 === (filter.use === 'used')) &&
      (!filter.onlyFindings || entry.findings.length > 0) &&
      (!filter.onlyStale || entry.stale) &&
      words.every((word) => entry.text.includes(word)),
  );
  const rank = (entry: LibraryEntry) =>
    (words.length > 0 && entry.name.toLowerCase().startsWith(words[0]) ? 0 : 1) + (entry.origin === 'crate' ? 0 : 2);
  return found
    .map((entry) => ({ entry, rank: rank(entry) }))
    .sort((a, b) => a.rank - b.rank || (a.entry.name < b.entry.name ? -1 : a.entry.name > b.entry.name ? 1 : 0))
    .map(({ entry }) => entry);
}
