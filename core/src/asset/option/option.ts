/**
 * Settings of a conversion as data: what each is, which values it takes, what it is called on the command line and in
 * the form. The server checks by this table, the command line reads its flags by it, the page draws its form of it.
 */

export type OptionRule =
  | { kind: 'choice'; of: readonly string[]; words?: Readonly<Record<string, string>> }
  | { kind: 'number'; min: number; max: number; whole?: true; unit?: string }
  | { kind: 'switch' }
  /** Numbers with commas between; `falling`: each below the one before. */
  | { kind: 'numbers'; least: number; most: number; min: number; max: number; falling?: true; example: string }
  /** `KEY=WORD` with commas between; only the listed keys where there are some. */
  | { kind: 'words'; most: number; keys?: readonly string[]; example: string }
  | { kind: 'text'; most: number };

export interface Option<K extends string = string> {
  key: K;
  /** Its name on the command line; none where it is set by other means only. */
  flag?: string;
  label: string;
  explains: string;
  rule: OptionRule;
  /** Whether it means anything beside the others; the form greys it where not. */
  matters?(options: Readonly<Record<string, unknown>>): boolean;
  /** Not in the form: it is set elsewhere on the page. */
  elsewhere?: true;
}

export type OptionTable<T> = readonly Option<Extract<keyof T, string>>[];

/** Characters of a word. */
const LONGEST = 300;

/** What is wrong with a value, in words that go on from the option's name; null where it is right. */
export function optionProblem({ rule }: Option, value: unknown): string | null {
  switch (rule.kind) {
    case 'choice':
      return typeof value === 'string' && rule.of.includes(value) ? null : `has to be one of ${rule.of.join(', ')}`;
    case 'switch':
      return typeof value === 'boolean' ? null : 'has to be on or off (true or false)';
    case 'number': {
      const fits = typeof value === 'number' && value >= rule.min && value <= rule.max && (!rule.whole || Number.isInteger(value));
      return fits ? null : `has to be a ${rule.whole ? 'whole ' : ''}number from ${rule.min} to ${rule.max}`;
    }
    case 'text':
      return typeof value === 'string' && value.length <= rule.most ? null : `has to be a text of at most ${rule.most} characters`;
    case 'numbers': {
      const { least, most, min, max, falling, example } = rule;
      const fits =
        Array.isArray(value) &&
        value.length >= least &&
        value.length <= most &&
        value.every((v, i) => typeof v === 'number' && v >= min && v <= max && (!falling || i === 0 || v < (value as number[])[i - 1]));
      const count = least === most ? `${least}` : `at most ${most}`;
      return fits ? null : `has to be ${count} numbers from ${min} to ${max}${falling ? ', falling' : ''}, like ${example}`;
    }
    case 'words': {
      if (typeof value !== 'object' || value === null || Array.isArray(value)) return `has to be pairs, like ${rule.example}`;
      const entries = Object.entries(value);
      if (entries.length > rule.most) return `has ${entries.length} members; at most ${rule.most} are taken`;
      for (const [key, word] of entries) {
        if (key.length > LONGEST * 4 || (rule.keys && !rule.keys.includes(key))) return `has no member "${key.slice(0, 60)}"`;
        if (typeof word !== 'string' || word.length > LONGEST) return `${key.slice(0, 60)} has to be a text of at most ${LONGEST} characters`;
      }
      return null;
    }
  }
}

/** What is wrong with settings, as a sentence: one that is unknown or out of range. */
export function optionsProblem(table: readonly Option[], given: Readonly<Record<string, unknown>>): string | null {
  for (const [key, value] of Object.entries(given)) {
    const option = table.find((one) => one.key === key);
    const problem = option ? optionProblem(option, value) : 'is no setting of this kind of asset';
    if (problem) return `${key.slice(0, 60)} ${problem}.`;
  }
  return null;
}

/** A value as it is typed on a command line; what cannot be a value stays a text, and `optionProblem` says so. */
export function readOption({ rule }: Option, text: string): unknown {
  switch (rule.kind) {
    case 'number':
      return text.trim() === '' ? text : Number(text);
    case 'switch':
      return text === 'on' ? true : text === 'off' ? false : text;
    case 'numbers':
      return text.split(',').map((part) => (part.trim() === '' ? NaN : Number(part)));
    case 'words': {
      const pairs = text.split(',').map((pair) => pair.split('='));
      return pairs.every((pair) => pair.length === 2) ? Object.fromEntries(pairs) : text;
    }
    default:
      return text;
  }
}

/** What may be typed for it, for lists of flags. */
export const optionValues = ({ rule }: Option): string =>
  rule.kind === 'choice'
    ? rule.of.join(', ')
    : rule.kind === 'switch'
      ? 'on, off'
      : rule.kind === 'number'
        ? `${rule.min} to ${rule.max}`
        : rule.kind === 'text'
          ? 'text'
          : rule.example;
