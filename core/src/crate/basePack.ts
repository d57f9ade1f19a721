/** `base/pack.json`: the stock assets that come with a game. They are used, never changed or shipped on. */

import { Type, type Static } from '@sinclair/typebox';
import { AssetRecordSchema, CrateMaterialSchema } from './manifest.ts';

export const FileRecordSchema = Type.Object(
  { path: Type.String(), bytes: Type.Integer({ minimum: 0 }), sha256: Type.String({ pattern: '^[0-9a-f]{64}$' }) },
  { additionalProperties: false },
);

export const BasePackSchema = Type.Object(
  {
    format: Type.Literal(1),
    title: Type.String(),
    version: Type.String(),
    materials: Type.Array(CrateMaterialSchema),
    assets: Type.Record(Type.String(), AssetRecordSchema),
    files: Type.Array(FileRecordSchema),
  },
  { additionalProperties: false },
);

export type FileRecord = Static<typeof FileRecordSchema>;
export type BasePack = Static<typeof BasePackSchema>;

export const EMPTY_PACK: BasePack = { format: 1, title: 'No base pack', version: '0.0.0', materials: [], assets: {}, files: [] };

/** Further packs below a first one: their paths begin with the folder that they are under. Of materials of one name the first counts. */
export function joinPacks(base: BasePack, packs: ReadonlyMap<string, BasePack>): BasePack {
  if (packs.size === 0) return base;
  const stock: BasePack = { ...base, materials: [...base.materials], assets: { ...base.assets }, files: [...base.files] };
  const known = new Set(base.materials.map(({ name }) => name));
  for (const [folder, pack] of packs) {
    const below = (path: string) => `${folder}/${path}`;
    const paths = new Set(pack.files.map(({ path }) => path));
    // Pictures of a material are paths of the pack's own files, whatever they are for.
    const moved = <T extends object>(record: T): T =>
      Object.fromEntries(
        Object.entries(record).map(([key, value]) => [key, typeof value === 'string' && paths.has(value) ? below(value) : (value as unknown)]),
      ) as T;
    for (const material of pack.materials) {
      if (known.has(material.name)) continue;
      known.add(material.name);
      stock.materials.push(moved(material));
    }
    for (const [path, asset] of Object.entries(pack.assets)) stock.assets[below(path)] = asset;
    for (const file of pack.files) stock.files.push({ ...file, path: below(file.path) });
  }
  return stock;
}
