/** What a depot has that an install could have: packs and tools to get, newer versions of those that are there. */

import type { Finding } from '../finding.ts';
import { isNewer, newestFirst, readVersion } from '../profile/versionRule.ts';
import semver from 'semver';
import type { DepotItem, DepotVersion } from './depot.ts';

export interface Offer {
  item: DepotItem;
  /** Newest first, those that go with the game. */
  versions: DepotVersion[];
  installed: string | null;
  /** The version before the installed one, to which one can go back. */
  before: string | null;
  /** A newer one than is installed. */
  update: string | null;
}

const goesWith = ({ game }: DepotVersion, version: string | null): boolean =>
  game === undefined || version === null || semver.satisfies(readVersion(version) ?? '0.0.0', game);

/**
 * @param profile whose items are wanted
 * @param game version of the install; null where there is none, when all versions of it are offered
 * @param installed versions that are there, by id of the item
 */
export function offersFor(items: readonly DepotItem[], profile: string, game: string | null, installed: Readonly<Record<string, string>>): Offer[] {
  return items
    .filter((item) => item.profile === profile)
    .map((item) => {
      const versions = item.versions
        .filter((one) => goesWith(one, item.kind === 'game' ? null : game))
        .sort((a, b) => newestFirst(a.version, b.version));
      const own = installed[item.id] ?? null;
      return {
        item,
        versions,
        installed: own,
        before: own ? (versions.find(({ version }) => isNewer(own, version))?.version ?? null) : null,
        update: own && versions.length > 0 && isNewer(versions[0].version, own) ? versions[0].version : null,
      };
    });
}

/** Updates as notes of the set-up, with what they say has changed. */
export const updateFindings = (offers: readonly Offer[]): Finding[] =>
  offers.flatMap(({ item, versions, installed, update }) =>
    update
      ? [
          {
            code: 'depot-update',
            severity: 'note' as const,
            stage: 'setup' as const,
            message: `${item.title} ${update} is out; ${installed} is installed.`,
            hint: versions.find(({ version }) => version === update)!.notes,
          },
        ]
      : [],
  );
