/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it, jest } from '@jest/globals';
import { EditorView } from '@codemirror/view';
import { act, cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { profile } from '@violet-crate/core/testing/maps';
import type { Snippet } from '@violet-crate/core/script/snippet';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import { ScriptsPage } from './ScriptsPage.tsx';

afterEach(cleanup);
afterEach(() => void jest.restoreAllMocks());

const MAIN = profile.scripts.main;
const user = () => userEvent.setup();
const source = (path = MAIN) => store.getState().crate.scripts[path];
const editor = () => EditorView.findFromDOM(document.querySelector<HTMLElement>('.cm-editor')!)!;
const type = (text: string) => act(() => editor().dispatch({ changes: { from: 0, to: editor().state.doc.length, insert: text } }));

function show(scripts: Record<string, string> = {}, address = '/'): string {
  openWorld((world) => Object.assign(world.crate.scripts, scripts));
  renderIn(<ScriptsPage />, address);
  return store.getState().crate.view!.id;
}

describe('the page of scripts', () => {
  it('lists the files, marks what cannot be read, and opens one at a line', async () => {
    show({ 'scripts/locks.lua': 'function open()\nend\n', 'scripts/torn.lua': 'function (' }, '/?file=scripts/locks.lua&line=2');
    expect(screen.getByRole('textbox', { name: 'Script scripts/locks.lua' }).textContent).toContain('function open()');
    expect(editor().state.selection.main.head).toBe(source('scripts/locks.lua').indexOf('end'));
    expect(screen.getByRole('button', { name: /torn\.lua/ }).textContent).toContain('error');
    await user().click(screen.getByRole('button', { name: /torn\.lua/ }));
    expect((await screen.findByRole('alert')).textContent).toMatch(/scripts\/torn\.lua:1/);
  });

  it('what is typed is kept and told; leaving sends what waits', () => {
    const id = show();
    const sent = serve({ 'PUT ': {} });
    type('-- by hand\n');
    expect(source()).toBe('-- by hand\n');
    expect(screen.getByText('Saving')).toBeTruthy();
    cleanup();
    expect(sent[0]).toEqual({ method: 'PUT', path: `/api/crates/${id}/${MAIN}`, body: { source: '-- by hand\n' } });
  });

  it('a change from elsewhere replaces the text without being sent back', async () => {
    show();
    const sent = serve({ 'PUT ': {} });
    const { scriptTyped } = await import('../state/scriptsSlice.ts');
    act(() => void store.dispatch(scriptTyped({ crateId: store.getState().crate.view!.id, path: MAIN, source: '-- renamed\n' })));
    expect(editor().state.doc.toString()).toBe('-- renamed\n');
    expect(store.getState().scripts.unsaved.map((one) => one.source)).toEqual(['-- renamed\n']);
    expect(sent).toEqual([]);
  });

  it('a new one is named by the rules and opened; a refusal is said', async () => {
    const id = show({ 'scripts/locks.lua': '' });
    await user().click(screen.getByRole('button', { name: 'New' }));
    const field = screen.getByLabelText('Name');
    await user().type(field, 'locks');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Make' }).disabled).toBe(true);
    await user().clear(field);
    await user().type(field, 'gates');
    const sent = serve({ [`PUT /api/crates/${id}/scripts/gates.lua`]: new Refusal(507, 'The disk is full.') });
    await user().click(screen.getByRole('button', { name: 'Make' }));
    expect(sent[0].body).toEqual({ source: '-- gates\n\n' });
    expect((await screen.findByRole('alert')).textContent).toBe('The disk is full.');
  });

  it('removing asks first; where it fails, what was typed stays to be saved', async () => {
    const id = show({ 'scripts/locks.lua': '-- a' }, '/?file=scripts/locks.lua');
    const confirm = jest.spyOn(window, 'confirm').mockReturnValue(false);
    const sent = serve({ [`DELETE /api/crates/${id}`]: new Refusal(503, 'The server is starting.') });
    await user().click(screen.getByRole('button', { name: 'Remove' }));
    expect(sent).toEqual([]);
    confirm.mockReturnValue(true);
    await user().click(screen.getByRole('button', { name: 'Remove' }));
    expect(sent[0]).toMatchObject({ method: 'DELETE', path: `/api/crates/${id}/files/scripts/locks.lua` });
    expect((await screen.findByRole('alert')).textContent).toBe('The server is starting.');
    expect(source('scripts/locks.lua')).toBe('-- a');
    expect(store.getState().scripts.unsaved.map(({ path }) => path)).toContain('scripts/locks.lua');
  });

  it('the script that the game starts with cannot be removed', () => {
    show({}, `/?file=${MAIN}`);
    expect(screen.queryByRole('button', { name: 'Remove' })).toBeNull();
  });

  it('the outline says who calls each function, and leads there', async () => {
    show(
      { 'scripts/a.lua': 'function open()\n  lift()\nend\n', 'scripts/b.lua': 'function lift()\nend\nfunction idle()\nend\n' },
      '/?file=scripts/b.lua',
    );
    const item = (name: string) => screen.getAllByRole('listitem').find((one) => one.textContent.startsWith(name))!;
    expect(item('lift()').textContent).toContain('called by open');
    expect(item('idle()').textContent).toContain('nothing calls it');
    await user().click(within(item('lift()')).getByRole('button', { name: 'open' }));
    expect(screen.getByRole('textbox', { name: 'Script scripts/a.lua' })).toBeTruthy();
    expect(editor().state.doc.lineAt(editor().state.selection.main.head).number).toBe(2);
  });
});

describe('snippets', () => {
  const snippet: Snippet = {
    format: 1,
    title: 'Dripping pipes',
    author: 'Ada Reed',
    licence: 'CC BY 4.0',
    call: 'drip()',
    body: 'function drip() end',
  };
  const dialog = () => within(screen.getByRole('dialog'));
  const add = async (given: Partial<Snippet>) => {
    await user().click(screen.getByRole('button', { name: 'Add' }));
    const file = new File([JSON.stringify({ ...snippet, ...given })], 'drip.json', { type: 'application/json' });
    await user().upload(dialog().getByLabelText('Take it from a file'), file);
  };

  it('are put in with their credit, and taken out again without a trace', async () => {
    const id = show();
    const before = source();
    const sent = serve({ [`PATCH /api/crates/${id}`]: (body) => ({ ...store.getState().crate.view!.manifest, ...(body as object) }) });
    await add({});
    expect(await dialog().findByDisplayValue('Dripping pipes')).toBe(dialog().getByLabelText('Title'));
    await user().click(dialog().getByRole('button', { name: 'Add to the script' }));
    expect(source()).toContain('function drip() end');
    expect(sent[0].body).toEqual({ credits: [{ author: 'Ada Reed', work: expect.stringContaining('Dripping pipes'), licence: 'CC BY 4.0' }] });
    await user().click(await screen.findByRole('button', { name: 'Remove snippet Dripping pipes' }));
    expect(source().trimEnd()).toBe(before.trimEnd());
    expect(sent.at(-1)!.body).toEqual({ credits: [] });
  });

  it('need a title, an author, a licence and functions that can be read', async () => {
    show();
    await add({});
    await dialog().findByDisplayValue('Dripping pipes');
    const status = () => dialog().getByRole('status').textContent;
    await user().clear(dialog().getByLabelText('Author'));
    expect(status()).toBe('Say whose work it is.');
    await user().clear(dialog().getByLabelText('Title'));
    expect(status()).toBe('It needs a title.');
    expect(dialog().getByRole<HTMLButtonElement>('button', { name: 'Add to the script' }).disabled).toBe(true);
  });

  it('a file that is none is said with its place', async () => {
    show();
    await user().click(screen.getByRole('button', { name: 'Add' }));
    await user().upload(dialog().getByLabelText('Take it from a file'), new File(['{"format":1,\n'], 'torn.json', { type: 'application/json' }));
    expect((await dialog().findByRole('alert')).textContent).toMatch(/torn\.json.*line 2/);
  });
});
