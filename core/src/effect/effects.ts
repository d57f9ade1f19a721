/** All effects of a crate. */

import { readOnce } from '../document/readOnce.ts';
import { own } from '../own.ts';
import { UnreadableInput } from '../unreadable.ts';
import { effectName, effectPath, isEffect, readEffect, type Effect } from './document.ts';

const read = readOnce(readEffect);

export interface NamedEffect {
  name: string;
  path: string;
  effect: Effect;
}

export function effectsOf(data: Readonly<Record<string, string>>): { effects: NamedEffect[]; problems: UnreadableInput[] } {
  const effects: NamedEffect[] = [];
  const problems: UnreadableInput[] = [];
  for (const path of Object.keys(data).filter(isEffect).sort()) {
    const effect = read(data[path], path);
    if (effect instanceof UnreadableInput) problems.push(effect);
    else effects.push({ name: effectName(path), path, effect });
  }
  return { effects, problems };
}

/** One by its name; null where there is none that can be read. */
export function effectOf(data: Readonly<Record<string, string>>, name: string): Effect | null {
  const text = own(data, effectPath(name));
  const effect = text === undefined ? null : read(text, effectPath(name));
  return effect instanceof UnreadableInput ? null : effect;
}
