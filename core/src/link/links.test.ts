import { describe, expect, it } from '@jest/globals';
import { checkCrate } from '../check/checkCrate.ts';
import { testWorld } from '../testing/world.ts';
import { block } from '../solid/primitives.ts';
import { applyEdit, type Change } from '../document/edit.ts';
import { profile } from '../testing/maps.ts';
import { newObject } from '../profile/newObject.ts';
import { checkLinks } from './findings.ts';
import { LinkGraph } from './graph.ts';
import { linkMap, type Link, type LinkReport } from './report.ts';

/** A world whose map is changed by edits. */
function edited(...changes: Change[]) {
  const world = testWorld();
  world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'test', changes });
  return world;
}

describe('links', () => {
  it('missing materials and models are blockers; unused files are notes; near misses are named', () => {
    const prop = { ...newObject(profile, 'prop', 'pump', [0, 0, 0]), properties: { model: 'models/Pump.glb', solid: true } };
    const world = edited({ of: 'objects', id: 'o9', to: prop }, { of: 'solids', id: 's9', to: block({ min: [0, 0, 0], max: [8, 8, 8] }, 'marble') });
    const sha256 = '0'.repeat(64);
    world.crate.files.push({ path: 'models/pump.glb', bytes: 10, sha256 }, { path: 'sources/pump.obj', bytes: 10, sha256 });
    const found = checkCrate(world).findings;
    expect(found.filter((f) => f.code === 'link-missing').map((f) => f.message)).toEqual(['The material marble is missing; solids need it.']);
    expect(found.find((f) => f.code === 'link-case')?.message).toBe(
      'pump asks for the model models/Pump.glb; there is models/pump.glb, which differs only in case or ending.',
    );
    expect(found.filter((f) => f.code === 'link-unused').map((f) => f.place?.file)).toEqual(['models/pump.glb']);
  });

  it('say for each what it is, where from, how large, and who needs it', () => {
    const world = edited(
      { of: 'objects', id: 'o8', to: { ...newObject(profile, 'prop', 'pump', [0, 0, 0]), properties: { model: 'models/pump.glb', solid: true } } },
      { of: 'objects', id: 'o9', to: { ...newObject(profile, 'prop', 'a_pump', [0, 0, 0]), properties: { model: 'models/pump.glb', solid: true } } },
      { of: 'objects', id: 'o7', to: newObject(profile, 'crank', 'crank', [0, 0, 0]) },
      { of: 'signals', id: 'g8', to: { from: 'o7', event: 'turned', to: { script: 'open' }, delay: 0 } },
      { of: 'signals', id: 'g9', to: { from: 'o7', event: 'turned', to: { script: 'gone' }, delay: 0 } },
    );
    const { crate, base } = world;
    const sha256 = '0'.repeat(64);
    crate.files.push({ path: 'models/pump.glb', bytes: 900, sha256 });
    crate.manifest.assets['models/pump.glb'] = {
      source: 'sources/models/pump.obj',
      options: {},
      slots: [
        { slot: 'skin', material: 'moss' },
        { slot: 'rest', material: null },
      ],
    } as never;
    crate.manifest.materials.push({
      name: 'moss',
      type: 'lit',
      colour: '#446633',
      unitsPerRepeat: 64,
      texture: 'textures/moss.ktx2',
      normal: 'textures/moss_n.ktx2',
    });
    crate.files.push({ path: 'textures/moss.ktx2', bytes: 50, sha256 });
    crate.scripts['scripts/locks.lua'] = 'function open() end -- é';
    const report = linkMap({ ...world, base: { ...base, files: [{ path: 'textures/moss_n.ktx2', bytes: 70, sha256 }] } }, 'hall');
    const link = (name: string) => report.links.find((one) => one.name === name);
    expect(link('models/pump.glb')).toEqual({
      id: 'model:models/pump.glb',
      sha256,
      kind: 'model',
      name: 'models/pump.glb',
      origin: 'crate',
      bytes: 900,
      usedBy: ['a_pump', 'pump'],
      solids: [],
      objects: ['o8', 'o9'],
    });
    expect(link('moss')).toMatchObject({ kind: 'material', origin: 'crate', usedBy: ['model models/pump.glb'], objects: ['o8', 'o9'] });
    expect(link('textures/moss.ktx2')).toMatchObject({ kind: 'texture', origin: 'crate', bytes: 50, usedBy: ['material moss'] });
    expect(link('textures/moss_n.ktx2')).toMatchObject({ origin: 'game', bytes: 70 });
    expect(link('open')).toMatchObject({ kind: 'function', origin: 'crate', usedBy: ['crank'], objects: ['o7'] });
    expect(link('gone')).toMatchObject({ kind: 'function', origin: 'missing' });
    expect(link('scripts/locks.lua')).toMatchObject({ kind: 'script', origin: 'crate', bytes: 25, usedBy: ['open()', 'the game'] });
    expect(link('brick')).toMatchObject({ origin: 'game', usedBy: ['solids'] });
    expect(link('brick')!.solids.length).toBeGreaterThan(1);
    expect(new Set(link('brick')!.solids).size).toBe(link('brick')!.solids.length);
    const order = report.links.map(({ kind, name }) => `${kind} ${name}`);
    expect(order).toEqual([...order].sort());
    const scripts = Object.values(crate.scripts).reduce((sum, text) => sum + Buffer.byteLength(text), 0);
    expect([report.ownBytes, report.gameBytes]).toEqual([900 + 50 + scripts, 70]);
    expect(report.unused).toEqual([]);
  });

  it('a material of the sky is needed; a property that is empty needs nothing', () => {
    const world = edited({
      of: 'objects',
      id: 'o8',
      to: { ...newObject(profile, 'prop', 'pump', [0, 0, 0]), properties: { model: '', solid: true } },
    });
    world.crate.maps.hall = { ...world.crate.maps.hall, settings: { ...world.crate.maps.hall.settings, skyMaterial: 'dusk' } };
    const { links } = linkMap(world, 'hall');
    expect(links.find(({ name }) => name === 'dusk')).toMatchObject({ origin: 'missing', usedBy: ['the sky'], solids: [], objects: [] });
    expect(links.some(({ objects }) => objects.includes('o8'))).toBe(false);
  });

  it('findings name all who need a thing, take the first of them as place, and leave functions to the map', () => {
    const report = (link: Partial<Link>): LinkReport => ({
      map: 'hall',
      links: [
        {
          id: 'model:models/x.glb',
          kind: 'model',
          name: 'models/x.glb',
          origin: 'missing',
          bytes: 0,
          usedBy: ['a', 'b'],
          solids: [],
          objects: ['o1', 'o2'],
          ...link,
        },
      ],
      unused: [],
      ownBytes: 0,
      gameBytes: 0,
    });
    const world = testWorld();
    const [missing] = checkLinks(world, new LinkGraph(world), [report({})]);
    expect(missing).toMatchObject({ code: 'link-missing', severity: 'blocker', stage: 'links', hint: 'Import it, or choose another.' });
    expect(missing.message).toBe('The model models/x.glb is missing; a, b need it.');
    expect(missing.place).toEqual({ map: 'hall', object: 'o1', solid: undefined });
    expect(checkLinks(world, new LinkGraph(world), [report({ kind: 'function' })])).toEqual([]);
    expect(checkLinks(world, new LinkGraph(world), [report({ origin: 'crate' })])).toEqual([]);
    const placeholders = { ...world, profile: { ...profile, placeholders: ['models/x.glb'] } };
    const [stand] = checkLinks(placeholders, new LinkGraph(placeholders), [
      report({ origin: 'game', usedBy: ['pump'], solids: ['s1'], objects: [] }),
    ]);
    expect(stand).toMatchObject({ code: 'link-placeholder', severity: 'warning', place: { solid: 's1' } });
    expect(stand.message).toBe(`The model models/x.glb is a placeholder of ${profile.title}; pump uses it.`);
    expect(checkLinks(placeholders, new LinkGraph(placeholders), [report({ origin: 'crate' })])).toEqual([]);
  });

  it('a file is not in vain that any of the maps or scripts needs, that somebody keeps, or that is a working file', () => {
    const pump = { ...newObject(profile, 'prop', 'pump', [0, 0, 0]), properties: { model: 'models/a.glb', solid: true } };
    const world = edited({ of: 'objects', id: 'o8', to: pump });
    const paths = ['models/a.glb', 'models/b.glb', 'sounds/drip.wav', 'models/c.glb', 'sources/models/a.obj'];
    world.crate.files.push(...paths.map((path, n) => ({ path, bytes: 1, sha256: String(n).repeat(64) })));
    world.crate.scripts['scripts/main.lua'] = 'function startup() play("sounds/drip.wav") end';
    world.crate.manifest.kept = { 'models/c.glb': 'for the second map' };
    const found = () => checkLinks(world, new LinkGraph(world), []).filter(({ code }) => code === 'link-unused');
    expect(found().map(({ place, severity }) => [place?.file, severity])).toEqual([['models/b.glb', 'note']]);
    // The package carries what only a script names.
    expect(linkMap(world, 'hall').links.find(({ name }) => name === 'sounds/drip.wav')).toMatchObject({
      origin: 'crate',
      usedBy: ['scripts/main.lua'],
    });
  });
});
