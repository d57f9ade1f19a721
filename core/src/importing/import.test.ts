import { describe, expect, it } from '@jest/globals';
import { encode } from 'fast-png';
import { writeZip } from '../asset/archive/zip.ts';
import { bytesOf, CUBE } from '../testing/models.ts';
import { testProfile } from '../testing/world.ts';
import { creditPack, openPack } from './assetPack.ts';
import { previewPath } from '../crate/contents.ts';
import { enterAsset, importAsset } from './importAsset.ts';
import { planImport, unpackArchives, type PlanOptions } from './importPlan.ts';
import type { CrateManifest } from '../crate/manifest.ts';

const profile = testProfile();
const png = (level: number) => encode({ width: 8, height: 8, data: new Uint8Array(192).fill(level), channels: 3, depth: 8 });
const EMPTY: CrateManifest = {
  format: 1,
  name: 'moor',
  title: 'Moor',
  description: '',
  version: '1.0.0',
  profile: profile.id,
  mainMap: 'moor',
  authors: [],
  credits: [],
  materials: [],
  assets: {},
};
const tree = (entries: Record<string, string | Uint8Array>) =>
  new Map(Object.entries(entries).map(([path, content]) => [path, typeof content === 'string' ? bytesOf(content) : content]));
const plan = (files: Record<string, string | Uint8Array>, manifest = EMPTY, options: PlanOptions = {}) =>
  planImport(profile, manifest, tree(files), options);

/** Plans and imports everything, as server and command line do. */
async function take(files: Record<string, string | Uint8Array>, manifest = EMPTY, options: PlanOptions = {}): Promise<CrateManifest> {
  let next = manifest;
  for (const unit of plan(files, manifest, options).units) if (!unit.unchanged) next = enterAsset(next, await importAsset(profile, unit));
  return next;
}

const OBJ = `mtllib rock.mtl\nusemtl skin\n${CUBE}`;
const MTL = 'newmtl skin\nKd 1 1 1\nmap_Kd Rock Skin.png\n';

describe('planning an import', () => {
  it('a model takes along what it refers to, and nothing else', () => {
    const { units, skipped } = plan({
      'moor/models/rock.obj': OBJ,
      'moor/models/rock.mtl': MTL,
      'moor/tex/Rock Skin.png': png(90),
      'moor/tex/grass.png': png(80),
      'moor/readme.txt': 'hello',
      'moor/.hidden': 'x',
    });
    expect(units.map((unit) => [unit.kind, unit.file, unit.name])).toEqual([
      ['model', 'moor/models/rock.obj', 'rock'],
      ['texture', 'moor/tex/grass.png', 'grass'],
    ]);
    expect([...units[0].companions!.keys()]).toEqual(['moor/models/rock.mtl', 'moor/tex/Rock Skin.png']);
    expect(skipped).toEqual([{ file: 'moor/readme.txt', reason: 'not a kind of file that is imported' }]);
  });

  it('archives share one budget; what goes beyond it is named, and the rest comes in', () => {
    const big = writeZip(new Map([['a.lua', new Uint8Array(600)]]));
    const files = tree({ 'one.zip': big, 'two.zip': big, 'three.zip': writeZip(tree({ 'b.lua': 'x = 1' })), 'c.lua': 'y = 2' });
    const { files: out, broken } = unpackArchives(files, { maxEntry: 1000, maxTotal: 1000, maxEntries: 10 });
    expect([...out.keys()]).toEqual(['one/a.lua', 'three/b.lua', 'c.lua']);
    expect(broken).toMatchObject([{ file: 'two.zip', reason: expect.stringContaining('unpacked size') }]);
    const many = unpackArchives(files, { maxEntry: 1000, maxTotal: 9000, maxEntries: 2 });
    expect(many.broken.map(({ file }) => file)).toEqual(['three.zip']);
  });

  it('an archive within an archive is named and not opened, and no file hides another', () => {
    const inner = writeZip(tree({ 'x.lua': '' }));
    const { files, broken } = unpackArchives(tree({ 'a.zip': writeZip(tree({ 'b.zip': inner, 'door.lua': '1' })), 'a/door.lua': '2' }));
    expect([...files.keys()]).toEqual(['2/a/door.lua', 'a/door.lua']);
    expect(broken).toMatchObject([{ file: 'a.zip/b.zip', reason: expect.stringContaining('unpack it first') }]);
  });

  it('names under way in another batch are taken; the same source means the same asset', () => {
    const underWay = [{ file: 'x/rock.png', path: 'textures/rock' }];
    const { units } = plan({ 'x/rock.png': png(1), 'y/rock.png': png(2) }, EMPTY, { underWay });
    expect(units.map((unit) => [unit.file, unit.name, unit.replaces])).toEqual([
      ['x/rock.png', 'rock', undefined],
      ['y/rock.png', 'rock_2', undefined],
    ]);
  });

  it('a script is known again by its source or its text, and never overwrites what was changed here', async () => {
    const first = await take({ 'x/gate.lua': 'one = 1\r\n' });
    expect(first.scriptOrigins).toMatchObject({ 'scripts/gate.lua': { path: 'x/gate.lua' } });
    const again = (text: string, present: string) => {
      const [unit] = plan({ 'x/gate.lua': text }, first, { scripts: { 'scripts/gate.lua': present } }).units;
      return [unit.name, unit.unchanged];
    };
    expect(again('one = 1\n', 'one = 1\n')).toEqual(['gate', true]);
    expect(again('two = 2', 'one = 1\n')).toEqual(['gate', false]);
    expect(again('one = 1', 'mine = 3')).toEqual(['gate_2', false]);
    expect(again('one = 1\n', 'mine = 3')).toEqual(['gate', true]);
    expect(again('two = 2', 'mine = 3')).toEqual(['gate_2', false]);
    expect(plan({ 'other/gate.lua': 'same' }, EMPTY, { scripts: { 'scripts/gate.lua': 'same' } }).units[0].unchanged).toBe(true);
  });

  it('a model that cannot be looked through holds up no other', () => {
    const files = { 'cut.fbx': 'Kaydara FBX Binary  \0\x1a\0', 'old.gltf': '{"buffers":{"a":{}},"images":7}', 'good.obj': CUBE };
    expect(plan(files).units.map((unit) => unit.file)).toEqual(['cut.fbx', 'old.gltf', 'good.obj']);
  });

  it('of two libraries of one name the nearer is taken', () => {
    const { units } = plan({ 'a/rock.mtl': 'newmtl skin\nKd 1 0 0\n', 'b/rock.mtl': 'newmtl skin\nKd 0 1 0\n', 'b/rock.obj': OBJ });
    expect([...units[0].companions!.keys()]).toEqual(['b/rock.mtl']);
  });

  it('archives are opened; a broken one is named and stops nothing', () => {
    const { units, skipped } = plan({ 'pack.zip': writeZip(tree({ 'rock.obj': OBJ })), 'bad.zip': 'PK nothing', 'grass.png': png(1) });
    expect(units.map((unit) => unit.file)).toEqual(['pack/rock.obj', 'grass.png']);
    expect(skipped[0]).toMatchObject({ file: 'bad.zip', reason: expect.stringContaining('not a ZIP archive') });
  });

  it('names follow the profile’s rule, and the same name from two folders gets a number', () => {
    const { units } = plan({ 'a/Big Rock.png': png(1), 'b/big-rock.png': png(2), 'c/Bläh.png': png(3) });
    expect(units.map((unit) => unit.name)).toEqual(['big_rock', 'big_rock_2', 'blah']);
  });

  it('a name that is taken: rename, replace or keep', async () => {
    const crate = await take({ 'mine/rock.png': png(1) });
    const of = (clash: 'rename' | 'replace' | 'keep') =>
      plan({ 'theirs/rock.png': png(2) }, crate, { clashes: { 'theirs/rock.png': clash } }).units.map((u) => [u.name, u.replaces]);
    expect(of('rename')).toEqual([['rock_2', undefined]]);
    expect(of('replace')).toEqual([['rock', 'textures/rock.ktx2']]);
    expect(of('keep')).toEqual([]);
    expect(plan({ 'x/main.lua': '' }, EMPTY, { scripts: { 'scripts/main.lua': '-- another' } }).units[0].name).toBe('main_2');
  });

  it('what has not changed is left alone; what has is made again with the same settings', async () => {
    const files = { 'src/rock.obj': OBJ.replace('mtllib rock.mtl\n', '') };
    const crate = await take(files, EMPTY, { options: { model: { pivot: 'base', unit: 'm' } } });
    expect(crate.assets['models/rock.glb'].bounds!.min[2]).toBe(0);
    expect(plan(files, crate).units[0].unchanged).toBe(true);
    expect(plan(files, crate, { options: { model: { pivot: 'centre' } } }).units[0].unchanged).toBe(false);
    const taller = { 'src/rock.obj': files['src/rock.obj'].replaceAll('v 0.5', 'v 0.75') };
    const [unit] = plan(taller, crate).units;
    expect(unit).toMatchObject({ unchanged: false, replaces: 'models/rock.glb', options: { pivot: 'base' } });
    expect((await take(taller, crate)).assets['models/rock.glb'].bounds!.min[2]).toBe(0);
  });

  it('a change of a companion is a change of the model', async () => {
    const files = { 'rock.obj': OBJ, 'rock.mtl': MTL, 'Rock Skin.png': png(90) };
    const crate = await take(files);
    expect(plan(files, crate).units[0].unchanged).toBe(true);
    expect(plan({ ...files, 'Rock Skin.png': png(91) }, crate).units[0].unchanged).toBe(false);
  });

  it('settings given for a folder hold for all that comes from it, the nearest folder’s first', () => {
    const crate: CrateManifest = {
      ...EMPTY,
      importRules: [
        { folder: 'moor', kind: 'model', options: { unit: 'cm', normals: 'flat' } },
        { folder: '', kind: 'model', options: { unit: 'ft' } },
        { folder: 'moor/props', kind: 'model', options: { unit: 'in' } },
      ],
    };
    const { units } = plan({ 'moor/props/a.obj': CUBE, 'moor/b.obj': CUBE, 'moor/c.png': png(1), 'd.obj': CUBE, 'moorland/e.obj': CUBE }, crate);
    expect(units.map((unit) => unit.options)).toEqual([{ unit: 'in', normals: 'flat' }, { unit: 'cm', normals: 'flat' }, {}, { unit: 'ft' }, {}]);
  });

  it('whole and broken are variants of one model', () => {
    const { units } = plan({ 'a/vase_whole.obj': CUBE, 'a/vase_broken.obj': CUBE, 'a/jar_broken.obj': CUBE });
    expect(units.map((unit) => [unit.options!.variantOf, unit.options!.variant])).toEqual([
      ['vase', 'whole'],
      ['vase', 'broken'],
      [undefined, undefined],
    ]);
  });
});

describe('materials from pictures', () => {
  it('one material of all pictures with one name, whatever their order (common practice)', async () => {
    const normal = encode({ width: 8, height: 8, data: Uint8Array.from({ length: 192 }, (_, i) => [128, 128, 255][i % 3]), channels: 3, depth: 8 });
    const files = { 'rock_n.png': normal, 'rock_r.png': png(200), 'rock_ao.png': png(250), 'rock.png': png(90) };
    for (const order of [Object.keys(files), Object.keys(files).reverse()]) {
      const crate = await take(Object.fromEntries(order.map((key) => [key, files[key as keyof typeof files]])));
      expect(crate.materials).toHaveLength(1);
      expect(crate.materials[0]).toMatchObject({
        name: 'rock',
        type: 'lit',
        texture: 'textures/rock.ktx2',
        normal: 'textures/rock_n.ktx2',
        packed: 'textures/rock_orm.ktx2',
      });
      expect(Object.keys(crate.assets).sort()).toEqual(['textures/rock.ktx2', 'textures/rock_n.ktx2', 'textures/rock_orm.ktx2']);
    }
  });

  it('a picture imported again leaves alone what was set by hand', async () => {
    const crate = await take({ 'rock.png': png(90) });
    const tuned = { ...crate, materials: [{ ...crate.materials[0], type: 'unlit', unitsPerRepeat: 128, surface: 'stone' }] };
    const again = await take({ 'rock.png': png(40) }, tuned);
    expect(again.materials[0]).toMatchObject({ type: 'unlit', unitsPerRepeat: 128, surface: 'stone' });
    expect(again.materials[0].colour).not.toBe(crate.materials[0].colour);
  });
});

describe('importing', () => {
  it('keeps the source, its companions and where they came from', async () => {
    const [unit] = plan({ 'moor/rock.obj': OBJ, 'moor/rock.mtl': MTL }).units;
    const asset = await importAsset(profile, unit);
    expect([...asset.files.keys()]).toEqual([
      'models/rock.glb',
      'previews/models/rock.png',
      'sources/models/rock.obj',
      'sources/models/rock/moor/rock.mtl',
    ]);
    expect(asset.record).toMatchObject({ source: 'sources/models/rock.obj', origin: { path: 'moor/rock.obj' }, triangles: 12 });
    expect(asset.findings.every((finding) => finding.place?.file === 'models/rock.glb')).toBe(true);
    expect(previewPath(asset.path)).toBe('previews/models/rock.png');
  });

  it('scripts come in as they are, with one kind of line end', async () => {
    const asset = await importAsset(profile, { file: 'a.lua', name: 'a', bytes: bytesOf('x = 1\r\ny = 2\r\n') });
    expect(new TextDecoder().decode(asset.files.get('scripts/a.lua'))).toBe('x = 1\ny = 2\n');
    await expect(importAsset(profile, { file: 'b.lua', name: 'b', bytes: new Uint8Array([0xff, 0xfe]) })).rejects.toThrow(/b\.lua is not UTF-8/);
  });
});

describe('packs', () => {
  const about = { format: 1, title: 'Moor set', author: 'Ilse Brandt', licence: 'CC BY 4.0', instructions: 'Scatter freely.' };

  it('say what they hold without being imported', () => {
    const pack = openPack(
      tree({ 'pack.json': JSON.stringify(about), 'rock.obj': OBJ, 'rock.mtl': MTL, 'notes.txt': 'x', 'wind.wav': 'x' }),
      'moor.zip',
    );
    expect(pack.about).toEqual(about);
    expect(pack.entries.map((entry) => [entry.path, entry.kind])).toEqual([
      ['notes.txt', null],
      ['rock.mtl', null],
      ['rock.obj', 'model'],
      ['wind.wav', 'sound'],
    ]);
    expect(openPack(tree({ 'rock.obj': OBJ }), 'moor.zip')).toMatchObject({ described: false, about: { title: 'moor', author: '' } });
    expect(() => openPack(tree({ 'pack.json': '{"format":1}' }), 'x')).toThrow(/pack\.json: /);
  });

  it('credit their author once', () => {
    const credits = creditPack(EMPTY, about as never);
    expect(credits).toEqual([{ author: 'Ilse Brandt', work: 'Moor set', licence: 'CC BY 4.0' }]);
    expect(creditPack({ ...EMPTY, credits }, about as never)).toEqual(credits);
    expect(creditPack(EMPTY, { ...about, author: '' } as never)).toEqual([]);
  });
});
