/** Pictures that somebody took of a crate for its release; they lie with its sources. */

/** Most that a release shows beside its title. */
export const MOST_PICTURES = 12;

const TAKEN = /^sources\/pictures\/([a-z0-9_]+)\.png$/;
export const takenPath = (name: string): string => `sources/pictures/${name}.png`;
export const TITLE_PICTURE = takenPath('title');

/** Pictures that somebody took, in the map or in a test run; the title is none of them. */
export const takenPictures = (files: readonly { path: string }[]): string[] =>
  files
    .map(({ path }) => path)
    .filter((path) => TAKEN.test(path) && path !== TITLE_PICTURE)
    .sort();
