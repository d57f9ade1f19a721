/** `ledger.bnk` of Brinewick: the lamplighters, their wits and words, as the game keeps them. Made the same every time. */

import type { BankLayout } from '@violet-crate/core/bank/layout';
import { readBank, type BankData, type BankValue, type Row } from '@violet-crate/core/bank/read';
import { writeBank } from '@violet-crate/core/bank/write';

const BYTES = 262_144;

export const PEOPLE: readonly (readonly [name: string, title: string])[] = [
  ['Odile Marsh', 'Keeper of the low sluice'],
  ['Wick Marlo', 'Apprentice of the first lamp'],
  ['Tansy Reed', 'Ferrywoman'],
  ['Bram Tallow', 'Chandler'],
  ['Iris Coil', 'Rope walker'],
  ['Old Pell', 'He has seen nine tides'],
  ['Juno Salt', 'Salter'],
  ['Harl Dunn', 'Bargeman'],
  ['Mina Quill', 'She writes the tide down'],
  ['Sorrel Vane', 'Weather watcher'],
  ['Gant Ebbs', 'Diver'],
  ['Lotte Briar', 'Net mender'],
  ['Corvin Ash', 'Stoker'],
  ['Ede Hollow', 'Bell ringer'],
  ['Finn Lath', 'Carpenter of the locks'],
  ['Greta Oar', 'Rower'],
  ['Nell Cinder', 'Lamp cleaner'],
  ['Orrin Peat', 'Peat cutter'],
  ['Petra Lock', 'Lock keeper'],
  ['Quint Barrow', 'Carter'],
  ['Rosa Fen', 'Eel catcher'],
  ['Silas Moor', 'Surveyor'],
  ['Thea Candle', 'Lamplighter of the gallery'],
  ['Ulf Keel', 'Boat builder'],
];
export const WITS = [
  'Riddle',
  'Long look',
  'Tall tale',
  'Silence',
  'Old saw',
  'Counting',
  'Whistle',
  'Turned phrase',
  'Tide lore',
  'Lamp trick',
  'Plain word',
  'Question',
];
const OPENING = [
  'The tide is out, {player}. Who let you in?',
  'Mind the wet step.',
  'You carry a lamp as if it were lit.',
  'They say the crank sticks on odd days.',
];
const ANSWER = ['That is well said.', 'Hm. Say it again, slower.', 'I have heard that one at the {wait 14}third lamp.', 'The water will tell.'];
const CLOSING = ['Go on, then.', 'We shall see at the next tide.\nKeep your wick dry.', 'You have the better of me.'];
const SCENES: Record<string, readonly (readonly [number, number, number])[]> = {
  'To the crank': [
    [2, 1, 1],
    [1, 1, 4],
    [0, 0, 8],
    [5, 0, 1],
  ],
  'Lights out': [
    [5, 0, 2],
    [4, 0, 1],
    [0, 0, 20],
    [3, 0, 1],
  ],
  'She follows': [
    [1, 0, 2],
    [2, 3, 1],
    [1, 3, 6],
  ],
};

/** The file as the layout describes it, before anything is in it. */
function emptyBank(): Uint8Array {
  const bytes = new Uint8Array(BYTES).fill(255);
  bytes.fill(0, 0, 256);
  bytes.set(new TextEncoder().encode('BRNLEDG1'));
  // What the game itself keeps here is nobody's business, and stays.
  for (let i = 0; i < 1024; i++) bytes[0x20000 + i] = (i * 37 + (i >> 3)) & 255;
  return bytes;
}

/** @param layout that of the game's profile */
export function makeLedger(layout: BankLayout): Uint8Array {
  const original = emptyBank();
  const data: BankData = structuredClone(readBank(original, layout).data);
  let blocks = 0;
  const row = (values: Record<string, BankValue>): Row => ({ at: -1, values });
  const text = (words: string): BankValue => {
    const id = `t${blocks++}`;
    data.blocks[id] = { at: -1, bytes: 0, to: { is: 'text', text: 'lamp' }, text: words };
    return { block: id };
  };
  const list = (rows: Row[], record: string, count: { field: string } | { end: string }): BankValue => {
    const id = `l${blocks++}`;
    data.blocks[id] = { at: -1, bytes: 0, to: { is: 'list', record, count }, rows };
    return { block: id };
  };
  data.sections.wits.rows = WITS.map((name, n) =>
    row({ name, power: 10 + ((n * 7) % 30), cost: 2 + (n % 5), wet: n % 2, loud: Number(n % 3 === 0), blunt: Number(n > 9) }),
  );
  data.sections.talks.rows = PEOPLE.map((_, n) => {
    const said = [OPENING[n % OPENING.length], ANSWER[(n * 3 + 1) % ANSWER.length], ...(n % 2 === 0 ? [CLOSING[n % CLOSING.length]] : [])];
    return row({
      count: said.length,
      lines: list(
        said.map((words) => row({ who: n, says: text(words) })),
        'line',
        { field: 'count' },
      ),
    });
  });
  data.sections.people.rows = PEOPLE.map(([name, title], n) => {
    const party = Array.from({ length: n === 0 ? 3 : 1 + (n % 4) }, (_, k) =>
      row({ wit: (n + k * 5) % WITS.length, strength: 8 + ((n * 3 + k) % 20), bright: 1 + ((n + k) % 8) / 4 }),
    );
    return row({
      name,
      title: text(title),
      contest: n === 0 ? 3 : n % 3,
      turn: n % 4,
      moves: n % 3,
      sees: 2 + (n % 5),
      size: party.length,
      party: list(party, 'member', { field: 'size' }),
      talk: n,
      reward: 5 * (n + 1),
      flag: n,
    });
  });
  data.sections.scenes.rows = Object.entries(SCENES).map(([name, steps]) =>
    row({
      name,
      steps: list(
        steps.map(([does, way, count]) => row({ does, way, count })),
        'step',
        { end: 'ff' },
      ),
    }),
  );
  return writeBank(original, layout, data).bytes;
}
