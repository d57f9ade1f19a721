/** Which mods have to be installed for one: by name and range of versions, as Semantic Versioning 2.0.0 orders them. */

import semver from 'semver';

export interface Offered {
  name: string;
  version: string;
  shareCode: string;
  requires?: Record<string, string>;
  /** Not given out any more. */
  withdrawnAt?: string;
}

export interface Present {
  name: string;
  version: string;
  requires?: Record<string, string>;
}

export interface InstallPlan {
  /** What is installed, dependencies first. */
  install: Offered[];
  /** Why it cannot be, in a sentence each; nothing is installed then. */
  problems: string[];
}

/** Mods deep; more is a circle that nobody meant, or an attack. */
const DEEP = 20;

/**
 * @param wanted the release that was asked for
 * @param there enabled mods of the game
 * @param versionsOf all versions of a mod that the workshop has; none where it has no such mod
 */
export async function planInstall(
  wanted: Offered,
  there: readonly Present[],
  versionsOf: (name: string) => Promise<readonly Offered[]>,
): Promise<InstallPlan> {
  const chosen = new Map<string, Offered>([[wanted.name, wanted]]);
  const problems: string[] = [];
  const install: Offered[] = [];
  /** Who asks for which versions of a mod, of those that stay and those that come. */
  const asked = (name: string): [by: string, range: string][] =>
    [...there.filter((one) => !chosen.has(one.name)), ...chosen.values()].flatMap((one): [string, string][] => {
      const range = one.requires && Object.hasOwn(one.requires, name) ? one.requires[name] : undefined;
      return range === undefined ? [] : [[one.name, range]];
    });
  const visit = async (mod: Offered, trail: readonly string[]): Promise<void> => {
    if (trail.length > DEEP) {
      problems.push(`${trail[0]} needs mods that need mods, more than ${DEEP} deep.`);
      return;
    }
    for (const [name, range] of Object.entries(mod.requires ?? {})) {
      if (trail.includes(name) || name === mod.name) {
        problems.push(`${[...trail, mod.name, name].join(' needs ')}: they go round in a circle.`);
        continue;
      }
      const ranges = asked(name);
      const fits = (version: string) => ranges.every(([, one]) => semver.satisfies(version, one));
      const known = chosen.get(name) ?? there.find((one) => one.name === name);
      if (known && fits(known.version)) continue;
      if (chosen.has(name)) {
        problems.push(conflict(name, ranges, known!.version));
        continue;
      }
      if (semver.validRange(range) === null) {
        problems.push(`${mod.name} needs ${name} "${range}", which is no range of versions.`);
        continue;
      }
      const offered = (await versionsOf(name)).filter((one) => !one.withdrawnAt && fits(one.version));
      const best = [...offered].sort((a, b) => semver.rcompare(a.version, b.version))[0];
      if (!best) {
        problems.push(ranges.length > 1 ? conflict(name, ranges) : `${mod.name} needs ${name} ${range}, which the workshop does not have.`);
        continue;
      }
      chosen.set(name, best);
      await visit(best, [...trail, mod.name]);
    }
    install.push(mod);
  };
  // What is there already may ask for another version of the very mod that comes.
  for (const [by, range] of asked(wanted.name))
    if (!semver.satisfies(wanted.version, range))
      problems.push(`${by}, which is installed, needs ${wanted.name} ${range}; this is ${wanted.version}.`);
  await visit(wanted, []);
  return { install: problems.length > 0 ? [] : install, problems };
}

const conflict = (name: string, ranges: readonly [string, string][], found?: string): string =>
  `No version of ${name} suits everybody: ${ranges.map(([by, range]) => `${by} needs ${range}`).join(', ')}${found ? `; ${found} is there` : ''}.`;

/** Mods that would be left without what they need, with what that is. */
export const needersOf = (name: string, there: readonly Present[]): { name: string; range: string }[] =>
  there.flatMap((one) => (one.requires && Object.hasOwn(one.requires, name) ? [{ name: one.name, range: one.requires[name] }] : []));
