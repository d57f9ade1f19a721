import { layoutProblem } from '../bank/layout.ts';
import { readDocument } from '../document/readDocument.ts';
import { UnreadableInput } from '../unreadable.ts';
import { tablesProblem } from '../table/schema.ts';
import { factOf } from './parts.ts';
import { isVersionRule } from './versionRule.ts';
import { ProfileSchema, type Profile } from './schema.ts';

/** Reads a profile and checks what a schema cannot: that its parts refer to each other. */
export function loadProfile(text: string, file: string): Profile {
  const profile = readDocument(text, ProfileSchema, file);
  const wrong = (what: string) => new UnreadableInput('profile-inconsistent', `${file}: ${what}.`, { file });
  const ids = new Set<string>();
  for (const objectClass of profile.classes) {
    if (ids.has(objectClass.id)) throw wrong(`class "${objectClass.id}" is listed twice`);
    ids.add(objectClass.id);
    if (factOf(profile, objectClass.id, 'objective') === 'operate' && !objectClass.events.some((event) => event.id === objectClass.useEvent)) {
      throw wrong(`class "${objectClass.id}" can be used but its useEvent is not one of its events`);
    }
  }
  for (const rule of profile.required) if (!ids.has(rule.class)) throw wrong(`required class "${rule.class}" is not in the catalogue`);
  for (const { id, rule = 'release' } of profile.install.tools)
    if (!isVersionRule(rule))
      throw wrong(`tool "${id}" has the rule "${rule}", which is neither "release", "exact" nor a range of versions like ^2.4.0`);
  const programs = new Set((profile.programs ?? []).map(({ id }) => id));
  for (const { id, done, offer } of profile.preparation ?? []) {
    const program = offer?.do === 'run' ? offer.program : done.when === 'program' ? done.program : null;
    if (program !== null && !programs.has(program)) throw wrong(`step "${id}" needs the program "${program}", which is not among its programs`);
  }
  for (const { layout } of profile.banks ?? []) {
    const problem = layoutProblem(layout);
    if (problem) throw wrong(`bank "${layout.id}": ${problem.replace(/\.$/, '')}`);
  }
  const problem = tablesProblem(profile.tables ?? [], profile.contestModels ?? []);
  if (problem) throw wrong(problem.replace(/\.$/, ''));
  for (const { id, model } of profile.contests ?? [])
    if (model !== undefined && !profile.contestModels?.some((one) => one.id === model))
      throw wrong(`contest "${id}" is decided by the model "${model}", which is not there`);
  for (const rule of Object.values(profile.naming)) {
    try {
      new RegExp(rule.pattern, 'u');
    } catch {
      throw wrong(`naming pattern ${rule.pattern} is not a regular expression`);
    }
  }
  return profile;
}
