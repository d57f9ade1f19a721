import { describe, expect, it } from '@jest/globals';
import { applyEdit } from '../document/edit.ts';
import { newObject } from '../profile/newObject.ts';
import { testWorld } from '../testing/world.ts';
import { assetKind, assetKindOf, ASSETS, FILE_KINDS } from '../crate/assetKind.ts';
import { checkLinks } from '../link/findings.ts';
import { LinkGraph } from '../link/graph.ts';
import { linkMap } from '../link/report.ts';
import { libraryOf, NO_FILTER, searchLibrary, type LibraryEntry } from './library.ts';
import { renameAsset, renameMaterial } from './rename.ts';
import { usageOf } from './usage.ts';
import type { CrateWorld } from '../crate/world.ts';

const file = (path: string) => ({ path, bytes: 10, sha256: '0'.repeat(64) });

/** A room with a prop, a model of its own with a slot, and a material of its own on every wall. */
function world(): CrateWorld {
  const made = testWorld();
  const { crate, profile } = made;
  crate.files = [
    'models/vase.glb',
    'textures/moss.ktx2',
    'previews/textures/moss.png',
    'sources/models/vase.obj',
    'sources/models/vase/vase.mtl',
    'sounds/hum.wav',
  ].map(file);
  crate.manifest.materials = [{ name: 'moss', type: 'lit', texture: 'textures/moss.ktx2', colour: '#406030', unitsPerRepeat: 64 }];
  crate.manifest.assets = {
    'models/vase.glb': {
      source: 'sources/models/vase.obj',
      options: { materials: { skin: 'moss' } },
      slots: [{ slot: 'skin', material: 'moss', by: 'hand' }],
      origin: { path: 'moor/vase.obj', sha256: '1', pack: 'Moor set' },
    },
    'textures/moss.ktx2': { source: 'sources/textures/moss.png', options: {} },
    'sounds/hum.wav': { source: 'sources/sounds/hum.wav', options: {} },
  };
  const prop = newObject(profile, 'prop', 'vase_1', [0, 0, 0]);
  prop.properties = { ...prop.properties, model: 'models/vase.glb' };
  crate.maps.hall.objects.o9 = prop;
  for (const solid of Object.values(crate.maps.hall.solids)) for (const face of solid.faces) face.material = 'moss';
  crate.scripts['scripts/main.lua'] += '\nfunction hum()\n  play("sounds/hum.wav")\n  -- "sounds/hum.wav" in a comment\nend\n';
  return made;
}

it('every kind of asset is listed from its folder, and from no other', () => {
  const made = testWorld();
  made.base = { ...made.base, materials: [] };
  const paths = FILE_KINDS.map((kind) => `${ASSETS[kind].folder}/a.${ASSETS[kind].endings[0]}`);
  made.crate.files = [...paths, ...FILE_KINDS.map((kind) => `sources/${ASSETS[kind].folder}/a.${ASSETS[kind].endings[0]}`)].map(file);
  const listed = libraryOf({ world: made }).filter((entry) => entry.kind !== 'script');
  expect(listed.map((entry) => [entry.id, entry.kind, entry.name])).toEqual(
    FILE_KINDS.map((kind, i) => [paths[i], kind, `a.${ASSETS[kind].endings[0]}`]),
  );
});

describe('where-used', () => {
  it('finds maps, materials, models and scripts', () => {
    const uses = usageOf(world());
    expect(uses.get('models/vase.glb')).toEqual([{ by: 'map', name: 'hall', what: 'object vase_1', object: 'o9' }]);
    expect(uses.get('textures/moss.ktx2')).toEqual([{ by: 'material', name: 'moss', what: 'texture' }]);
    expect(uses.get('material:moss')!.map((use) => [use.by, use.what])).toEqual([
      ['map', expect.stringMatching(/^\d+ faces$/)],
      ['model', 'slot skin'],
    ]);
    expect(uses.get('sounds/hum.wav')).toMatchObject([{ by: 'script', name: 'scripts/main.lua' }]);
    expect(uses.get('scripts/main.lua')).toMatchObject([{ what: 'the game starts with it' }]);
  });

  it('links follow a model’s slots to their materials and pictures', () => {
    const own = world();
    own.crate.maps.hall.solids = {};
    const report = linkMap(own, 'hall');
    expect(report.links.map((link) => link.name)).toEqual(expect.arrayContaining(['models/vase.glb', 'moss', 'textures/moss.ktx2']));
    expect(report.links.find((link) => link.name === 'moss')!.usedBy).toEqual(['model models/vase.glb']);
  });

  it('a placeholder of the game in use is a warning', () => {
    const own = world();
    own.profile.placeholders = ['brick'];
    own.crate.maps.hall.solids[Object.keys(own.crate.maps.hall.solids)[0]].faces[0].material = 'brick';
    const found = checkLinks(own, new LinkGraph(own), [linkMap(own, 'hall')]).find((f) => f.code === 'link-placeholder');
    expect(found).toMatchObject({ severity: 'warning', message: expect.stringContaining('brick is a placeholder') });
  });
});

describe('renaming', () => {
  it('an asset: map, scripts, manifest and files follow', () => {
    const own = world();
    const { manifest, edits, moves } = renameAsset(own, 'models/vase.glb', 'urn');
    expect(manifest.assets['models/urn.glb']).toMatchObject({ source: 'sources/models/urn.obj' });
    expect(manifest.assets['models/vase.glb']).toBeUndefined();
    expect(moves).toEqual([
      ['models/vase.glb', 'models/urn.glb'],
      ['sources/models/vase.obj', 'sources/models/urn.obj'],
      ['sources/models/vase/vase.mtl', 'sources/models/urn/vase.mtl'],
    ]);
    expect(applyEdit(own.crate.maps.hall, edits.hall).objects.o9.properties.model).toBe('models/urn.glb');
    const sound = renameAsset(own, 'sounds/hum.wav', 'drone');
    expect(sound.scripts['scripts/main.lua']).toContain('play("sounds/drone.wav")\n  -- "sounds/hum.wav" in a comment');
    const picture = renameAsset(own, 'textures/moss.ktx2', 'lichen');
    expect(picture.manifest.materials[0].texture).toBe('textures/lichen.ktx2');
    expect(picture.moves).toContainEqual(['previews/textures/moss.png', 'previews/textures/lichen.png']);
  });

  it('a material: faces, slots and choices follow', () => {
    const own = world();
    const { manifest, edits } = renameMaterial(own, 'moss', 'lichen');
    expect(manifest.materials[0].name).toBe('lichen');
    expect(manifest.assets['models/vase.glb']).toMatchObject({ options: { materials: { skin: 'lichen' } }, slots: [{ material: 'lichen' }] });
    const after = applyEdit(own.crate.maps.hall, edits.hall);
    expect(new Set(Object.values(after.solids).flatMap((solid) => solid.faces.map((face) => face.material)))).toEqual(new Set(['lichen']));
  });
});

describe('the library', () => {
  const entries = () =>
    libraryOf({
      world: world(),
      findings: new Map([['models/vase.glb', [{ code: 'x', severity: 'warning', stage: 'assets', message: 'x' }]]]),
      stale: new Set(['models/vase.glb']),
    });
  const find = (change: Partial<typeof NO_FILTER>, list: readonly LibraryEntry[] = entries()) =>
    searchLibrary(list, { ...NO_FILTER, ...change }).map((entry) => entry.id);

  it('lists assets and materials of crate and game, working files not', () => {
    expect(find({ origin: 'crate' })).toEqual(['sounds/hum.wav', 'scripts/main.lua', 'material:moss', 'textures/moss.ktx2', 'models/vase.glb']);
    expect(find({ origin: 'game', kind: 'material' })).toContain('material:brick');
    expect(entries().find((entry) => entry.id === 'textures/moss.ktx2')).toMatchObject({
      preview: 'previews/textures/moss.png',
      materialType: 'lit',
    });
  });

  it('searches words anywhere, beginnings first, and filters', () => {
    expect(find({ query: 'VASE' })).toEqual(['models/vase.glb']);
    expect(find({ query: 'moor set' })).toEqual(['models/vase.glb']);
    expect(find({ query: 'nothing at all' })).toEqual([]);
    expect(find({ onlyStale: true })).toEqual(['models/vase.glb']);
    expect(find({ onlyFindings: true })).toEqual(['models/vase.glb']);
    expect(find({ pack: 'Moor set' })).toEqual(['models/vase.glb']);
    expect(find({ use: 'unused', origin: 'crate' })).toEqual([]);
    expect(find({ kind: 'material', materialType: 'sky' })).toEqual(['material:sky']);
  });

  it('an own material hides the game’s of the same name', () => {
    const own = world();
    own.crate.manifest.materials.push({ name: 'brick', type: 'lit', colour: '#123456', unitsPerRepeat: 8 });
    expect(
      libraryOf({ world: own })
        .filter((entry) => entry.id === 'material:brick')
        .map((entry) => entry.origin),
    ).toEqual(['crate']);
  });
});

describe('kinds', () => {
  it('are told by the ending, and what is none is refused', () => {
    expect(['a.OBJ', 'b.glb', 'c.JPG', 'd.flac', 'e.lua', 'f.docx'].map(assetKindOf)).toEqual(['model', 'model', 'texture', 'sound', 'script', null]);
    expect(() => assetKind('f.docx')).toThrow(/files of this kind are not taken/);
  });
});
