/** What has to be done so that a crate and a folder are equal, from what each of them has and what both had when they last were. */

/** Hashes of files by path. */
export type Hashes = ReadonlyMap<string, string>;

export interface EqualPlan {
  /** New or changed in the folder only: they come into the crate. */
  take: string[];
  /** New or changed in the crate only: they are written into the folder. */
  give: string[];
  /** Gone from the folder, and unchanged in the crate; and the other way round. */
  dropFromCrate: string[];
  dropFromFolder: string[];
  /** Changed on both sides to something else, or gone on one and changed on the other. */
  clash: string[];
  /** The same on both sides now, whatever it was: they only have to be remembered. */
  remember: string[];
}

/**
 * @param base as both were when they were last equal; a path that is not in it was never in both
 * @param only the paths to look at; all without it
 */
export function equalPlan(base: Hashes, crate: Hashes, folder: Hashes, only?: ReadonlySet<string>): EqualPlan {
  const plan: EqualPlan = { take: [], give: [], dropFromCrate: [], dropFromFolder: [], clash: [], remember: [] };
  const paths = only ?? new Set([...base.keys(), ...crate.keys(), ...folder.keys()]);
  for (const path of [...paths].sort()) {
    const [was, here, there] = [base.get(path), crate.get(path), folder.get(path)];
    if (here === there) {
      if (here !== was) plan.remember.push(path);
      continue;
    }
    if (here === was) (there === undefined ? plan.dropFromCrate : plan.take).push(path);
    else if (there === was) (here === undefined ? plan.dropFromFolder : plan.give).push(path);
    else plan.clash.push(path);
  }
  return plan;
}

/** Files that vanish at once in such numbers were hardly removed one by one: a disk is gone, or somebody emptied the wrong folder. */
export const vanishedAtOnce = (gone: number, all: number): boolean => gone > 10 && gone * 2 > all;

/** Paths that differ only in the case of letters, which some disks cannot hold both of. */
export function caseClashes(paths: Iterable<string>): [string, string][] {
  const seen = new Map<string, string>();
  const clashes: [string, string][] = [];
  for (const path of paths) {
    const folded = path.toLowerCase();
    const other = seen.get(folded);
    if (other !== undefined && other !== path) clashes.push([other, path]);
    else seen.set(folded, path);
  }
  return clashes;
}
