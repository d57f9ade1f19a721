import { Type } from '@sinclair/typebox';

/** One name of a path: neither `.` nor `..`, no drive, no separator of any system. */
const NAME = '(?!\\.{1,2}(?:/|$))[^/\\\\:*?"<>|\\x00-\\x1f]+';

/** The pattern of a path that stays within its folder. */
export const INSIDE = `${NAME}(?:/${NAME})*`;

/** A path within a folder: relative, with `/` between its names. Whoever uses one looks that no link leads out of the folder. */
export const InsidePath = Type.String({ minLength: 1, maxLength: 400, pattern: `^${INSIDE}$` });
