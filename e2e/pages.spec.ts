/** What people do beside the main road: two tabs, folders as archives, another game, an empty map. */

import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { Application } from './application.ts';
import { newCrate } from './newCrate.ts';
import { clickOn, dragOn, saved, stage } from './sheet.ts';

let application: Application;
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

const make = (page: Page, title: string, template: string, game?: string) => newCrate(page, application.url, title, template, game);

test('an empty map says how to begin, and a room drawn there is sealed', async ({ page }) => {
  await make(page, 'From Nothing', 'Blank');
  await expect(page.getByRole('heading', { name: 'An empty map' })).toBeVisible();
  await expect(stage(page, 'map')).toContainText('blocked · 2');
  await page
    .locator('.begin')
    .getByRole('button', { name: /Draw a room/ })
    .click();
  const plan = page.getByTestId('plan');
  await dragOn(page, plan, [-128, -96], [128, 96]);
  await expect(page.getByLabel('Inspector').getByRole('heading', { name: '6 solids' })).toBeVisible();
  // The required start, placed by the finding's own fix.
  await page.getByRole('button', { name: /^Findings/ }).click();
  await page.getByRole('button', { name: 'Place a Start' }).click();
  await expect(stage(page, 'map')).toContainText('clear');
  await expect(stage(page, 'build')).toContainText('not built');
  await page.locator('#place-object').click();
  await page.getByRole('button', { name: 'Lamp light', exact: true }).click();
  await clickOn(page, plan, [64, 32]);
  await saved(page);
  // But for notes of the set-up: newer tools in the depot, and a step that nobody ticked.
  await expect(page.locator('.finding:not([data-code^="setup-step"]):not([data-code="depot-update"])')).toHaveCount(0);
  // Everything undone, back to blank.
  await page.keyboard.press('Escape');
  for (let i = 0; i < 3; i++) await page.keyboard.press('ControlOrMeta+z');
  await expect(page.getByRole('heading', { name: 'An empty map' })).toBeVisible();
});

test('a crate goes out as a folder and comes back', async ({ page }) => {
  await make(page, 'Travelling', 'Sealed room');
  await stage(page, 'setup').click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: /Export folder/ }).click()]);
  const file = join(mkdtempSync(join(tmpdir(), 'violet-export-')), 'travelling.zip');
  await download.saveAs(file);
  page.on('dialog', (dialog) => void dialog.accept());
  await page.getByRole('button', { name: /Delete this crate/ }).click();
  await expect(page.getByRole('heading', { name: 'Crates' })).toBeVisible();
  await expect(page.getByRole('heading', { name: 'Travelling' })).toHaveCount(0);
  await page.locator('input[type=file]').setInputFiles(file);
  await expect(page.getByTestId('plan')).toBeVisible();
  await expect(page.locator('.crate-title')).toHaveText('Travelling');
  await expect(page.getByLabel('Inspector')).toContainText('6 solids, 2 objects');
});

test('another game has its own catalogue and rules', async ({ page }) => {
  rmSync(join(application.data, 'games/skarrow'), { recursive: true });
  await make(page, 'Ridge Run', 'Open field', 'skarrow');
  await expect(page.locator('.bar')).toContainText('Skarrow');
  await page.locator('#place-object').click();
  await expect(page.getByRole('button', { name: 'Start gate' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Crank' })).toHaveCount(0);
  await page.keyboard.press('Escape');
  // The game is no longer on this machine: set-up says so, and its stock is missing.
  await expect(stage(page, 'setup')).toHaveAttribute('data-state', 'blocked');
  await expect(stage(page, 'links')).toHaveAttribute('data-state', 'blocked');
});

test('links can be searched, and lead to their place in the map', async ({ page }) => {
  await make(page, 'Copied', 'Copy of the example');
  await stage(page, 'links').click();
  await page.getByLabel('Search links').fill('pump');
  const row = page.locator('tbody tr', { hasText: 'models/pump.glb' });
  await expect(row).toHaveAttribute('data-origin', 'crate');
  await row.getByRole('button', { name: 'models/pump.glb' }).click();
  await page
    .getByRole('complementary', { name: /models\/pump\.glb/ })
    .getByTitle('Show it')
    .first()
    .click();
  await expect(page.getByLabel('Inspector').getByRole('heading', { name: 'Prop', exact: true })).toBeVisible();
  await expect(page.getByLabel('Inspector').getByLabel('Name')).toHaveValue('pump');
});
