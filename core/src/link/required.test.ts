import { describe, expect, it } from '@jest/globals';
import { EMPTY_PACK, type BasePack } from '../crate/basePack.ts';
import { readLock, splitRequired, withRequired, writeLock } from '../crate/lock.ts';
import type { CrateWorld } from '../crate/world.ts';
import { applyEdit } from '../document/edit.ts';
import { newObject } from '../profile/newObject.ts';
import { packOfRelease } from '../release/packOfRelease.ts';
import { profile } from '../testing/maps.ts';
import { testWorld } from '../testing/world.ts';
import { LinkGraph } from './graph.ts';
import { changedByRequired, checkRequired } from './required.ts';

const sha = (digit: string) => digit.repeat(64);
const pack = (version: string, lamp: string | null): BasePack => ({
  ...EMPTY_PACK,
  version,
  materials: [
    { name: 'copper', type: 'lit', colour: lamp === sha('1') ? '#aa8844' : '#998855', unitsPerRepeat: 64, texture: 'textures/copper.ktx2' },
  ],
  files: [
    { path: 'textures/copper.ktx2', bytes: 5, sha256: sha('9') },
    ...(lamp === null ? [] : [{ path: 'models/lamp.glb', bytes: lamp === sha('1') ? 10 : 12, sha256: lamp }]),
  ],
});

/** A crate whose hall has a lamp of the crate `lamps`, and walls of its copper. */
function lit(lamps: BasePack): CrateWorld {
  const world = testWorld();
  world.crate.manifest.requires = { lamps: '^1.0.0' };
  const prop = { ...newObject(profile, 'prop', 'lamp', [0, 0, 0]), properties: { model: 'mods/lamps/models/lamp.glb', solid: true } };
  world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'test', changes: [{ of: 'objects', id: 'o9', to: prop }] });
  world.crate.maps.hall.solids.s1 = {
    ...Object.values(world.crate.maps.hall.solids)[0],
    faces: Object.values(world.crate.maps.hall.solids)[0].faces.map((face) => ({ ...face, material: 'copper' })),
  };
  const locked = { version: '1.0.0', shareCode: 'AAAA-BBBB', sha256: sha('a') };
  return {
    ...world,
    base: withRequired(world.base, new Map([['lamps', lamps]])),
    required: { lock: { format: 1, crates: { lamps: locked } }, missing: [] },
  };
}

describe('required crates', () => {
  it('lie below mods/NAME, their pictures too, behind the game’s own', () => {
    const world = lit(pack('1.0.0', sha('1')));
    expect(world.base.materials.find(({ name }) => name === 'copper')?.texture).toBe('mods/lamps/textures/copper.ktx2');
    expect(splitRequired('mods/lamps/models/lamp.glb')).toEqual({ name: 'lamps', path: 'models/lamp.glb' });
    expect([splitRequired('models/lamp.glb'), splitRequired('mods/lamps'), splitRequired('mods/La/x')]).toEqual([null, null, null]);
    const graph = new LinkGraph(world);
    expect(graph.thing('model:mods/lamps/models/lamp.glb')).toMatchObject({ origin: 'game', bytes: 10 });
    expect(checkRequired(world)).toEqual([]);
  });

  it('what a newer version changes here is told thing by thing with who uses it; what nobody uses is not', () => {
    const world = lit(pack('1.0.0', sha('1')));
    const next = (lamps: BasePack) => changedByRequired(world, new LinkGraph(world), withRequired(testWorld().base, new Map([['lamps', lamps]])));
    expect(next(pack('1.0.1', sha('1')))).toEqual([]);
    const newer = next(pack('1.1.0', sha('2')));
    expect(newer[0]).toMatch(/^Material copper is another one, used by /);
    expect(newer[1]).toBe('mods/lamps/models/lamp.glb is another one (10 bytes, then 12), used by lamp.');
    expect(next(pack('2.0.0', null))).toContain('mods/lamps/models/lamp.glb is gone, used by lamp.');
  });

  it('say what is wrong: no version chosen, another than required, not on this machine, damaged', () => {
    const world = lit(pack('1.0.0', sha('1')));
    const codes = (change: Partial<CrateWorld>, requires?: Record<string, string>) => {
      const { manifest } = world.crate;
      const changed = { ...world, ...change, crate: { ...world.crate, manifest: { ...manifest, requires: requires ?? manifest.requires } } };
      return checkRequired(changed).map(({ code, severity }) => `${code} ${severity}`);
    };
    const { lock } = world.required!;
    expect(codes({ required: { lock: { format: 1, crates: {} }, missing: [] } })).toEqual(['required-open warning']);
    expect(codes({}, { lamps: '^2.0.0' })).toEqual(['required-range blocker']);
    expect(codes({ required: { lock, missing: ['lamps'] } })).toEqual(['required-missing blocker']);
    expect(codes({ required: { lock, missing: [], damage: 'crate.lock.json is not valid JSON at line 3.' } })).toEqual(['lock-damaged blocker']);
    expect(codes({}, { [world.crate.manifest.name]: '*' })).toEqual(['link-circle blocker']);
    expect(codes({}, { lamps: 'newest' })).toEqual(['link-range blocker']);
  });

  it('are written in one order, and read only in their form', () => {
    const locked = { version: '1.0.0', shareCode: 'AAAA-BBBB', sha256: sha('a') };
    const text = writeLock({ format: 1, crates: { lamps: locked, copper: locked } });
    expect(Object.keys(readLock(text).crates)).toEqual(['copper', 'lamps']);
    expect(() => readLock(text.replace('1.0.0', 'one'))).toThrow(/crate.lock.json: \/crates\/copper\/version/);
  });
});

describe('a release as stock', () => {
  it('offers assets and the materials whose pictures came along; maps, scripts and the rest are its own', () => {
    const text = (value: unknown) => new TextEncoder().encode(JSON.stringify(value));
    const material = { type: 'lit', colour: '#aa8844', unitsPerRepeat: 64 };
    const tree = new Map([
      [
        'materials.json',
        text([
          { ...material, name: 'copper', texture: 'textures/copper.ktx2' },
          { ...material, name: 'rust', texture: 'textures/left_out.ktx2' },
        ]),
      ],
      ['assets.json', text({ 'models/lamp.glb': { source: '', options: {}, triangles: 12 }, 'models/gone.glb': { source: '', options: {} } })],
    ]);
    const files = ['models/lamp.glb', 'textures/copper.ktx2', 'scripts/a.lua', 'maps/hall/map.glb', 'thumbnail.png', 'materials.json'];
    const manifest = { title: 'Lamps', version: '1.0.0', files: files.map((path) => ({ path, bytes: 1, sha256: sha('1') })) };
    const made = packOfRelease(manifest as never, tree);
    expect(made.files.map(({ path }) => path)).toEqual(['models/lamp.glb', 'textures/copper.ktx2']);
    expect(made.materials.map(({ name }) => name)).toEqual(['copper']);
    expect(Object.keys(made.assets)).toEqual(['models/lamp.glb']);
    expect(() => packOfRelease(manifest as never, new Map([['materials.json', text({ name: 'copper' })]]))).toThrow(/materials.json/);
  });
});
