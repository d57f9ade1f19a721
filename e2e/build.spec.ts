/** Building as people do: what is out of date and why, one stage alone, pause and resume, ways that lead nowhere. */

import { expect, test, type Page } from '@playwright/test';
import { BUILD_STAGES } from '@violet-crate/core/stages/contract/stage';
import { Application } from './application.ts';
import { newCrate } from './newCrate.ts';
import { dragOn, saved, stage } from './sheet.ts';

let application: Application;
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

const row = (page: Page, name: string) => page.locator(`[data-stage-name="${name}"]`);
const build = async (page: Page, quality = 'draft') => {
  await stage(page, 'build').click();
  await page.getByRole('radio', { name: quality }).click();
  await page.getByRole('button', { name: /^Build / }).click();
};
const fresh = (page: Page) => page.locator('[data-build-ok="true"][data-build-fresh="true"]');

/** Chooses an object by its name and types its place along x. */
async function moveTo(page: Page, name: string, x: string): Promise<void> {
  await stage(page, 'map').click();
  await page.getByRole('tab', { name: 'Outline' }).click();
  await page.getByLabel('Find in the map').fill(name);
  await page
    .getByRole('treeitem', { name: new RegExp(`^${name}`) })
    .first()
    .click();
  await page.getByRole('tab', { name: 'Properties' }).click();
  await page.getByLabel('Position x').fill(x);
  await page.getByLabel('Position x').press('Enter');
  await saved(page);
}

test('a moved lamp makes its light alone out of date, says so, and only light is made anew', async ({ page }) => {
  await newCrate(page, application.url, 'Lamp Room', 'Sealed room');
  await build(page);
  await expect(fresh(page)).toBeVisible({ timeout: 60_000 });
  for (const name of BUILD_STAGES) await expect(row(page, name)).toHaveAttribute('data-fresh', 'true');

  await moveTo(page, 'lamp', '48');
  await stage(page, 'build').click();
  await expect(row(page, 'lighting')).toContainText(/out of date: lamp\w* moved/);
  await expect(row(page, 'geometry')).toHaveAttribute('data-fresh', 'true');
  await expect(row(page, 'navigation')).toHaveAttribute('data-fresh', 'true');

  await row(page, 'lighting').getByRole('button', { name: 'Only this' }).click();
  await expect(fresh(page)).toBeVisible({ timeout: 60_000 });
  await expect(row(page, 'geometry')).toContainText('from cache');
  await expect(row(page, 'lighting')).toContainText('ran');

  // The new light in the map's perspective, and the result by itself in every look.
  await stage(page, 'map').click();
  await page.getByRole('button', { name: 'Built light' }).click();
  await expect(page.getByText('Perspective, built', { exact: true })).toBeVisible({ timeout: 60_000 });
  await stage(page, 'build').click();
  await page.getByRole('button', { name: 'Look at it' }).click();
  const viewer = page.getByTestId('result-viewer');
  await expect(viewer).toHaveAttribute('data-ready', 'true', { timeout: 60_000 });
  for (const look of ['Light only', 'Sectors', 'Seen from here', 'Walkable', 'Overdraw', 'Triangles', 'Texel density']) {
    await viewer.getByRole('radio', { name: look }).click();
    await expect(viewer.getByRole('radio', { name: look })).toBeChecked();
  }
});

test('parameters are explained and kept; a script re-runs nothing but packing and what looks it over', async ({ page }) => {
  await newCrate(page, application.url, 'Fine Room', 'Sealed room');
  await stage(page, 'build').click();
  await page.getByRole('radio', { name: 'draft' }).click();
  await page.getByRole('button', { name: 'Parameters' }).click();
  await page.getByRole('spinbutton', { name: /^Bounces/ }).fill('6');
  await expect(page.getByRole('button', { name: /Parameters · 1 changed/ })).toBeVisible();
  await page.getByRole('button', { name: /^Build / }).click();
  await expect(fresh(page)).toBeVisible({ timeout: 60_000 });
  await stage(page, 'scripts').click();
  await page.locator('.cm-content').click();
  await page.keyboard.press('ControlOrMeta+End');
  await page.keyboard.type('\n-- a remark\n');
  await stage(page, 'build').click();
  await expect(row(page, 'packing')).toContainText('script main.lua changed', { timeout: 20_000 });
  await expect(page.locator('[data-stage-name][data-fresh="false"]')).toHaveCount(2);
  await expect(row(page, 'programs')).toContainText('packing is out of date');
});

test('a way that leads nowhere is told', async ({ page }) => {
  await newCrate(page, application.url, 'Split Room', 'Sealed room');
  await page.getByTestId('plan').focus();
  await page.keyboard.press('3');
  // A wall from side to side and floor to ceiling, with the crank on the far side.
  await dragOn(page, page.getByTestId('plan'), [48, -160], [64, 160]);
  await page.locator('#place-object').click();
  await page.getByRole('button', { name: 'Crank', exact: true }).click();
  await page.getByTestId('plan').click({ position: await far(page) });
  await page.keyboard.press('Escape');
  await saved(page);
  await build(page);
  await expect(page.locator('[data-build-ok]')).toBeVisible({ timeout: 60_000 });
  await expect(page.locator('[data-code="unreachable-objective"]').first()).toContainText('No way leads from a start to crank');
});

/** A place of the plan to the east of the wall, in pixels. */
async function far(page: Page): Promise<{ x: number; y: number }> {
  const plan = page.getByTestId('plan');
  const [cu, cv, scale] = (await plan.getAttribute('data-sheet'))!.split(',').map(Number);
  const box = (await plan.boundingBox())!;
  return { x: box.width / 2 + (112 - cu) * scale, y: box.height / 2 - (0 - cv) * scale };
}

test('a build is paused, resumed and cancelled; finished stages are kept', async ({ page }) => {
  await page.goto(application.url);
  await page.getByRole('link', { name: /Pumphouse at Low Tide/ }).click();
  await build(page, 'final');
  const state = (name: string) => page.locator(`[data-job-state="${name}"]`);
  await expect(state('running')).toContainText(/visibility|lighting/, { timeout: 60_000 });
  // A rough picture of the light comes early, in the map's perspective.
  await page.getByRole('button', { name: 'Watch the light' }).click({ timeout: 60_000 });
  await expect(page.getByText('Perspective, light so far', { exact: true })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByLabel('Exposure')).toBeVisible();
  await stage(page, 'build').click();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(state('paused')).toContainText('finished stages are kept');
  await page.getByRole('button', { name: 'Resume' }).click();
  await expect(state('running')).toBeVisible({ timeout: 20_000 });
  await expect(page.locator('.log')).toContainText('geometry: fresh', { timeout: 60_000 });
  await page.locator('.page').getByRole('button', { name: 'Cancel' }).click();
  await expect(state('cancelled')).toBeVisible({ timeout: 5_000 });
});
