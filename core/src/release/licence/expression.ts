/**
 * Licences by their SPDX identifiers (SPDX License List; expressions as SPDX 2.3, annex D, has them). People write them in
 * many other ways: what was meant is offered.
 */

import licenceIds from 'spdx-license-ids/index.json' with { type: 'json' };
import oldIds from 'spdx-license-ids/deprecated.json' with { type: 'json' };
import parse from 'spdx-expression-parse';

const KNOWN = new Map([...licenceIds, ...oldIds].map((id) => [id.toLowerCase(), id]));

export interface SimpleLicence {
  id: string;
  /** `GPL-3.0+` of old: any later version too. */
  orLater: boolean;
}

/** All ways in which an expression may be met: one of the lists, and all licences of it. */
export type Alternatives = SimpleLicence[][];

/** @returns null where it is no expression of known licences (`LicenseRef-…` names one of one's own) */
export function readLicence(expression: string): Alternatives | null {
  try {
    return alternatives(parse(expression.trim()));
  } catch {
    return null;
  }
}

type Node = ReturnType<typeof parse>;

/** Disjunctive form: AND multiplies, OR adds. Long ones would grow beyond any use. */
const MOST = 64;

function alternatives(node: Node): Alternatives {
  if ('license' in node) return [[{ id: node.license, orLater: node.plus === true || node.license.endsWith('-or-later') }]];
  const [left, right] = [alternatives(node.left), alternatives(node.right)];
  if (node.conjunction === 'or') return [...left, ...right].slice(0, MOST);
  return left.flatMap((a) => right.map((b) => [...a, ...b])).slice(0, MOST);
}

/** Spellings that no rule finds; from memory. */
const SPELLINGS: Record<string, string> = {
  cc0: 'CC0-1.0',
  'public domain': 'CC0-1.0',
  apache: 'Apache-2.0',
  'apache 2': 'Apache-2.0',
  bsd: 'BSD-3-Clause',
  gpl: 'GPL-3.0-or-later',
  'gpl 2': 'GPL-2.0-or-later',
  gplv2: 'GPL-2.0-or-later',
  'gpl 3': 'GPL-3.0-or-later',
  gplv3: 'GPL-3.0-or-later',
  lgpl: 'LGPL-3.0-or-later',
  ofl: 'OFL-1.1',
  'sil open font license': 'OFL-1.1',
  zlib: 'Zlib',
};

/** What was probably meant by a licence as people write it, or null. "CC BY-SA 4.0" is CC-BY-SA-4.0. */
export function meantLicence(written: string): string | null {
  const plain = written
    .trim()
    .toLowerCase()
    .replace(/^(the|licensed under( the)?) /, '')
    .replace(/ licen[cs]e$/, '');
  if (plain === '') return null;
  const spelt = Object.hasOwn(SPELLINGS, plain) ? SPELLINGS[plain] : undefined;
  const dashed = plain.replace(/[\s_]+/g, '-').replace(/-v(?=\d)/, '-');
  // Versions are often left out or shortened.
  return spelt ?? KNOWN.get(dashed) ?? KNOWN.get(`${dashed}.0`) ?? KNOWN.get(`${dashed}-4.0`) ?? null;
}

/** Ids that people choose for mods, the freest first; the list is offered, and any other is taken too. */
export const COMMON_LICENCES = [
  'CC0-1.0',
  'CC-BY-4.0',
  'CC-BY-SA-4.0',
  'CC-BY-NC-4.0',
  'CC-BY-NC-SA-4.0',
  'MIT',
  'Apache-2.0',
  'Zlib',
  'MPL-2.0',
  'GPL-3.0-or-later',
] as const;
