/** Whose work every file of a crate is: the ledger of credits, and what is wrong with it before a release. */

import { assetKindOf } from '../crate/assetKind.ts';
import { isBankPatch, mapPath } from '../crate/contents.ts';
import type { Claim, CrateManifest } from '../crate/manifest.ts';
import type { CrateWorld } from '../crate/world.ts';
import type { Finding } from '../finding.ts';
import type { LinkGraph } from '../link/graph.ts';
import { thingId } from '../link/thing.ts';
import { own } from '../own.ts';
import { conflictOf, type Conflict } from './licence/compare.ts';
import { meantLicence, readLicence } from './licence/expression.ts';

export interface LedgerRow extends Required<Claim> {
  path: string;
  /** Who says so: somebody by hand, the pack that it came with, the file itself, or nobody, so that it counts as the crate's own. */
  by: 'hand' | 'pack' | 'file' | 'own';
}

/** All own files that travel, by path. */
export function ledgerOf({ crate }: CrateWorld, graph: LinkGraph): LedgerRow[] {
  const reached = graph.reach(graph.roots);
  const paths = [
    ...Object.keys(crate.maps).map(mapPath),
    ...Object.keys(crate.scripts),
    ...Object.keys(crate.data),
    ...crate.files.flatMap(({ path }) => {
      const kind = assetKindOf(path);
      return isBankPatch(path) || (kind && reached.has(thingId(kind, path))) ? [path] : [];
    }),
  ].sort();
  return paths.map((path) => rowOf(crate.manifest, path));
}

function rowOf(manifest: CrateManifest, path: string): LedgerRow {
  const record = own(manifest.assets, path);
  const row = (by: LedgerRow['by'], { author = '', work = '', source = '', licence = '' }: Claim): LedgerRow => ({
    path,
    author,
    work,
    source,
    licence,
    by,
  });
  const hand = own(manifest.ledger ?? {}, path);
  if (hand) return row('hand', hand);
  const origin = record?.origin ?? own(manifest.scriptOrigins ?? {}, path);
  if (origin?.pack !== undefined) {
    const credit = manifest.credits.find(({ work }) => work === origin.pack);
    return row('pack', { work: origin.pack, source: origin.path, ...credit });
  }
  if (record?.credit) return row('file', record.credit);
  return row('own', { author: manifest.authors.join(', '), licence: manifest.licence });
}

const WORDS: Record<Conflict, (path: string, licence: string, release: string) => [message: string, hint: string]> = {
  changes: (path, licence) => [
    `${path} is under ${licence}, which does not allow changed work to be passed on; converting changes it.`,
    'Ask its author, or take something else.',
  ],
  commerce: (path, licence, release) => [
    `${path} is under ${licence}, which forbids what ${release} allows with the whole: passing on for money.`,
    'Choose a licence for the release that forbids it too (CC-BY-NC-4.0), or take something else.',
  ],
  same: (path, licence, release) => [
    `${path} is under ${licence}: a whole that is made of it goes under the same licence, not under ${release}.`,
    'Choose that licence for the release, or take something else.',
  ],
};

/** Authors and licences that are missing or do not go together. */
export function checkLedger({ crate }: CrateWorld, ledger: readonly LedgerRow[]): Finding[] {
  const { manifest } = crate;
  const findings: Finding[] = [];
  const find = (code: string, severity: Finding['severity'], file: string, message: string, hint: string) =>
    findings.push({ code, severity, stage: 'publish', message, hint, place: { file } });
  const release = manifest.licence ?? '';
  if (release === '')
    find(
      'licence-missing',
      'warning',
      'crate.json',
      'The release has no licence.',
      'Without one nobody may do anything with it but play. Choose one under Publish.',
    );
  else if (!readLicence(release)) find('licence-form', 'warning', 'crate.json', `"${release}" is no licence of the SPDX list.`, meant(release));
  for (const { path, author, licence, by } of ledger) {
    if (by === 'own') continue;
    if (author === '')
      find(
        'credit-author',
        'warning',
        path,
        `Nobody is named as the author of ${path}, which came from elsewhere.`,
        'Enter who made it under Publish.',
      );
    if (licence === '')
      find(
        'credit-licence',
        'blocker',
        path,
        `${path} came from elsewhere, and nothing says that it may be passed on.`,
        'Enter its licence under Publish, or take something else.',
      );
    else if (!readLicence(licence)) find('licence-form', 'warning', path, `${path}: "${licence}" is no licence of the SPDX list.`, meant(licence));
    else {
      const conflict = release === '' ? null : conflictOf(release, licence);
      if (conflict) find('licence-conflict', conflict === 'changes' ? 'blocker' : 'warning', path, ...WORDS[conflict](path, licence, release));
    }
  }
  return findings;
}

function meant(written: string): string {
  const id = meantLicence(written);
  return id ? `Perhaps ${id} is meant.` : 'Take an id of the list, or LicenseRef- and a name of your own.';
}

const escapeMarkdown = (text: string): string => text.replace(/([\\`*_{}[\]<>()#+.!|~-])/g, '\\$1').replace(/\s+/g, ' ');

/** `CREDITS.md` of a package: everyone whose work is in it, by author. */
export function creditsText(manifest: CrateManifest, ledger: readonly LedgerRow[]): string {
  const lines = [`# Credits of ${escapeMarkdown(manifest.title)}`, ''];
  if (manifest.authors.length > 0) lines.push(`Made by ${escapeMarkdown(manifest.authors.join(', '))}.`);
  if (manifest.licence) lines.push(`Licence of the whole: ${manifest.licence}.`);
  const groups = new Map<string, LedgerRow[]>();
  for (const row of ledger) {
    if (row.by === 'own') continue;
    const key = JSON.stringify([row.author, row.work, row.licence, row.by === 'pack' ? '' : row.source]);
    groups.set(key, [...(groups.get(key) ?? []), row]);
  }
  for (const credit of manifest.credits) {
    const listed = ledger.some((row) => row.by !== 'own' && row.author === credit.author && (row.work === credit.work || credit.work === ''));
    if (!listed) groups.set(JSON.stringify([credit.author, credit.work, credit.licence, '']), []);
  }
  if (groups.size > 0) lines.push('', '## Work of others', '');
  for (const [key, rows] of groups) {
    const [author, work, licence, source] = JSON.parse(key) as string[];
    const parts = [author || 'unknown', work, licence, source].filter((part) => part !== '').map(escapeMarkdown);
    lines.push(`- ${parts.join(', ')}`, ...rows.map(({ path }) => `  - ${escapeMarkdown(path)}`));
  }
  return `${lines.join('\n')}\n`;
}

/** `credits.json` of a package; docs/formats.md has its form. */
export const creditsFile = (manifest: CrateManifest, ledger: readonly LedgerRow[]) => ({
  format: 1,
  licence: manifest.licence ?? '',
  authors: manifest.authors,
  files: ledger.map(({ path, author, work, source, licence, by }) => ({ path, author, work, source, licence, by })),
  others: manifest.credits,
});
