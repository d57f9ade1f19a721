/** `release.json`: the first thing in a package. It names every other file with its size and SHA-256. */

import { Type, type Static } from '@sinclair/typebox';
import { FileRecordSchema } from '../crate/basePack.ts';
import { CreditSchema } from '../crate/manifest.ts';

export const ReleaseManifestSchema = Type.Object(
  {
    format: Type.Literal(1),
    name: Type.String({ pattern: '^[a-z][a-z0-9_]*$', maxLength: 64 }),
    title: Type.String({ minLength: 1, maxLength: 120 }),
    description: Type.String({ maxLength: 8000 }),
    version: Type.String({ pattern: '^\\d+\\.\\d+\\.\\d+$' }),
    profile: Type.String(),
    mainMap: Type.String(),
    authors: Type.Array(Type.String()),
    credits: Type.Array(CreditSchema),
    thumbnail: Type.Literal('thumbnail.png'),
    files: Type.Array(FileRecordSchema),
  },
  { additionalProperties: false },
);

export type ReleaseManifest = Static<typeof ReleaseManifestSchema>;
export const RELEASE_FILE = 'release.json';
