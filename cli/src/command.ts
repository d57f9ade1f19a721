/** What all commands share: options, the one result document, exit codes. */

import type { Finding } from '@violet-crate/core/finding';

/** Options as given, each at most once; `json` and `help` are handled before a command runs. */
export type Options = Record<string, string | undefined>;

export interface Outcome {
  /** 0 fine, 1 blockers found. Unreadable input and bad usage are thrown and give 2. */
  code: 0 | 1;
  /** Members of the JSON document beside `command` and `ok`. */
  result: Record<string, unknown>;
  /** What people read instead. */
  text: string;
}

export interface Command {
  summary: string;
  usage: string;
  /** Without `value` an option is a switch, and given as an empty text. */
  options: Record<string, { value?: string; summary: string; required?: boolean }>;
  /** Least and greatest number of positional arguments. */
  arguments: [number, number];
  run(args: string[], options: Options, progress: (text: string) => void): Promise<Outcome>;
}

export class UsageError extends Error {
  override name = 'UsageError';
}

export function findingLines(findings: readonly Finding[]): string {
  if (findings.length === 0) return 'No findings.';
  return findings
    .map((f) => {
      const at = f.place?.file
        ? ` [${f.place.file}${f.place.line ? `:${f.place.line}` : ''}]`
        : f.place?.object
          ? ` [object ${f.place.object}]`
          : f.place?.solid
            ? ` [solid ${f.place.solid}]`
            : '';
      return `${f.severity.toUpperCase().padEnd(8)} ${f.code}: ${f.message}${at}${f.hint ? `\n         ${f.hint}` : ''}`;
    })
    .join('\n');
}
