import { Type } from '@sinclair/typebox';

/**
 * A version as crates, releases and locks have it: three numbers of Semantic Versioning 2.0.0 (semver.org), without leading zeros, and
 * of at most nine digits, which is below 2^31: programs that compare versions hold them in numbers. Pre-releases and builds have none.
 */
export const Version = Type.String({ pattern: '^(0|[1-9]\\d{0,8})\\.(0|[1-9]\\d{0,8})\\.(0|[1-9]\\d{0,8})$' });
