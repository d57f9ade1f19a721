import { Type } from '@sinclair/typebox';

/**
 * A version as crates, releases and locks have it: three numbers of Semantic Versioning 2.0.0 (semver.org), without leading zeros, and
 * of at most nine digits, which is below 2^31: programs that compare versions hold them in numbers. Pre-releases and builds have none.
 */
const PATTERN = '^(0|[1-9]\\d{0,8})\\.(0|[1-9]\\d{0,8})\\.(0|[1-9]\\d{0,8})$';

export const Version = Type.String({ pattern: PATTERN });

export const isVersion = (text: string): boolean => new RegExp(PATTERN).test(text);
