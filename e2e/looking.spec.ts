/** Seeing why, proving and launching: log points, watches, the explorer with coverage, scripts as they are written, the game itself. */

import { writeFileSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { Application } from './application.ts';

let application: Application;
let id = '';
test.beforeAll(async () => {
  application = await Application.start();
  const crates = await application.json<{ id: string; manifest: { name: string } }[]>('/api/crates');
  id = crates.find(({ manifest }) => manifest.name === 'pumphouse')!.id;
  const job = await application.json<{ id: string }>(`/api/crates/${id}/builds`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ map: 'pumphouse', quality: 'draft' }),
  });
  await expect.poll(async () => (await application.json<{ state: string }>(`/api/jobs/${job.id}`)).state, { timeout: 180_000 }).toBe('done');
});
test.afterAll(() => application.stop());

async function begin(page: Page): Promise<void> {
  await page.goto(`${application.url}/crates/${id}/trial`);
  await page.getByRole('heading', { name: 'Walk through pumphouse' }).waitFor({ timeout: 60_000 });
  await page.keyboard.press('Shift');
}
const typed = async (page: Page, text: string) => {
  await page.getByLabel('Run a line of Lua').fill(text);
  await page.getByLabel('Run a line of Lua').press('Enter');
};

test('a log point tells a line each time it runs, a watch its worth, and commands lead about', async ({ page }) => {
  await page.goto(`${application.url}/crates/${id}/scripts?file=scripts/main.lua&line=12`);
  await page.getByRole('button', { name: 'Log point' }).click();
  await page.getByLabel('Tell at line 12').fill('turns');
  await page.keyboard.press('Enter');
  await expect(page.locator('.cm-log')).toHaveCount(1);

  // The same page goes on to the run: what is looked at goes along.
  await page.getByRole('link', { name: /Test run/ }).click();
  await page.getByRole('heading', { name: 'Walk through pumphouse' }).waitFor({ timeout: 60_000 });
  await page.keyboard.press('Shift');
  const log = page.getByRole('log');
  await typed(page, '/fire crank turned');
  await typed(page, 'crank_turned()');
  await expect(log).toContainText('scripts/main.lua:12: turns = 0');
  await expect(log).toContainText('scripts/main.lua:12: turns = 1');

  await typed(page, '/go gallery_lamp_1');
  await expect.poll(async () => (await page.getByTestId('trial-hud').getAttribute('data-feet'))!.split(',').map(Number)[1]).toBeGreaterThan(560);
  await typed(page, '/go nowhere');
  await expect(log).toContainText('There is no object "nowhere".');
  await page.getByLabel('Run a line of Lua').fill('get("flo');
  await page.keyboard.press('Tab');
  await expect(page.getByLabel('Run a line of Lua')).toHaveValue('get("flood');

  await page.getByRole('tab', { name: 'Watch' }).click();
  await page.getByLabel('Watch an expression of Lua').fill('get("sluice", "raised")');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('list', { name: 'Watches' })).toContainText('stands on');
  await expect(page.getByRole('list', { name: 'Watches' }).getByRole('img', { name: /get\("sluice"/ })).toBeVisible({ timeout: 20_000 });
  await page.getByLabel('Count', { exact: true }).check();
  await expect(page.getByRole('row', { name: /lamp_touched/ })).toContainText('never');
});

test('the explorer finds the order that wins, and what never happened is marked in the script', async ({ page }) => {
  test.setTimeout(300_000);
  await begin(page);
  await page.getByRole('tab', { name: 'Explore' }).click();
  await page.locator('#explore-seconds').selectOption('60');
  await page.getByRole('button', { name: 'Explore' }).click();
  await expect(page.getByTestId('explored')).toContainText('Won', { timeout: 200_000 });
  await expect(page.getByRole('region', { name: 'What the explorer found' }).getByRole('listitem').last()).toContainText('gallery_lamp_3');
  await expect(page.getByRole('img', { name: /Time that players spent/ })).toBeVisible();

  await page.getByRole('button', { name: 'Keep as a walk' }).click();
  await expect(page.getByText('Saved as the walk explored.')).toBeVisible();
  await page.getByRole('button', { name: 'Watch it' }).click();
  await expect(page.getByTestId('trial-hud')).toContainText('walk played back', { timeout: 60_000 });

  await page
    .getByRole('link', { name: /Scripts/ })
    .first()
    .click();
  await expect(page.locator('.cm-ran').first()).toBeVisible();
});

test('a name is found, renamed in scripts and signals, and lines are set in', async ({ page }) => {
  await page.goto(`${application.url}/crates/${id}/scripts?file=scripts/main.lua&line=11`);
  await page.getByLabel('Find in all scripts').fill('crank_turned');
  await expect(page.getByRole('search').getByRole('listitem')).toHaveCount(1);
  await page.locator('.cm-line', { hasText: 'crank_turned' }).click({ position: { x: 100, y: 8 } });
  await page.getByLabel('Another name for crank_turned').fill('crank_was_turned');
  await page.getByRole('button', { name: 'Rename' }).click();
  await expect(page.locator('.cm-content')).toContainText('function crank_was_turned()');
  const { map } = await application.json<{ map: { signals: Record<string, { to: { script?: string } }> } }>(`/api/crates/${id}/maps/pumphouse`);
  expect(Object.values(map.signals).some(({ to }) => to.script === 'crank_was_turned')).toBe(true);
  await page.getByRole('tab', { name: 'Calls' }).click();
  await expect(page.getByText('Something that runs leads to every function.')).toBeVisible();
  await page.getByRole('button', { name: /crank_was_turned\(\) in/ }).click();
  await page.getByRole('button', { name: 'Format' }).click();
  await expect(page.getByText('Saved')).toBeVisible();
});

test('the crate runs in the game, its log is shown, and another version of the game refuses it', async ({ page }) => {
  await begin(page);
  await page.getByRole('tab', { name: 'Game' }).click();
  await page.getByRole('button', { name: /Launch in Brinewick/ }).click();
  const log = page.getByRole('log', { name: 'Log of the game' });
  await expect(log).toContainText('ready', { timeout: 30_000 });
  await expect(log).toContainText('loaded: pumphouse: ');
  await page.getByRole('button', { name: 'Reload scripts' }).click();
  await expect(log).toContainText('reloaded');
  await page.getByRole('button', { name: 'End the game' }).click();
  await expect(page.getByTestId('game-state')).toHaveText('Ended');

  const version = join(application.data, 'games/brinewick/version.json');
  const before = readFileSync(version, 'utf8');
  writeFileSync(version, before.replace(/"version": "[^"]*"/, '"version": "9.0.0"'));
  await page.getByRole('button', { name: /Launch in Brinewick/ }).click();
  await expect(page.getByText(/The game says: made for 2\.4\.1, this is 9\.0\.0/)).toBeVisible({ timeout: 30_000 });
  writeFileSync(version, before);
});
