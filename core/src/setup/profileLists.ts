/** Lists of a profile as tables in CSV (RFC 4180): its classes and the functions of its scripts, for those who have them in a spreadsheet. */

import Papa from 'papaparse';
import type { Profile } from '../profile/schema.ts';
import { UnreadableInput } from '../unreadable.ts';

export const PROFILE_LISTS = ['classes', 'api'] as const;
export type ProfileList = (typeof PROFILE_LISTS)[number];

const COLUMNS: Record<ProfileList, readonly string[]> = {
  classes: ['id', 'label', 'group', 'description', 'icon', 'parts', 'size'],
  api: ['name', 'signature', 'description'],
};

/** Rows in the order of the profile; lists within a cell are parted by spaces. */
export function listToCsv(profile: Profile, list: ProfileList): string {
  const rows: string[][] =
    list === 'api'
      ? profile.scripts.api.map(({ name, signature, description }) => [name, signature, description])
      : profile.classes.map(({ id, label, group, description, icon, parts, size }) => [
          id,
          label,
          group,
          description,
          icon,
          parts.join(' '),
          size.join(' '),
        ]);
  return `${Papa.unparse([[...COLUMNS[list]], ...rows], { newline: '\r\n' })}\r\n`;
}

/**
 * A profile with a list as a table has it. Classes that are there keep what no column says: properties, events and actions;
 * those that the table leaves out go.
 *
 * @throws UnreadableInput with the line of what is wrong
 */
export function listFromCsv(profile: Profile, list: ProfileList, text: string, file: string): Profile {
  const { data, errors } = Papa.parse<Record<string, string>>(text.replace(/^\ufeff/, ''), { header: true, skipEmptyLines: 'greedy' });
  const wrong = (row: number, what: string) => new UnreadableInput('csv', `${file}, line ${row + 2}: ${what}.`, { file, line: row + 2 });
  const [first] = errors.filter(({ code }) => code !== 'UndetectableDelimiter');
  if (first)
    throw wrong(
      first.row ?? 0,
      first.code === 'TooManyFields' || first.code === 'TooFewFields' ? 'it has not as many cells as the first line' : 'a quote is not closed',
    );
  const missing = COLUMNS[list].find((column) => data.length > 0 && !Object.hasOwn(data[0], column));
  if (missing || data.length === 0) throw wrong(-1, missing ? `there is no column "${missing}"` : 'there are no rows');
  if (list === 'api')
    return { ...profile, scripts: { ...profile.scripts, api: data.map(({ name, signature, description }) => ({ name, signature, description })) } };
  const known = new Map(profile.classes.map((one) => [one.id, one]));
  const classes = data.map((row, i) => {
    const size = row.size.trim().split(/\s+/).map(Number);
    if (size.length !== 3 || size.some((value) => !Number.isFinite(value)))
      throw wrong(i, `the size of "${row.id}" has to be three numbers, like 16 16 32`);
    return {
      properties: [],
      events: [],
      actions: [],
      ...known.get(row.id),
      id: row.id,
      label: row.label,
      group: row.group,
      description: row.description,
      icon: row.icon,
      parts: row.parts.split(/\s+/).filter(Boolean) as Profile['classes'][number]['parts'],
      size: size as [number, number, number],
    };
  });
  return { ...profile, classes };
}
