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
