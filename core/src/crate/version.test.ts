/** The test list of semver.org (Semantic Versioning 2.0.0, "Is there a suggested regular expression"): from memory. */

import { expect, it } from '@jest/globals';
import semver from 'semver';
import { isVersion } from './version.ts';

it.each(['0.0.4', '1.2.3', '10.20.30', '1.0.0', '2.0.0', '1.1.7', '999999999.0.0'])('%s is a version', (text) => {
  expect(isVersion(text)).toBe(true);
  expect(semver.valid(text)).toBe(text);
});

it.each([
  ...['1', '1.2', '1.2.3-0123', '1.1.2+.123', '+invalid', '-invalid', 'alpha', 'alpha.beta', 'alpha_beta', '1.0.0-alpha_beta', '01.1.1'],
  ...['1.01.1', '1.1.01', '1.2', '1.2.3.DEV', '1.2-SNAPSHOT', '1.2.31.2.3----RC-SNAPSHOT.12.09.1--..12+788', '1.2-RC-SNAPSHOT', '-1.0.3-gamma+b7718'],
  ...['9.8.7+meta+meta', '9.8.7-whatever+meta+meta', '', ' 1.2.3', '1.2.3\n', 'v1.2.3'],
])('%j is none', (text) => void expect(isVersion(text)).toBe(false));

it.each(['99999999999999999999.0.0', '1.99999999999999999999.0', '2147483648.0.0', '1.0.0-alpha', '1.0.0+build'])(
  '%s is a version to semver.org, and none that is taken here',
  (text) => void expect(isVersion(text)).toBe(false),
);
