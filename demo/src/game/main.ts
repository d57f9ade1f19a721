/**
 * A stand-in game: `--mod NAME --map NAME` in the folder of the game. It loads a mod as docs/formats.md describes it, plays it
 * without a picture, and is told things on its standard input: `use NAME`, `answer N`, `state NAME`, `contest NAME`, `where`, `map NAME`, `reload`, `quit`.
 */

import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { loadMap, openMod, readGame } from './mod.ts';
import { readLedger } from './ledger.ts';
import { Play, STEPS_PER_SECOND } from './play.ts';
import { Refusal } from './readers.ts';

const print = (line: string): void => console.log(line);
const option = (name: string): string | undefined => process.argv[process.argv.indexOf(`--${name}`) + 1];

/** What the game keeps for its player; written with the first start. */
const SETTINGS = 'settings.ini';

function firstStart(folder: string): void {
  const file = join(folder, SETTINGS);
  if (!existsSync(file)) writeFileSync(file, 'volume = 8\nallow_mods = no\n');
  print('first start: settings written');
}

/** @param folder the game's */
export async function playGame(folder: string): Promise<void> {
  const game = readGame(folder);
  print(`game: ${game.version}`);
  if (process.argv.includes('--first-start')) return firstStart(folder);
  const name = option('mod') ?? '';
  let play = await load(option('map'));
  print('ready');
  setInterval(() => play.step(), 1000 / STEPS_PER_SECOND);
  const input = createInterface({ input: process.stdin });
  input.on('line', (line) => void told(line.trim().split(/\s+/)).catch(fail));
  input.on('close', () => process.exit(0));

  async function load(wanted: string | undefined): Promise<Play> {
    const mod = openMod(game, name);
    const map = wanted ?? mod.mainMap;
    const loaded = loadMap(game, mod.folder, map);
    print(`loaded: ${map}: ${loaded.words}`);
    const next = new Play(game, loaded, mod.folder, print);
    await next.begin();
    return next;
  }

  /** A contest of wits, as the ledger has it. */
  function contest(with_: string): void {
    const people = readLedger(folder, name);
    const one = people.find((person) => person.name === with_);
    if (!one) return print(`warning: nobody is called "${with_}"; there are ${people.map((person) => person.name).join(', ')}`);
    print(`contest: ${one.name} with ${one.party.length} wits`);
    for (const { wit, strength } of one.party) print(`contest: ${wit}, ${strength}`);
    for (const line of one.talk) print(`says: ${line}`);
  }

  async function told(words: string[]): Promise<void> {
    if (words[0] === 'quit') {
      print('bye');
      process.exit(0);
    } else if (words[0] === 'map') {
      play = await load(words[1]);
      print('ready');
    } else if (words[0] === 'contest') contest(words.slice(1).join(' '));
    else if (words[0] === 'reload') {
      if (await play.loadScripts()) print('reloaded');
    } else if (['use', 'answer', 'state', 'where'].includes(words[0])) play.tell(words);
    else if (words[0]) print(`warning: what is "${words[0]}"?`);
  }
}

function fail(error: unknown): never {
  print(error instanceof Refusal ? `refused: ${error.message}` : `error: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(error instanceof Refusal ? 3 : 4);
}

process.on('uncaughtException', fail);
playGame(process.cwd()).catch(fail);
