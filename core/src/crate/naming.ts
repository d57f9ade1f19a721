import { linearPattern } from '../profile/linearPattern.ts';
import type { Profile } from '../profile/schema.ts';
import { isDevice } from './portableName.ts';

type NameKind = keyof Profile['naming'];

/** Whether a name is what the rule of a profile wants; a rule that is no pattern refuses none, and is told where the profile is read. */
const fits = (pattern: string, name: string): boolean => linearPattern(pattern)?.(name) ?? true;

/** What is wrong with a name by the profile's rule, as one sentence, or null when it is good. */
export function nameProblem(profile: Profile, kind: NameKind, name: string, taken: readonly string[] = []): string | null {
  const rule = profile.naming[kind];
  if (name === '') return 'A name is needed.';
  if (/\s/.test(name)) return 'No spaces: the game cannot load names with them.';
  if (/[A-Z]/.test(name)) return 'No capital letters: on some systems the game would not find the file.';
  if (name.length > rule.maxLength) return `At most ${rule.maxLength} characters; this has ${name.length}.`;
  if (!fits(rule.pattern, name)) return rule.description;
  if (isDevice(name)) return `"${name}" is no name: some systems keep it for a device.`;
  if (taken.includes(name)) return `"${name}" is already taken.`;
  return null;
}

/** The nearest good name: lower case, everything else turned into underscores. */
export function properName(profile: Profile, kind: NameKind, wanted: string): string {
  const rule = profile.naming[kind];
  let name = wanted
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z0-9_]+/g, '_')
    .replace(/^_+|_+$/g, '')
    .slice(0, rule.maxLength);
  if (!fits(rule.pattern, name) || isDevice(name)) name = `m_${name}`.slice(0, rule.maxLength).replace(/_+$/, '');
  return name;
}

/** Numbers a name until nobody has it: `lamp`, `lamp_2`, `lamp_3`. */
export function freeName(wanted: string, taken: Iterable<string>): string {
  // A set is looked into as it is: batches ask for thousands of names.
  const used = taken instanceof Set ? (taken as ReadonlySet<string>) : new Set(taken);
  return used.has(wanted) ? numbered(stemOf(wanted), 2, used).name : wanted;
}

/** Free names one after the other, each taken once it was given. */
export function freeNames(taken: Iterable<string>): (wanted: string) => string {
  const used = new Set(taken);
  const next = new Map<string, number>();
  return (wanted) => {
    let name = wanted;
    if (used.has(wanted)) {
      const stem = stemOf(wanted);
      const found = numbered(stem, next.get(stem) ?? 2, used);
      next.set(stem, found.n + 1);
      name = found.name;
    }
    used.add(name);
    return name;
  };
}

const stemOf = (name: string): string => name.replace(/_\d+$/, '');

function numbered(stem: string, from: number, used: ReadonlySet<string>): { name: string; n: number } {
  for (let n = from; ; n++) if (!used.has(`${stem}_${n}`)) return { name: `${stem}_${n}`, n };
}
