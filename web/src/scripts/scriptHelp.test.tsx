/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { CompletionContext } from '@codemirror/autocomplete';
import { EditorState } from '@codemirror/state';
import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { callersOf } from '@violet-crate/core/link/callers';
import { profile } from '@violet-crate/core/testing/maps';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import { callGraph } from './callGraph.ts';
import { findLines } from './FindInScripts.tsx';
import { luaCompletions, luaFindings, luaHover, type ScriptSurroundings } from './luaHelp.ts';
import { NamePanel } from './NamePanel.tsx';

afterEach(cleanup);

const PATH = 'scripts/main.lua';
const SOURCE = '-- lamps\nlocal lit = 0\nfunction touch(value)\n  lit = lit + 1\n  say(value)\nend\nfunction lost() end\n';
const around: ScriptSurroundings = {
  profile,
  scripts: { [PATH]: SOURCE },
  objects: new Map([['lamp_1', { actions: ['light', 'douse'], properties: ['lit'] }]]),
};
const complete = (text: string) => {
  const state = EditorState.create({ doc: text });
  return luaCompletions(PATH, around, new CompletionContext(state, text.length, false))?.options.map(({ label }) => label) ?? [];
};

describe('while Lua is typed', () => {
  it('functions of the game and the crate, variables and words go on with what is there', () => {
    expect(complete(`${SOURCE}to`)).toEqual(expect.arrayContaining(['touch', 'lit', 'say', 'function']));
    expect(complete('  ')).toEqual([]);
  });

  it('objects, their actions and their properties stand in quotes', () => {
    expect(complete('fire("la')).toEqual(['lamp_1']);
    expect(complete('fire("lamp_1", "')).toEqual(['light', 'douse']);
    expect(complete('x = get("lamp_1", "l')).toEqual(['lit']);
  });

  it('a name under the pointer says what it is', () => {
    const at = (text: string) => luaHover(PATH, around, SOURCE.indexOf(text) + 1)?.lines;
    expect(at('touch(')).toEqual(['touch(value)', `${PATH}:3, 1 use`]);
    expect(at('say(')).toEqual(['say(text)', expect.any(String)]);
    expect(at('lit = 0')).toEqual(['local lit', `${PATH}:2, 3 uses`]);
    expect(at('-- lamps')).toBeUndefined();
  });

  it('what is odd is marked; where nothing can be read, the error alone', () => {
    expect(luaFindings(PATH, around, 'fire("lmp_1", "light")').map(({ source, from, to }) => [source, from, to])).toEqual([['script-object', 0, 22]]);
    expect(luaFindings(PATH, around, 'fire(').map(({ severity }) => severity)).toEqual(['error']);
  });

  it('lines of all files are found, with or without their capitals', () => {
    const scripts = { 'scripts/b.lua': 'Lit = 1\n', 'scripts/a.lua': 'x = 2\nlit = 3\n' };
    expect(findLines(scripts, 'lit', false).map(({ path, line }) => [path, line])).toEqual([
      ['scripts/a.lua', 2],
      ['scripts/b.lua', 1],
    ]);
    expect(findLines(scripts, 'lit', true)).toHaveLength(1);
    expect(findLines(scripts, '', false)).toEqual([]);
  });
});

describe('who calls whom', () => {
  it('leads from the game and from signals; what nothing leads to is told', () => {
    const scripts = { [PATH]: 'function startup() a() end\nfunction a() end\nfunction lost() deeper() end\nfunction deeper() end\n' };
    const { nodes, edges, width } = callGraph(scripts, callersOf(profile, scripts, {}));
    expect(nodes.filter(({ unreached }) => unreached).map(({ label }) => label)).toEqual(['lost()', 'deeper()']);
    expect(edges.map(({ from, to }) => `${from} > ${to}`)).toContain('function startup > function a');
    expect(width).toBeGreaterThan(0);
    expect(nodes.every(({ x, y }) => Number.isFinite(x) && Number.isFinite(y))).toBe(true);
  });
});

describe('the name at the caret', () => {
  const open = (caret: number, source = SOURCE) => {
    openWorld((world) => Object.assign(world.crate.scripts, { [PATH]: source }));
    const lines: [string, number][] = [];
    renderIn(<NamePanel path={PATH} caret={caret} onLine={(path, line) => lines.push([path, line])} />);
    return lines;
  };

  it('leads to where it is defined and used', async () => {
    const lines = open(SOURCE.indexOf('lit + 1'));
    await userEvent.setup().click(screen.getByRole('button', { name: /defined in main.lua:2/ }));
    expect(lines).toEqual([[PATH, 2]]);
    expect(screen.getByRole('list', { name: 'Uses of lit' }).children).toHaveLength(3);
  });

  it('a local is renamed here, and words of Lua are refused', async () => {
    open(SOURCE.indexOf('lit + 1'));
    const user = userEvent.setup();
    await user.type(screen.getByLabelText(/Another name for lit/), 'end');
    expect(screen.getByRole('status').textContent).toContain('word of Lua');
    await user.clear(screen.getByLabelText(/Another name/));
    await user.type(screen.getByLabelText(/Another name/), 'burning');
    await user.click(screen.getByRole('button', { name: 'Rename' }));
    expect(store.getState().crate.scripts[PATH]).toContain('burning = burning + 1');
  });

  it('a function is renamed everywhere by the server, whose refusal is told', async () => {
    open(SOURCE.indexOf('touch('));
    const { id } = store.getState().crate.view!;
    const sent = serve({ [`POST /api/crates/${id}/functions/rename`]: new Refusal(422, 'A function is called "lost" already.') });
    const user = userEvent.setup();
    await user.type(screen.getByLabelText(/Another name for touch/), 'lost');
    await user.click(screen.getByRole('button', { name: 'Rename' }));
    expect((await screen.findByRole('status')).textContent).toBe('A function is called "lost" already.');
    expect(sent.at(-1)?.body).toEqual({ from: 'touch', to: 'lost' });
  });

  it('of the game has no other name', () => {
    open(SOURCE.indexOf('say('));
    expect(screen.queryByRole('button', { name: 'Rename' })).toBeNull();
  });
});
