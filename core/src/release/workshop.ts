/** What a workshop says of a release. `host/workshopClient` talks to it. */

import { Type, type Static } from '@sinclair/typebox';
import { RequiresSchema } from '../crate/manifest.ts';

export const WorkshopReleaseSchema = Type.Object({
  shareCode: Type.String({ minLength: 1, maxLength: 40 }),
  name: Type.String(),
  title: Type.String(),
  description: Type.String(),
  version: Type.String(),
  profile: Type.String(),
  bytes: Type.Integer({ minimum: 0 }),
  sha256: Type.String({ pattern: '^[0-9a-f]{64}$' }),
  publishedAt: Type.String(),
  /** Public key of who signed it; empty where nobody did. */
  key: Type.String(),
  notes: Type.String(),
  gameVersion: Type.Optional(Type.String()),
  requires: Type.Optional(RequiresSchema),
  withdrawnAt: Type.Optional(Type.String()),
});

export type WorkshopRelease = Static<typeof WorkshopReleaseSchema>;
