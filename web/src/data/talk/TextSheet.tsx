import { useEffect, useMemo, useState } from 'react';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { textsOf, type Talk, type TalkStep } from '@violet-crate/core/talk/document';
import { wrapText } from '@violet-crate/core/talk/wrap';
import { Tables } from '@violet-crate/core/table/tables';
import { titleOf } from '@violet-crate/core/table/document';
import { RecordTable, type RecordColumn, type RecordRow } from '../../records/RecordTable.tsx';
import type { SpellAnswer, SpellRequest } from './spellWorker.ts';

interface Props {
  world: CrateWorld;
  talk: Talk;
  chosen: number;
  choose(n: number): void;
  change(n: number, next: TalkStep): void;
}

const NO_LANGUAGES: readonly string[] = [];

/** All texts of a conversation in one sheet: who says them, how long they are, in which languages, and how they are spelt. */
export function TextSheet({ world, talk, chosen, choose, change }: Props) {
  const { speech } = world.profile;
  const languages = speech?.languages ?? NO_LANGUAGES;
  const texts = useMemo(() => talk.steps.flatMap((step, n) => textsOf(step).map((one) => ({ n, step, ...one }))), [talk]);
  const spelt = useSpelling(world, texts);
  const columns = useMemo(
    (): RecordColumn[] => [
      { id: 'step', title: 'Step', kind: 'number', fixed: true },
      { id: 'who', title: 'Who', kind: 'text', fixed: true },
      { id: 'text', title: 'Text', kind: 'text' },
      { id: 'length', title: 'Letters', kind: 'number', fixed: true },
      { id: 'boxes', title: 'Shown in', kind: 'text', fixed: true },
      { id: 'spelling', title: 'Spelling', kind: 'text', fixed: true },
      ...languages.map((language): RecordColumn => ({ id: `in-${language}`, title: language, kind: 'text' })),
      { id: 'voice', title: 'Voice', kind: 'text', fixed: true },
    ],
    [languages],
  );
  const rows = useMemo(
    () =>
      texts.map(({ n, step, id, text, other }, row): RecordRow => {
        const { boxes } = speech ? wrapText(text, speech.line, speech.lines) : { boxes: [[text]] };
        return {
          n: row,
          cells: {
            step: n + 1,
            who: step.do === 'say' ? step.who || 'player' : step.do === 'option' ? 'player' : `${step.do}: ${id}`,
            text,
            length: [...text].length,
            boxes: `${boxes.flat().length} ${boxes.flat().length === 1 ? 'line' : 'lines'}${boxes.length > 1 ? `, ${boxes.length} boxes` : ''}`,
            spelling: (spelt[String(row)] ?? []).map(({ word, meant }) => `${word}${meant[0] ? ` (${meant[0]}?)` : '?'}`).join(', '),
            ...Object.fromEntries(languages.map((language) => [`in-${language}`, other[language] ?? ''])),
            voice: step.do === 'say' ? (step.voice ?? '') : '',
          },
        };
      }),
    [texts, speech, spelt, languages],
  );
  const row = texts.findIndex(({ n }) => n === chosen);
  return (
    <RecordTable
      label="Texts of the conversation"
      columns={columns}
      rows={rows}
      query=""
      chosen={row < 0 ? null : row}
      choose={(n) => texts[n] && choose(texts[n].n)}
      change={(changes) => {
        for (const { n, column, text } of changes) {
          const { step, id, n: at, other } = texts[n];
          const language = column.startsWith('in-') ? column.slice(3) : null;
          if (step.do === 'contest') {
            if (language === null) change(at, { ...step, texts: { ...step.texts, [id]: text } });
            else change(at, { ...step, other: { ...step.other, [language]: { ...step.other?.[language], [id]: text } } });
          } else if (step.do === 'say' || step.do === 'option') {
            if (language === null) change(at, { ...step, text });
            else change(at, { ...step, other: { ...other, [language]: text } });
          }
        }
      }}
    />
  );
}

let worker: Worker | null = null;

/** Words that no dictionary has, by the number of their text. Names of rows are no mistakes. */
function useSpelling(world: CrateWorld, texts: readonly { text: string }[]): SpellAnswer {
  const [answer, setAnswer] = useState<SpellAnswer>({});
  useEffect(() => {
    worker ??= new Worker(new URL('./spellWorker.ts', import.meta.url), { type: 'module' });
    const here = worker;
    const heard = ({ data }: MessageEvent<SpellAnswer>) => setAnswer(data);
    here.addEventListener('message', heard);
    const timer = setTimeout(() => {
      const known = [...new Tables(world.profile.tables ?? [], world.crate.data)].flatMap(({ table, document }) =>
        document.rows.map((row) => titleOf(table, row)),
      );
      here.postMessage({ texts: Object.fromEntries(texts.map(({ text }, n) => [String(n), text])), known } satisfies SpellRequest);
    }, 200);
    return () => {
      clearTimeout(timer);
      here.removeEventListener('message', heard);
    };
  }, [world, texts]);
  return answer;
}
