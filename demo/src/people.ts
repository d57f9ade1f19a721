/** Who lives at the pumphouse: rows of people and their wits, what they say, and what is remembered. */

import { recordsPath, writeTable, type Row } from '@violet-crate/core/table/document';
import type { Profile } from '@violet-crate/core/profile/schema';
import { effectFiles, heardDrips } from './effects.ts';
import { MEMORY_PATH, talkPath, writeMemory, writeTalk, type TalkStep } from '@violet-crate/core/talk/document';
import { portraitPath } from './portraits.ts';
import { PEOPLE, WITS } from './ledger.ts';

const keyOf = (name: string): string => name.toLowerCase().replace(/[^a-z]+/g, '_');

const wits: Row[] = WITS.map((name, n) => ({
  id: keyOf(name),
  name,
  power: 10 + ((n * 7) % 30),
  cost: 2 + (n % 5),
  ways: [...(n % 2 ? ['wet'] : []), ...(n % 3 === 0 ? ['loud'] : []), ...(n > 9 ? ['once'] : [])],
}));

const TIDES = ['any', 'low', 'high'];
const people: Row[] = [
  {
    id: 'you',
    name: 'You',
    title: 'Lamplighter without a lamp',
    portrait: portraitPath(5),
    breath: 30,
    wit: 11,
    tide: 'any',
    party: ['question', 'plain_word', 'lamp_trick', 'tide_lore'],
    reward: 0,
    teacher: null,
  },
  ...PEOPLE.map(([name, title], n): Row => {
    const id = keyOf(name.split(' ').at(n === 5 ? 1 : 0)!);
    return {
      id,
      name: name.length > 14 ? name.split(' ')[0] : name,
      title,
      portrait: portraitPath(n),
      breath: n === 0 ? 26 : 12 + ((n * 5) % 24),
      wit: n === 0 ? 9 : 4 + ((n * 3) % 12),
      tide: TIDES[n % 3],
      party: Array.from({ length: n === 0 ? 3 : 1 + (n % 4) }, (_, k) => keyOf(WITS[(n + k * 5) % WITS.length])),
      reward: 5 * (n + 1),
      teacher: n < 12 ? keyOf(PEOPLE[n + 12][0].split(' ')[0]) : 'odile',
    };
  }),
];

const at = (depth: number) => ({
  say: (who: string, text: string, de?: string): TalkStep => ({ depth, do: 'say', who, text, ...(de ? { other: { de } } : {}) }),
  option: (text: string): TalkStep => ({ depth, do: 'option', text }),
  step: (step: Record<string, unknown>): TalkStep => ({ depth, ...step }) as TalkStep,
});
const [d0, d1, d2, d3, d4] = [0, 1, 2, 3, 4].map(at);
const is = (flag: string, on = true) => ({ flag, on });

const keeper: TalkStep[] = [
  d0.step({ do: 'turn', who: 'keeper', to: '' }),
  d0.step({ do: 'if', test: is('met_odile') }),
  d1.say('odile', 'You again. The water has not gone anywhere.', 'Du schon wieder. Das Wasser ist noch da.'),
  d0.step({ do: 'else' }),
  d1.say('odile', 'The tide is out. Who let you in?', 'Es ist Ebbe. Wer hat dich hereingelassen?'),
  d1.say('odile', 'I am Odile Marsh, and this crank is in my care.'),
  d1.step({ do: 'set', flag: 'met_odile' }),
  d0.step({ do: 'label', name: 'ask' }),
  d0.step({ do: 'choose' }),
  d1.option('Let me turn the crank.'),
  d2.step({ do: 'if', test: { value: 'losses', is: '>', than: 2 } }),
  d3.say('odile', 'Three times now. Sit down a while and listen to the water.'),
  d3.step({ do: 'put', value: 'losses', to: 0 }),
  d2.step({
    do: 'contest',
    contest: 'wits_reward',
    against: 'odile',
    flag: 'outwitted',
    texts: {
      before: 'Then say three true things about the tide.',
      won: 'That is well said. The crank is yours.',
      lost: 'Hm. The water would not believe you either.',
      full: 'Come back when your hands are free.',
    },
  }),
  d3.step({ do: 'won' }),
  d4.step({ do: 'call', function: 'free_crank' }),
  d4.say('odile', 'I shall come along. Somebody has to see that you do not drown.'),
  d4.step({ do: 'move', sequence: 'to_the_crank', wait: true }),
  d4.say('odile', 'Turn it, then. Slowly, it bites.'),
  d3.step({ do: 'lost' }),
  d4.step({ do: 'add', value: 'losses', by: 1 }),
  d4.step({ do: 'go', to: 'ask' }),
  d3.step({ do: 'again' }),
  d4.say('odile', 'It is free already. I only hold the lamp.'),
  d1.option('What lies below?'),
  d2.say('odile', 'The cellar, and water to your knees. Open the sluice and it drains.'),
  d2.say('odile', 'Behind the sluice is the tunnel, behind the tunnel the stair.'),
  d2.step({ do: 'go', to: 'ask' }),
  d1.option('Good night.'),
  d2.say('odile', 'Mind the wet step.', 'Vorsicht, die Stufe ist nass.'),
];

/** A word of each of the others, before and after the keeper was outwitted. */
const REMARKS: Record<string, readonly [string, string]> = {
  tansy: ['I ferry what floats. You do not look as if you did.', 'They say you out-talked Odile. Ferry is free tonight.'],
  bram: ['Tallow, tallow. Everybody wants light, nobody wants the smell.', 'For you a candle extra. She bought two, out of spite.'],
  iris: ['A rope walks backwards. So should you, near that hatch.', 'Backwards into luck, I heard.'],
  pell: ['I have seen nine tides out of this cellar.', 'Ten now. The tenth was yours.'],
  juno: ['Salt keeps. Words do not.', 'Yours kept long enough, it seems.'],
  harl: ['My barge draws four feet. This canal gives me three.', 'With the sluice up I float again. I owe you.'],
  sorrel: ['Wind from the lock, fog by the bell.', 'Clear for once. Do not get used to it.'],
  gant: ['Down there it is green, and then it is black.', 'Drained, is it? Then I shall have to walk.'],
  lotte: ['A net is holes tied together.', 'You slipped through hers.'],
  ede: ['One for the flood, two for the ebb, three for supper.', 'I rang four. Nobody knew what it meant. I meant you.'],
  greta: ['Oars are in the rack. Hands off the green pair.', 'Take the green pair. You have earned blisters.'],
  petra: ['A lock is two doors and patience.', 'And a key, which is you.'],
};

/** Those who are about and can be asked; what the others say stands in Mina's book. */
const ABOUT = ['harl', 'pell', 'gant'];
const book = (depth: number, which: 0 | 1): TalkStep[] =>
  Object.entries(REMARKS).flatMap(([who, words]) => (ABOUT.includes(who) ? [] : [at(depth).say(who, words[which])]));

const mina: TalkStep[] = [
  d0.say('mina', 'Hush. I am writing the tide down.'),
  d0.step({ do: 'choose' }),
  d1.option('What does it say today?'),
  d2.step({ do: 'if', test: is('outwitted') }),
  d3.say('mina', 'That the keeper met her match. I wrote your name, too.'),
  d2.step({ do: 'else' }),
  d3.say('mina', 'That nobody turns the crank but Odile. She likes true things.'),
  d3.say('mina', 'And that she tires of three in a row.'),
  d1.option('Who else is about tonight?'),
  d2.say('mina', 'I have it all here. Listen.'),
  d2.step({ do: 'if', test: is('outwitted') }),
  ...book(3, 1),
  d2.step({ do: 'else' }),
  ...book(3, 0),
  d1.option('You stand in the way.'),
  d2.step({ do: 'move', sequence: 'mina_steps_aside', wait: true }),
  d2.say('mina', 'There. Ink does not run, you know.'),
  d1.option('Contend with me.'),
  d2.step({ do: 'if', test: is('mina_bested') }),
  d3.say('mina', 'Again? You never disturb me, any more.'),
  d2.step({
    do: 'contest',
    contest: 'wits',
    against: 'mina',
    texts: { before: 'With words? Gladly. Mine are counted.', won: 'I shall write that down.', lost: 'You used one twice.' },
  }),
  d3.step({ do: 'won' }),
  d4.step({ do: 'set', flag: 'mina_bested' }),
];

const wick: TalkStep[] = [
  d0.step({ do: 'if', test: is('met_wick', false) }),
  d1.say('wick', 'You came through the tunnel? In those shoes?'),
  d1.step({ do: 'move', sequence: 'gallery_welcome', wait: true }),
  d1.step({ do: 'set', flag: 'met_wick' }),
  d0.say('wick', 'Three lamps, west to east, as the tide goes.'),
  d0.step({ do: 'choose' }),
  d1.option('And if I begin in the east?'),
  d2.say('wick', 'Then a draught goes along the gallery and blows them all out.'),
  d2.say('wick', 'I know, because I did it. Twice.'),
  d1.option('Where is the oil?'),
  d2.say('wick', 'In the store. Put something heavy on the pad and its leaf stays open.'),
  d1.option('Nothing else.'),
  d0.say('wick', 'Keep your wick dry.'),
];

const remark = (who: string, [before, after]: readonly [string, string]): TalkStep[] => [
  d0.step({ do: 'if', test: is('outwitted') }),
  d1.say(who, after),
  d0.step({ do: 'else' }),
  d1.say(who, before),
  d1.step({ do: 'choose' }),
  d2.option('Is it always so wet here?'),
  d3.say(who, 'At low tide only to the knees.'),
  d2.option('Good night.'),
];

const nameOf = (who: string): string => String(people.find(({ id }) => id === who)!.name);

/** Game data of the demo crate, by path. */
export function pumphouseData(profile: Profile): Record<string, string> {
  const table = (id: string, rows: Row[]) =>
    [
      recordsPath(id),
      writeTable(
        profile.tables!.find((one) => one.id === id),
        { format: 1, table: id, rows },
      ),
    ] as const;
  const talk = (name: string, title: string, steps: TalkStep[]) => [talkPath(name), writeTalk({ format: 1, title, steps })] as const;
  return Object.fromEntries([
    table('wits', wits),
    table('people', people),
    talk('keeper', 'The keeper of the low sluice', keeper),
    talk('mina', 'She writes the tide down', mina),
    talk('wick', 'In the gallery', wick),
    ...Object.entries(effectFiles(profile, ['lamp_flame', 'drips', 'spray', 'smoke', 'dust_motes', 'sparks'], { drips: heardDrips })),
    ...ABOUT.map((who) => talk(`remark_${who}`, `A word with ${nameOf(who)}`, remark(who, REMARKS[who]))),
    [
      MEMORY_PATH,
      writeMemory([
        { name: 'met_odile', number: 64, kind: 'flag', label: 'Has spoken to the keeper' },
        { name: 'outwitted', number: 65, kind: 'flag', label: 'The keeper was outwitted: the crank is free' },
        { name: 'met_wick', number: 66, kind: 'flag', label: 'Was welcomed in the gallery' },
        { name: 'mina_bested', number: 67, kind: 'flag', label: 'Mina was bested once' },
        { name: 'losses', number: 16, kind: 'value', label: 'Contests lost against the keeper' },
      ]),
    ],
  ]);
}
