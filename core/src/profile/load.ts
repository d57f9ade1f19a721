import { layoutProblem } from '../bank/layout.ts';
import { readDocument } from '../document/readDocument.ts';
import { UnreadableInput } from '../unreadable.ts';
import { tablesProblem } from '../table/schema.ts';
import { factOf } from './parts.ts';
import { linearPattern } from './linearPattern.ts';
import { isLoaderVariable } from './loaderVariables.ts';
import { isVersionRule } from './versionRule.ts';
import { ProfileSchema, type Profile } from './schema.ts';

/** Endings of files that hold settings and that nothing runs. */
const SETTINGS_ENDINGS = ['ini', 'cfg', 'conf', 'config', 'json', 'toml', 'yaml', 'yml', 'xml', 'txt', 'properties', 'ok', 'done', 'flag'];
const SETTINGS_FILE = new RegExp(`/[^/.][^/]*\\.(${SETTINGS_ENDINGS.join('|')})$`, 'i');
/** Folders among the settings of a user from which something is started, or that hold keys. */
const STARTERS =
  /\/(autostart|systemd|environment\.d|plasma-workspace|fish|bash|zsh|nushell|powershell|windowspowershell|git|ssh|gnupg|npm|pip|cargo|startup|start menu|microsoft|launchagents|applications|dbus-1|kservices5|nautilus|com\.apple\.[^/]*)(\/|$)/i;

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
  for (const { id, environment = {} } of profile.programs ?? [])
    for (const name of Object.keys(environment))
      if (isLoaderVariable(name))
        throw wrong(`program "${id}" sets ${name}, by which other code than the program could be loaded; hand the value over as an argument`);
  for (const { path } of profile.install.settings ?? [])
    if (STARTERS.test(path)) throw wrong(`the folder of settings ${path} is one from which a system or a shell starts programs`);
  for (const { id, done, offer } of profile.preparation ?? []) {
    const path = done.when === 'file' ? done.path : done.when === 'setting' ? done.file : null;
    if (offer?.do === 'write' && path !== null && !SETTINGS_FILE.test(path))
      throw wrong(`step "${id}" writes ${path}, which does not end like a file of settings (${SETTINGS_ENDINGS.join(', ')})`);
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
  for (const rule of Object.values(profile.naming))
    if (!linearPattern(rule.pattern)) throw wrong(`naming pattern ${rule.pattern} is not a regular expression in the syntax of RE2`);
  return profile;
}
