/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { testProfile } from '@violet-crate/core/testing/world';
import type { Game } from '../api/types.ts';
import { renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import { NewCrate } from './NewCrate.tsx';

afterEach(cleanup);

const games = [
  { profile: testProfile(), folder: '/games/brinewick', version: '2.4.1' },
  { profile: testProfile('skarrow'), folder: '/games/skarrow', version: null },
] as unknown as Game[];
const show = (taken: string[] = []) => renderIn(<NewCrate games={games} taken={taken} close={() => {}} />);
const dialog = () => within(screen.getByRole('dialog'));
const user = () => userEvent.setup();
const make = () => dialog().getByRole<HTMLButtonElement>('button', { name: /Make/ });

describe('a new crate', () => {
  it('makes its short name of the title, and shows every file before anything is made', async () => {
    const sent = serve({ 'POST /api/crates/plan': { files: ['crate.json', 'maps/harbour_steps.map.json'] } });
    show();
    expect(dialog().getByText('Give the crate a title first.')).toBeTruthy();
    expect(make().disabled).toBe(true);
    await user().type(dialog().getByLabelText('Title'), 'Harbour Steps');
    expect(dialog().getByLabelText<HTMLInputElement>('Short name').value).toBe('harbour_steps');
    expect(await dialog().findByText('maps/harbour_steps.map.json')).toBeTruthy();
    expect(sent.at(-1)!.body).toEqual({ profile: 'brinewick', name: 'harbour_steps', title: 'Harbour Steps', template: 'sealed-room' });
    expect(make().disabled).toBe(false);
  });

  it('a name that is taken or against the rules is said, and nothing is asked', async () => {
    const sent = serve({});
    show(['harbour_steps']);
    await user().type(dialog().getByLabelText('Title'), 'Harbour Steps');
    expect(dialog().getByRole('alert').textContent).toMatch(/taken|already|exists/i);
    await user().clear(dialog().getByLabelText('Short name'));
    await user().type(dialog().getByLabelText('Short name'), 'Harbour Steps!');
    expect(dialog().getByRole('alert').textContent.length).toBeGreaterThan(10);
    expect(make().disabled).toBe(true);
    expect(sent.filter(({ method }) => method !== 'GET')).toEqual([]);
  });

  it('a refusal leaves all that was typed, to be tried again', async () => {
    serve({ 'POST /api/crates/plan': { files: ['crate.json'] }, 'POST /api/crates': new Refusal(507, 'The disk is full.') });
    show();
    await user().type(dialog().getByLabelText('Title'), 'Harbour Steps');
    await user().click(dialog().getByRole('radio', { name: /^Blank/ }));
    await dialog().findByText('crate.json');
    await user().click(make());
    expect((await dialog().findByRole('alert')).textContent).toBe('The disk is full.');
    expect(dialog().getByLabelText<HTMLInputElement>('Title').value).toBe('Harbour Steps');
    expect(make().disabled).toBe(false);
  });

  it('an example is offered only where the game ships one', async () => {
    serve({});
    show();
    const offered = () => dialog().queryByRole('radio', { name: /Copy of the example/ }) !== null;
    for (const game of games) {
      await user().selectOptions(dialog().getByLabelText('Game'), game.profile.id);
      expect([game.profile.id, offered()]).toEqual([game.profile.id, Boolean(game.profile.example)]);
    }
  });
});
