import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { testProfile, testWorld } from '../testing/world.ts';
import { checkCrate } from '../check/checkCrate.ts';
import { buildInputHash, isWorkingFile, mapPath, previewPath, readCrate, writeDocuments } from './contents.ts';
import { freeName, nameProblem, properName } from './naming.ts';
import { newCrateContents, newCrateTree, renameCrate } from './template.ts';
import { findMaterial } from './world.ts';

const profile = testProfile();
const text = (s: string) => new TextEncoder().encode(s);

describe('names', () => {
  it.each([
    ['', /needed/],
    ['two words', /No spaces/],
    ['Capital', /No capital/],
    ['9lives', /beginning with a letter/],
    ['way_too_long_for_a_crate_name', /At most 24/],
    ['taken', /already taken/],
    ['über', /Small letters/],
    ['con', /no name: some systems/],
    ['aux', /no name/],
    ['lpt1', /no name/],
    ['console', null],
    ['good_name_2', null],
  ])('%j', (name, problem) => {
    const found = nameProblem(profile, 'crate', name, ['taken']);
    if (problem) expect(found).toMatch(problem);
    else expect(found).toBeNull();
  });

  it('whatever people type, the proper name is allowed', () => {
    for (const wanted of ['Café à la Mer!', '  42nd street ', 'ЖЖЖ', 'A'.repeat(99), '__x__', 'con', 'NUL'])
      expect(nameProblem(profile, 'crate', properName(profile, 'crate', wanted))).toBeNull();
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (wanted) => nameProblem(profile, 'object', properName(profile, 'object', wanted)) === null),
    );
    expect(properName(profile, 'file', 'Brick Wall (2)')).toBe('brick_wall_2');
  });

  it('free names count on', () => {
    expect(freeName('lamp', [])).toBe('lamp');
    expect(freeName('lamp', ['lamp', 'lamp_2'])).toBe('lamp_3');
    expect(freeName('lamp_2', ['lamp_2'])).toBe('lamp_3');
  });
});

describe('a crate as files', () => {
  it('comes back as it was written', () => {
    const contents = newCrateContents(profile, { name: 'hall', title: 'Hall "of" tides', template: 'sealed-room' });
    const tree = writeDocuments(contents);
    expect([...tree.keys()].sort()).toEqual(['crate.json', 'maps/hall.map.json', 'scripts/main.lua']);
    tree.set('models/a.glb', text('abc'));
    const back = readCrate(tree);
    expect(back).toEqual({
      ...contents,
      files: [{ path: 'models/a.glb', bytes: 3, sha256: 'ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad' }],
    });
  });

  it('says which file is missing or unreadable', () => {
    const tree = newCrateTree(profile, { name: 'hall', title: 'Hall', template: 'blank' });
    expect(() => readCrate(new Map())).toThrow(/no crate.json/);
    tree.set('scripts/main.lua', Uint8Array.from([0xff, 0xfe, 0x00]));
    expect(() => readCrate(tree)).toThrow(/scripts\/main.lua is not UTF-8/);
    tree.set('crate.json', text('{ "format": 1 }'));
    expect(() => readCrate(tree)).toThrow(/crate.json: \//);
  });

  it('is renamed with its main map', () => {
    const renamed = renameCrate(newCrateContents(profile, { name: 'old', title: 'Old', template: 'blank' }), 'new', 'New');
    expect(renamed.manifest).toMatchObject({ name: 'new', title: 'New', mainMap: 'new' });
    expect(Object.keys(renamed.maps)).toEqual(['new']);
    expect(mapPath('new')).toBe('maps/new.map.json');
  });

  it('working files are known, and do not make a build stale', () => {
    expect(isWorkingFile('sources/a.obj') && isWorkingFile('previews/a.png')).toBe(true);
    expect(isWorkingFile('models/a.glb')).toBe(false);
    expect(previewPath('textures/a.ktx2')).toBe('previews/textures/a.png');
    const { crate } = testWorld();
    const hash = () => buildInputHash(crate, 'hall', null);
    const before = hash();
    crate.files.push({ path: 'sources/a.obj', bytes: 1, sha256: '0'.repeat(64) });
    expect(hash()).toBe(before);
    crate.files.push({ path: 'models/a.glb', bytes: 1, sha256: '0'.repeat(64) });
    expect(hash()).not.toBe(before);
    const after = hash();
    crate.scripts['scripts/main.lua'] += ' ';
    expect(hash()).not.toBe(after);
  });

  it('bad file names and a missing main map are blockers', () => {
    const world = testWorld();
    world.crate.files.push({ path: 'models/My Model.glb', bytes: 1, sha256: '0'.repeat(64) });
    world.crate.manifest.mainMap = 'elsewhere';
    expect(
      checkCrate(world)
        .findings.filter((f) => f.severity === 'blocker')
        .map((f) => f.code),
    ).toEqual(['file-name', 'map-missing']);
  });

  it('an own material wins over a stock one of the same name', () => {
    const world = testWorld();
    expect(findMaterial(world, 'brick')?.origin).toBe('game');
    world.crate.manifest.materials.push({ name: 'brick', type: 'lit', colour: '#123456', unitsPerRepeat: 8 });
    expect(findMaterial(world, 'brick')).toMatchObject({ origin: 'crate', material: { colour: '#123456' } });
    expect(findMaterial(world, 'nothing')).toBeNull();
  });
});
