import { createHash } from 'node:crypto';
import { existsSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { hasLength, writeAllWhole } from './files.ts';

/** Contents whose hash was found right, while their file is the same by length and times. */
const REMEMBERED = 100_000;

/** Why a content cannot be had. */
export type BlobDamage = 'missing' | 'damaged';

const sha256Of = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Content on disk under its SHA-256: written once, whole, and never changed. What is read is what was written, or an error. */
export class BlobStore {
  private readonly checked = new Map<string, string>();
  private readonly wrong = new Map<string, BlobDamage>();

  constructor(private readonly folder: string) {}

  pathOf(sha256: string): string {
    if (!/^[0-9a-f]{64}$/.test(sha256)) throw new Error('not a SHA-256');
    return join(this.folder, sha256.slice(0, 2), sha256);
  }

  has(sha256: string): boolean {
    return existsSync(this.pathOf(sha256));
  }

  /** @throws UnreadableInput where it is missing, or is not what was stored under its hash */
  read(sha256: string): Uint8Array {
    const file = this.pathOf(sha256);
    const stats = statSync(file, { throwIfNoEntry: false });
    if (!stats) throw this.damage(sha256, 'missing');
    const bytes = new Uint8Array(readFileSync(file));
    const stamp = `${stats.size} ${stats.mtimeMs} ${stats.ctimeMs} ${stats.ino}`;
    if (this.checked.get(sha256) !== stamp) {
      if (sha256Of(bytes) !== sha256) throw this.damage(sha256, 'damaged');
      if (this.checked.size >= REMEMBERED) this.checked.clear();
      this.checked.set(sha256, stamp);
      this.wrong.delete(sha256);
    }
    return bytes;
  }

  /** What is known to be wrong with a content: of those that were read or looked at. */
  damageOf(sha256: string): BlobDamage | null {
    return this.wrong.get(sha256) ?? null;
  }

  /** Looks by its length alone whether a content is there; cheap enough for all of them. */
  look(sha256: string, bytes: number): BlobDamage | null {
    const size = statSync(this.pathOf(sha256), { throwIfNoEntry: false })?.size;
    if (size === bytes) return this.damageOf(sha256);
    const what = size === undefined ? 'missing' : 'damaged';
    this.wrong.set(sha256, what);
    return what;
  }

  /** Stores bytes and answers their SHA-256. */
  put(bytes: Uint8Array): string {
    return this.putAll([bytes])[0];
  }

  /** Stores many at once, which waits for the disk once; answers their SHA-256 in order. What was missing or damaged is whole then. */
  putAll(contents: readonly Uint8Array[]): string[] {
    const hashes = contents.map(sha256Of);
    const missing = new Map<string, Uint8Array>();
    // A file of another size is one that was cut off before writing was all or nothing: it is mended here.
    hashes.forEach((sha256, i) => {
      if (this.wrong.has(sha256) || !hasLength(this.pathOf(sha256), contents[i].length)) missing.set(this.pathOf(sha256), contents[i]);
    });
    if (missing.size > 0) writeAllWhole([...missing]);
    for (const sha256 of hashes) this.wrong.delete(sha256);
    return hashes;
  }

  private damage(sha256: string, what: BlobDamage): UnreadableInput {
    this.wrong.set(sha256, what);
    return new UnreadableInput('file-damaged', `A stored content is ${what} on the disk (${sha256.slice(0, 12)}…).`, {}, DAMAGE_HINT);
  }
}

/** Where a damaged file can be had again. */
export const DAMAGE_HINT =
  'Put the file back from the folder of the crate, from its history, from a copy of the data folder or from a release at the workshop; or save or import it again.';
