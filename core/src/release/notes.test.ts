import { describe, expect, it } from '@jest/globals';
import { applyEdit } from '../document/edit.ts';
import type { CrateContents } from '../crate/contents.ts';
import { made } from '../testing/maps.ts';
import { testWorld } from '../testing/world.ts';
import { changesBetween, draftNotes, isUnchanged, nextVersion } from './notes.ts';

const crate = (): CrateContents => testWorld().crate;
const file = (path: string, n = 0) => ({ path, bytes: 10, sha256: String(n).padStart(64, '0') });
/** Changes that something makes of a crate. */
function changed(change: (crate: CrateContents) => void, before = crate()) {
  const after = structuredClone(before);
  change(after);
  return changesBetween(before, after);
}

describe('what changed since a release', () => {
  it('is told by maps and their members, scripts and their functions, assets and texts', () => {
    const before = crate();
    before.files = [file('models/pump.glb'), file('models/old.glb'), file('sources/models/pump.obj')];
    before.scripts = { 'scripts/main.lua': 'function startup() end\nfunction drain() end' };
    const changes = changed((after) => {
      after.maps.hall = applyEdit(after.maps.hall, { name: 'x', changes: [{ of: 'objects', id: 'o77', to: made('prop', 'barrel', [0, 0, 0]) }] });
      after.maps.yard = after.maps.hall;
      after.files = [file('models/pump.glb', 1), file('sounds/bell.wav'), file('sources/models/pump.obj', 9)];
      after.scripts = { 'scripts/main.lua': 'function startup() end\nfunction flood() end', 'scripts/new.lua': '' };
      after.manifest.description = 'Another one';
      after.manifest.materials.push({ name: 'moss', type: 'lit', colour: '#446633', unitsPerRepeat: 64 });
    }, before);
    expect(draftNotes(changes, { before: 1000, after: 3072 + 1000 })).toBe(
      [
        '- New map yard',
        '- Map hall: 1 object added: barrel',
        '- Script main: with flood(), without drain()',
        '- Script new: new',
        '- New sounds: bell',
        '- Changed models: pump',
        '- Gone models: old',
        '- Materials: moss',
        '- Changed description',
        '- 3 KiB larger',
      ].join('\n'),
    );
  });

  it('nothing is nothing', () => {
    const changes = changed(() => {});
    expect(isUnchanged(changes)).toBe(true);
    expect(draftNotes(changes)).toBe('Nothing is different from the last release.');
  });

  // Outside reference: semver.org, Semantic Versioning 2.0.0, items 6 to 8.
  it.each<[string, (crate: CrateContents) => void, string]>([
    ['a new map', (c) => void (c.maps.yard = c.maps.hall), '1.3.0'],
    ['a map that goes', (c) => void delete c.maps.hall, '2.0.0'],
    ['a function that goes', (c) => void (c.scripts['scripts/main.lua'] = ''), '2.0.0'],
    ['a new asset', (c) => void c.files.push(file('models/new.glb')), '1.3.0'],
    ['other looks', (c) => void (c.manifest.materials = [{ name: 'm', type: 'lit', colour: '#000000', unitsPerRepeat: 1 }]), '1.2.4'],
    ['other words', (c) => void (c.manifest.title = 'Other'), '1.2.4'],
  ])('%s makes 1.2.3 %s', (_, change, version) => {
    expect(nextVersion('1.2.3', changed(change)).version).toBe(version);
  });
});
