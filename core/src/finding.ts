/**
 * A finding is anything wrong or worth knowing about a crate. Every check in `core` answers with
 * findings; exceptions are for bugs. Codes are stable: tests, the CLI's users and the tray rely on them.
 */

import type { MapEdit } from './map/edit.ts';

export type Severity = 'blocker' | 'warning' | 'note';

/** The stage of the work that a finding belongs to; the manifest rail counts by it. */
export type Stage = 'setup' | 'assets' | 'scripts' | 'map' | 'links' | 'build' | 'trial' | 'publish';

export const STAGES: readonly Stage[] = ['setup', 'assets', 'scripts', 'map', 'links', 'build', 'trial', 'publish'];

/** Where a finding is to be seen. All fields are optional; the more are set, the closer *Show* jumps. */
export interface Place {
  /** Path of a file within the crate, e.g. `scripts/main.lua`. */
  file?: string;
  /** One-based line and column in a text file. */
  line?: number;
  column?: number;
  /** Zero-based byte offset in a binary file. */
  byte?: number;
  /** Name of the map, and what in it. */
  map?: string;
  solid?: string;
  object?: string;
  signal?: string;
  /** A placed copy of a prefab, or a path. */
  copy?: string;
  path?: string;
  /** Part of a model, and triangles of the converted model, numbered through all its parts; at most 2,000 are named. */
  part?: string;
  triangles?: number[];
  /** A point in map space (right-handed, z up, game units). */
  point?: [number, number, number];
  /** A polyline in map space, e.g. the trail of a leak. */
  trail?: [number, number, number][];
}

/** What repairs a finding, as data: an edit of the map, another conversion, or an action of the set-up. */
export type Fix =
  | { kind: 'edit'; label: string; edit: MapEdit }
  | { kind: 'reconvert'; label: string; file: string; options: Record<string, unknown> }
  | { kind: 'setup'; label: string; action: string }
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

/**
 * Input that cannot be read at all. Readers throw it; whoever called a reader turns it into a finding or
 * an exit code. `place` names the byte or line, the message is a whole sentence for the user.
 */
export class UnreadableInput extends Error {
  override name = 'UnreadableInput';
  constructor(
    readonly code: string,
    message: string,
    readonly place: Place = {},
    readonly hint?: string,
  ) {
    super(message);
  }

  toFinding(stage: Stage): Finding {
    return { code: this.code, severity: 'blocker', stage, message: this.message, hint: this.hint, place: this.place };
  }
}
