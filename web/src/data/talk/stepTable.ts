import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { TalkStep } from '@violet-crate/core/talk/document';
import { rememberedOf } from '@violet-crate/core/talk/talks';

/** Steps in the order in which they are added, in words. */
export const STEP_WORDS: readonly { does: TalkStep['do']; words: string }[] = [
  { does: 'say', words: 'Somebody says something' },
  { does: 'choose', words: 'The player chooses' },
  { does: 'option', words: '… one more option' },
  { does: 'if', words: 'Only if …' },
  { does: 'else', words: '… otherwise' },
  { does: 'contest', words: 'A contest' },
  { does: 'won', words: '… when it is won' },
  { does: 'lost', words: '… when it is lost' },
  { does: 'again', words: '… when it was won before' },
  { does: 'move', words: 'A movement sequence' },
  { does: 'turn', words: 'Somebody turns' },
  { does: 'wait', words: 'Wait' },
  { does: 'give', words: 'Give something' },
  { does: 'take', words: 'Take something' },
  { does: 'sound', words: 'Play a sound' },
  { does: 'call', words: 'Call a function' },
  { does: 'set', words: 'Set a flag' },
  { does: 'clear', words: 'Clear a flag' },
  { does: 'put', words: 'Put a value' },
  { does: 'add', words: 'Add to a value' },
  { does: 'label', words: 'A label to go to' },
  { does: 'go', words: 'Go to a label' },
  { does: 'end', words: 'End here' },
];

/** A new step with what it needs below it; names are the first that are there. */
export function emptyStep(world: CrateWorld, does: TalkStep['do'], depth: number, steps: readonly TalkStep[]): TalkStep[] {
  const { profile, crate } = world;
  const { all } = rememberedOf(profile.memory, crate.data);
  const flag = all.find(({ kind }) => kind === 'flag')?.name ?? '';
  const value = all.find(({ kind }) => kind === 'value')?.name ?? '';
  const speaker = [...steps].reverse().find((step) => step.do === 'say' && step.who !== '');
  const who = speaker?.do === 'say' ? speaker.who : '';
  const label = steps.find((step) => step.do === 'label');
  const contest = profile.contests?.[0];
  const made: Record<TalkStep['do'], () => TalkStep[]> = {
    say: () => [{ depth, do: 'say', who, text: '' }],
    choose: () => [
      { depth, do: 'choose' },
      { depth: depth + 1, do: 'option', text: '' },
      { depth: depth + 1, do: 'option', text: '' },
    ],
    option: () => [{ depth, do: 'option', text: '' }],
    if: () => [{ depth, do: 'if', test: { flag, on: true } }],
    else: () => [{ depth, do: 'else' }],
    wait: () => [{ depth, do: 'wait', seconds: 1 }],
    give: () => [{ depth, do: 'give', what: '', count: 1 }],
    take: () => [{ depth, do: 'take', what: '', count: 1 }],
    sound: () => [{ depth, do: 'sound', sound: '' }],
    turn: () => [{ depth, do: 'turn', who, to: '' }],
    move: () => [
      { depth, do: 'move', sequence: Object.values(crate.maps).flatMap((map) => Object.values(map.sequences))[0]?.name ?? '', wait: true },
    ],
    call: () => [{ depth, do: 'call', function: '' }],
    contest: () => [
      { depth, do: 'contest', contest: contest?.id ?? '', against: who, texts: Object.fromEntries((contest?.texts ?? []).map(({ id }) => [id, ''])) },
      { depth: depth + 1, do: 'won' },
      { depth: depth + 1, do: 'lost' },
    ],
    won: () => [{ depth, do: 'won' }],
    lost: () => [{ depth, do: 'lost' }],
    again: () => [{ depth, do: 'again' }],
    set: () => [{ depth, do: 'set', flag }],
    clear: () => [{ depth, do: 'clear', flag }],
    put: () => [{ depth, do: 'put', value, to: 0 }],
    add: () => [{ depth, do: 'add', value, by: 1 }],
    label: () => [{ depth, do: 'label', name: `part_${steps.filter((step) => step.do === 'label').length + 1}` }],
    go: () => [{ depth, do: 'go', to: label?.do === 'label' ? label.name : '' }],
    end: () => [{ depth, do: 'end' }],
  };
  return made[does]();
}
