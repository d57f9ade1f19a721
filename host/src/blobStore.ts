import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { hasLength, writeAllWhole } from './files.ts';

/** Content on disk under its SHA-256: written once, whole, and never changed. */
export class BlobStore {
  constructor(private readonly folder: string) {}

  pathOf(sha256: string): string {
    if (!/^[0-9a-f]{64}$/.test(sha256)) throw new Error('not a SHA-256');
    return join(this.folder, sha256.slice(0, 2), sha256);
  }

  has(sha256: string): boolean {
    return existsSync(this.pathOf(sha256));
  }

  read(sha256: string): Uint8Array {
    return new Uint8Array(readFileSync(this.pathOf(sha256)));
  }

  /** Stores bytes and answers their SHA-256. */
  put(bytes: Uint8Array): string {
    return this.putAll([bytes])[0];
  }

  /** Stores many at once, which waits for the disk once; answers their SHA-256 in order. */
  putAll(contents: readonly Uint8Array[]): string[] {
    const hashes = contents.map((bytes) => createHash('sha256').update(bytes).digest('hex'));
    const missing = new Map<string, Uint8Array>();
    // A file of another size is one that was cut off before writing was all or nothing: it is mended here.
    hashes.forEach((sha256, i) => {
      if (!hasLength(this.pathOf(sha256), contents[i].length)) missing.set(this.pathOf(sha256), contents[i]);
    });
    if (missing.size > 0) writeAllWhole([...missing]);
    return hashes;
  }
}
