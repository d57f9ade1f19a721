/** Texts of a bank: letters of its own alphabet, control codes, and whatever bytes nobody knows. */

import { UnreadableInput } from '../unreadable.ts';
import type { BankLayout } from './layout.ts';

export type TextLayout = BankLayout['texts'][string];

interface Code {
  /** What stands for it; with % for each byte more. */
  word: string;
  bytes: number;
  more: number;
}

export interface Alphabet {
  /** By the bytes of a code in hexadecimal digits. */
  codes: Map<string, Code>;
  letters: Map<string, number[]>;
  /** Words of control codes as expressions, the longest first. */
  controls: { pattern: RegExp; bytes: number[] }[];
  end: number[];
  longest: number;
  /** Codes of one byte, for bytes that begin no longer one. */
  single: (Code | undefined)[];
}

export const unhex = (text: string): number[] => text.match(/../g)!.map((two) => parseInt(two, 16));
const hex = (byte: number): string => byte.toString(16).padStart(2, '0');
const quoted = (text: string): string => text.replace(/[\\^$.*+?()[\]{}|]/g, '\\$&');

const known = new WeakMap<TextLayout, Alphabet>();

export function alphabetOf(text: TextLayout): Alphabet {
  const before = known.get(text);
  if (before) return before;
  const alphabet: Alphabet = { codes: new Map(), letters: new Map(), controls: [], end: unhex(text.end), longest: text.end.length / 2, single: [] };
  for (const [from, letters] of Object.entries(text.runs)) {
    let code = parseInt(from, 16);
    for (const letter of letters.normalize('NFC')) {
      const digits = code.toString(16).padStart(from.length, '0');
      alphabet.codes.set(digits, { word: letter, bytes: from.length / 2, more: 0 });
      if (!alphabet.letters.has(letter)) alphabet.letters.set(letter, unhex(digits));
      alphabet.longest = Math.max(alphabet.longest, from.length / 2);
      code++;
    }
  }
  for (const [word, code] of Object.entries(text.controls ?? {})) {
    alphabet.codes.set(code, { word, bytes: code.length / 2, more: word.split('%').length - 1 });
    alphabet.controls.push({ pattern: new RegExp(quoted(word).replaceAll('%', '([0-9a-f]{2})'), 'y'), bytes: unhex(code) });
    alphabet.longest = Math.max(alphabet.longest, code.length / 2);
  }
  alphabet.controls.sort((a, b) => b.pattern.source.length - a.pattern.source.length);
  const leads = new Set([...alphabet.codes.keys()].flatMap((digits) => (digits.length > 2 ? [digits.slice(0, 2)] : [])));
  for (const [digits, code] of alphabet.codes) if (digits.length === 2 && !leads.has(digits)) alphabet.single[parseInt(digits, 16)] = code;
  known.set(text, alphabet);
  return alphabet;
}

const startsAt = (bytes: Uint8Array, at: number, wanted: readonly number[]): boolean => wanted.every((byte, i) => bytes[at + i] === byte);

/** Texts are not longer than this, so that a pointer into nowhere costs no time. */
const MOST_TEXT = 65_536;

/**
 * @param to where it ends at the latest
 * @param fixed whether it may fill its place without an end mark
 * @returns the text, and its bytes with the end mark. Bytes that are no letter are `{xHH}`
 * @throws UnreadableInput `bank-text` where it has no end
 */
export function readText(bytes: Uint8Array, at: number, layout: TextLayout, to: number, fixed = false): { text: string; bytes: number } {
  const { codes, end, longest, single } = alphabetOf(layout);
  const last = Math.min(to, bytes.length, at + MOST_TEXT);
  let text = '';
  let i = at;
  while (i < last) {
    if (bytes[i] === end[0] && startsAt(bytes, i, end)) return { text, bytes: i - at + end.length };
    const short = single[bytes[i]];
    let found: Code | undefined = short && i + 1 + short.more <= last ? short : undefined;
    let longer: Code | undefined;
    let digits = '';
    for (let n = 0; !found && n < longest && i + n < last; n++) {
      digits += hex(bytes[i + n]);
      const code = codes.get(digits);
      // The longest code counts.
      if (code && i + code.bytes + code.more <= last) longer = code;
    }
    found ??= longer;
    if (!found) {
      text += `{x${hex(bytes[i])}}`;
      i++;
      continue;
    }
    let n = i + found.bytes;
    text += found.more === 0 ? found.word : found.word.replaceAll('%', () => hex(bytes[n++]));
    i += found.bytes + found.more;
  }
  if (fixed) return { text, bytes: last - at };
  throw new UnreadableInput(
    'bank-text',
    `The text at byte ${at} has no end within ${last - at} bytes.`,
    { byte: at },
    'What leads there is damaged, or the layout is of another version.',
  );
}

/**
 * A text as bytes, without its end mark. It is taken in NFC (Unicode Standard Annex #15), as the alphabet is.
 *
 * @throws UnreadableInput `bank-letter` with the letter that the game does not have
 */
export function writeText(text: string, layout: TextLayout): number[] {
  const { letters, controls } = alphabetOf(layout);
  const source = text.normalize('NFC');
  const out: number[] = [];
  for (let i = 0; i < source.length;) {
    const raw = source[i] === '{' ? /^\{x([0-9a-f]{2})\}/.exec(source.slice(i, i + 5)) : null;
    if (raw) {
      out.push(parseInt(raw[1], 16));
      i += raw[0].length;
      continue;
    }
    const control =
      source[i] === '{' || source[i] === '\n' ? controls.find(({ pattern }) => ((pattern.lastIndex = i), pattern.test(source))) : undefined;
    if (control) {
      control.pattern.lastIndex = i;
      const [whole, ...more] = control.pattern.exec(source)!;
      out.push(...control.bytes, ...more.map((two) => parseInt(two, 16)));
      i += whole.length;
      continue;
    }
    const letter = String.fromCodePoint(source.codePointAt(i)!);
    const code = letters.get(letter);
    if (!code)
      throw new UnreadableInput(
        'bank-letter',
        `"${letter === '\n' ? 'a line break' : letter}" at letter ${i + 1} of "${source.slice(0, 40)}" is none of the game's.`,
        {},
        `It has: ${[...letters.keys()].join('').slice(0, 200)}`,
      );
    out.push(...code);
    i += letter.length;
  }
  return out;
}
