/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it, jest } from '@jest/globals';
import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { renderIn } from '../testing/render.tsx';
import { FreeSpace } from './FreeSpace.tsx';

afterEach(cleanup);

const full = {
  parts: { files: 1, bytes: 1024 },
  unused: { files: 3, bytes: 2048 },
  cache: { files: 9, bytes: 9 << 20 },
  copies: { files: 0, bytes: 0 },
};
const empty = Object.fromEntries(Object.keys(full).map((what) => [what, { files: 0, bytes: 0 }]));

/** Answers of the server in their order; a number is a refusal with that status. */
function server(...answers: (object | number)[]) {
  const bodies: unknown[] = [];
  globalThis.fetch = jest.fn((_url: string, init?: RequestInit) => {
    if (init?.body) bodies.push(JSON.parse(String(init.body)));
    const answer = answers.shift()!;
    const ok = typeof answer !== 'number';
    return Promise.resolve({ ok, status: ok ? 200 : answer, json: () => Promise.resolve(ok ? answer : { detail: 'Work is under way.' }) });
  }) as unknown as typeof fetch;
  return bodies;
}

describe('free space', () => {
  it('shows what each would free, clears what is chosen, and says how much that was', async () => {
    const bodies = server(full, { ...full, parts: empty.parts, unused: empty.unused });
    renderIn(<FreeSpace close={() => {}} />);
    expect(screen.getByRole('status').textContent).toContain('Looking through the data folder');
    await screen.findByText('9.0 MiB');
    expect(screen.getByLabelText<HTMLInputElement>(/^Copies of the database/).disabled).toBe(true);
    expect(screen.getByLabelText<HTMLInputElement>(/^Kept stages of builds/).checked).toBe(false);
    await userEvent.click(screen.getByRole('button', { name: 'Free 3.0 KiB' }));
    await screen.findByText('3.0 KiB freed');
    expect(bodies).toEqual([{ what: ['parts', 'unused'] }]);
    await userEvent.click(screen.getByLabelText(/^Kept stages of builds/));
    expect(screen.getByRole('button', { name: 'Free 9.0 MiB' })).toBeTruthy();
  });

  it('has nothing to do where everything is needed', async () => {
    server(empty);
    renderIn(<FreeSpace close={() => {}} />);
    await screen.findByText('Everything in the data folder is needed.');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Free 0 B' }).disabled).toBe(true);
  });

  it('says why it cannot, and looks again', async () => {
    server(full, 409, empty);
    renderIn(<FreeSpace close={() => {}} />);
    await userEvent.click(await screen.findByRole('button', { name: 'Free 3.0 KiB' }));
    expect((await screen.findByRole('alert')).textContent).toContain('Work is under way.');
    await userEvent.click(screen.getByRole('button', { name: 'Try again' }));
    await screen.findByText('Everything in the data folder is needed.');
  });
});
