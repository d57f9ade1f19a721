/** Whether a tool's version suits a game's: rules over version numbers by Semantic Versioning 2.0.0 (semver.org), read by `semver`. */

import semver from 'semver';

/** A version as three numbers: games write 2.4 for 2.4.0, and 2.4.1.77 with a number of the build behind. Null where there is none. */
export function readVersion(text: string): string | null {
  const strict = semver.valid(text.trim());
  if (strict) return strict;
  const [, major, minor, patch = '0'] = /^v?(\d{1,9})\.(\d{1,9})(?:\.(\d{1,9}))?(?:\.\d{1,9})?$/.exec(text.trim()) ?? [];
  return major === undefined ? null : `${Number(major)}.${Number(minor)}.${Number(patch)}`;
}

export const release = (version: string): string => version.split('.').slice(0, 2).join('.');

/** Whether a rule of a profile can be read at all. */
export const isVersionRule = (rule: string): boolean => rule === 'release' || rule === 'exact' || semver.validRange(rule) !== null;

/** What is wrong with a version by a rule, as a sentence; null where it suits. */
export function versionProblem(rule: string, tool: string, game: string): string | null {
  const [own, theirs] = [readVersion(tool), readVersion(game)];
  if (!own) return `"${tool}" is not a version; one looks like 2.4.0.`;
  if (rule === 'release' || rule === 'exact') {
    if (!theirs) return `The game's version "${game}" cannot be read.`;
    const same = rule === 'exact' ? semver.eq(own, theirs) : release(own) === release(theirs);
    return same ? null : `The tool is ${tool}, the game ${game}${rule === 'exact' ? '; they have to be the very same' : ''}.`;
  }
  return semver.satisfies(own, rule, { includePrerelease: false }) ? null : `The tool is ${tool}; the game wants ${rule}.`;
}

/** Newest first. Versions that cannot be read come last. */
export const newestFirst = (a: string, b: string): number => semver.rcompare(readVersion(a) ?? '0.0.0', readVersion(b) ?? '0.0.0');

export const isNewer = (a: string, b: string): boolean => newestFirst(a, b) < 0;
