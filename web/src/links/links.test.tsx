/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { act, cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { checkCrate } from '@violet-crate/core/check/checkCrate';
import { newObject } from '@violet-crate/core/profile/newObject';
import { checked } from '../state/checksSlice.ts';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { LinksPage } from './LinksPage.tsx';

afterEach(cleanup);

/** A room with a model that is there and one that is not. */
function open() {
  const world = openWorld(({ crate, profile }) => {
    const prop = (name: string, model: string) => ({ ...newObject(profile, 'prop', name, [0, 0, 0]), properties: { model, solid: true } });
    crate.files.push({ path: 'models/vase.glb', bytes: 2048, sha256: '0'.repeat(64) });
    crate.maps.hall.objects.o8 = prop('vase', 'models/vase.glb');
    crate.maps.hall.objects.o9 = prop('ghost', 'models/ghost.glb');
  });
  const { findings, links } = checkCrate(world);
  act(() => void store.dispatch(checked({ findings, links, milliseconds: 1 })));
}
const rows = () =>
  within(screen.getByRole('table'))
    .getAllByRole('row')
    .slice(1)
    .map((row) => row.textContent!);

describe('the links of a map', () => {
  it('are counted by where they come from; what is missing stands out', () => {
    open();
    renderIn(<LinksPage />);
    expect(screen.getByText(/The map needs/).textContent).toMatch(/1 missing/);
    expect(rows().find((row) => row.includes('models/ghost.glb'))).toMatch(/^\s*missing/);
    expect(rows().find((row) => row.includes('models/vase.glb'))).toMatch(/crate.*2.0 KiB.*vase/);
  });

  it('are filtered by origin and searched by name', async () => {
    open();
    renderIn(<LinksPage />);
    const all = rows().length;
    await userEvent.click(screen.getByRole('button', { name: 'missing 1' }));
    expect(rows()).toHaveLength(1);
    await userEvent.click(screen.getByRole('button', { name: `All ${all}` }));
    await userEvent.type(screen.getByLabelText('Search links'), 'VASE');
    expect(rows()).toHaveLength(1);
    expect(rows()[0]).toContain('models/vase.glb');
  });

  it('lead to what needs them', async () => {
    open();
    renderIn(<LinksPage />);
    await userEvent.type(screen.getByLabelText('Search links'), 'ghost');
    await userEvent.click(screen.getByRole('button', { name: 'Show' }));
    expect(store.getState().view.selection.objects).toEqual(['o9']);
  });

  it('until they are followed the page says so', () => {
    act(() => void store.dispatch(checked({ findings: [], links: [], milliseconds: 1 })));
    openWorld();
    renderIn(<LinksPage />);
    expect(screen.getByRole('status').textContent).toContain('Following the links');
  });
});
