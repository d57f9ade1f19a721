import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { applyEdit, type Change } from '../document/edit.ts';
import type { Prefab, Solid } from '../document/schema.ts';
import { newObject } from '../profile/newObject.ts';
import { block } from '../solid/primitives.ts';
import { profile } from '../testing/maps.ts';
import { testWorld } from '../testing/world.ts';
import { causesOf, type Cause } from './causes.ts';
import { chainsTo, without } from './chains.ts';
import { LinkGraph } from './graph.ts';
import { reportOf } from './report.ts';

const prop = (model: string, name = 'pump') => ({ ...newObject(profile, 'prop', name, [0, 0, 0]), properties: { model, solid: true } });
const cube = (material: string): Solid => block({ min: [0, 0, 0], max: [8, 8, 8] }, material);

/** A pump whose skin is moss, which has a picture; a barrel that shares it; and a bell that only a script rings. */
function world() {
  const made = testWorld('blank');
  const { crate } = made;
  const file = (path: string, bytes: number) => crate.files.push({ path, bytes, sha256: String(crate.files.length).padStart(64, '0') });
  file('models/pump.glb', 900);
  file('models/barrel.glb', 400);
  file('textures/moss.ktx2', 50);
  file('textures/pump.ktx2', 300);
  file('sounds/bell.wav', 80);
  crate.manifest.materials.push(
    { name: 'moss', type: 'lit', colour: '#446633', unitsPerRepeat: 64, texture: 'textures/moss.ktx2' },
    { name: 'paint', type: 'lit', colour: '#446633', unitsPerRepeat: 64, texture: 'textures/pump.ktx2' },
  );
  const slots = (...materials: string[]) => materials.map((material) => ({ slot: material, material, by: 'hand' as const }));
  crate.manifest.assets['models/pump.glb'] = { source: 'x', options: {}, slots: slots('moss', 'paint') };
  crate.manifest.assets['models/barrel.glb'] = { source: 'x', options: {}, slots: slots('moss') };
  crate.scripts = { 'scripts/main.lua': 'function startup()\n  play("sounds/bell.wav")\nend' };
  crate.maps.hall = applyEdit(crate.maps.hall, {
    name: 'test',
    changes: [
      { of: 'objects', id: 'o1', to: prop('models/pump.glb') },
      { of: 'objects', id: 'o2', to: prop('models/barrel.glb', 'barrel') },
    ],
  });
  return made;
}

/** All ties with their uses, in an order of its own. */
const tiesOf = (graph: LinkGraph) =>
  [...graph.all()]
    .flatMap((id) => graph.needsOf(id))
    .map(
      ({ from, to, uses }) =>
        `${from} > ${to}: ${[...uses]
          .map(([key, use]) => `${key} ${JSON.stringify(use)}`)
          .sort()
          .join(', ')}`,
    )
    .sort();

describe('the graph of links', () => {
  it('kept up to date by edits it is what it would be anew, whatever is edited', () => {
    const prefab = (material: string, inner: string | null): Prefab => ({
      name: 'lamp',
      parameters: [{ id: 'what', label: 'What', object: 'o1', property: 'model' }],
      solids: { s1: cube(material) },
      objects: { o1: prop('models/barrel.glb') },
      signals: {},
      copies: inner ? { c1: { prefab: inner, name: 'inner', position: [0, 0, 0], turn: 0, values: {} } } : {},
    });
    const id = (prefix: string) => fc.integer({ min: 1, max: 4 }).map((n) => `${prefix}${n}`);
    const material = fc.constantFrom('moss', 'paint', 'brick', 'nowhere');
    const model = fc.constantFrom('models/pump.glb', 'models/barrel.glb', 'models/gone.glb');
    const orNull = <T>(of: fc.Arbitrary<T>) => fc.option(of, { freq: 3 });
    const change: fc.Arbitrary<Change> = fc.oneof(
      fc.record({ of: fc.constant('solids' as const), id: id('s'), to: orNull(material.map(cube)) }),
      fc.record({ of: fc.constant('objects' as const), id: id('o'), to: orNull(model.map((path) => prop(path))) }),
      fc.record({
        of: fc.constant('prefabs' as const),
        id: id('p'),
        to: orNull(fc.tuple(material, fc.constantFrom(null, 'p4')).map(([m, p]) => prefab(m, p))),
      }),
      fc.record({
        of: fc.constant('copies' as const),
        id: id('c'),
        to: orNull(
          fc
            .tuple(id('p'), model)
            .map(([of, what]) => ({ prefab: of, name: 'copy', position: [0, 0, 0] as [number, number, number], turn: 0, values: { what } })),
        ),
      }),
      fc.record({
        of: fc.constant('signals' as const),
        id: id('g'),
        to: orNull(fc.constantFrom('startup', 'gone').map((script) => ({ from: 'o1', event: 'used', to: { script }, delay: 0 }))),
      }),
    );
    fc.assert(
      fc.property(fc.array(fc.array(change, { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 8 }), (edits) => {
        let now = world();
        const kept = new LinkGraph(now);
        for (const changes of edits) {
          const maps = { ...now.crate.maps, hall: applyEdit(now.crate.maps.hall, { name: 'edit', changes }) };
          now = { ...now, crate: { ...now.crate, maps } };
          kept.update(now);
        }
        const anew = new LinkGraph(now);
        expect(tiesOf(kept)).toEqual(tiesOf(anew));
        const report = (graph: LinkGraph) =>
          reportOf(graph, now, 'hall').links.map((link) => ({ ...link, solids: [...link.solids].sort(), objects: [...link.objects].sort() }));
        expect(report(kept)).toEqual(report(anew));
      }),
      { numRuns: 60 },
    );
  });

  it('follows materials, scripts, maps and objects with scripts that come and go', () => {
    const first = world();
    const graph = new LinkGraph(first);
    const { crate } = first;
    const states = [
      { ...crate, manifest: { ...crate.manifest, materials: crate.manifest.materials.slice(1) } },
      { ...crate, scripts: { ...crate.scripts, 'scripts/own.lua': 'function on_used() wear("moss") end' } },
      {
        ...crate,
        scripts: { ...crate.scripts, 'scripts/own.lua': 'function on_used() end' },
        maps: {
          hall: { ...crate.maps.hall, objects: { ...crate.maps.hall.objects, o1: { ...crate.maps.hall.objects.o1, script: 'scripts/own.lua' } } },
        },
      },
      { ...crate, maps: { hall: crate.maps.hall, yard: crate.maps.hall } },
      crate,
    ];
    for (const state of states) {
      const now = { ...first, crate: state };
      graph.update(now);
      expect(tiesOf(graph)).toEqual(tiesOf(new LinkGraph(now)));
    }
    // A script of an object's own runs with it, not with the map.
    graph.update({ ...first, crate: states[2] });
    expect([...graph.tie('map:hall', 'script:scripts/own.lua')!.uses.values()]).toEqual([
      { who: 'an object', what: 'its script', map: 'hall', object: 'o1' },
    ]);
  });

  it('tells why: the shortest chain first, every step with who', () => {
    const graph = new LinkGraph(world());
    const { chains, more } = chainsTo(graph, 'texture:textures/moss.ktx2');
    expect(more).toBe(false);
    expect(chains.map((chain) => chain.map(({ to }) => to))).toEqual([
      ['model:models/pump.glb', 'material:moss', 'texture:textures/moss.ktx2'],
      ['model:models/barrel.glb', 'material:moss', 'texture:textures/moss.ktx2'],
    ]);
    const [[first, second]] = chains;
    expect([...first.uses.values()].map((use) => graph.whoIs(use))).toEqual(['pump']);
    expect([...second.uses.values()]).toEqual([{ who: 'model models/pump.glb', what: 'slot moss' }]);
    expect(chainsTo(graph, 'sound:sounds/bell.wav').chains[0].map(({ uses }) => [...uses.values()].at(-1)!.what)).toEqual(['runs it', 'line 2']);
    expect(chainsTo(graph, 'texture:textures/nothing.ktx2')).toEqual({ chains: [], more: false });
  });

  it('tells what would go and what would break', () => {
    const graph = new LinkGraph(world());
    const pump = without(graph, 'model:models/pump.glb');
    expect(pump.goes.map(({ id }) => id).sort()).toEqual(['material:paint', 'model:models/pump.glb', 'texture:textures/pump.ktx2']);
    expect(pump.bytes).toBe(900 + 300);
    expect(pump.breaks.map(({ from }) => from)).toEqual(['map:hall']);
    expect(without(graph, 'material:moss').bytes).toBe(50);
    expect(without(graph, 'texture:not/there.ktx2')).toEqual({ goes: [], bytes: 0, breaks: [] });
  });

  it('lays bytes under their cause: what only the pump needs lies under it, what both need under the map', () => {
    const made = world();
    const graph = new LinkGraph(made);
    const root = causesOf(graph, made);
    const hall = root.children[0];
    const tree = ({ name, total, children }: Cause): unknown => [name, total, children.map(tree)];
    const script = made.crate.scripts['scripts/main.lua'].length;
    expect(tree(hall)).toEqual([
      'hall',
      900 + 300 + 400 + 50 + 80 + script,
      [
        ['pump', 1200, [['models/pump.glb', 1200, [['paint', 300, [['textures/pump.ktx2', 300, []]]]]]]],
        ['barrel', 400, [['models/barrel.glb', 400, []]]],
        ['scripts/main.lua', 80 + script, [['sounds/bell.wav', 80, []]]],
        ['moss', 50, [['textures/moss.ktx2', 50, []]]],
      ],
    ]);
    expect(root.total).toBe(hall.total);
  });

  it('what a cause says is what taking it out saves', () => {
    const made = world();
    const graph = new LinkGraph(made);
    const all = (cause: Cause): Cause[] => [cause, ...cause.children.flatMap(all)];
    const causes = all(causesOf(graph, made)).filter(({ id }) => !/^(crate|object|map):/.test(id));
    expect(causes.map(({ id }) => id)).toContain('model:models/pump.glb');
    for (const { id, total } of causes) expect([id, without(graph, id).bytes]).toEqual([id, total]);
  });

  it('many ways to one thing are bounded, and said to be more', () => {
    const made = world();
    const objects = Object.fromEntries(Array.from({ length: 300 }, (_, i) => [`model_${i}`, i]));
    for (const name of Object.keys(objects)) {
      made.crate.files.push({ path: `models/${name}.glb`, bytes: 1, sha256: name.padStart(64, '0') });
      made.crate.manifest.assets[`models/${name}.glb`] = { source: 'x', options: {}, slots: [{ slot: 'a', material: 'moss', by: 'hand' }] };
    }
    const changes = Object.keys(objects).map((name, i): Change => ({ of: 'objects', id: `o${i + 10}`, to: prop(`models/${name}.glb`, name) }));
    made.crate.maps.hall = applyEdit(made.crate.maps.hall, { name: 'many', changes });
    expect(chainsTo(new LinkGraph(made), 'material:moss')).toMatchObject({ more: true, chains: { length: 60 } });
  });
});
