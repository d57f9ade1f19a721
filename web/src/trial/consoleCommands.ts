/** What is typed into the console of a run beside Lua: commands, and what either could go on with. */

import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { TrialCommand } from '@violet-crate/core/trial/apart';
import { SPEEDS } from './runClock.ts';

/** What there is to be named. */
export interface ConsoleWords {
  /** Objects by name: where they stand, and the events of their class. */
  objects: ReadonlyMap<string, { position: Vec3; events: readonly string[]; actions: readonly string[]; properties: readonly string[] }>;
  /** Functions of the game and of the crate. */
  functions: readonly string[];
}

export type Spoken =
  { command: TrialCommand } | { time: 'pause' | 'step' | { speed: number } } | { glide: true } | { help: string[] } | { wrong: string };

const COMMANDS = {
  go: { usage: '/go OBJECT or /go X Y Z', says: 'puts you there' },
  fire: { usage: '/fire OBJECT EVENT', says: 'has it send an event' },
  speed: { usage: '/speed N', says: `speed of time: ${SPEEDS.join(', ')}` },
  pause: { usage: '/pause', says: 'stops time, or goes on' },
  step: { usage: '/step', says: 'one step of a sixtieth of a second' },
  fly: { usage: '/fly', says: 'through everything, or on foot again' },
  help: { usage: '/help', says: 'these lines' },
} as const;
type Name = keyof typeof COMMANDS;

export const isCommand = (text: string): boolean => text.trimStart().startsWith('/');

/** What a command asks for, or what is wrong with it. */
export function readCommand(text: string, { objects }: ConsoleWords): Spoken {
  const [head, ...words] = text.trim().split(/\s+/);
  const name = head.slice(1) as Name;
  if (!Object.hasOwn(COMMANDS, name)) return { wrong: `There is no command ${head}. /help lists them.` };
  const wrong = (why: string): Spoken => ({ wrong: `${why} ${COMMANDS[name].usage} ${COMMANDS[name].says}.` });
  if (name === 'help') return { help: Object.values(COMMANDS).map(({ usage, says }) => `${usage}: ${says}`) };
  if (name === 'pause' || name === 'step') return { time: name };
  if (name === 'fly') return { glide: true };
  if (name === 'speed') {
    const speed = Number(words[0]);
    return (SPEEDS as readonly number[]).includes(speed) ? { time: { speed } } : wrong(`"${words[0] ?? ''}" is no speed.`);
  }
  if (name === 'go') {
    const numbers = words.map(Number);
    if (numbers.length === 3 && numbers.every(Number.isFinite)) return { command: { do: 'go', to: numbers as Vec3 } };
    const object = objects.get(words[0] ?? '');
    return object ? { command: { do: 'go', to: object.position } } : wrong(`There is no object "${words[0] ?? ''}".`);
  }
  const object = objects.get(words[0] ?? '');
  if (!object) return wrong(`There is no object "${words[0] ?? ''}".`);
  if (!object.events.includes(words[1] ?? ''))
    return wrong(`${words[0]} has ${object.events.length > 0 ? `the events ${object.events.join(', ')}` : 'no events'}.`);
  return { command: { do: 'fire', object: words[0], event: words[1] } };
}

/** Suggestions that are shown at once. */
const MOST = 8;

/** How a line could go on: whole lines, the likeliest first. */
export function completions(text: string, words: ConsoleWords): string[] {
  if (text.trim() === '') return [];
  const [part, options] = isCommand(text) ? commandOptions(text, words) : luaOptions(text, words);
  if (part === null) return [];
  const before = text.slice(0, text.length - part.length);
  const small = part.toLowerCase();
  return options
    .filter((option) => option !== part && option.toLowerCase().startsWith(small))
    .slice(0, MOST)
    .map((option) => before + option);
}

function commandOptions(text: string, { objects }: ConsoleWords): [string | null, readonly string[]] {
  const parts = text.split(/\s+/);
  const last = parts.at(-1)!;
  if (parts.length === 1) return [last, Object.keys(COMMANDS).map((name) => `/${name}`)];
  const command = parts[0].slice(1);
  if (command === 'speed' && parts.length === 2) return [last, SPEEDS.map(String)];
  if ((command === 'go' || command === 'fire') && parts.length === 2) return [last, [...objects.keys()]];
  if (command === 'fire' && parts.length === 3) return [last, objects.get(parts[1])?.events ?? []];
  return [null, []];
}

/** Which names stand in which argument of the game's functions. */
function luaOptions(text: string, { objects, functions }: ConsoleWords): [string | null, readonly string[]] {
  const call = /(\w+)\(\s*(?:["']([\w]*)["']\s*,\s*)?["']([\w]*)$/.exec(text.slice(-300));
  if (call) {
    const [, callee, first, part] = call;
    if (first === undefined) return [part, [...objects.keys()]];
    const object = objects.get(first);
    return [part, (callee === 'fire' ? object?.actions : object?.properties) ?? []];
  }
  const word = /[A-Za-z_]\w*$/.exec(text.slice(-100));
  return word ? [word[0], functions] : [null, []];
}
