import { nameProblem } from '../crate/naming.ts';
import { effectName, isEffect, readEffect } from '../effect/document.ts';
import type { Profile } from '../profile/schema.ts';
import { readTable, recordsPath } from '../table/document.ts';
import { isTalk, MEMORY_PATH, readMemory, readTalk, talkName } from '../talk/document.ts';
import { UnreadableInput } from '../unreadable.ts';

/** Characters that one file of game data may have. */
export const DATA_LIMIT = 32_000_000;

/** Why a text cannot be kept under a path of game data, in a sentence; null where it can. */
export function dataProblem(profile: Profile, path: string, text: string): string | null {
  try {
    if (path === MEMORY_PATH) readMemory(text);
    else if (isTalk(path) || isEffect(path)) {
      const name = isTalk(path) ? talkName(path) : effectName(path);
      const problem = nameProblem(profile, 'file', name);
      if (problem) return `"${name}": ${problem}`;
      if (isTalk(path)) readTalk(text, path);
      else readEffect(text, path);
    } else {
      const table = (profile.tables ?? []).find(({ id }) => recordsPath(id) === path);
      if (!table) return `${path}: ${profile.title} has no such table.`;
      const { table: named } = readTable(text, path);
      if (named !== table.id) return `${path}: its rows are of "${named}".`;
    }
    return null;
  } catch (error) {
    if (error instanceof UnreadableInput) return error.message;
    throw error;
  }
}
