/**
 * `crate.lock.json`: which version of every other crate this one is made with, by hash. What they hold is read-only, lies below
 * `mods/NAME/` and never travels with this crate: the players' machine has it there too.
 */

import { Type, type Static } from '@sinclair/typebox';
import { readDocument } from '../document/readDocument.ts';
import { joinPacks, type BasePack } from './basePack.ts';
import { Version } from './version.ts';
import { Keyed } from '../keyed.ts';

const closed = { additionalProperties: false };

export const LockedCrateSchema = Type.Object(
  {
    version: Version,
    shareCode: Type.String({ pattern: '^[A-Za-z0-9-]{1,40}$' }),
    sha256: Type.String({ pattern: '^[0-9a-f]{64}$', description: 'Of its package.' }),
  },
  closed,
);

export const CrateLockSchema = Type.Object(
  {
    format: Type.Literal(1),
    crates: Keyed(Type.String({ pattern: '^[a-z][a-z0-9_]*$' }), LockedCrateSchema, {
      description: 'By name: what the crate requires, and what that requires.',
    }),
  },
  closed,
);

export type LockedCrate = Static<typeof LockedCrateSchema>;
export type CrateLock = Static<typeof CrateLockSchema>;

export const LOCK_FILE = 'crate.lock.json';
const REQUIRED_FOLDER = 'mods';

/** @throws UnreadableInput with the place in the file */
export const readLock = (text: string): CrateLock => readDocument(text, CrateLockSchema, LOCK_FILE);

/** The same crates give the same bytes. */
export const writeLock = (lock: CrateLock): string =>
  JSON.stringify({ format: 1, crates: Object.fromEntries(Object.entries(lock.crates).sort(([a], [b]) => (a < b ? -1 : 1))) }, null, 2) + '\n';

/** Where the files of a required crate lie in what a map names. */
export const requiredPath = (name: string, path: string): string => `${REQUIRED_FOLDER}/${name}/${path}`;

/** The crate and the path in it of a file that is of a required crate; null for any other. */
export function splitRequired(path: string): { name: string; path: string } | null {
  const [, name, rest] = /^mods\/([a-z][a-z0-9_]*)\/(.+)$/.exec(path) ?? [];
  return name ? { name, path: rest } : null;
}

/** Stock of the game with what required crates hold. */
export const withRequired = (base: BasePack, packs: ReadonlyMap<string, BasePack>): BasePack =>
  joinPacks(base, new Map([...packs].map(([name, pack]) => [`${REQUIRED_FOLDER}/${name}`, pack])));
