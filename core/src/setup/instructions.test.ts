import { describe, expect, it } from '@jest/globals';
import { applyEdit } from '../document/edit.ts';
import { testWorld } from '../testing/world.ts';
import { planInstructions, readInstructions } from './instructions.ts';

const text = (value: string) => new TextEncoder().encode(value);
const instructions = readInstructions(
  JSON.stringify({
    format: 1,
    title: 'Bell',
    author: 'Ada',
    licence: 'CC0-1.0',
    steps: [
      { do: 'put', title: 'File', file: 'files/bell.png', path: 'sources/bell.png' },
      { do: 'snippet', title: 'Function', script: 'scripts/main.lua', function: 'ring', text: 'function ring()\nend\n' },
      { do: 'set', title: 'Dark', setting: 'skyIntensity', value: 0.25 },
      { do: 'place', title: 'Tower', prefab: 'tower', name: 'tower_1', position: [0, 0, 0] },
      { do: 'hand', title: 'Signal', text: 'Choose ring.' },
    ],
  }),
);
const pack = new Map([['files/bell.png', text('png')]]);

describe('instructions of a pack', () => {
  it('are planned step by step; what cannot be done is told and left out', () => {
    const world = testWorld();
    const { steps, files, edit, manifest } = planInstructions(world, instructions, pack, () => null);
    expect(steps.map(({ state }) => state)).toEqual(['ready', 'ready', 'ready', 'clash', 'hand']);
    expect(steps[3].words).toBe('There is no prefab tower.');
    expect([...files.keys()]).toEqual(['sources/bell.png', 'scripts/main.lua']);
    expect(edit!.changes.map(({ of }) => of)).toEqual(['settings']);
    expect(manifest.credits).toEqual([{ author: 'Ada', work: 'Bell', licence: 'CC0-1.0' }]);
  });

  it('that were followed once have nothing left to do', () => {
    const world = testWorld();
    const { files, edit, manifest } = planInstructions(world, instructions, pack, () => null);
    world.crate.maps.hall = applyEdit(world.crate.maps.hall, edit!);
    world.crate.scripts['scripts/main.lua'] = new TextDecoder().decode(files.get('scripts/main.lua'));
    world.crate.manifest = manifest;
    const again = planInstructions(world, instructions, pack, (path) => files.get(path) ?? null);
    expect(again.steps.map(({ state }) => state)).toEqual(['there', 'there', 'there', 'clash', 'hand']);
    expect([again.files.size, again.edit, again.manifest.credits.length]).toEqual([0, null, 1]);
  });

  it('never overwrite what is another one', () => {
    const world = testWorld();
    world.crate.scripts['scripts/other.lua'] = 'function ring() return 1 end\n';
    const { steps, files } = planInstructions(world, instructions, pack, () => text('another'));
    expect(steps.slice(0, 2).map(({ state, words }) => [state, words])).toEqual([
      ['clash', 'The crate has another sources/bell.png.'],
      ['clash', 'The scripts have another function ring.'],
    ]);
    expect(files.size).toBe(0);
  });

  it('that lead outside the crate are refused', () => {
    const leading = (path: string) => () =>
      readInstructions(JSON.stringify({ ...instructions, steps: [{ do: 'put', title: 'x', file: 'files/a', path }] }));
    for (const path of ['../a', '/a', 'a//b', 'a/../b', '.hidden']) expect(leading(path)).toThrow(/instructions.json/);
  });
});
