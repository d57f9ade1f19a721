/**
 * Git in a folder that somebody else may have filled: its configuration, attributes and hooks name programs, and git runs them at a
 * mere look. Here it runs none of them. What they are is shown before git is run in the folder at all.
 */

import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, lstatSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { simpleGit, type SimpleGit } from 'simple-git';

export const DRIVER = 'crate-map';

/** Milliseconds that reading a configuration may take: what it includes may be a pipe. */
const PATIENCE = 10_000;

/** Settings that name no program, no other place and no address that anything here would use. All others are shown. */
const HARMLESS = [
  /^core\.(repositoryformatversion|filemode|bare|logallrefupdates|ignorecase|precomposeunicode|symlinks|autocrlf|eol|safecrlf|quotepath)$/,
  /^(user\.(name|email)|init\.defaultbranch|pull\.(rebase|ff)|fetch\.prune)$/,
  /^branch\..*\.(remote|merge|rebase|description)$/,
  /^remote\..*\.(url|fetch|pushurl|push)$/,
];

/** The command that merges maps by member: put together of nothing that a user or a repository says. */
export function mergeCommand(): string {
  const cli = join(import.meta.dirname, '..', '..', '..', 'cli', 'dist', 'bin.js');
  return [process.execPath, cli, 'merge-map', '%O', '%A', '%B', '--path', '%P'].map((part) => (part.includes(' ') ? `'${part}'` : part)).join(' ');
}

/** Whether there is a git on this machine. */
export function gitInstalled(): boolean {
  return spawnSync('git', ['--version'], { cwd: '/', stdio: 'ignore' }).status === 0;
}

export interface GitAbout {
  /** Whether the folder has a repository of its own. */
  there: boolean;
  /** Why git is not run in it whatever the user says; null where it may be. */
  problem: string | null;
  /** What its configuration says beyond the ordinary, and its hooks. */
  settings: string[];
}

/** Reads a repository's settings without running git in it: its configuration as a file, without what that includes. */
export function aboutGit(folder: string): GitAbout {
  const own = join(folder, '.git');
  const stats = lstatSync(own, { throwIfNoEntry: false });
  const none: GitAbout = { there: false, problem: null, settings: [] };
  if (!stats) return none;
  const refuse = (problem: string): GitAbout => ({ there: true, problem, settings: [] });
  if (!stats.isDirectory()) return refuse('The repository is in another folder than the crate. Use git itself for it.');
  const files = ['config', 'config.worktree'].map((name) => settingsOf(join(own, name)));
  if (files.includes(null)) return refuse('The configuration of the repository cannot be read. Look at it with git itself.');
  const entries = files.flatMap((one) => one ?? []);
  if (entries.some(([key]) => key === 'core.worktree'))
    return refuse('The configuration of the repository says that its files are in another folder. Use git itself for it.');
  const settings = entries
    .filter(([key, value]) => !HARMLESS.some((pattern) => pattern.test(key)) && !isOurs(key, value))
    .map(([key, value]) => `${key} = ${value}`);
  const hooks = join(own, 'hooks');
  if (lstatSync(hooks, { throwIfNoEntry: false })?.isSymbolicLink()) settings.push('hooks are in another folder');
  else if (existsSync(hooks)) for (const name of readdirSync(hooks).sort()) if (!name.endsWith('.sample')) settings.push(`hook ${name}`);
  return { there: true, problem: null, settings };
}

const isOurs = (key: string, value: string): boolean =>
  key === `merge.${DRIVER}.name` || (key === `merge.${DRIVER}.driver` && value === mergeCommand());

/** Settings of a configuration file by key, in small letters as git compares them; null where it cannot be read. */
function settingsOf(file: string): [key: string, value: string][] | null {
  const stats = lstatSync(file, { throwIfNoEntry: false });
  if (!stats) return [];
  if (!stats.isFile() || stats.size > 1 << 20) return null;
  try {
    const text = execFileSync('git', ['config', '--file', file, '--no-includes', '--list', '-z'], {
      cwd: '/',
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
      maxBuffer: 4 << 20,
      timeout: PATIENCE,
    });
    return text
      .split('\0')
      .filter((entry) => entry !== '')
      .map((entry) => {
        const at = entry.indexOf('\n');
        const key = at < 0 ? entry : entry.slice(0, at);
        // A section's name between the points keeps its letters.
        const [first, last] = [key.indexOf('.'), key.lastIndexOf('.')];
        return [key.slice(0, first).toLowerCase() + key.slice(first, last) + key.slice(last).toLowerCase(), at < 0 ? 'true' : entry.slice(at + 1)];
      });
  } catch {
    return null;
  }
}

/** What makes git run a program or reach another place, off: given with every command, it holds over any file. */
const OFF = [
  'core.hooksPath=/dev/null',
  'core.fsmonitor=false',
  'core.pager=cat',
  'core.editor=:',
  'sequence.editor=:',
  'core.askPass=',
  'core.sshCommand=false',
  'core.gitProxy=',
  'core.alternateRefsCommand=false',
  'credential.helper=',
  'commit.gpgSign=false',
  'tag.gpgSign=false',
  'merge.verifySignatures=false',
  'log.showSignature=false',
  'merge.stat=false',
  'protocol.allow=never',
  'submodule.recurse=false',
  'diff.ignoreSubmodules=all',
  'status.submoduleSummary=false',
  'gc.auto=0',
  'maintenance.auto=false',
];

/** What the library refuses to be given unless it is said that it is meant: here each is set to nothing. */
const MEANT = {
  allowUnsafeHooksPath: true,
  allowUnsafeFsMonitor: true,
  allowUnsafePager: true,
  allowUnsafeEditor: true,
  allowUnsafeAskPass: true,
  allowUnsafeSshCommand: true,
  allowUnsafeGitProxy: true,
  allowUnsafeCredentialHelper: true,
  allowUnsafeProtocolOverride: true,
  allowUnsafeFilter: true,
  allowUnsafeMergeDriver: true,
  allowUnsafeGpgProgram: true,
  allowUnsafeSubmodule: true,
  allowUnsafeDiffExternal: true,
  allowUnsafeDiffTextConv: true,
};

/** A setting with where it is from: the user's own configuration and the system's are trusted, the folder's is not. */
interface Setting {
  own: boolean;
  key: string;
  value: string;
}

/** Names of what the folder's configuration defines: `filter.NAME.clean` is NAME. */
const namesIn = (settings: readonly Setting[], kind: string): string[] => [
  ...new Set(
    settings.flatMap(({ own, key }) =>
      !own && key.startsWith(`${kind}.`) && key.split('.').length > 2 ? [key.slice(kind.length + 1, key.lastIndexOf('.'))] : [],
    ),
  ),
];

export interface QuietGit {
  git: SimpleGit;
  /** Filters of the folder's configuration (`filter` in attributes), which are not run: what they make of a file is not there. */
  filters: string[];
}

/** Git in a folder, running nothing of its configuration. What the user's own configuration says holds, as far as nothing is run by itself. */
export function quietGit(folder: string): QuietGit {
  const settings = settingsFor(folder);
  const mine = (key: string): string | undefined => settings.findLast((one) => one.own && one.key === key)?.value;
  const filters = namesIn(settings, 'filter');
  const config = [
    ...OFF,
    ...filters.flatMap((name) => [
      ...['clean', 'smudge', 'process'].map((part) => `filter.${name}.${part}=${mine(`filter.${name}.${part}`) ?? ''}`),
      `filter.${name}.required=${mine(`filter.${name}.required`) ?? 'false'}`,
    ]),
    // A driver cannot be taken away, but replaced by what git does without one.
    ...namesIn(settings, 'merge').map((name) => `merge.${name}.driver=${mine(`merge.${name}.driver`) ?? 'git merge-file -q %A %O %B'}`),
    `merge.${DRIVER}.driver=${mergeCommand()}`,
  ];
  return {
    git: simpleGit({ baseDir: folder, timeout: { block: 60_000 }, config, unsafe: MEANT }),
    filters: filters.filter((name) => !settings.some(({ own, key }) => own && key.startsWith(`filter.${name}.`))),
  };
}

function settingsFor(folder: string): Setting[] {
  let text: string;
  try {
    text = execFileSync('git', ['config', '--list', '--show-scope', '-z'], {
      cwd: folder,
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
      maxBuffer: 4 << 20,
      timeout: PATIENCE,
    });
  } catch {
    return [];
  }
  const words = text.split('\0');
  return Array.from({ length: Math.floor(words.length / 2) }, (_, i) => {
    const [key, ...value] = words[2 * i + 1].split('\n');
    return { own: words[2 * i] === 'global' || words[2 * i] === 'system', key, value: value.join('\n') };
  });
}
