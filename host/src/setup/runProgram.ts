/**
 * Runs a program that a profile names: no shell, none of our environment, within a time and a memory, its log read line by line
 * and its outputs looked at before anybody takes them. The program gets a process group of its own, and all of that ends with it.
 *
 * It cannot be kept from writing elsewhere, which systems do each in another way. What it changes in the install is found by comparing.
 */

import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, lstatSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, isAbsolute, join } from 'node:path';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { Finding, Stage } from '@violet-crate/core/finding';
import type { Program, VersionCommand } from '@violet-crate/core/profile/toolchain';
import { fitLine, logFinding } from '@violet-crate/core/release/gameLog';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import type { RunProgram } from '@violet-crate/core/stages/programs/stage';
import { writeTree } from '../files.ts';
import { listFolder } from '../folderTree.ts';
import { readInside } from '../inside.ts';
import { diskFull } from '../diskFull.ts';
import { eachLine } from './eachLine.ts';
import { within } from './places.ts';

/** Characters of a line, and lines and bytes of a log, that are kept or borne. */
const LINE = 4000;
const LINES = 2000;
const LOG_BYTES = 64 << 20;
/** Milliseconds between two looks at memory, and between asking a program to end and ending it. */
const LOOK = 200;
const GRACE = 1500;

export interface ProgramRun {
  program: Program;
  /** Values of placeholders: `game`, `in`, `map`, `name`, `version`. `out` is a fresh folder. */
  values: Readonly<Record<string, string>>;
  /** The stage that its findings belong to. */
  stage: Stage;
  signal?: AbortSignal;
  onLine?(line: string): void;
  onProgress?(fraction: number): void;
  /** Told of the group that it runs in, and when that has ended: for whoever may have to end it from elsewhere. */
  onGroup?(group: number, running: boolean): void;
}

export interface ProgramResult {
  outputs: FileTree;
  findings: Finding[];
  /** The last lines of its log. */
  lines: string[];
}

const filled = (text: string, values: Readonly<Record<string, string>>): string =>
  text.replace(/\{([a-z]+)\}/g, (whole, name: string) => (Object.hasOwn(values, name) ? values[name] : whole));

/** What a program gets to know of our environment: nothing of ours, which may hold a token. */
export const strangersEnvironment = (): NodeJS.ProcessEnv =>
  Object.fromEntries(Object.entries(process.env).filter(([name]) => !name.startsWith('VIOLET_CRATE_')));

const trouble = (program: { title: string }, code: string, what: string, hint?: string) =>
  new UnreadableInput(code, `${program.title} ${what}`, {}, hint);

/** @throws UnreadableInput where it cannot be started, does not end, takes too much, ends badly or leaves out an output */
export async function runProgram(run: ProgramRun): Promise<ProgramResult> {
  const { program } = run;
  const out = mkdtempSync(join(tmpdir(), 'violet-program-'));
  try {
    const values: Record<string, string> = { ...run.values, out };
    const before = stamps(values.game);
    const findings: Finding[] = [];
    const lines = await carryOut(run, values, findings);
    // What it has found says more than that it wrote nothing.
    const outputs: FileTree = findings.some(({ severity }) => severity === 'blocker') ? new Map() : readOutputs(program, out, values);
    const changed = changedIn(before, stamps(values.game));
    if (changed.length > 0)
      findings.push({
        code: 'program-wrote-outside',
        severity: 'warning',
        stage: run.stage,
        message: `${program.title} changed files of the game: ${changed.slice(0, 3).join(', ')}${changed.length > 3 ? ` and ${changed.length - 3} more` : ''}.`,
        hint: 'A program of the game should write into its output only. Check the install under Set-up.',
      });
    return { outputs, findings, lines };
  } catch (error) {
    throw diskFull(error, out, 1) ?? error;
  } finally {
    rmSync(out, { recursive: true, force: true });
  }
}

/** What runs programs of an install's game on files given as a tree; `log` hears every line of theirs. */
export const programRunner =
  (game: string, version: string, log: (line: string) => void, onGroup?: ProgramRun['onGroup']): RunProgram =>
  async (program, given, map, onProgress) => {
    const input = mkdtempSync(join(tmpdir(), 'violet-given-'));
    try {
      writeTree(input, given);
      return await runProgram({
        program,
        values: { game, in: input, map, name: map, version },
        stage: 'build',
        onGroup,
        onProgress,
        onLine: (line) => log(`${program.title}: ${line}`),
      });
    } finally {
      rmSync(input, { recursive: true, force: true });
    }
  };

/**
 * Files of a batch as the converters of a game leave them: each that a program takes becomes what that writes, in the same folder. One
 * that cannot be converted is left out, with the reason.
 */
export async function convertGiven(
  programs: readonly Program[],
  files: FileTree,
  { game, version, signal }: { game: string; version: string; signal?: AbortSignal },
): Promise<{ files: FileTree; broken: { file: string; reason: string }[]; notes: Map<string, Finding[]> }> {
  const notes = new Map<string, Finding[]>();
  const next: FileTree = new Map(files);
  const broken: { file: string; reason: string }[] = [];
  for (const [path, bytes] of files) {
    const program = importerOf(programs, path);
    if (!program) continue;
    next.delete(path);
    const folder = mkdtempSync(join(tmpdir(), 'violet-given-'));
    try {
      const file = basename(path);
      writeTree(folder, new Map([[file, bytes]]));
      const name = file.replace(/\.[^.]+$/, '');
      const made = await runProgram({ program, values: { game, in: folder, file, name, version }, stage: 'assets', signal });
      const wrong = made.findings.find(({ severity }) => severity === 'blocker');
      if (wrong) broken.push({ file: path, reason: wrong.message });
      for (const [output, content] of made.outputs) {
        const given = path.slice(0, path.length - file.length) + output;
        next.set(given, content);
        notes.set(
          given,
          made.findings.filter(({ severity }) => severity !== 'blocker'),
        );
      }
    } catch (error) {
      if (!(error instanceof UnreadableInput) || signal?.aborted) throw error;
      broken.push({ file: path, reason: error.message });
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  }
  return { files: next, broken, notes };
}

/** The program of a game that takes a file at import, by its ending. */
export const importerOf = (programs: readonly Program[], path: string): Program | undefined => {
  const ending = path.split('.').at(-1)!.toLowerCase();
  return programs.find(({ at, endings }) => at === 'import' && endings?.includes(ending));
};

/** Starts it and waits for its end; answers the last lines of its log. */
async function carryOut(run: ProgramRun, values: Record<string, string>, findings: Finding[]): Promise<string[]> {
  const { program } = run;
  const child = start(program.program, program.arguments, values, {
    title: program.title,
    folder: filled(program.folder ?? '{in}', values),
    environment: Object.fromEntries(Object.entries(program.environment ?? {}).map(([name, value]) => [name, filled(value, values)])),
  });
  const group = child.pid;
  if (group !== undefined) run.onGroup?.(group, true);
  const lines: string[] = [];
  let logged = 0;
  let end: UnreadableInput | null = null;
  const stop = (reason: UnreadableInput) => {
    if (end) return;
    end = reason;
    endGroup(child);
  };
  const hear = (line: string) => {
    if (lines.push(line) > LINES) lines.splice(0, LINES / 4);
    run.onLine?.(line);
    const percent = program.progress ? Number(fitLine(program.progress, line)?.percent) : NaN;
    if (percent >= 0 && percent <= 100) run.onProgress?.(percent / 100);
    const finding = logFinding(program.log, line);
    if (finding && findings.length < 200)
      findings.push({
        ...finding,
        code: `program-${program.id}`,
        stage: run.stage,
        message: finding.message.replace('The game says', program.title),
      });
  };
  const count = (bytes: number) => {
    logged += bytes;
    if (logged > LOG_BYTES)
      stop(
        trouble(program, 'program-flood', `wrote more than ${LOG_BYTES >> 20} MB of log and was ended.`, 'See its last lines in the log of the job.'),
      );
  };
  eachLine(child.stdout!, LINE, hear, count);
  eachLine(child.stderr!, LINE, hear, count);
  const late = setTimeout(
    () =>
      stop(
        trouble(
          program,
          'program-late',
          `took longer than the ${program.seconds} seconds that it may and was ended.`,
          'Raise its time in the profile, if it needs more.',
        ),
      ),
    program.seconds * 1000,
  );
  const memory = setInterval(() => {
    const used = groupMemory(child.pid!);
    if (used > program.memory * (1 << 20))
      stop(
        trouble(program, 'program-memory', `took ${Math.round(used / (1 << 20))} MiB of memory, of ${program.memory} that it may, and was ended.`),
      );
  }, LOOK);
  const abort = () => stop(trouble(program, 'program-cancelled', 'was cancelled.'));
  run.signal?.addEventListener('abort', abort);
  try {
    const how = await new Promise<{ code: number | null; signal: string | null }>((resolve, reject) => {
      child.on('error', (error: NodeJS.ErrnoException) => reject(trouble(program, 'program-start', `cannot be started: ${startReason(error)}.`)));
      // What it left running would hold its output open, and us waiting.
      child.on('exit', () => endGroup(child, true));
      child.on('close', (code, signal) => resolve({ code, signal }));
    });
    if (end) throw end;
    if (how.code !== 0 && !findings.some(({ severity }) => severity === 'blocker'))
      throw trouble(
        program,
        'program-failed',
        how.signal
          ? `was ended by the system (${how.signal}).`
          : `ended with code ${how.code}${lines.length > 0 ? `: ${lines.at(-1)!.slice(0, 300)}` : '.'}`,
        'Its log says more.',
      );
    return lines;
  } finally {
    clearTimeout(late);
    clearInterval(memory);
    run.signal?.removeEventListener('abort', abort);
    // What it started and left behind ends with it.
    endGroup(child, true);
    if (group !== undefined) run.onGroup?.(group, false);
  }
}

function start(
  program: string,
  given: readonly string[],
  values: Record<string, string>,
  { title, folder, environment }: { title: string; folder: string; environment: Record<string, string> },
): ChildProcess {
  const path = filled(program, values);
  // Behind an interpreter stands the program itself.
  const file = isAbsolute(path) ? path : filled(given[0] ?? '', values);
  if (isAbsolute(file) && !existsSync(file))
    throw new UnreadableInput('program-missing', `${title} is missing: ${file}.`, { file }, 'Repair the game’s tools under Set-up.');
  if (!statSync(folder, { throwIfNoEntry: false })?.isDirectory())
    throw new UnreadableInput('program-folder', `There is no folder ${folder} to run ${title} in.`, { file: folder });
  return spawn(
    path,
    given.map((argument) => filled(argument, values)),
    { cwd: folder, shell: false, detached: true, stdio: ['ignore', 'pipe', 'pipe'], env: { ...strangersEnvironment(), ...environment } },
  );
}

/** Ends all processes of a group at once; none of them is asked. */
export function killGroup(group: number, signal: NodeJS.Signals = 'SIGKILL'): void {
  try {
    process.kill(-group, signal);
  } catch {
    // All of them are gone.
  }
}

/** Ends a program with all that it started in its group: asked first, then made to. */
function endGroup({ pid }: ChildProcess, now = false): void {
  if (pid === undefined) return;
  if (now) return killGroup(pid);
  killGroup(pid, 'SIGTERM');
  setTimeout(() => killGroup(pid), GRACE).unref();
}

/** Bytes that the processes of a group hold; 0 where the system does not tell (other than Linux). */
function groupMemory(group: number): number {
  if (process.platform !== 'linux') return 0;
  let pages = 0;
  for (const name of readdirSync('/proc')) {
    if (!/^\d+$/.test(name)) continue;
    try {
      const stat = readFileSync(`/proc/${name}/stat`, 'utf8');
      // Behind the name, which may hold anything: state, parent, group.
      if (Number(stat.slice(stat.lastIndexOf(')') + 2).split(' ', 3)[2]) === group)
        pages += Number(readFileSync(`/proc/${name}/statm`, 'utf8').split(' ')[1]);
    } catch {
      // It has ended.
    }
  }
  return pages * 4096;
}

function readOutputs(program: Program, out: string, values: Readonly<Record<string, string>>): FileTree {
  const tree: FileTree = new Map();
  for (const { path: given, maxBytes, starts } of program.outputs) {
    const path = filled(given, values);
    const file = within(out, path);
    const stats = file && lstatSync(file, { throwIfNoEntry: false });
    if (!file || !stats) throw trouble(program, 'program-output', `did not write ${path}.`, 'Its log may say why.');
    if (!stats.isFile()) throw trouble(program, 'program-output', `wrote ${path}, which is no regular file.`);
    if (stats.size > maxBytes) throw trouble(program, 'program-output', `wrote ${path} with ${stats.size} bytes, of ${maxBytes} that it may have.`);
    const bytes = readInside(out, path)!;
    if (starts && new TextDecoder('latin1').decode(bytes.subarray(0, starts.length)) !== starts)
      throw trouble(program, 'program-output', `wrote ${path}, which does not begin as it should.`);
    tree.set(path, bytes);
  }
  return tree;
}

/** Files of a folder with length and time, to see later what was changed. */
function stamps(folder: string | undefined): Map<string, string> {
  const seen = new Map<string, string>();
  if (!folder || !existsSync(folder)) return seen;
  try {
    for (const { path, bytes } of listFolder(folder, { hidden: true })) seen.set(path, `${bytes} ${statSync(join(folder, path)).mtimeMs}`);
  } catch {
    // Too large to be compared, or something in it is on the move.
  }
  return seen;
}

const changedIn = (before: ReadonlyMap<string, string>, after: ReadonlyMap<string, string>): string[] =>
  [...new Set([...before.keys(), ...after.keys()])].filter((path) => before.get(path) !== after.get(path)).sort();

const startReason = ({ code, message }: NodeJS.ErrnoException): string =>
  code === 'EACCES'
    ? 'it may not be run'
    : code === 'ENOENT'
      ? 'there is no such program, or what it needs to run'
      : code === 'ENOEXEC'
        ? 'it is no program'
        : (code ?? message);

/** Answers of tools by program, while their file is the same. */
const answers = new Map<string, { stamp: string; version: string }>();

/** A tool's version by its own answer, or why there is none. */
export async function askVersion(command: VersionCommand, game: string): Promise<{ version: string | null; problem: string | null }> {
  const file = filled(command.program, { game });
  // A tool may be a script behind the program that reads it.
  const stamp = [file, ...command.arguments.map((argument) => filled(argument, { game }))]
    .map((path) => (isAbsolute(path) ? statSync(path, { throwIfNoEntry: false }) : undefined))
    .map((stats) => (stats ? `${stats.size} ${stats.mtimeMs}` : ''))
    .join(' ');
  const key = [file, ...command.arguments, game].join('\0');
  const known = answers.get(key);
  if (known && stamp.trim() !== '' && known.stamp === stamp) return { version: known.version, problem: null };
  const asked: Program = {
    id: 'version',
    title: 'The tool',
    at: 'import',
    program: command.program,
    arguments: command.arguments,
    folder: game,
    seconds: command.seconds ?? 5,
    memory: 1024,
    outputs: [],
    log: [],
  };
  try {
    let version: string | null = null;
    await carryOut(
      { program: asked, values: {}, stage: 'setup', onLine: (line) => (version ??= fitLine(command.line, line)?.version ?? null) },
      { game },
      [],
    );
    if (version === null) return { version: null, problem: 'It did not say its version when it was asked.' };
    answers.set(key, { stamp, version });
    return { version, problem: null };
  } catch (error) {
    if (error instanceof UnreadableInput) return { version: null, problem: error.message };
    throw error;
  }
}
