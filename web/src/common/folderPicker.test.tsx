/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it, jest } from '@jest/globals';
import { act, cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { renderIn } from '../testing/render.tsx';
import { FolderPicker } from './FolderPicker.tsx';

afterEach(cleanup);

const show = () => {
  const chosen = jest.fn<(folder: string) => void>();
  renderIn(<FolderPicker title="Folder" take="Take it" choose={chosen} close={() => {}} />);
  return chosen;
};
const path = () => screen.getByLabelText<HTMLInputElement>('Path of the folder');

describe('choosing a folder', () => {
  it('never writes over what is typed while folders are being read: the home folder would be taken instead', async () => {
    let answer: (response: Response) => void = () => {};
    globalThis.fetch = () => new Promise((resolve) => (answer = resolve));
    const chosen = show();
    await userEvent.type(path(), '/work/mine');
    await act(async () => {
      answer(new Response(JSON.stringify({ path: '/home/me', parent: '/home', folders: [], files: 0 })));
      await new Promise((done) => setTimeout(done));
    });
    expect(path().value).toBe('/work/mine');
    await userEvent.click(screen.getByRole('button', { name: 'Take it' }));
    expect(chosen).toHaveBeenCalledWith('/work/mine');
  });

  it('walks down and up, and says what cannot be looked into', async () => {
    globalThis.fetch = (input) => {
      const wanted = new URL(`http://x${input as string}`).searchParams.get('path') || '/home/me';
      return Promise.resolve(
        wanted === '/home/me/shut'
          ? new Response(JSON.stringify({ detail: 'It may not be looked into.' }), { status: 422 })
          : new Response(JSON.stringify({ path: wanted, parent: '/home', folders: ['games', 'shut'], files: 2 })),
      );
    };
    show();
    await userEvent.click(await screen.findByRole('button', { name: 'games' }));
    expect(path().value).toBe('/home/me/games');
    await userEvent.click(screen.getByRole('button', { name: 'one up' }));
    expect(path().value).toBe('/home');
    await userEvent.clear(path());
    await userEvent.type(path(), '/home/me/shut{Enter}');
    expect((await screen.findByRole('alert')).textContent).toBe('It may not be looked into.');
  });
});
