import { describe, expect, it } from '@jest/globals';
import licenceIds from 'spdx-license-ids/index.json' with { type: 'json' };
import { LinkGraph } from '../link/graph.ts';
import { newObject } from '../profile/newObject.ts';
import { profile } from '../testing/maps.ts';
import { testWorld } from '../testing/world.ts';
import { checkLedger, creditsFile, creditsText, ledgerOf } from './ledger.ts';
import { conflictOf } from './licence/compare.ts';
import { COMMON_LICENCES, meantLicence, readLicence } from './licence/expression.ts';
import { termsOf } from './licence/terms.ts';

describe('licences', () => {
  // Outside reference: the SPDX License List as its package publishes it, and the examples of SPDX 2.3, annex D.
  it('all of the SPDX list are read, in any of the forms of expressions', () => {
    for (const id of licenceIds) expect([id, readLicence(id)]).toEqual([id, [[{ id, orLater: id.endsWith('-or-later') }]]]);
    expect(readLicence('LGPL-2.1-only OR MIT')).toHaveLength(2);
    expect(readLicence('LGPL-2.1-only AND MIT AND BSD-2-Clause')).toEqual([
      ['LGPL-2.1-only', 'MIT', 'BSD-2-Clause'].map((id) => ({ id, orLater: false })),
    ]);
    expect(readLicence('LGPL-2.1-only OR BSD-3-Clause AND MIT')!.map((all) => all.length)).toEqual([1, 2]);
    expect(readLicence('GPL-2.0-or-later WITH Bison-exception-2.2')).toHaveLength(1);
    expect(readLicence('LicenseRef-my-own')).toEqual([[{ id: 'LicenseRef-my-own', orLater: false }]]);
    for (const wrong of ['', 'all mine', 'MIT OR', 'CC BY 4.0', 'MIT,Zlib']) expect([wrong, readLicence(wrong)]).toEqual([wrong, null]);
  });

  it.each([
    ['CC BY 4.0', 'CC-BY-4.0'],
    ['cc-by-sa 4.0', 'CC-BY-SA-4.0'],
    ['CC BY', 'CC-BY-4.0'],
    ['CC0', 'CC0-1.0'],
    ['MIT License', 'MIT'],
    ['The MIT licence', 'MIT'],
    ['Apache 2.0', 'Apache-2.0'],
    ['GPLv3', 'GPL-3.0-or-later'],
    ['do what you want', null],
  ])('%s means %s', (written, id) => expect(meantLicence(written)).toBe(id));

  it('something is known of every licence that is offered', () => {
    for (const id of COMMON_LICENCES) expect([id, termsOf({ id, orLater: false })]).not.toContain(null);
  });

  // Outside reference: Creative Commons, "Wiki/cc license compatibility" and "Compatible licenses"; GNU, "Various licenses and comments": common practice.
  it.each([
    ['CC-BY-4.0', 'CC0-1.0', null],
    ['CC-BY-4.0', 'CC-BY-4.0', null],
    ['CC-BY-4.0', 'MIT', null],
    ['CC-BY-4.0', 'CC-BY-SA-4.0', 'same'],
    ['CC-BY-SA-4.0', 'CC-BY-SA-3.0', null],
    ['GPL-3.0-or-later', 'CC-BY-SA-4.0', null],
    ['CC-BY-4.0', 'CC-BY-NC-4.0', 'commerce'],
    ['CC-BY-NC-SA-4.0', 'CC-BY-NC-4.0', null],
    ['CC-BY-NC-4.0', 'CC-BY-NC-SA-4.0', 'same'],
    ['CC-BY-NC-ND-4.0', 'CC-BY-ND-4.0', 'changes'],
    ['MIT', 'GPL-3.0-only', 'same'],
    ['GPL-3.0-or-later', 'GPL-2.0-or-later', null],
    ['GPL-3.0-only', 'GPL-2.0-only', 'same'],
    ['AGPL-3.0-only', 'GPL-3.0-only', null],
    ['MIT', 'MIT OR GPL-3.0-only', null],
    ['MIT', 'MIT AND GPL-3.0-only', 'same'],
    ['MIT OR CC-BY-NC-4.0', 'CC-BY-NC-4.0', 'commerce'],
    ['LicenseRef-mine', 'CC-BY-NC-4.0', 'commerce'],
    ['LicenseRef-mine', 'LicenseRef-theirs', null],
  ])('a release under %s with a file under %s: %s', (release, file, conflict) => expect(conflictOf(release, file)).toBe(conflict));
});

/** A crate with a model of its own, one of a pack, one that says whose it is, and one that somebody has entered. */
function world() {
  const made = testWorld('blank');
  const { crate } = made;
  crate.manifest.authors = ['Ada Reed'];
  crate.manifest.licence = 'CC-BY-4.0';
  crate.manifest.credits = [{ author: 'Bo Marsh', work: 'Moor pack', licence: 'CC-BY-SA-4.0' }];
  for (const [n, name] of ['own', 'packed', 'told', 'entered', 'idle'].entries()) {
    const path = `models/${name}.glb`;
    crate.files.push({ path, bytes: 10, sha256: String(n).padStart(64, '0') });
    crate.manifest.assets[path] = { source: 'x', options: {} };
    if (name !== 'idle') crate.maps.hall.objects[`o${n + 1}`] = { ...newObject(profile, 'prop', name, [0, 0, 0]), properties: { model: path } };
  }
  const { assets } = crate.manifest;
  assets['models/packed.glb'].origin = { path: 'moor/packed.obj', sha256: 'x', pack: 'Moor pack' };
  assets['models/told.glb'].credit = { author: 'Cy Fenn', licence: 'CC-BY-NC-4.0' };
  crate.manifest.ledger = { 'models/entered.glb': { author: 'Di *Sedge*' } };
  crate.scripts = {};
  return made;
}
const ledger = (given = world()) => ledgerOf(given, new LinkGraph(given));

describe('the ledger', () => {
  it('has every own file that travels, with whose it is and who says so', () => {
    expect(ledger().map(({ path, by, author, licence }) => [path, by, author, licence])).toEqual([
      ['maps/hall.map.json', 'own', 'Ada Reed', 'CC-BY-4.0'],
      ['models/entered.glb', 'hand', 'Di *Sedge*', ''],
      ['models/own.glb', 'own', 'Ada Reed', 'CC-BY-4.0'],
      ['models/packed.glb', 'pack', 'Bo Marsh', 'CC-BY-SA-4.0'],
      ['models/told.glb', 'file', 'Cy Fenn', 'CC-BY-NC-4.0'],
    ]);
  });

  it('a missing author or licence and licences that do not go together are found before the release', () => {
    const given = world();
    expect(checkLedger(given, ledger(given)).map(({ code, severity, place }) => [code, severity, place?.file])).toEqual([
      ['credit-licence', 'blocker', 'models/entered.glb'],
      ['licence-conflict', 'warning', 'models/packed.glb'],
      ['licence-conflict', 'warning', 'models/told.glb'],
    ]);
    given.crate.manifest.licence = 'Creative Commons BY';
    given.crate.manifest.ledger = { 'models/entered.glb': { licence: 'CC BY 4.0' } };
    expect(checkLedger(given, ledger(given))).toMatchObject([
      { code: 'licence-form', place: { file: 'crate.json' } },
      { code: 'credit-author', place: { file: 'models/entered.glb' } },
      { code: 'licence-form', hint: 'Perhaps CC-BY-4.0 is meant.' },
    ]);
    delete given.crate.manifest.licence;
    expect(checkLedger(given, ledger(given))[0].code).toBe('licence-missing');
  });

  it('CREDITS.md names everyone once with their files, and nothing of a name is taken for markup', () => {
    const given = world();
    given.crate.manifest.credits.push({ author: 'Eve', work: 'ideas', licence: '' });
    const text = creditsText(given.crate.manifest, ledger(given));
    expect(text).toContain('Made by Ada Reed.');
    expect(text).toContain('- Di \\*Sedge\\*\n  - models/entered\\.glb');
    expect(text.match(/Bo Marsh/g)).toHaveLength(1);
    expect(text).toContain('- Eve, ideas');
    expect(creditsFile(given.crate.manifest, ledger(given)).files).toHaveLength(5);
  });
});
