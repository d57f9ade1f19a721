import { RE2JS } from 're2js';

/** Patterns by their text: names are asked for as they are typed. */
const known = new Map<string, RE2JS | null>();
const REMEMBERED = 100;

/**
 * A pattern of a profile, in the syntax of RE2: whatever it says, matching takes time that grows with the text alone. What cannot be done so
 * (looking ahead or behind, references to groups) is none of it.
 *
 * @returns whether a text has a match; null where the pattern is none
 */
export function linearPattern(pattern: string): ((text: string) => boolean) | null {
  let compiled = known.get(pattern);
  if (compiled === undefined) {
    try {
      compiled = RE2JS.compile(pattern);
    } catch {
      compiled = null;
    }
    if (known.size >= REMEMBERED) known.clear();
    known.set(pattern, compiled);
  }
  const found = compiled;
  return found && ((text) => found.matcher(text).find());
}
