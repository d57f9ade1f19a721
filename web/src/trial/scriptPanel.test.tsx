/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { EditorView } from '@codemirror/view';
import { act, cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { profile } from '@violet-crate/core/testing/maps';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { ScriptPanel } from './ScriptPanel.tsx';

afterEach(cleanup);

describe('a script beside the run', () => {
  it('opens with the one that the game starts with; what is typed is the crate’s, to be saved', async () => {
    openWorld((world) => Object.assign(world.crate.scripts, { 'scripts/a.lua': '-- a\n' }));
    renderIn(<ScriptPanel />);
    const main = profile.scripts.main;
    await screen.findByRole('textbox', { name: `Script ${main}` });
    const editor = EditorView.findFromDOM(document.querySelector<HTMLElement>('.cm-editor')!)!;
    act(() => editor.dispatch({ changes: { from: 0, insert: '-- new\n' } }));
    expect(store.getState().crate.scripts[main].startsWith('-- new\n')).toBe(true);
    expect(store.getState().scripts.unsaved.map(({ path }) => path)).toContain(main);
    await userEvent.setup().selectOptions(screen.getByLabelText('Script'), 'scripts/a.lua');
    expect((await screen.findByRole('textbox', { name: 'Script scripts/a.lua' })).textContent).toContain('-- a');
  });

  it('says where there is none', () => {
    openWorld((world) => void (world.crate.scripts = {}));
    renderIn(<ScriptPanel />);
    expect(screen.getByText('The crate has no scripts yet.')).toBeTruthy();
  });
});
