/** The one-off steps of a profile: which are done, and doing one. */

import { existsSync, readFileSync, statSync } from 'node:fs';
import type { Finding } from '@violet-crate/core/finding';
import type { DoneRule, Step } from '@violet-crate/core/profile/toolchain';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { writeWhole } from '../files.ts';
import { placed, type Places } from './places.ts';
import type { GameInstall } from './readFacts.ts';
import { runProgram } from './runProgram.ts';

export interface StepState {
  step: Step;
  done: boolean;
  /** What its rule looks at, in words. */
  rule: string;
}

/** Settings files are small; larger ones are somebody else's. */
const SETTINGS_BYTES = 4 << 20;

/** @param records ids of steps that somebody ticked, and of programs that ran to a good end (`ran:ID`) */
export const stepStates = (game: GameInstall, places: Places, records: ReadonlySet<string>): StepState[] =>
  (game.profile.preparation ?? []).map((step) => ({ step, done: isDone(step, game, places, records), rule: ruleWords(step.done) }));

function isDone(step: Step, { folder }: GameInstall, places: Places, records: ReadonlySet<string>): boolean {
  const rule = step.done;
  if (rule.when === 'hand') return records.has(step.id);
  if (rule.when === 'program') return records.has(`ran:${rule.program}`);
  const path = placed(rule.when === 'file' ? rule.path : rule.file, places, { game: folder });
  if (!path) return false;
  return rule.when === 'file' ? existsSync(path) : readSetting(path, rule.key) === rule.value;
}

function ruleWords(rule: DoneRule): string {
  if (rule.when === 'hand') return 'You say so.';
  if (rule.when === 'program') return 'The program ran to a good end.';
  const short = (path: string) => path.replace('{game}/', '');
  if (rule.when === 'file') return `${short(rule.path)} is there.`;
  return `${rule.key} is ${rule.value} in ${short(rule.file)}.`;
}

const settingsText = (file: string): string | null => {
  const stats = statSync(file, { throwIfNoEntry: false });
  return stats?.isFile() && stats.size <= SETTINGS_BYTES ? readFileSync(file, 'utf8') : null;
};

const isJson = (file: string): boolean => file.endsWith('.json');

/** Start, end and value of a line `key = value`; the last one counts, as games have it. */
function lineOf(text: string, key: string): { from: number; to: number; value: string } | null {
  let found: ReturnType<typeof lineOf> = null;
  for (let from = 0; from <= text.length;) {
    const end = text.indexOf('\n', from);
    const to = end < 0 ? text.length : end;
    const line = text.slice(from, to);
    const at = line.indexOf('=');
    if (at > 0 && line.slice(0, at).trim() === key) found = { from, to, value: line.slice(at + 1).trim() };
    from = to + 1;
  }
  return found;
}

export function readSetting(file: string, key: string): string | null {
  const text = settingsText(file);
  if (text === null) return null;
  if (!isJson(file)) return lineOf(text, key)?.value ?? null;
  try {
    const all = JSON.parse(text) as Record<string, unknown>;
    return Object.hasOwn(all, key) ? String(all[key]) : null;
  } catch {
    return null;
  }
}

/** Sets one value and leaves everything else as it is. @throws UnreadableInput where a JSON file cannot be read */
export function writeSetting(file: string, key: string, value: string): void {
  const text = settingsText(file) ?? '';
  if (isJson(file)) {
    let all: Record<string, unknown> = {};
    try {
      if (text.trim() !== '') all = JSON.parse(text) as Record<string, unknown>;
    } catch {
      throw new UnreadableInput(
        'settings-damaged',
        `${file} is no JSON any more, so nothing was changed in it.`,
        { file },
        'Start the game once; it writes it anew.',
      );
    }
    // Kept as what it was: a number stays a number.
    const typed = typeof all[key] === 'boolean' ? value === 'true' : typeof all[key] === 'number' ? Number(value) : value;
    return writeWhole(file, new TextEncoder().encode(`${JSON.stringify({ ...all, [key]: typed }, null, 2)}\n`));
  }
  const line = lineOf(text, key);
  const next = line
    ? `${text.slice(0, line.from)}${key} = ${value}${text.slice(line.to)}`
    : `${text}${text === '' || text.endsWith('\n') ? '' : '\n'}${key} = ${value}\n`;
  writeWhole(file, new TextEncoder().encode(next));
}

export interface StepDone {
  /** What was done, in a sentence. */
  message: string;
  findings: Finding[];
  /** The program that ran, to be remembered. */
  ran: string | null;
}

/** Does a step as its profile offers it. @throws UnreadableInput where it cannot be done */
export async function doStep(game: GameInstall, places: Places, id: string): Promise<StepDone> {
  const step = game.profile.preparation?.find((one) => one.id === id);
  if (!step) throw new UnreadableInput('step-unknown', `There is no step "${id}" in the profile of ${game.profile.title}.`);
  if (!step.offer) throw new UnreadableInput('step-by-hand', `"${step.title}" is done by hand: ${step.how}`);
  if (step.offer.do === 'run') {
    const wanted = step.offer.program;
    const program = game.profile.programs?.find((one) => one.id === wanted);
    if (!program) throw new UnreadableInput('step-program', `The profile has no program "${wanted}".`);
    const { findings } = await runProgram({ program, values: { game: game.folder, in: game.folder }, stage: 'setup' });
    return { message: `${program.title} ran.`, findings, ran: program.id };
  }
  const rule = step.done;
  if (rule.when !== 'file' && rule.when !== 'setting') throw new UnreadableInput('step-by-hand', `"${step.title}" is done by hand: ${step.how}`);
  const path = placed(rule.when === 'file' ? rule.path : rule.file, places, { game: game.folder });
  if (!path) throw new UnreadableInput('step-path', `The path of "${step.title}" needs a variable that is not set.`);
  if (rule.when === 'setting') {
    writeSetting(path, rule.key, rule.value);
    return { message: `Set ${rule.key} to ${rule.value} in ${path}.`, findings: [], ran: null };
  }
  if (!existsSync(path)) writeWhole(path, new Uint8Array());
  return { message: `Made ${path}.`, findings: [], ran: null };
}
