/**
 * Starting a game with a crate that was put into its mods folder: the game is a process of its own, whose log is read
 * line by line and which is told things on its standard input. No shell ever sees an argument.
 */

import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { isAbsolute, join } from 'node:path';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { Finding } from '@violet-crate/core/finding';
import type { Launch, Profile } from '@violet-crate/core/profile/schema';
import { logFinding } from '@violet-crate/core/release/gameLog';
import { installRelease } from '@violet-crate/core/release/install';
import type { ReleaseManifest } from '@violet-crate/core/release/manifest';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { bankCopies, placeBankCopies } from './bankCopies.ts';
import { modsFolder } from './modsFolder.ts';
import { eachLine } from './setup/eachLine.ts';
import { inInstall } from './setup/places.ts';
import { strangersEnvironment } from './setup/runProgram.ts';

/** Characters of a line that are kept, and milliseconds that a game has to end when asked to, and when told to. */
const LINE_LIMIT = 4000;
const PATIENCE = 3000;
const LAST = 2000;

export interface GameOwner {
  line(text: string, finding: Finding | null): void;
  /** It is over: by itself, because it was asked to, or because it crashed. Told once. */
  ended(how: { code: number | null; finding: Finding | null }): void;
}

export interface LaunchPlan {
  profile: Profile;
  /** The install. */
  game: string;
  /** Folder of the mod within the mods folder, and the map to begin with. */
  mod: string;
  map: string;
}

/** Where the local copy of a crate lies among the mods; a published mod of its name stays as it is. */
export const localName = (crate: string): string => `${crate}_local`;

/** Puts a local copy into the mods folder, whole or not at all. */
export function placeLocal(profile: Profile, game: string, { manifest, tree }: { manifest: ReleaseManifest; tree: FileTree }): void {
  const copies = bankCopies(game, localName(manifest.name), tree);
  installRelease(modsFolder(inInstall(game, profile.install.mods)), { ...manifest, name: localName(manifest.name) }, tree);
  placeBankCopies(copies);
}

export class GameRun {
  private asked = false;
  private over = false;
  private readonly child: ChildProcess;
  private readonly done: Promise<void>;

  /** @throws UnreadableInput where it cannot be started: what is missing, and what to do */
  constructor(
    private readonly plan: LaunchPlan,
    private readonly owner: GameOwner,
  ) {
    const launch = launchOf(plan.profile);
    const program = replaced(launch.program, plan);
    if (isAbsolute(program) && !existsSync(program))
      throw new UnreadableInput(
        'game-program',
        `The program of ${plan.profile.title} is missing: ${program}.`,
        { file: program },
        'Repair the game under Set-up, or install it anew.',
      );
    const folder = replaced(launch.folder, plan);
    if (!statSync(folder, { throwIfNoEntry: false })?.isDirectory())
      throw new UnreadableInput('game-folder', `There is no folder ${folder} to start the game in.`, { file: folder });
    const other = runningIn(plan);
    if (other !== null)
      throw new UnreadableInput(
        'game-running',
        `${plan.profile.title} is running already (process ${other}).`,
        {},
        'End it first: two at a time would read the same mods folder.',
      );
    this.child = spawn(
      program,
      launch.arguments.map((argument) => replaced(argument, plan)),
      { cwd: folder, shell: false, stdio: ['pipe', 'pipe', 'pipe'], env: strangersEnvironment() },
    );
    // A game that has closed its input is told nothing more; that is no error of ours.
    this.child.stdin!.on('error', () => {});
    for (const stream of [this.child.stdout!, this.child.stderr!]) eachLine(stream, LINE_LIMIT, (line) => this.hear(line));
    if (this.child.pid !== undefined) writeFileSync(lockFile(plan), String(this.child.pid));
    this.done = new Promise((resolve) => {
      this.child.on('error', (error: NodeJS.ErrnoException) => {
        this.end(null, cannotStart(plan, program, error));
        resolve();
      });
      this.child.on('close', (code, signal) => {
        const crashed = !this.asked && (code !== 0 || signal !== null);
        this.end(code, crashed ? crash(plan, code, signal) : null);
        resolve();
      });
    });
  }

  /** Tells it one of its profile's commands. False where it knows none such, or is over. */
  say(command: 'reload' | 'map', map = this.plan.map): boolean {
    const words = launchOf(this.plan.profile).commands[command];
    if (words === undefined || this.over) return false;
    return this.write(replaced(words, { ...this.plan, map }));
  }

  /** Asks it to end, then tells it to, then ends it; resolves when it is over. */
  async quit(): Promise<void> {
    if (this.over) return;
    this.asked = true;
    this.write(launchOf(this.plan.profile).commands.quit);
    const timers = [setTimeout(() => this.child.kill('SIGTERM'), PATIENCE), setTimeout(() => this.child.kill('SIGKILL'), PATIENCE + LAST)];
    await this.done;
    timers.forEach(clearTimeout);
  }

  private write(line: string): boolean {
    return this.child.stdin!.writable && this.child.stdin!.write(`${line}\n`);
  }

  private hear(text: string): void {
    this.owner.line(text, logFinding(launchOf(this.plan.profile).log, text));
  }

  private end(code: number | null, finding: Finding | null): void {
    if (this.over) return;
    this.over = true;
    rmSync(lockFile(this.plan), { force: true });
    this.owner.ended({ code, finding });
  }
}

/** @throws UnreadableInput where the profile does not say how its game is started */
function launchOf(profile: Profile): Launch {
  if (profile.launch) return profile.launch;
  throw new UnreadableInput(
    'launch-unknown',
    `The profile of ${profile.title} does not say how the game is started.`,
    {},
    'Play the map in the test run instead, or add "launch" to the profile (docs/formats.md).',
  );
}

function replaced(text: string, { game, mod, map }: LaunchPlan): string {
  return text.replace(/\{(game|mod|map)\}/g, (_, name: 'game' | 'mod' | 'map') => ({ game, mod, map })[name]);
}

const lockFile = ({ profile, game }: LaunchPlan): string => join(game, profile.install.mods, '.running');

/** Number of the process that was started from this install and still runs, or null. */
function runningIn(plan: LaunchPlan): number | null {
  try {
    const pid = Number(readFileSync(lockFile(plan), 'utf8'));
    if (!Number.isInteger(pid) || pid <= 0) return null;
    process.kill(pid, 0);
    return pid;
  } catch {
    return null;
  }
}

function cannotStart({ profile }: LaunchPlan, program: string, error: NodeJS.ErrnoException): Finding {
  const why =
    error.code === 'EACCES' ? 'it may not be run (permission denied)' : error.code === 'ENOENT' ? 'it is not there' : 'the system refused it';
  return {
    code: 'game-program',
    severity: 'blocker',
    stage: 'trial',
    message: `${profile.title} could not be started: ${why}: ${program}.`,
    hint: error.code === 'EACCES' ? 'Make the file executable.' : 'Repair the game under Set-up.',
  };
}

function crash({ profile }: LaunchPlan, code: number | null, signal: NodeJS.Signals | null): Finding {
  return {
    code: 'game-crashed',
    severity: 'blocker',
    stage: 'trial',
    message: `${profile.title} ended by itself with ${signal ? `the signal ${signal}` : `code ${code}`}.`,
    hint: 'Its last lines say why, if anything does.',
  };
}
