/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import { Details } from './Details.tsx';

afterEach(cleanup);
const user = () => userEvent.setup();

function show() {
  const { crate } = openWorld((world) => {
    world.crate.manifest.authors = ['Ada Reed'];
    world.crate.manifest.credits = [{ author: 'Bo Marsh', work: 'pump model', licence: 'CC BY 4.0' }];
  });
  const id = store.getState().crate.view!.id;
  renderIn(<Details manifest={crate.manifest} crateId={id} />);
  return id;
}

describe('what people will read', () => {
  it('is saved with authors one by one, and credits that have an author', async () => {
    const id = show();
    const sent = serve({
      [`PATCH /api/crates/${id}`]: (body) => ({ ...store.getState().crate.view!.manifest, ...(body as object) }),
      'GET /': { packages: [], releases: [] },
    });
    await user().clear(screen.getByLabelText('Version'));
    await user().type(screen.getByLabelText('Version'), '1.1.0');
    await user().type(screen.getByLabelText('Authors'), ' , Cy Fenn,');
    await user().click(screen.getByRole('button', { name: 'Add' }));
    await user().click(screen.getByRole('button', { name: 'Save details' }));
    expect(sent[0].body).toMatchObject({
      version: '1.1.0',
      authors: ['Ada Reed', 'Cy Fenn'],
      credits: [{ author: 'Bo Marsh', work: 'pump model', licence: 'CC BY 4.0' }],
    });
    expect((await screen.findByRole('status')).textContent).toBe('Saved');
    expect(store.getState().crate.view!.manifest.version).toBe('1.1.0');
    await user().click(screen.getByRole('button', { name: 'Remove credit 1' }));
    expect(screen.queryByRole('status')).toBeNull();
    expect(screen.getByLabelText<HTMLInputElement>('Author of credit 1').value).toBe('');
  });

  it('licence, what players choose by and needed mods go along; a licence that is none offers what was meant', async () => {
    const id = show();
    const sent = serve({
      [`PATCH /api/crates/${id}`]: (body) => ({ ...store.getState().crate.view!.manifest, ...(body as object) }),
      'GET /': { packages: [], releases: [] },
    });
    await user().type(screen.getByLabelText('Licence of the whole'), 'cc by 4.0');
    await user().click(screen.getByRole('button', { name: 'Take CC-BY-4.0' }));
    await user().type(screen.getByLabelText('Tags'), 'puzzle, short');
    await user().type(screen.getByLabelText('Players from'), '2');
    await user().click(screen.getByRole('button', { name: 'Add one' }));
    await user().type(screen.getByLabelText('Name of needed mod 1'), 'lamps');
    await user().clear(screen.getByLabelText('Versions of needed mod 1'));
    await user().type(screen.getByLabelText('Versions of needed mod 1'), '^1');
    await user().type(screen.getByLabelText(/^Description/), ' **bold** <b>not</b>');
    await user().click(screen.getByRole('button', { name: 'Preview' }));
    expect(screen.getByTestId('preview').innerHTML).toMatch(/<strong>bold<\/strong> &lt;b&gt;not/);
    await user().click(screen.getByRole('button', { name: 'Save details' }));
    expect(sent[0].body).toMatchObject({ licence: 'CC-BY-4.0', about: { tags: ['puzzle', 'short'], players: [2, 2] }, requires: { lamps: '^1' } });
  });

  it('a refusal is said and leaves what was typed', async () => {
    const id = show();
    serve({ [`PATCH /api/crates/${id}`]: new Refusal(422, 'Version "one" is not of three numbers.') });
    await user().clear(screen.getByLabelText('Version'));
    await user().type(screen.getByLabelText('Version'), 'one');
    await user().click(screen.getByRole('button', { name: 'Save details' }));
    expect((await screen.findByRole('status')).textContent).toBe('Version "one" is not of three numbers.');
    expect(screen.getByLabelText<HTMLInputElement>('Version').value).toBe('one');
  });
});
