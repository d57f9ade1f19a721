/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { act, cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { OpenedFile, Openers } from '../api/types.ts';
import { openedChanged } from '../state/crateSlice.ts';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import { EditElsewhere } from './EditElsewhere.tsx';
import { ProgramTable } from './ProgramTable.tsx';

afterEach(cleanup);
const programs: Openers = {
  noScreen: null,
  system: 'xdg-open',
  programs: { model: '', script: '"/opt/my tools/scribe" --new', texture: '' },
  names: { script: 'scribe' },
};
const opened: OpenedFile = { path: 'scripts/main.lua', file: '/data/opened/main.lua', program: 'scribe', conflict: false, problem: null };
const crateId = () => store.getState().crate.view!.id;

describe('editing a source elsewhere', () => {
  it('says which program, where the file lies, and asks which side stands', async () => {
    openWorld();
    let list: OpenedFile[] = [];
    const at = `/api/crates/${crateId()}/opened`;
    const sent = serve({
      'GET /api/programs': programs,
      [`GET ${at}`]: () => list,
      [`POST ${at}`]: () => ((list = [opened]), opened),
      [`POST ${at}/settle`]: () => (list = [opened]),
      [`DELETE ${at}`]: () => (list = []),
    });
    renderIn(<EditElsewhere path="scripts/main.lua" />);
    const user = userEvent.setup();
    await user.click(await screen.findByRole('button', { name: /Edit in scribe/ }));
    expect((await screen.findByRole('status')).textContent).toContain('/data/opened/main.lua');
    act(() => void store.dispatch(openedChanged([{ ...opened, conflict: true }])));
    await user.click(screen.getByRole('button', { name: 'That of the crate' }));
    expect(sent.at(-1)).toMatchObject({ method: 'POST', path: `${at}/settle`, body: { path: 'scripts/main.lua', take: 'crate' } });
    await user.click(await screen.findByRole('button', { name: 'No longer' }));
    expect(screen.queryByRole('status')).toBeNull();
  });

  it('a machine without a screen says so, and a program that fails says why', async () => {
    openWorld();
    serve({ 'GET /api/programs': { ...programs, noScreen: 'No window can be opened here.' } });
    renderIn(<EditElsewhere path="models/pump.glb" />);
    expect((await screen.findByRole<HTMLButtonElement>('button', { name: /the system’s program/ })).disabled).toBe(true);
    expect(screen.getByText('No window can be opened here.')).toBeTruthy();
    cleanup();
    serve({ 'GET /api/programs': programs, 'POST /api/crates': new Refusal(422, 'There is no program scribe on this machine.') });
    renderIn(<EditElsewhere path="scripts/main.lua" />);
    await userEvent.setup().click(await screen.findByRole('button', { name: /scribe/ }));
    expect((await screen.findByRole('alert')).textContent).toContain('no program scribe');
  });

  it('programs are kept as they are typed, and tried', async () => {
    const sent = serve({
      'GET /api/programs': programs,
      'PUT /api/programs': (body: unknown) => ({ ...programs, ...(body as object) }),
      'POST /api/programs/texture/try': { program: 'paint', file: '/data/opened/samples/sample.png' },
      'POST /api/programs/model/try': new Refusal(422, 'xdg-open ended with error 4.'),
    });
    renderIn(<ProgramTable />);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText('Pictures'), '/usr/bin/paint');
    await user.click(screen.getByRole('button', { name: 'Try the program for pictures' }));
    expect(await screen.findByText('paint was given /data/opened/samples/sample.png.')).toBeTruthy();
    expect(sent).toContainEqual({ method: 'PUT', path: '/api/programs', body: { programs: { texture: '/usr/bin/paint' } } });
    await user.click(screen.getByRole('button', { name: 'Try the program for models' }));
    expect(await screen.findByText(/ended with error 4/)).toBeTruthy();
  });
});
