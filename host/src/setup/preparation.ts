/** The one-off steps of a profile: which are done, and doing one. */

import { isAbsolute, join } from 'node:path';
import type { Finding } from '@violet-crate/core/finding';
import type { DoneRule, Step } from '@violet-crate/core/profile/toolchain';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { isFileInside, readInside, writeInside } from '../inside.ts';
import { placed, type Places } from './places.ts';
import type { GameInstall } from './readFacts.ts';
import { runProgram } from './runProgram.ts';

export interface StepState {
  step: Step;
  done: boolean;
  /** What its rule looks at, in words. */
  rule: string;
  /** What doing it would write, for whoever is to say yes: the file by its whole path, and what is put into it. */
  writes: { file: string; content: string } | null;
}

/** Settings files are small; larger ones are somebody else's. */
const SETTINGS_BYTES = 4 << 20;

/** @param records ids of steps that somebody ticked, and of programs that ran to a good end (`ran:ID`) */
export const stepStates = (game: GameInstall, places: Places, records: ReadonlySet<string>): StepState[] =>
  (game.profile.preparation ?? []).map((step) => ({
    step,
    done: isDone(step, game, places, records),
    rule: ruleWords(step.done),
    writes: writesOf(step, game, places),
  }));

/** Where a rule of a profile looks, or a step writes: a folder that it may not leave, and the path in it. Null where this system has none. */
function placeOf(path: string, { profile, folder }: GameInstall, places: Places): { root: string; path: string } | null {
  const [, where, rest] = /^\{(game|settings)\}\/(.*)$/s.exec(path) ?? [];
  if (where === 'game') return { root: folder, path: rest };
  const own = profile.install.settings?.find(({ system }) => !system || system === process.platform);
  const root = where === 'settings' && own ? placed(own.path, places) : null;
  return root && isAbsolute(root) ? { root, path: rest } : null;
}

const placeIn = (rule: DoneRule): string | null => (rule.when === 'file' ? rule.path : rule.when === 'setting' ? rule.file : null);

/** What doing a step would write; null where it writes nothing. */
function writesOf({ done, offer }: Step, game: GameInstall, places: Places): StepState['writes'] {
  const place = offer?.do === 'write' && placeIn(done) ? placeOf(placeIn(done)!, game, places) : null;
  if (!place) return null;
  return { file: join(place.root, place.path), content: done.when === 'setting' ? `${done.key} = ${done.value}` : 'an empty file' };
}

function isDone(step: Step, game: GameInstall, places: Places, records: ReadonlySet<string>): boolean {
  const rule = step.done;
  if (rule.when === 'hand') return records.has(step.id);
  if (rule.when === 'program') return records.has(`ran:${rule.program}`);
  const place = placeOf(placeIn(rule)!, game, places);
  if (!place) return false;
  return rule.when === 'file' ? isFileInside(place.root, place.path) : readSetting(place.root, place.path, rule.key) === rule.value;
}

function ruleWords(rule: DoneRule): string {
  if (rule.when === 'hand') return 'You say so.';
  if (rule.when === 'program') return 'The program ran to a good end.';
  const short = (path: string) => path.replace('{game}/', '');
  if (rule.when === 'file') return `${short(rule.path)} is there.`;
  return `${rule.key} is ${rule.value} in ${short(rule.file)}.`;
}

/** The text of a settings file; null where there is none. @throws UnreadableInput where a link is on its way, or it is too large */
function settingsText(root: string, path: string): string | null {
  const bytes = readInside(root, path, SETTINGS_BYTES);
  return bytes && new TextDecoder().decode(bytes);
}

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

/** @param root folder that `path` is in */
export function readSetting(root: string, path: string, key: string): string | null {
  let text: string | null;
  try {
    text = settingsText(root, path);
  } catch (error) {
    // What cannot be trusted says nothing.
    if (error instanceof UnreadableInput) return null;
    throw error;
  }
  if (text === null) return null;
  if (!isJson(path)) return lineOf(text, key)?.value ?? null;
  try {
    const all = JSON.parse(text) as Record<string, unknown>;
    return Object.hasOwn(all, key) ? String(all[key]) : null;
  } catch {
    return null;
  }
}

/**
 * Sets one value and leaves everything else as it is.
 *
 * @param root folder that `path` is in
 * @throws UnreadableInput where a JSON file cannot be read, or a link is on its way
 */
export function writeSetting(root: string, path: string, key: string, value: string): void {
  const text = settingsText(root, path) ?? '';
  const file = join(root, path);
  const write = (content: string) => writeInside(root, [[path, new TextEncoder().encode(content)]]);
  if (/[\r\n\0]/.test(key + value) || key.includes('='))
    throw new UnreadableInput('settings-value', `${key} cannot be set in ${file}: a setting is one line.`, { file });
  if (isJson(path)) {
    let all: Record<string, unknown> = {};
    try {
      if (text.trim() !== '') all = JSON.parse(text) as Record<string, unknown>;
    } catch {
      throw new UnreadableInput(
        'settings-damaged',
        `${file} is no JSON any more, so nothing was changed in it.`,
        { file },
        'Start the game once; it writes it again.',
      );
    }
    // Kept as what it was: a number stays a number.
    const typed = typeof all[key] === 'boolean' ? value === 'true' : typeof all[key] === 'number' ? Number(value) : value;
    return write(`${JSON.stringify({ ...all, [key]: typed }, null, 2)}\n`);
  }
  const line = lineOf(text, key);
  write(
    line
      ? `${text.slice(0, line.from)}${key} = ${value}${text.slice(line.to)}`
      : `${text}${text === '' || text.endsWith('\n') ? '' : '\n'}${key} = ${value}\n`,
  );
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
  const place = placeOf(placeIn(rule)!, game, places);
  if (!place) throw new UnreadableInput('step-path', `The profile names no folder of settings on this system for "${step.title}".`);
  const file = join(place.root, place.path);
  if (rule.when === 'setting') {
    writeSetting(place.root, place.path, rule.key, rule.value);
    return { message: `Set ${rule.key} to ${rule.value} in ${file}.`, findings: [], ran: null };
  }
  if (readInside(place.root, place.path) === null) writeInside(place.root, [[place.path, new Uint8Array()]]);
  return { message: `Made ${file}.`, findings: [], ran: null };
}
