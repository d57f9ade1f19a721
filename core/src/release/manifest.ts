/** `release.json`: the first thing in a package. It names every other file with its size and SHA-256. */

import { Type, type Static } from '@sinclair/typebox';
import { FileRecordSchema } from '../crate/basePack.ts';
import { AboutSchema, CreditSchema, RequiresSchema } from '../crate/manifest.ts';
import { Version } from '../crate/version.ts';

export const ReleaseManifestSchema = Type.Object(
  {
    format: Type.Literal(1),
    name: Type.String({ pattern: '^[a-z][a-z0-9_]*$', maxLength: 64 }),
    title: Type.String({ minLength: 1, maxLength: 120 }),
    description: Type.String({ maxLength: 8000 }),
    version: Version,
    profile: Type.String(),
    mainMap: Type.String(),
    authors: Type.Array(Type.String()),
    credits: Type.Array(CreditSchema),
    licence: Type.Optional(Type.String({ maxLength: 200, description: 'SPDX expression.' })),
    about: Type.Optional(AboutSchema),
    requires: Type.Optional(RequiresSchema),
    pictures: Type.Optional(Type.Array(Type.String(), { maxItems: 12, description: 'Paths of pictures in the package, the title picture aside.' })),
    preview: Type.Optional(Type.Literal('preview.webp', { description: 'What a camera sees along a path, moving.' })),
    platform: Type.Optional(Type.String({ maxLength: 40, description: 'Id of the platform of the profile that it is for.' })),
    thumbnail: Type.Optional(Type.Literal('thumbnail.png')),
    /** The version of the game whose base pack it was made with. */
    gameVersion: Type.Optional(Type.String({ maxLength: 40 })),
    /** Put into the mods folder by its author to try it; it was never published. */
    local: Type.Optional(Type.Literal(true)),
    files: Type.Array(FileRecordSchema),
  },
  { additionalProperties: false },
);

export type ReleaseManifest = Static<typeof ReleaseManifestSchema>;
export const RELEASE_FILE = 'release.json';
