/** Looks words up in an English dictionary, which is half a megabyte: it is loaded when somebody asks. */

import nspell, { type NSpell } from 'nspell';
import affUrl from '../../../../node_modules/dictionary-en/index.aff?url&no-inline';
import dicUrl from '../../../../node_modules/dictionary-en/index.dic?url&no-inline';

let speller: Promise<NSpell> | null = null;

async function load(): Promise<NSpell> {
  const [aff, dic] = await Promise.all([affUrl, dicUrl].map(async (url) => (await fetch(url)).text()));
  return nspell(aff, dic);
}

/** Asked for: texts by id, and names that are no mistakes. Answered: by id, words that no dictionary has, each with what may be meant. */
export interface SpellRequest {
  texts: Record<string, string>;
  known: string[];
}
export type SpellAnswer = Record<string, { word: string; meant: string[] }[]>;

const found = new Map<string, string[] | null>();

self.onmessage = async ({ data: { texts, known } }: MessageEvent<SpellRequest>) => {
  const dictionary = await (speller ??= load());
  const names = new Set(known.flatMap((name) => name.toLowerCase().match(/[\p{L}’']+/gu) ?? []));
  const answer: SpellAnswer = {};
  for (const [id, text] of Object.entries(texts)) {
    const wrong = [];
    for (const [word] of text.matchAll(/\p{L}[\p{L}’']*/gu)) {
      const plain = word.replace(/’/g, "'").replace(/'s?$/, '');
      if (plain === '' || names.has(plain.toLowerCase())) continue;
      if (!found.has(plain)) found.set(plain, dictionary.correct(plain) ? null : dictionary.suggest(plain).slice(0, 4));
      const meant = found.get(plain);
      if (meant) wrong.push({ word: plain, meant });
    }
    if (wrong.length > 0) answer[id] = wrong;
  }
  self.postMessage(answer);
};
