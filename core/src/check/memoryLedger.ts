/** Who sets, clears and reads each flag and value, over all conversations and scripts. */

import { stringsOf } from '../script/strings.ts';
import type { StepOf, TalkStep, Test } from '../talk/document.ts';
import type { NamedTalk } from '../talk/talks.ts';

export interface MemoryUse {
  does: 'set' | 'clear' | 'read';
  /** Conversation or script, by its path; number of its step, or line of a script. */
  path: string;
  step?: number;
  line?: number;
}

/** Names that a step reads and writes. */
function usesOf(step: TalkStep): { name: string; does: MemoryUse['does']; kind: 'flag' | 'value' }[] {
  const read = (test: Test | undefined): ReturnType<typeof usesOf> =>
    !test || 'has' in test
      ? []
      : 'flag' in test
        ? [{ name: test.flag, does: 'read', kind: 'flag' }]
        : [{ name: test.value, does: 'read', kind: 'value' }];
  switch (step.do) {
    case 'if':
    case 'option':
      return read(step.test);
    case 'set':
    case 'clear':
      return [{ name: step.flag, does: step.do, kind: 'flag' }];
    case 'put':
    case 'add':
      return [{ name: step.value, does: 'set', kind: 'value' }];
    case 'contest': {
      const { flag } = step as StepOf<'contest'>;
      return flag === undefined
        ? []
        : [
            { name: flag, does: 'set', kind: 'flag' },
            { name: flag, does: 'read', kind: 'flag' },
          ];
    }
    default:
      return [];
  }
}

export interface LedgerEntry {
  kind: 'flag' | 'value';
  uses: MemoryUse[];
}

/** By name. Of scripts, every text that is exactly a known name counts as reading, and as setting where `remember` stands before it. */
export function memoryLedger(
  talks: readonly NamedTalk[],
  scripts: Readonly<Record<string, string>>,
  known: Iterable<{ name: string; kind: 'flag' | 'value' }>,
): Map<string, LedgerEntry> {
  const ledger = new Map<string, LedgerEntry>([...known].map(({ name, kind }) => [name, { kind, uses: [] }]));
  const add = (name: string, kind: 'flag' | 'value', use: MemoryUse) => {
    let entry = ledger.get(name);
    if (!entry) ledger.set(name, (entry = { kind, uses: [] }));
    entry.uses.push(use);
  };
  for (const { path, talk } of talks)
    talk.steps.forEach((step, n) => {
      for (const { name, does, kind } of usesOf(step)) add(name, kind, { does, path, step: n });
    });
  for (const [path, source] of Object.entries(scripts)) {
    for (const { value, line, from, to } of stringsOf(source))
      if (ledger.has(value)) {
        const set = /\bremember\s*\(?\s*$/.test(source.slice(Math.max(0, from - 40), from));
        const off = set && /^\s*,\s*false\b/.test(source.slice(to, to + 40));
        add(value, ledger.get(value)!.kind, { does: off ? 'clear' : set ? 'set' : 'read', path, line });
      }
  }
  return ledger;
}
