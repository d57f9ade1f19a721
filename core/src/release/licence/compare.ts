/** Whether a release may go out under its licence with a file under another in it. */

import { readLicence, type SimpleLicence } from './expression.ts';
import { termsOf } from './terms.ts';

export type Conflict =
  /** It may not be passed on as it is: changed work is not allowed. */
  | 'changes'
  /** The release lets people do for money what the file's licence does not. */
  | 'commerce'
  /** The whole has to go under the file's own licence, or one that it names. */
  | 'same';

/** Worst first; null where they go together, or where nothing is known of one of them. */
export function conflictOf(release: string, file: string): Conflict | null {
  const [ours, theirs] = [readLicence(release), readLicence(file)];
  if (!ours || !theirs) return null;
  // The file may be taken under any of its alternatives, and whoever gets the release may choose among ours: all have to fit.
  const best = theirs.map((all) => worst(ours.flatMap((given) => all.map((licence) => between(given, licence)))));
  return best.includes(null) ? null : worst(best, true);
}

const RANK: (Conflict | null)[] = [null, 'same', 'commerce', 'changes'];
const worst = (conflicts: (Conflict | null)[], least = false): Conflict | null =>
  [...conflicts].sort((a, b) => (RANK.indexOf(b) - RANK.indexOf(a)) * (least ? -1 : 1))[0] ?? null;

function between(given: readonly SimpleLicence[], licence: SimpleLicence): Conflict | null {
  const theirs = termsOf(licence);
  if (!theirs) return null;
  if (!theirs.changes) return 'changes';
  const ours = given.map((one) => termsOf(one));
  if (!theirs.commerce && ours.every((terms) => terms === null || terms.commerce)) return 'commerce';
  const { same } = theirs;
  return same && !given.some(({ id }) => same.includes(id)) ? 'same' : null;
}
