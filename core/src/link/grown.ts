/** What a package would carry now against what a release carried. */

import type { FileRecord } from '../crate/basePack.ts';

export interface Grown {
  path: string;
  /** Null where it was not there, or is not any more. */
  before: number | null;
  after: number | null;
  /** The same name with other content. */
  changed: boolean;
}

/** Files that came, went or changed, by how much they added, the most first. */
export function grownSince(before: readonly FileRecord[], after: readonly FileRecord[]): Grown[] {
  const was = new Map(before.map((file) => [file.path, file]));
  const is = new Map(after.map((file) => [file.path, file]));
  const grown: Grown[] = [];
  for (const path of new Set([...was.keys(), ...is.keys()])) {
    const [from, to] = [was.get(path), is.get(path)];
    if (from && to && from.sha256 === to.sha256) continue;
    grown.push({ path, before: from?.bytes ?? null, after: to?.bytes ?? null, changed: from !== undefined && to !== undefined });
  }
  const by = ({ before: from, after: to }: Grown) => (to ?? 0) - (from ?? 0);
  return grown.sort((a, b) => by(b) - by(a) || (a.path < b.path ? -1 : 1));
}
