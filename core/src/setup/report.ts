/** The state of an install as text, for a question to others. */

import type { Profile } from '../profile/schema.ts';
import type { SetupCheck } from './checks.ts';
import type { InstallFacts } from './facts.ts';

/** @param personal folders that are named in it only where that is wanted, with what stands for them, the longest first */
export function setupReport(profile: Profile, facts: InstallFacts, checks: readonly SetupCheck[], personal: readonly [string, string][]): string {
  const { machine } = facts;
  const lines = [
    `${profile.title} ${facts.version ?? '(not found)'}, profile ${profile.id} ${profile.version ?? ''}`.trim(),
    `${machine.system}, ${machine.cores} cores, ${machine.memory} MiB of memory`,
    ...checks.map(({ ok, title, detail, hint }) => `${ok ? 'ok    ' : 'NOT OK'} ${title}: ${detail}${ok || !hint ? '' : ` (${hint})`}`),
  ];
  return lines.map((line) => personal.reduce((text, [path, instead]) => text.replaceAll(path, instead), line)).join('\n') + '\n';
}
