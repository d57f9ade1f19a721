/** Searching 5,000 assets as one types, against a plain scan of the same texts. */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { libraryOf, NO_FILTER, searchLibrary } from '@violet-crate/core/library/library';
import { newCrateContents } from '@violet-crate/core/crate/template';
import { EMPTY_PACK } from '@violet-crate/core/crate/basePack';
import { loadProfile } from '@violet-crate/core/profile/load';
import { compare } from './measure.mjs';

export async function librarySearch(rounds) {
  const profile = loadProfile(
    readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'),
    'brinewick.json',
  );
  const crate = newCrateContents(profile, { name: 'bench', title: 'Bench', template: 'sealed-room' });
  crate.files = Array.from({ length: 5000 }, (_, i) => ({
    path: `${i % 2 ? 'models' : 'textures'}/moor_stone_${(i * 7919) % 5003}.${i % 2 ? 'glb' : 'ktx2'}`,
    bytes: i,
    sha256: '0'.repeat(64),
  }));
  const start = performance.now();
  const entries = libraryOf({ world: { profile, base: EMPTY_PACK, crate } });
  const indexed = performance.now() - start;
  const words = 'moor stone 42'.split(' ');
  const typed = Array.from({ length: 13 }, (_, i) => 'moor stone 42'.slice(0, i + 1));
  let found = 0;
  await compare(
    'Library of 5,000, thirteen keystrokes (reference: the same words looked for in the same texts, unsorted)',
    rounds,
    () => {
      for (const query of typed) found = searchLibrary(entries, { ...NO_FILTER, query }).length;
    },
    () => {
      for (let i = 0; i < typed.length; i++) entries.filter((entry) => words.every((word) => entry.text.includes(word)));
    },
  );
  const once = performance.now();
  searchLibrary(entries, { ...NO_FILTER, query: 'moor' });
  console.log(
    `  ${found} found; one keystroke that matches all 5,000: ${(performance.now() - once).toFixed(1)} ms; list made in ${indexed.toFixed(1)} ms`,
  );
}
