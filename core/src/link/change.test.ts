import { describe, expect, it } from '@jest/globals';
import { applyCrateEdit, changedSince, diffCrates, invertCrateEdit, placesOf } from '../crate/crateEdit.ts';
import type { CrateWorld } from '../crate/world.ts';
import { applyEdit, type Change } from '../document/edit.ts';
import { canonicalJson } from '../hash.ts';
import type { LinkChange } from '../linkChange.ts';
import { newObject } from '../profile/newObject.ts';
import { block } from '../solid/primitives.ts';
import { profile } from '../testing/maps.ts';
import { terrain } from '../testing/terrains.ts';
import { testWorld } from '../testing/world.ts';
import { planLinkChange, planLinkChanges } from './change.ts';
import { checkLinks } from './findings.ts';
import { LinkGraph } from './graph.ts';
import { reportOf } from './report.ts';

const prop = (model: string) => ({ ...newObject(profile, 'prop', 'pump', [0, 0, 0]), properties: { model, solid: true } });

function world(...changes: Change[]): CrateWorld {
  const made = testWorld('blank');
  made.crate.maps.hall = applyEdit(made.crate.maps.hall, {
    name: 'test',
    changes: [
      { of: 'solids', id: 's1', to: block({ min: [0, 0, 0], max: [8, 8, 8] }, 'moss') },
      { of: 'objects', id: 'o1', to: prop('models/pump.glb') },
      ...changes,
    ],
  });
  made.crate.files = ['models/pump.glb', 'models/pump_2.glb', 'sources/models/pump.obj', 'textures/moss.ktx2'].map((path, n) => ({
    path,
    bytes: 100 + n,
    sha256: String(n).repeat(64),
  }));
  made.crate.manifest.materials = [{ name: 'moss', type: 'lit', colour: '#446633', unitsPerRepeat: 64, texture: 'textures/moss.ktx2' }];
  made.crate.manifest.assets = {
    'models/pump.glb': { source: 'sources/models/pump.obj', options: {}, slots: [{ slot: 'skin', material: 'moss', by: 'hand' }] },
  };
  made.crate.scripts = { 'scripts/main.lua': 'function startup()\n  show("models/pump.glb", "moss")\nend' };
  return made;
}

/** The crate after an order, and that undoing it leads back to the bit. */
function after(given: CrateWorld, change: LinkChange): CrateWorld {
  const edit = planLinkChange(given, change)!;
  const crate = applyCrateEdit(given.crate, edit);
  expect(changedSince(crate, edit)).toEqual([]);
  const back = applyCrateEdit(crate, invertCrateEdit(given.crate, edit));
  const sorted = { ...given.crate, files: [...given.crate.files].sort((a, b) => (a.path < b.path ? -1 : 1)) };
  expect(canonicalJson(back)).toBe(canonicalJson(sorted));
  return { ...given, crate };
}
const findings = (given: CrateWorld) => {
  const graph = new LinkGraph(given);
  return checkLinks(
    given,
    graph,
    Object.keys(given.crate.maps).map((map) => reportOf(graph, given, map)),
  );
};
const codes = (given: CrateWorld) => findings(given).map(({ code }) => code);
/** Applies the first fix of a finding. */
function mended(given: CrateWorld, code: string): CrateWorld {
  const fix = findings(given).find((one) => one.code === code)!.fix!;
  if (fix.kind !== 'crate') throw new Error('no fix of the crate');
  return after(given, fix.change);
}

describe('orders about links', () => {
  it('renaming is followed by maps, grounds, copies with values of their own, scripts and slots, and every place is told', () => {
    const inner = {
      name: 'lamp',
      parameters: [{ id: 'what', label: 'What', object: 'o1', property: 'model' }],
      solids: {},
      objects: { o1: prop('') },
      signals: {},
      copies: {},
    };
    const given = world(
      { of: 'prefabs', id: 'p1', to: inner },
      { of: 'copies', id: 'c1', to: { prefab: 'p1', name: 'a lamp', position: [0, 0, 0], turn: 0, values: { what: 'models/pump.glb' } } },
      {
        of: 'terrains',
        id: 'e1',
        to: terrain([4, 4], {
          surfaces: [{ id: 'a', label: 'Moss', material: 'moss' }],
          things: [{ id: 't', label: 'Pumps', model: 'models/pump.glb', size: [1, 1], sink: 0, lean: 0, radius: 0, tall: 0 }],
        }),
      },
    );
    const renamed = after(given, { do: 'rename', entry: 'models/pump.glb', name: 'beam_pump' });
    const { hall } = renamed.crate.maps;
    expect(hall.objects.o1.properties.model).toBe('models/beam_pump.glb');
    expect(hall.copies.c1.values.what).toBe('models/beam_pump.glb');
    expect(hall.terrains.e1.things[0].model).toBe('models/beam_pump.glb');
    expect(renamed.crate.scripts['scripts/main.lua']).toContain('"models/beam_pump.glb"');
    expect(renamed.crate.files.map(({ path }) => path)).toContain('sources/models/beam_pump.obj');
    const worn = after(given, { do: 'rename', entry: 'material:moss', name: 'lichen' });
    expect(worn.crate.maps.hall.terrains.e1.surfaces[0].material).toBe('lichen');
    expect(worn.crate.manifest.assets['models/pump.glb'].slots![0].material).toBe('lichen');
    const edit = planLinkChange(given, { do: 'rename', entry: 'material:moss', name: 'lichen' })!;
    expect(placesOf(given.crate, edit)).toEqual([
      expect.stringMatching(/^map hall: 1 solid changed/),
      expect.stringMatching(/^map hall: 1 terrain/),
      'scripts/main.lua: line 2',
      'material moss goes',
      'material lichen comes',
      'how models/pump.glb was made',
    ]);
  });

  it('one thing in the place of another, merging, splitting, removing and keeping', () => {
    const given = world();
    const replaced = after(given, { do: 'replace', from: 'material:moss', to: 'material:brick' });
    expect(replaced.crate.maps.hall.solids.s1.faces.every(({ material }) => material === 'brick')).toBe(true);
    const merged = after(given, { do: 'merge', into: 'models/pump_2.glb', from: ['models/pump.glb'] });
    expect(merged.crate.maps.hall.objects.o1.properties.model).toBe('models/pump_2.glb');
    expect(merged.crate.files.map(({ path }) => path)).toEqual(['models/pump_2.glb', 'textures/moss.ktx2']);
    const split = after(given, { do: 'split', material: 'moss', name: 'wet_moss', map: 'hall', solids: ['s1'] });
    expect(split.crate.maps.hall.solids.s1.faces[0].material).toBe('wet_moss');
    expect(split.crate.manifest.materials.map(({ name, texture }) => [name, texture])).toEqual([
      ['moss', 'textures/moss.ktx2'],
      ['wet_moss', 'textures/moss.ktx2'],
    ]);
    expect(after(given, { do: 'keep', entry: 'models/pump_2.glb', reason: 'for later' }).crate.manifest.kept).toEqual({
      'models/pump_2.glb': 'for later',
    });
  });

  it.each<[LinkChange, RegExp]>([
    [{ do: 'rename', entry: 'models/pump.glb', name: 'Beam pump' }, /No spaces/],
    [{ do: 'rename', entry: 'models/pump.glb', name: 'pump_2' }, /already taken/],
    [{ do: 'rename', entry: 'material:brick', name: 'stone' }, /belongs to the game/],
    [{ do: 'remove', entries: ['models/none.glb'] }, /has no models\/none/],
    [{ do: 'replace', from: 'models/pump.glb', to: 'textures/moss.ktx2' }, /different kinds/],
    [{ do: 'replace', from: 'models/pump.glb', to: 'models/none.glb' }, /no models\/none/],
    [{ do: 'split', material: 'moss', name: 'wet', map: 'hall', solids: [] }, /None of the chosen/],
  ])('%j is refused with the reason', (change, reason) => {
    expect(() => planLinkChange(world(), change)).toThrow(reason);
  });

  it('many at once are one edit; what has become impossible is told and left out', () => {
    const given = world();
    const { edit, leftOut } = planLinkChanges(given, [
      { do: 'merge', into: 'models/pump_2.glb', from: ['models/pump.glb'] },
      { do: 'rename', entry: 'models/pump.glb', name: 'other' },
      { do: 'rename', entry: 'material:moss', name: 'lichen' },
    ]);
    expect(leftOut).toEqual(['rename models/pump.glb to other: The crate has no models/pump.glb.']);
    const { crate } = { crate: applyCrateEdit(given.crate, edit!) };
    expect(crate.maps.hall.objects.o1.properties.model).toBe('models/pump_2.glb');
    expect(crate.manifest.materials[0].name).toBe('lichen');
  });

  it('what was changed since is named before an undo', () => {
    const given = world();
    const edit = planLinkChange(given, { do: 'rename', entry: 'material:moss', name: 'lichen' })!;
    const crate = applyCrateEdit(given.crate, edit);
    crate.scripts['scripts/main.lua'] += '\n-- more';
    crate.manifest.materials[0] = { ...crate.manifest.materials[0], colour: '#000000' };
    expect(changedSince(crate, edit)).toEqual(['scripts/main.lua', 'material lichen']);
    expect(diffCrates(crate, crate, 'nothing')).toBeNull();
  });
});

describe('findings and what mends them', () => {
  it('a name in another case: the reference is mended, and the finding is gone', () => {
    const given = world({ of: 'objects', id: 'o2', to: prop('models/Pump.glb') });
    const found = findings(given).find(({ code }) => code === 'link-case')!;
    expect(found).toMatchObject({ severity: 'blocker', place: { map: 'hall', object: 'o2' } });
    const fine = mended(given, 'link-case');
    expect(fine.crate.maps.hall.objects.o2.properties.model).toBe('models/pump.glb');
    expect(codes(fine)).not.toContain('link-case');
  });

  it('a letter that is wrong: the near name is offered', () => {
    const fine = mended(world({ of: 'objects', id: 'o2', to: prop('models/pumq.glb') }), 'link-missing');
    expect(fine.crate.maps.hall.objects.o2.properties.model).toBe('models/pump.glb');
  });

  it('a file that went while its source is there can be made again', () => {
    const given = world();
    given.crate.files = given.crate.files.filter(({ path }) => path !== 'models/pump.glb');
    expect(findings(given).find(({ code }) => code === 'link-missing')).toMatchObject({ fix: { kind: 'reconvert', file: 'models/pump.glb' } });
  });

  it('the same content twice, alike pictures and meshes, the game’s own file', () => {
    const given = world({ of: 'objects', id: 'o2', to: prop('models/pump_2.glb') });
    given.crate.files[1].sha256 = given.crate.files[0].sha256;
    expect(codes(mended(given, 'link-twice'))).not.toContain('link-twice');

    const alike = world();
    const { assets } = alike.crate.manifest;
    assets['models/pump.glb'].shape = assets['models/pump_2.glb'] = { source: 'x', options: {}, shape: 'a' } as never;
    assets['models/pump.glb'].shape = 'a';
    expect(findings(alike).find(({ code }) => code === 'link-alike')?.message).toMatch(/same mesh/);
    alike.crate.files.push({ path: 'textures/moss_small.ktx2', bytes: 9, sha256: 'f'.repeat(64) });
    assets['textures/moss.ktx2'] = { source: 'x', options: { use: 'colour' }, look: '00ff00ff00ff00ff', width: 512 };
    assets['textures/moss_small.ktx2'] = { source: 'x', options: { use: 'colour' }, look: '00ff00ff00ff01fe', width: 128 };
    expect(
      findings(alike)
        .filter(({ code }) => code === 'link-alike')
        .map(({ message }) => message),
    ).toContainEqual('textures/moss_small.ktx2 and textures/moss.ktx2 look the same, 128 and 512 pixels wide.');
    assets['textures/moss_small.ktx2'].look = '0fff00ff00ff01fe';
    expect(findings(alike).filter(({ message }) => message.includes('look the same'))).toEqual([]);

    const stock = world();
    stock.base = { ...stock.base, files: [{ ...stock.crate.files[0], path: 'models/stock_pump.glb' }] };
    expect(mended(stock, 'link-stock').crate.maps.hall.objects.o1.properties.model).toBe('models/stock_pump.glb');
  });

  it('names that differ in accents or case alone, and names of two things', () => {
    const given = world();
    const add = (path: string) => given.crate.files.push({ path, bytes: 1, sha256: path.padStart(64, '0') });
    add('sounds/\u00e9cho.wav');
    add('sounds/e\u0301cho.wav');
    add('models/PUMP.glb');
    const found = findings(given).filter(({ code }) => code === 'link-like-name');
    expect(found.map(({ severity, place }) => [severity, place?.file])).toEqual([
      ['warning', 'sounds/e\u0301cho.wav'],
      ['blocker', 'models/PUMP.glb'],
    ]);
    given.base = { ...given.base, files: [{ path: 'models/pump.glb', bytes: 5, sha256: 'e'.repeat(64) }] };
    expect(codes(given)).toContain('link-two');
  });

  it('other crates that it needs are links, and a range that is none or a crate that needs itself is told', () => {
    const given = world();
    given.crate.manifest.requires = { lamps: '^1.2.0' };
    const graph = new LinkGraph(given);
    expect(reportOf(graph, given, 'hall').links.find(({ kind }) => kind === 'crate')).toMatchObject({
      name: 'lamps',
      origin: 'game',
      usedBy: ['the crate'],
    });
    given.crate.manifest.requires = { lamps: 'newest', [given.crate.manifest.name]: '*' };
    expect(codes(given)).toEqual(expect.arrayContaining(['link-range', 'link-circle']));
  });

  it('unused things are removed with what goes along, or kept for a reason', () => {
    const given = world({ of: 'solids', id: 's1', to: null });
    given.crate.manifest.assets = {};
    given.crate.scripts = {};
    const [moss] = findings(given).filter(({ code, place }) => code === 'link-unused' && place?.file === 'textures/moss.ktx2');
    expect(moss.fix).toMatchObject({ change: { entries: ['textures/moss.ktx2', 'material:moss'] } });
    const gone = after(given, (moss.fix as { change: LinkChange }).change);
    expect(gone.crate.manifest.materials).toEqual([]);
    const keep = moss.others![0] as { change: LinkChange };
    expect(findings(after(given, keep.change)).some(({ place }) => place?.file === 'textures/moss.ktx2')).toBe(false);
  });

  it('a picture that is finer than the game’s finest wherever it is seen is told, with the size that would do', () => {
    const given = world();
    const finest = profile.textures.maxSize / profile.textures.unitsPerRepeat;
    given.crate.manifest.materials[0].unitsPerRepeat = 16;
    const record = { source: 'x', options: { use: 'colour' }, width: finest * 16 * 4, height: 64 };
    given.crate.manifest.assets['textures/moss.ktx2'] = record;
    expect(findings(given).find(({ code }) => code === 'link-too-fine')).toMatchObject({
      fix: { kind: 'reconvert', options: { maxSize: finest * 16 } },
    });
    // One face that is stretched four times is enough to need it.
    const stretched = applyEdit(given.crate.maps.hall, {
      name: 'x',
      changes: [{ of: 'solids', id: 's2', to: { faces: given.crate.maps.hall.solids.s1.faces.map((face) => ({ ...face, scale: 4 })) } }],
    });
    given.crate.maps = { hall: stretched };
    expect(codes(given)).not.toContain('link-too-fine');
  });
});
