import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { Injectable } from '@nestjs/common';
import { readMap } from '@violet-crate/core/crate/readMap';
import { mapDifference, type MapDifference } from '@violet-crate/core/document/changeWords';
import { conflictsFile } from '@violet-crate/core/document/merge';
import type { GameMap } from '@violet-crate/core/document/schema';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { readInside, removeInside, writeInside } from '@violet-crate/host/inside';
import type { SimpleGit } from 'simple-git';
import { BoundFoldersService } from '../bound/boundFolders.service.ts';
import { consentHash, Consents } from '../consents/consents.ts';
import { CratesService } from '../crates/crates.service.ts';
import { Problem } from '../http/problem.ts';
import { conflictOf, settleConflict, type GitConflict, type GitSide } from './gitConflicts.ts';
import { aboutGit, DRIVER, gitInstalled, mergeCommand, quietGit } from './strangersGit.ts';

export interface ChangedFile {
  path: string;
  how: 'added' | 'changed' | 'removed' | 'in conflict';
  /** For maps, what is different from the last commit. */
  difference: MapDifference | null;
}

export interface VersionsView {
  /** Why there is no version control here; null where there is. */
  problem: string | null;
  /** The settings and hooks of a repository that the user has not trusted yet, and their hash; null where git may be used. */
  untrusted: { settings: string[]; hash: string } | null;
  /** Whether the folder is under version control. */
  repository: boolean;
  branch: string;
  branches: string[];
  changes: ChangedFile[];
  /** A merge is under way: what is in conflict is to be settled, and all of it committed. */
  merging: boolean;
  conflicts: GitConflict[];
  /** A message drafted from what has changed. */
  draft: string;
  /** Whether git merges maps by member here. */
  driver: boolean;
  /** Files that are larger than git likes, with advice. */
  large: { path: string; bytes: number }[];
}

export interface Commit {
  hash: string;
  message: string;
  author: string;
  at: string;
}

const ATTRIBUTES = '*.map.json merge=crate-map';
/** Paths that one command of git is asked about. */
const GROUP = 500;
/** Bytes above which a file had better not lie in a history that keeps every version of it. */
const LARGE = 20 << 20;
const LISTED = 200;
/** Other repositories within this one have configurations of their own, and are not looked into. */
const STATUS = ['--ignore-submodules=all'];

const encoder = new TextEncoder();

/** The folder of a crate under the system's own git. */
@Injectable()
export class VersionsService {
  constructor(
    private readonly folders: BoundFoldersService,
    private readonly crates: CratesService,
    private readonly consents: Consents,
  ) {}

  async view(crateId: string): Promise<VersionsView> {
    const none: VersionsView = {
      problem: null,
      untrusted: null,
      repository: false,
      branch: '',
      branches: [],
      changes: [],
      merging: false,
      conflicts: [],
      draft: '',
      driver: false,
      large: [],
    };
    const folder = this.folders.view(crateId)?.folder;
    if (!folder) return { ...none, problem: 'The crate lives in no folder yet. Bind it to one under Set-up; then its versions can be kept.' };
    if (!gitInstalled()) return { ...none, problem: 'There is no git on this machine. Install it, and check again.' };
    const { there, problem, settings } = aboutGit(folder);
    if (!there) return none;
    if (problem) return { ...none, problem };
    const hash = consentHash(settings);
    if (!this.consents.holds('git', folder, hash)) return { ...none, untrusted: { settings, hash } };
    const { git } = quietGit(folder);
    await needRepository(git, folder);
    const [status, branches, driver] = await Promise.all([git.status(STATUS), git.branchLocal(), git.getConfig(`merge.${DRIVER}.driver`, 'local')]);
    const changes = await Promise.all(
      status.files.map(async ({ path, index, working_dir }) => this.changedFile(git, folder, path, `${index}${working_dir}`)),
    );
    const view = this.crates.view(crateId);
    return {
      ...none,
      repository: true,
      branch: status.current ?? branches.current,
      branches: branches.all,
      changes: changes.sort((a, b) => (a.path < b.path ? -1 : 1)),
      merging: isMerging(folder),
      conflicts: await Promise.all(status.conflicted.map((path) => conflictOf(git, path))),
      draft: (await this.log(crateId)).length === 0 ? 'As it began' : draftOf(changes),
      driver: driver.value !== null && attributesOf(folder).includes(ATTRIBUTES),
      large: view.files.filter(({ bytes }) => bytes > LARGE).map(({ path, bytes }) => ({ path, bytes })),
    };
  }

  /** Puts the crate's folder under version control. */
  async begin(crateId: string): Promise<VersionsView> {
    const folder = this.folder(crateId);
    if (aboutGit(folder).there) throw new Problem(409, 'git-there', 'The folder is under version control already.');
    await this.run(() => quietGit(folder).git.init());
    this.trustNow(folder);
    await this.installDriver(crateId);
    return this.view(crateId);
  }

  /** Git may be used in the crate's folder: the user has seen what its configuration names. */
  async trust(crateId: string, hash: string): Promise<VersionsView> {
    const folder = this.folder(crateId);
    this.consents.give('git', folder, hash, consentHash(aboutGit(folder).settings));
    return this.view(crateId);
  }

  /** What this application itself has just changed there needs no question. */
  private trustNow(folder: string): void {
    const hash = consentHash(aboutGit(folder).settings);
    this.consents.give('git', folder, hash, hash);
  }

  /** Has git merge maps by member with this application's command line. */
  async installDriver(crateId: string): Promise<VersionsView> {
    const folder = this.folder(crateId);
    const git = await this.repository(crateId);
    await this.run(async () => {
      await git.addConfig(`merge.${DRIVER}.name`, 'Maps, member by member');
      await git.addConfig(`merge.${DRIVER}.driver`, mergeCommand());
    });
    const text = attributesOf(folder);
    if (!text.includes(ATTRIBUTES))
      writeInside(folder, [['.gitattributes', encoder.encode(`${text}${text === '' || text.endsWith('\n') ? '' : '\n'}${ATTRIBUTES}\n`)]]);
    if (!existsSync(join(folder, '.gitignore'))) writeInside(folder, [['.gitignore', encoder.encode('build/\n.violet-crate/\n')]]);
    return this.view(crateId);
  }

  async commit(crateId: string, message: string): Promise<VersionsView> {
    await this.folders.look(crateId);
    const git = await this.repository(crateId);
    const { files, conflicted } = await git.status(STATUS);
    if (conflicted.length > 0) throw new Problem(409, 'git-conflict', `Settle what is in conflict first: ${conflicted.slice(0, 3).join(', ')}.`);
    if (files.length === 0 && !isMerging(this.folder(crateId))) throw new Problem(409, 'git-nothing', 'Nothing has changed since the last commit.');
    await this.needNoFilter(
      crateId,
      files.map(({ path }) => path),
    );
    await this.run(async () => {
      await git.add(['--all', '.']);
      await git.commit(message);
    }, git);
    return this.view(crateId);
  }

  /** Commits, newest first; of one map or file where a path is given. */
  async log(crateId: string, path?: string): Promise<Commit[]> {
    const git = await this.repository(crateId);
    try {
      const { all } = await git.log({ maxCount: LISTED, ...(path ? { file: inside(path) } : {}) });
      return all.map(({ hash, message, author_name, date }) => ({ hash, message, author: author_name, at: date }));
    } catch {
      // A repository without any commit yet.
      return [];
    }
  }

  /** What a commit changed: its files, and maps in words. */
  async changesIn(crateId: string, hash: string): Promise<ChangedFile[]> {
    const git = await this.repository(crateId);
    const text = await this.run(async () =>
      git.raw(['show', '--name-status', '--format=', '--no-renames', '--no-ext-diff', '--no-textconv', known(hash)]),
    );
    const parent = `${hash}^`;
    return Promise.all(
      text
        .split('\n')
        .filter((line) => line.includes('\t'))
        .map(async (line) => {
          const [mark, path] = line.split('\t');
          const [before, after] = await Promise.all([mapAt(git, parent, path), mapAt(git, hash, path)]);
          return { path, how: HOW[mark] ?? 'changed', difference: before && after ? mapDifference(before, after) : null };
        }),
    );
  }

  /** A map as it was at a commit. @throws Problem where it was not there, or cannot be read */
  async mapOf(crateId: string, hash: string, path: string): Promise<GameMap> {
    const map = await mapAt(await this.repository(crateId), known(hash), inside(path));
    if (!map) throw new Problem(404, 'git-map', `There is no readable map ${path} in that commit.`);
    return map;
  }

  /** Puts files back as they were at a commit; they come into the crate as any change of its folder does. */
  async restore(crateId: string, hash: string, path: string): Promise<VersionsView> {
    const git = await this.repository(crateId);
    await this.needNoFilter(crateId, [inside(path)]);
    await this.run(async () => git.raw(['checkout', '--quiet', known(hash), '--', inside(path)]));
    await this.folders.look(crateId);
    return this.view(crateId);
  }

  async switchTo(crateId: string, branch: string, fresh: boolean): Promise<VersionsView> {
    await this.folders.look(crateId);
    const git = await this.repository(crateId);
    if (!/^[A-Za-z0-9][A-Za-z0-9._/-]{0,99}$/.test(branch) || branch.includes('..'))
      throw new Problem(422, 'git-branch', 'A branch’s name has letters, digits, points and dashes.');
    await this.run(async () => git.raw(['checkout', '--quiet', ...(fresh ? ['-b'] : []), branch]));
    await this.folders.look(crateId);
    return this.view(crateId);
  }

  /** Merges another branch; maps by member. What clashes stays in conflict, and is told. */
  async merge(crateId: string, branch: string): Promise<VersionsView> {
    await this.folders.look(crateId);
    const git = await this.repository(crateId);
    if (!(await git.branchLocal()).all.includes(branch)) throw new Problem(404, 'git-branch', `There is no branch ${branch}.`);
    const { files } = await git.status(STATUS);
    if (files.length > 0) throw new Problem(409, 'git-unsaved', 'Commit what has changed before you merge.');
    try {
      await git.merge(['--no-edit', branch]);
    } catch {
      const { conflicted } = await git.status(STATUS);
      if (conflicted.length === 0) throw new Problem(409, 'git-merge', `Branch ${branch} cannot be merged. Look at the folder with git itself.`);
    }
    await this.folders.look(crateId);
    return this.view(crateId);
  }

  /** Settles one file that a merge left in conflict. */
  async settle(crateId: string, path: string, side: GitSide, members: Record<string, GitSide>): Promise<VersionsView> {
    await this.folders.look(crateId);
    const git = await this.repository(crateId);
    if (!(await git.status(STATUS)).conflicted.includes(path)) throw new Problem(409, 'git-settled', `${path} is not in conflict any more.`);
    await this.run(() => settleConflict(git, this.folder(crateId), path, side, members));
    await this.folders.look(crateId);
    return this.view(crateId);
  }

  /** Gives a merge up: everything is as it was before it. */
  async giveUp(crateId: string): Promise<VersionsView> {
    const git = await this.repository(crateId);
    if (!isMerging(this.folder(crateId))) throw new Problem(409, 'git-no-merge', 'No merge is under way.');
    const { conflicts } = await this.view(crateId);
    await this.run(async () => git.raw(['merge', '--abort']));
    for (const { path } of conflicts) removeInside(this.folder(crateId), conflictsFile(path));
    await this.folders.look(crateId);
    return this.view(crateId);
  }

  private async changedFile(git: SimpleGit, folder: string, path: string, mark: string): Promise<ChangedFile> {
    const how = /U|AA|DD/.test(mark) ? 'in conflict' : /\?|A/.test(mark) ? 'added' : mark.includes('D') ? 'removed' : 'changed';
    if (how !== 'changed' || !path.endsWith('.map.json')) return { path, how, difference: null };
    const before = await mapAt(git, 'HEAD', path);
    const after = parsed(textIn(folder, path), path);
    return { path, how, difference: before && after ? mapDifference(before, after) : null };
  }

  private folder(crateId: string): string {
    const view = this.folders.view(crateId);
    if (!view) throw new Problem(409, 'folder-none', 'The crate lives in no folder. Bind it to one first.');
    return view.folder;
  }

  private async repository(crateId: string): Promise<SimpleGit> {
    const folder = this.folder(crateId);
    const { there, problem, settings } = aboutGit(folder);
    if (!there) throw new Problem(409, 'git-none', 'The folder is not under version control yet.');
    if (problem) throw new Problem(409, 'git-elsewhere', problem);
    if (!this.consents.holds('git', folder, consentHash(settings)))
      throw new Problem(403, 'git-untrusted', 'Read what the repository of this folder would run, and trust it under Versions first.');
    const { git } = quietGit(folder);
    await needRepository(git, folder);
    return git;
  }

  /** What goes through a filter would be kept as it is not meant to be, since filters are programs, and none is run. */
  private async needNoFilter(crateId: string, paths: readonly string[]): Promise<void> {
    const { git, filters } = quietGit(this.folder(crateId));
    if (filters.length === 0) return;
    for (let at = 0; at < paths.length; at += GROUP) {
      const words = (await git.raw(['check-attr', '-z', 'filter', '--', ...paths.slice(at, at + GROUP)])).split('\0');
      for (let i = 0; i + 2 < words.length; i += 3)
        if (filters.includes(words[i + 2]))
          throw new Problem(409, 'git-filter', `${words[i]} goes through the filter "${words[i + 2]}", which is a program. Use git itself for it.`);
    }
  }

  /** Git's own words are for those who know it; the first line of them is told behind ours. */
  private async run<T>(work: () => PromiseLike<T>, git?: SimpleGit): Promise<T> {
    try {
      return await work();
    } catch (error) {
      if (error instanceof Problem) throw error;
      const text = error instanceof Error ? error.message : '';
      if (git && /tell me who you are|empty ident/i.test(text)) {
        await git.addConfig('user.name', 'Violet Crate');
        await git.addConfig('user.email', 'crate@localhost');
        return work();
      }
      const line = text.split('\n').find((one) => /^(error|fatal|hint)?:? ?\S/.test(one)) ?? '';
      throw new Problem(
        409,
        'git',
        `Git refuses: ${line
          .replace(/^(error|fatal): /, '')
          .slice(0, 300)
          .replace(/\.$/, '')}.`,
      );
    }
  }
}

const HOW: Record<string, ChangedFile['how']> = { A: 'added', D: 'removed', M: 'changed', T: 'changed' };

const isMerging = (folder: string): boolean => existsSync(join(folder, '.git', 'MERGE_HEAD'));

/** @throws Problem where git does not take the folder for a repository of its own */
async function needRepository(git: SimpleGit, folder: string): Promise<void> {
  let top = '';
  try {
    top = (await git.revparse(['--show-toplevel'])).trim();
  } catch (error) {
    if (error instanceof Error && error.message.includes('dubious ownership'))
      throw new Problem(
        409,
        'git-owner',
        `The repository in ${folder} belongs to another user of this machine, so git does not use it. If you trust that user, add the folder to safe.directory in your own git configuration.`,
      );
  }
  if (top !== folder) throw new Problem(409, 'git-damaged', `Git does not take ${folder} for a repository. Look at it with git itself.`);
}

const textIn = (folder: string, path: string): string => new TextDecoder().decode(readInside(folder, path) ?? new Uint8Array());
const attributesOf = (folder: string): string => textIn(folder, '.gitattributes');

function known(hash: string): string {
  if (!/^[0-9a-f]{4,64}$/.test(hash)) throw new Problem(422, 'git-hash', 'A commit is named by its hash.');
  return hash;
}

/** A path within the folder, never an option of git. */
function inside(path: string): string {
  if (path.startsWith('-') || path.startsWith('/') || path.startsWith(':') || path.split('/').includes('..'))
    throw new Problem(422, 'git-path', 'Give a path within the crate.');
  return path;
}

function parsed(text: string, path: string): GameMap | null {
  try {
    return readMap(text, path);
  } catch (error) {
    if (error instanceof UnreadableInput) return null;
    throw error;
  }
}

async function mapAt(git: SimpleGit, commit: string, path: string): Promise<GameMap | null> {
  if (!path.endsWith('.map.json')) return null;
  try {
    return parsed(await git.raw(['cat-file', 'blob', `${commit}:${path}`]), path);
  } catch {
    return null;
  }
}

function draftOf(changes: readonly ChangedFile[]): string {
  const words = changes.flatMap(({ difference }) => difference?.words ?? []);
  const others = changes.filter(({ difference }) => !difference).map(({ path, how }) => `${path.split('/').at(-1)} ${how}`);
  const all = [...words, ...others];
  if (all.length === 0) return '';
  const title = all[0].length > 68 ? `${all[0].slice(0, 67)}…` : all[0];
  return all.length === 1 ? title : `${title}\n\n${all.slice(1, 30).join('\n')}`;
}
