/** Two windows in one run: they see each other, both act, and one goes. */

import { expect, test, type Page } from '@playwright/test';
import type { GameMap, MapObject } from '@violet-crate/core/document/schema';
import { Application } from './application.ts';

let application: Application;
let id = '';
const send = <T>(path: string, body: unknown): Promise<T> =>
  application.json<T>(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });

/** A room with two starts, and a crank before the second that raises a gate. */
test.beforeAll(async () => {
  application = await Application.start();
  id = (await send<{ id: string }>('/api/crates', { profile: 'brinewick', name: 'pair', title: 'Pair', template: 'sealed-room' })).id;
  const { map, revision } = await application.json<{ map: GameMap; revision: number }>(`/api/crates/${id}/maps/pair`);
  const [start] = Object.entries(map.objects).find(([, one]) => one.class === 'start')!;
  const object = (of: string, name: string, position: [number, number, number], properties: MapObject['properties'] = {}): MapObject => ({
    class: of,
    name,
    position,
    turn: 0,
    properties,
  });
  const changes = [
    { of: 'objects', id: start, to: { ...map.objects[start], position: [-96, -80, 2], turn: 0 } },
    { of: 'objects', id: 'second', to: object('start', 'second', [-96, 40, 2]) },
    { of: 'objects', id: 'crank', to: object('crank', 'crank', [-46, 40, 0]) },
    { of: 'objects', id: 'gate', to: object('sluice', 'gate', [0, 96, 0], { size: [64, 8, 48], travel: [0, 0, 24], speed: 48, material: 'brass' }) },
    { of: 'signals', id: 'g1', to: { from: 'crank', event: 'turned', to: { object: 'gate', action: 'raise' }, delay: 0 } },
  ];
  await send(`/api/crates/${id}/maps/pair/edits`, { base: revision, edits: [{ name: 'pair', changes }] });
  const job = await send<{ id: string }>(`/api/crates/${id}/builds`, { map: 'pair', quality: 'draft' });
  await expect.poll(async () => (await application.json<{ state: string }>(`/api/jobs/${job.id}`)).state, { timeout: 180_000 }).toBe('done');
});
test.afterAll(() => application.stop());

const feet = async (page: Page) => (await page.getByTestId('trial-hud').getAttribute('data-feet'))!.split(',').map(Number);

test('two windows play in one run, see each other and act', async ({ page, context }) => {
  await page.goto(`${application.url}/crates/${id}/trial`);
  await page.getByRole('button', { name: 'Play together' }).click({ timeout: 60_000 });
  await page.getByRole('heading', { name: 'Walk through pair' }).waitFor({ timeout: 60_000 });
  await page.keyboard.press('Shift');
  await expect(page.getByTestId('together')).toHaveText('Nobody else is here yet.');

  const other = await context.newPage();
  await other.goto(page.url());
  await other.getByRole('heading', { name: 'Walk through pair' }).waitFor({ timeout: 60_000 });
  await other.keyboard.press('Shift');
  await expect(other.getByTestId('together')).toHaveText('With Host.');
  await expect(page.getByTestId('together')).toHaveText('With Guest 2.');

  // Each walks by itself, from a start of its own; what one does is told to both.
  const before = await feet(page);
  await expect(other.getByText('operate crank')).toBeVisible();
  await other.keyboard.press('q');
  await expect(page.getByRole('log')).toContainText('crank.turned → gate.raise');
  await expect(other.getByRole('log')).toContainText('crank.turned → gate.raise');
  await other.keyboard.down('ArrowDown');
  await expect.poll(async () => (await feet(other))[0], { timeout: 30_000 }).toBeLessThan(-105);
  await other.keyboard.up('ArrowDown');
  expect(await feet(page)).toEqual(before);

  await other.close();
  await expect(page.getByTestId('together')).toHaveText('Nobody else is here yet.');
  await expect(page.getByRole('log')).toContainText('Guest 2 has gone.');
  await page.getByRole('button', { name: 'Leave' }).click();
  await expect(page.getByRole('button', { name: 'Go back to the run' })).toBeVisible({ timeout: 60_000 });
});

test('an address of a run that is over says so', async ({ page }) => {
  const [build] = await application.json<{ id: string }[]>(`/api/crates/${id}/builds`);
  await page.goto(`${application.url}/crates/${id}/trial?run=no-such&build=${build.id}`);
  await expect(page.getByRole('alert')).toContainText('There is no such run; it may be over.', { timeout: 60_000 });
});
