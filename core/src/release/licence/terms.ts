/**
 * What licences ask of those who pass work on, as far as a package of files is concerned. Sources: the legal codes of Creative
 * Commons 3.0 and 4.0 (sections 2 to 4), and its list "Compatible licenses"; GNU GPL 3 sections 5 and 7, LGPL 3 section 4, AGPL 3
 * section 13; MPL 2.0 section 3.3; Apache 2.0 section 4; OFL 1.1 conditions 1 to 5. Which of these forbid what is from memory of
 * those texts; this is a help to authors and no advice of a lawyer.
 */

import type { SimpleLicence } from './expression.ts';

export interface Terms {
  /** The author has to be named. */
  attribution: boolean;
  /** Passing on for money is allowed. */
  commerce: boolean;
  /** Changed work may be passed on; conversion changes it. */
  changes: boolean;
  /** Changed work, or a whole that holds it, goes under one of these and no other; null where any will do. */
  same: readonly string[] | null;
}

const FREE: Terms = { attribution: false, commerce: true, changes: true, same: null };
const NAMED: Terms = { ...FREE, attribution: true };

const GPL3 = ['GPL-3.0', 'GPL-3.0-only', 'GPL-3.0-or-later', 'AGPL-3.0', 'AGPL-3.0-only', 'AGPL-3.0-or-later'] as const;
const GPL2 = ['GPL-2.0', 'GPL-2.0-only', 'GPL-2.0-or-later'] as const;
const AGPL3 = ['AGPL-3.0', 'AGPL-3.0-only', 'AGPL-3.0-or-later'] as const;

/** By licence, without its version where all versions ask the same. */
const TERMS: [RegExp, Terms | ((licence: SimpleLicence) => Terms)][] = [
  [/^(CC0-1\.0|Unlicense|0BSD|WTFPL|MIT-0|CC-PDDC|PDDL-1\.0)$/, FREE],
  [/^(MIT|ISC|BSD-[1234]-Clause.*|Apache-[12]\.\d|Zlib|BSL-1\.0|libpng.*|OFL-1\.[01].*|ODC-By-1\.0|MPL-.*|LGPL-.*)$/, NAMED],
  [/^CC-BY-\d/, NAMED],
  [/^CC-BY-NC-\d/, { ...NAMED, commerce: false }],
  [/^CC-BY-ND-\d/, { ...NAMED, changes: false }],
  [/^CC-BY-NC-ND-\d/, { ...NAMED, commerce: false, changes: false }],
  // GPL 3 is the one licence that BY-SA 4.0 work may be taken into (Creative Commons, 2015).
  [/^CC-BY-SA-4\.0$/, { ...NAMED, same: ['CC-BY-SA-4.0', 'GPL-3.0-only', 'GPL-3.0-or-later'] }],
  [/^CC-BY-SA-\d/, ({ id }) => ({ ...NAMED, same: [id, 'CC-BY-SA-4.0'] })],
  [/^CC-BY-NC-SA-\d/, ({ id }) => ({ ...NAMED, commerce: false, same: [id, 'CC-BY-NC-SA-4.0'] })],
  [/^GPL-3\.0/, { ...NAMED, same: GPL3 }],
  [/^GPL-[12]\.0/, ({ orLater }) => ({ ...NAMED, same: orLater ? [...GPL2, ...GPL3] : GPL2 })],
  [/^AGPL-3\.0/, { ...NAMED, same: AGPL3 }],
];

/** @returns null where nothing is known of it */
export function termsOf(licence: SimpleLicence): Terms | null {
  const found = TERMS.find(([pattern]) => pattern.test(licence.id))?.[1];
  return found === undefined ? null : typeof found === 'function' ? found(licence) : found;
}
