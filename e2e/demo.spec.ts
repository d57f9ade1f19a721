/** The demo crate as people first meet it: built, walked through, broken and mended. */

import { expect, test, type Page } from '@playwright/test';
import { Application } from './application.ts';
import { clickOn, saved, stage } from './sheet.ts';

let application: Application;
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

async function openDemo(page: Page, where: string): Promise<string> {
  const crates = await application.json<{ id: string; manifest: { name: string } }[]>('/api/crates');
  const { id } = crates.find((crate) => crate.manifest.name === 'pumphouse')!;
  await page.goto(`${application.url}/crates/${id}/${where}`);
  return id;
}

test('is built, and walked from the start to the lamp gallery', async ({ page }) => {
  await openDemo(page, 'build');
  await page.getByRole('radio', { name: 'draft' }).click();
  await page.getByRole('button', { name: 'Build pumphouse' }).click();
  await expect(page.locator('[data-build-ok="true"]')).toBeVisible({ timeout: 120_000 });
  await page.getByRole('link', { name: 'Test run' }).last().click();
  const hud = page.getByTestId('trial-hud');
  await expect(hud).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('log')).toContainText('Find the crank');
  // A few steps by hand: forward, and a turn.
  const feet = async () => (await hud.getAttribute('data-feet'))!.split(',').map(Number);
  const before = await feet();
  await page.keyboard.down('ArrowUp');
  await expect.poll(async () => (await feet())[1], { timeout: 40_000 }).toBeGreaterThan(before[1] + 30);
  await page.keyboard.up('ArrowUp');
  const yaw = Number(await hud.getAttribute('data-yaw'));
  await page.keyboard.down('ArrowLeft');
  await expect.poll(async () => Number(await hud.getAttribute('data-yaw'))).toBeGreaterThan(yaw + 0.3);
  await page.keyboard.up('ArrowLeft');
  // Then the map's own steps, from the start again.
  await page.getByRole('button', { name: 'Restart' }).click();
  await expect(hud).toBeVisible({ timeout: 60_000 });
  await page.locator('#trial-speed').selectOption('4');
  await page.getByRole('button', { name: 'Show trial steps' }).click();
  await expect(page.getByRole('log')).toContainText('The lamp gallery', { timeout: 200_000 });
  await expect(page.getByRole('log')).toContainText('Lamp 3 burns.', { timeout: 60_000 });
  await expect(page.getByRole('heading', { name: 'The run is won' })).toBeVisible({ timeout: 30_000 });
  const [, y, z] = await feet();
  expect(y).toBeGreaterThan(480);
  expect(Math.abs(z)).toBeLessThan(1);
});

test('leaks when a wall is deleted: the trail is drawn and the build stops', async ({ page }) => {
  const id = await openDemo(page, 'map');
  const plan = page.getByTestId('plan');
  const inspector = page.getByLabel('Inspector');
  await expect(inspector).toContainText('271 solids');
  await clickOn(page, plan, [-8, 40]);
  await expect(inspector.getByRole('heading', { name: /^Solid/ })).toBeVisible();
  await page.keyboard.press('Delete');
  await expect(page.getByRole('button', { name: 'Leak trail' })).toBeVisible();
  await expect(stage(page, 'build')).toHaveAttribute('data-state', 'blocked');
  await page.getByRole('button', { name: /^Findings/ }).click();
  const row = page.locator('.finding[data-code="leak"]');
  await expect(row).toContainText('The map leaks: from');
  await row.getByRole('button', { name: 'Show' }).click();
  await saved(page);
  await stage(page, 'build').click();
  await page.getByRole('radio', { name: 'draft' }).click();
  await page.getByRole('button', { name: 'Build pumphouse' }).click();
  await expect(page.locator('[data-build-ok="false"]')).toBeVisible({ timeout: 90_000 });
  const [build] = await application.json<{ stages: { findings: { code: string; place: { trail: number[][] } }[] }[] }[]>(`/api/crates/${id}/builds`);
  const leak = build.stages.flatMap((s) => s.findings).find((f) => f.code === 'leak')!;
  expect(leak.place.trail.some(([x]) => x < 1)).toBe(true);
  // Undo closes the shell, and the trail goes.
  await stage(page, 'map').click();
  await page.keyboard.press('ControlOrMeta+z');
  await expect(page.getByRole('button', { name: 'Leak trail' })).toHaveCount(0);
  await saved(page);
  await stage(page, 'build').click();
  await page.getByRole('button', { name: 'Build pumphouse' }).click();
  await expect(page.locator('[data-build-ok="true"][data-build-fresh="true"]')).toBeVisible({ timeout: 90_000 });
});

test('a start that touches the floor is found, and its fix lifts it', async ({ page }) => {
  await openDemo(page, 'map');
  const inspector = page.getByLabel('Inspector');
  await inspector.getByRole('button', { name: 'start', exact: true }).click();
  await inspector.getByLabel('Position z').fill('0');
  await inspector.getByLabel('Position z').press('Enter');
  await expect(stage(page, 'map')).toContainText('warnings · 1');
  await page.getByRole('button', { name: /^Findings/ }).click();
  await page.getByRole('button', { name: 'Lift by 2 notches' }).click();
  await expect(stage(page, 'map')).toContainText('clear');
  await expect(inspector.getByLabel('Position z')).toHaveValue('2');
  await saved(page);
});

test('its script shows an error in another stage, and Show leads to the line', async ({ page }) => {
  await openDemo(page, 'scripts');
  await page.getByRole('textbox', { name: 'Script scripts/main.lua' }).click();
  await page.keyboard.press('ControlOrMeta+End');
  await page.keyboard.type('\nfunction lonely() end');
  await expect(stage(page, 'scripts')).toContainText('notes · 1');
  await stage(page, 'links').click();
  await page.getByRole('button', { name: /^Findings/ }).click();
  await page.locator('.finding[data-code="script-uncalled"]').getByRole('button', { name: 'Show' }).click();
  await expect(page).toHaveURL(/scripts\?file=scripts%2Fmain.lua&line=\d+/);
});

test('commands and keys work without a mouse, in both themes', async ({ page }) => {
  await openDemo(page, 'links');
  await expect(page.getByRole('heading', { name: 'Links' })).toBeVisible();
  await page.keyboard.press('ControlOrMeta+k');
  await page.keyboard.type('publish');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Publish' })).toBeVisible();
  await page.keyboard.press('Alt+4');
  await expect(page.getByTestId('plan')).toBeVisible();
  await page.keyboard.press('2');
  await expect(page.getByRole('button', { name: /^Room/ })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('?');
  await expect(page.getByRole('heading', { name: 'Keys' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Switch between dark and light' }).click();
  await expect(page.locator('html')).toHaveAttribute('data-bs-theme', 'light');
});
