/** Two banks of one layout in the words of the layout. */

import { plainTarget, type BankLayout } from './layout.ts';
import type { BankDocument } from './document.ts';
import type { BankValue, Row } from './read.ts';

export interface Difference {
  /** `people 3 Ada, party 2, level` */
  where: string;
  before: string | null;
  after: string | null;
}

/** What of a bank is compared: a read one has all of it. */
export interface Compared {
  sections: Readonly<Record<string, { rows: readonly Row[] }>>;
  blocks: Readonly<Record<string, { text?: string; rows?: readonly Row[] }>>;
}

/** A bank as it is edited, for comparing it with another one. */
export const comparable = ({ sections, blocks }: BankDocument): Compared => ({
  sections: Object.fromEntries(Object.entries(sections).map(([name, rows]) => [name, { rows: rows as Row[] }])),
  blocks: blocks as Compared['blocks'],
});

/** Differences that are told; banks that differ in more are of different games. */
const MOST = 10_000;

/** What people know a row by: its key, where it has one. */
function rowName(layout: BankLayout, record: string, data: Compared, row: Row): string {
  const { key } = layout.records[record];
  return key === undefined ? '' : textOf(data, row.values[key]);
}

const textOf = (data: Compared, value: BankValue | undefined): string =>
  value === null || value === undefined
    ? ''
    : typeof value === 'object' && !Array.isArray(value)
      ? (data.blocks[value.block]?.text ?? '')
      : String(value);

export function differences(layout: BankLayout, before: Compared, after: Compared): Difference[] {
  const found: Difference[] = [];
  /** Pairs of blocks that are compared already: shared ones once, and circles end. */
  const seen = new Set<string>();
  const tell = (where: string, one: string | null, other: string | null): void => {
    if (found.length < MOST && one !== other) found.push({ where, before: one, after: other });
  };
  const rows = (one: readonly Row[], other: readonly Row[], record: string, where: string): void => {
    for (let n = 0; n < Math.max(one.length, other.length); n++) {
      const [a, b] = [one[n], other[n]] as (Row | undefined)[];
      const name = b ? rowName(layout, record, after, b) : rowName(layout, record, before, a!);
      const place = `${where} ${n + 1}${name === '' ? '' : ` ${name}`}`;
      if (a && b) row(a, b, record, place);
      else tell(place, a ? words(before, a) : null, b ? words(after, b) : null);
    }
  };
  const row = (one: Row, other: Row, record: string, where: string): void => {
    for (const field of layout.records[record].fields) {
      const names = field.is === 'bits' ? field.parts.map(({ name }) => name) : [field.name];
      for (const name of names) {
        const [a, b] = [one.values[name], other.values[name]];
        if (field.is === 'list') rows(a as Row[], b as Row[], field.record, `${where}, ${name}`);
        else if (field.is === 'pointer') blocks(a, b, plainTarget(field.to), `${where}, ${name}`);
        else tell(`${where}, ${name}`, String(a), String(b));
      }
    }
  };
  const blocks = (one: BankValue, other: BankValue, to: { is: 'text' } | { is: 'list'; record: string }, where: string): void => {
    const [a, b] = [one, other].map((value) => (value !== null && typeof value === 'object' && !Array.isArray(value) ? value.block : null));
    if (a === null || b === null) return tell(where, a && 'something', b && 'something');
    if (seen.has(`${a} ${b}`)) return;
    seen.add(`${a} ${b}`);
    const [was, is] = [before.blocks[a], after.blocks[b]];
    if (to.is === 'text') tell(where, was.text ?? '', is.text ?? '');
    else rows(was.rows ?? [], is.rows ?? [], to.record, where);
  };
  const words = (data: Compared, { values }: Row): string =>
    Object.entries(values)
      .map(
        ([name, value]) =>
          `${name} ${Array.isArray(value) ? `${value.length} rows` : typeof value === 'object' ? textOf(data, value) || '…' : String(value)}`,
      )
      .join(', ');
  for (const { name, record } of layout.sections) rows(before.sections[name].rows, after.sections[name].rows, record, name);
  return found;
}
