/** All conversations of a crate, and what it remembers: its own flags and values beside the game's. */

import { readOnce } from '../document/readOnce.ts';
import { UnreadableInput } from '../unreadable.ts';
import { own } from '../own.ts';
import { isTalk, MEMORY_PATH, readMemory, readTalk, talkName, type Remembered, type Talk } from './document.ts';
import type { Memory } from './schema.ts';

const read = readOnce(readTalk);
const readKept = readOnce((text: string) => readMemory(text));

export interface NamedTalk {
  name: string;
  path: string;
  talk: Talk;
}

export function talksOf(data: Readonly<Record<string, string>>): { talks: NamedTalk[]; problems: UnreadableInput[] } {
  const talks: NamedTalk[] = [];
  const problems: UnreadableInput[] = [];
  for (const path of Object.keys(data).filter(isTalk).sort()) {
    const talk = read(data[path], path);
    if (talk instanceof UnreadableInput) problems.push(talk);
    else talks.push({ name: talkName(path), path, talk });
  }
  return { talks, problems };
}

/** What can be remembered: the game's first. Of a file that cannot be read, nothing. */
export function rememberedOf(
  memory: Memory | undefined,
  data: Readonly<Record<string, string>>,
): { all: Remembered[]; own: readonly Remembered[]; problem: UnreadableInput | null } {
  const text = own(data, MEMORY_PATH);
  const kept = text === undefined ? [] : readKept(text, MEMORY_PATH);
  const mine = kept instanceof UnreadableInput ? [] : kept;
  return { all: [...(memory?.game ?? []), ...mine], own: mine, problem: kept instanceof UnreadableInput ? kept : null };
}
