/**
 * A finding is anything wrong or worth knowing about a crate. Every check in `core` answers with
 * findings; exceptions are for bugs. Codes are stable: tests, the CLI's users and the tray rely on them.
 */

import type { MapEdit } from './document/edit.ts';
import type { LinkChange } from './linkChange.ts';
import type { Place } from './place.ts';
import type { UnreadableInput } from './unreadable.ts';

export type Severity = 'blocker' | 'warning' | 'note';

/** The stage of the work that a finding belongs to; the manifest rail counts by it. */
export type Stage = 'setup' | 'assets' | 'scripts' | 'map' | 'links' | 'build' | 'trial' | 'publish';

export const STAGES: readonly Stage[] = ['setup', 'assets', 'scripts', 'map', 'links', 'build', 'trial', 'publish'];

/** What repairs a finding, as data: an edit of the map, another conversion, or an action of the set-up. */
export type Fix =
  | { kind: 'edit'; label: string; edit: MapEdit }
  | { kind: 'reconvert'; label: string; file: string; options: Record<string, unknown> }
  | { kind: 'setup'; label: string; action: string }
  /** A change of the whole crate, which is worked out when it is applied. */
  | { kind: 'crate'; label: string; change: LinkChange }
  /** Another line in the place of one of a file of game data, as long as it is still there; without one, it goes. */
  | { kind: 'line'; label: string; file: string; line: number; was: string; to: string | null }
  /** Takes over what changed in the watched folder. */
  | { kind: 'reimport'; label: string };

export interface Finding {
  code: string;
  severity: Severity;
  stage: Stage;
  /** One plain sentence: what is wrong. */
  message: string;
  /** Why it matters or how to mend it by hand, one plain sentence. */
  hint?: string;
  place?: Place;
  fix?: Fix;
  /** Other ways to mend it. */
  others?: Fix[];
}

const ORDER: Record<Severity, number> = { blocker: 0, warning: 1, note: 2 };

/** Blockers first, then by stage in working order, then by code: the order in which people mend. */
export function sortFindings(findings: readonly Finding[]): Finding[] {
  return [...findings].sort(
    (a, b) =>
      ORDER[a.severity] - ORDER[b.severity] || STAGES.indexOf(a.stage) - STAGES.indexOf(b.stage) || (a.code < b.code ? -1 : a.code > b.code ? 1 : 0),
  );
}

export function countFindings(findings: readonly Finding[]): Record<Severity, number> {
  const count = { blocker: 0, warning: 0, note: 0 };
  for (const finding of findings) count[finding.severity]++;
  return count;
}

export function hasBlocker(findings: readonly Finding[]): boolean {
  return findings.some((finding) => finding.severity === 'blocker');
}

/** What could not be read, as a finding of a stage of the work. */
export const unreadableFinding = ({ code, message, hint, place }: UnreadableInput, stage: Stage): Finding => ({
  code,
  severity: 'blocker',
  stage,
  message,
  hint,
  place,
});
