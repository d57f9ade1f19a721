/** What a depot offers: games, tools, packs, profiles and crates in versions, each one archive with the hash of every block of it. */

import { Type, type Static } from '@sinclair/typebox';

const closed = { additionalProperties: false };
const Id = Type.String({ pattern: '^[a-z][a-z0-9_]*$', maxLength: 40 });
const Hash = Type.String({ pattern: '^[0-9a-f]{64}$' });

export const DEPOT_KINDS = ['game', 'tool', 'pack', 'community', 'profile', 'crate'] as const;
export type DepotKind = (typeof DEPOT_KINDS)[number];

export const DepotVersionSchema = Type.Object(
  {
    version: Type.String({ maxLength: 40, pattern: '^[0-9][0-9A-Za-z.+-]*$' }),
    notes: Type.String({ maxLength: 4000, description: 'What has changed since the version before.' }),
    bytes: Type.Integer({ minimum: 1 }),
    /** Bytes that it takes once it is unpacked. */
    unpacked: Type.Integer({ minimum: 0 }),
    sha256: Hash,
    blockBytes: Type.Integer({ minimum: 1024, maximum: 1 << 26 }),
    /** SHA-256 of each block; the last may be shorter. */
    blocks: Type.Array(Hash, { minItems: 1, maxItems: 1_000_000 }),
    game: Type.Optional(Type.String({ maxLength: 100, description: 'Range of versions of the game that it goes with.' })),
  },
  closed,
);

export const DepotItemSchema = Type.Object(
  {
    id: Id,
    kind: Type.Union(DEPOT_KINDS.map((kind) => Type.Literal(kind))),
    profile: Id,
    title: Type.String({ minLength: 1, maxLength: 120 }),
    brings: Type.String({ maxLength: 2000 }),
    author: Type.String({ maxLength: 200 }),
    licence: Type.String({ maxLength: 100 }),
    versions: Type.Array(DepotVersionSchema, { minItems: 1, maxItems: 200 }),
  },
  closed,
);

export const DepotIndexSchema = Type.Object(
  { format: Type.Literal(1), title: Type.String({ maxLength: 120 }), items: Type.Array(DepotItemSchema, { maxItems: 10_000 }) },
  closed,
);

export type DepotVersion = Static<typeof DepotVersionSchema>;
export type DepotItem = Static<typeof DepotItemSchema>;
export type DepotIndex = Static<typeof DepotIndexSchema>;

/** Name of the archive of a version, in a depot's folder. */
export const depotFile = (id: string, version: string): string => `${id}-${version}.zip`;

/** Bytes of a version's block: all are `blockBytes` long but the last. */
export const blockLength = ({ bytes, blockBytes }: Pick<DepotVersion, 'bytes' | 'blockBytes'>, index: number): number =>
  Math.min(blockBytes, bytes - index * blockBytes);
