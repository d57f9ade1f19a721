/**
 * Names of files that every system keeps as they are: the one rule for checks, packages, publishing and installing. What it refuses is
 * another file, no file or a device on some system, or looks like another name.
 */

import type { Finding } from '../finding.ts';

/** Devices of Windows, with any ending (Microsoft, "Naming Files, Paths, and Namespaces"). */
const DEVICES = /^(con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³]|conin\$|conout\$)(\.|$)/i;
/** What Windows cannot have in a name, and controls of any system. */
const FORBIDDEN = /[<>:"|?*\\\u0000-\u001f\u007f-\u009f]/;
/** Marks that turn or hide text (Unicode Standard Annex 9 and 31): a name with them is not the one that is seen. */
const UNSEEN = /[\u00ad\u061c\u180e\u200b-\u200f\u202a-\u202e\u2060-\u206f\ufeff\ufff9-\ufffb]/;
/** Bytes of UTF-8 and units of UTF-16 of one name (ext4, APFS and NTFS), and of a whole path. */
const MOST_NAME = 255;
const MOST_PATH = 1024;

const bytesOf = (text: string): number => new TextEncoder().encode(text).length;

/** Whether a name, without its ending, is one that some systems keep for a device. */
export const isDevice = (name: string): boolean => DEVICES.test(name);

/** What is wrong with a path within a package, as a part of a sentence behind it; null where nothing is. */
export function pathTrouble(path: string): string | null {
  if (path.startsWith('/')) return 'begins at the root of a disk';
  if (bytesOf(path) > MOST_PATH) return `is longer than ${MOST_PATH} bytes`;
  if (path !== path.normalize('NFC')) return 'is not written in the composed form of Unicode (NFC), and would be another name on some systems';
  for (const name of path.split('/')) {
    if (name === '') return 'has an empty name between two strokes';
    if (name === '.' || name === '..') return 'leads out of its folder';
    if (FORBIDDEN.test(name)) return 'has a character that Windows does not take in names';
    if (UNSEEN.test(name)) return 'has a mark that is not seen, and looks like another name';
    if (/[ .]$/.test(name)) return `has "${name}", which ends with a ${name.endsWith('.') ? 'full stop' : 'space'}, and Windows drops that`;
    if (name.startsWith(' ')) return `has "${name}", which begins with a space`;
    if (isDevice(name)) return `has "${name}", which is a device on Windows`;
    if (bytesOf(name) > MOST_NAME || name.length > MOST_NAME) return `has a name of more than ${MOST_NAME} bytes`;
  }
  return null;
}

/** A path as it can be shown: marks that are not seen, and controls, by their numbers. */
export const shownPath = (path: string): string =>
  path
    .slice(0, 200)
    .replace(
      new RegExp(`${UNSEEN.source}|[\\u0000-\\u001f\\u007f-\\u009f]`, 'g'),
      (mark) => `[U+${mark.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}]`,
    );

/** @param trouble what `pathTrouble` says */
export const misnamedFile = (path: string, trouble: string, stage: 'assets' | 'publish'): Finding => ({
  code: 'file-not-portable',
  severity: 'blocker',
  stage,
  message: `${shownPath(path)} ${trouble}.`,
  hint: 'Rename it: players on other systems could not install the mod.',
  place: { file: path },
});

/** The same for all paths that are one file on some system: capitals and forms of Unicode aside. */
export const foldedPath = (path: string): string => path.normalize('NFC').toLowerCase().normalize('NFC');
