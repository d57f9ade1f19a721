/** What a game's log says, by the lines that its profile names. */

import type { Finding } from '../finding.ts';
import type { Launch } from '../profile/schema.ts';

/** Characters of a line that are looked at. */
const LINE_LIMIT = 4000;

/** Values of the placeholders of a pattern in a text that fits it from start to end, or null. Linear in the text. */
export function fitLine(pattern: string, text: string): Record<string, string> | null {
  const pieces = pattern.split(/\{(file|line|message|version|percent)\}/);
  const found: Record<string, string> = {};
  if (!text.startsWith(pieces[0])) return null;
  let at = pieces[0].length;
  for (let i = 1; i < pieces.length; i += 2) {
    const [name, after] = [pieces[i], pieces[i + 1]];
    const end = after === '' && i + 2 >= pieces.length ? text.length : text.indexOf(after, at);
    if (end < at) return null;
    found[name] = text.slice(at, end);
    at = end + after.length;
  }
  if (at !== text.length) return null;
  if (found.line !== undefined && !/^\d{1,7}$/.test(found.line)) return null;
  // A file has no spaces about colons: that would be the message of another pattern.
  return found.file !== undefined && /\s/.test(found.file) ? null : found;
}

/** What a line of the log is as a finding, or null for one that is only said. */
export function logFinding(log: Launch['log'], given: string): Finding | null {
  const text = given.slice(0, LINE_LIMIT);
  for (const { line, severity } of log) {
    const found = fitLine(line, text);
    if (!found) continue;
    const { file, line: at, message } = found;
    return {
      code: 'game-log',
      severity,
      stage: 'trial',
      message: `The game says: ${(message ?? text).replace(/\.$/, '')}.`,
      ...(file ? { place: { file, ...(at ? { line: Number(at) } : {}) } } : {}),
    };
  }
  return null;
}
