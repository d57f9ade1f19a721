/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, expect, it } from '@jest/globals';
import { act, cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { createMemoryRouter, Link, RouterProvider } from 'react-router';
import { LeaveGuard } from './LeaveGuard.tsx';

afterEach(cleanup);

function open(when: boolean) {
  const page = (
    <>
      <LeaveGuard when={when} what="Two cells are not written." stays={(from, to) => from.pathname === to.pathname} />
      <Link to="/bank?view=map">map</Link>
      <Link to="/links">links</Link>
    </>
  );
  const router = createMemoryRouter(
    [
      { path: '/bank', element: page },
      { path: '*', element: <p>elsewhere</p> },
    ],
    { initialEntries: ['/', '/bank'] },
  );
  render(<RouterProvider router={router} />);
  return { router, at: () => router.state.location.pathname + router.state.location.search };
}

it('what is unwritten is left behind only when that is said', async () => {
  const user = userEvent.setup();
  const { router, at } = open(true);
  await user.click(screen.getByRole('link', { name: 'links' }));
  const dialog = await screen.findByRole('dialog', { name: 'Discard changes?' });
  expect(dialog.textContent).toContain('Two cells are not written.');
  await user.click(screen.getByRole('button', { name: 'Stay here' }));
  expect(at()).toBe('/bank');
  // Going back asks just the same.
  await act(() => router.navigate(-1));
  await user.click(await screen.findByRole('button', { name: 'Discard changes' }));
  expect(at()).toBe('/');
});

it('asks neither within the same document nor where nothing would be lost', async () => {
  const user = userEvent.setup();
  const dirty = open(true);
  await user.click(screen.getByRole('link', { name: 'map' }));
  expect(dirty.at()).toBe('/bank?view=map');
  cleanup();
  const clean = open(false);
  await user.click(screen.getByRole('link', { name: 'links' }));
  expect(clean.at()).toBe('/links');
});

it('asks the browser to ask before a tab closes', () => {
  const closing = () => {
    const event = new Event('beforeunload', { cancelable: true });
    window.dispatchEvent(event);
    return event.defaultPrevented;
  };
  open(true);
  expect(closing()).toBe(true);
  cleanup();
  expect(closing()).toBe(false);
});
