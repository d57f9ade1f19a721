import type { Reloaded } from '../script/run.ts';

/** Names of the locals at the top of a file: what they hold cannot be reached from outside. */
function topLocals(source: string): string[] {
  const names = source.split('\n').flatMap((line) => {
    const words = /^local\s+(?!function\b)([A-Za-z_][\w, ]*)/.exec(line)?.[1] ?? '';
    return words.split(',').map((word) => word.trim().split(' ')[0]);
  });
  return [...new Set(names.filter(Boolean))];
}

const listed = (before: string, names: readonly string[]): string[] => (names.length > 0 ? [`${before}: ${names.join(', ')}.`] : []);

/** What to say of a script that was loaded into a running world. */
export function reloadWords(path: string, source: string, { ok, kept, anew }: Reloaded, gone: readonly string[]): string {
  return [
    ok ? `Loaded ${path} anew.` : `${path} failed on the way; its functions up to there are the new ones.`,
    ...listed('Kept', kept),
    ...listed('Of another type now, so begun anew', anew),
    ...listed('Locals begin anew', ok ? topLocals(source) : []),
    ...listed('No longer there', gone),
  ].join(' ');
}
