/** In the open: sculpt, paint and rebuild, a zone that is mended in the sheet, a route, build, ride, finish; two pages at one ground. */

import { expect, test, type Page } from '@playwright/test';
import { encode } from 'fast-png';
import { Application } from './application.ts';

let application: Application;
let id = '';
test.beforeAll(async () => {
  application = await Application.start();
  const made = await application.json<{ id: string }>('/api/crates', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ profile: 'skarrow', name: 'short_ridge', title: 'Short Ridge', template: 'ridge-race' }),
  });
  id = made.id;
});
test.afterAll(() => application.stop());

interface Saved {
  revision: number;
  map: {
    terrains: Record<string, { samples: [number, number]; paint: object }>;
    tiles: Record<string, { heights?: string; hand?: object; ruled?: object; placed?: string }>;
    objects: Record<string, { name: string; class: string; properties: Record<string, unknown> }>;
    routes: Record<string, { stops: string[]; laps: number }>;
  };
}
const saved = () => application.json<Saved>(`/api/crates/${id}/maps/short_ridge`);

/** Opens the map and answers where a point of the plan lies in the window. */
async function openMap(page: Page): Promise<(x: number, y: number) => Promise<[number, number]>> {
  await page.goto(`${application.url}/crates/${id}/map`);
  const plan = page.getByTestId('plan');
  await expect(plan).toHaveAttribute('data-sheet', /,/);
  return async (x, y) => {
    const [u, v, scale] = (await plan.getAttribute('data-sheet'))!.split(',').map(Number);
    const box = (await plan.boundingBox())!;
    return [box.x + box.width / 2 + (x - u) * scale, box.y + box.height / 2 - (y - v) * scale];
  };
}

async function stroke(page: Page, brush: string, from: readonly [number, number], to: readonly [number, number]): Promise<void> {
  await page.getByLabel('Brush', { exact: true }).selectOption({ label: brush });
  await page.mouse.move(...(from as [number, number]));
  await page.mouse.down();
  await page.mouse.move(...(to as [number, number]), { steps: 6 });
  await page.mouse.up();
}

test('a stroke changes the tiles under it, is saved, and is undone', async ({ page }) => {
  const at = await openMap(page);
  await page
    .getByRole('button', { name: /Ground/ })
    .first()
    .click();
  const before = await saved();
  await stroke(page, 'Raise', await at(-160, 110), await at(-140, 110));
  await expect.poll(async () => (await saved()).revision).toBe(before.revision + 1);
  const raised = await saved();
  const changed = Object.keys(raised.map.tiles).filter((tile) => raised.map.tiles[tile].heights !== before.map.tiles[tile]?.heights);
  expect(changed.length).toBeGreaterThan(0);
  expect(changed.length).toBeLessThan(4);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await saved()).revision).toBe(before.revision + 2);
  expect((await saved()).map.tiles).toEqual(before.map.tiles);

  await stroke(page, 'Paint', await at(-160, 110), await at(-150, 110));
  await expect.poll(async () => Object.values((await saved()).map.tiles).some(({ hand }) => hand !== undefined)).toBe(true);
});

test('things are scattered and rules run again; what was set by hand stays', async ({ page }) => {
  const at = await openMap(page);
  await page.getByRole('tab', { name: 'Ground' }).click();
  await page.getByRole('button', { name: 'Add' }).nth(1).click();
  await page.getByRole('button', { name: /Brush/ }).click();
  await stroke(page, 'Scatter', await at(-120, 120), await at(-100, 120));
  await expect.poll(async () => Object.values((await saved()).map.tiles).some(({ placed }) => placed !== undefined)).toBe(true);
  const placed = Object.fromEntries(Object.entries((await saved()).map.tiles).map(([tile, { placed: own }]) => [tile, own]));
  await page.getByRole('button', { name: 'Cover' }).click();
  await page.getByRole('button', { name: 'Rebuild' }).click();
  await expect(page.getByText(/^Done: \d+ members changed/)).toBeVisible({ timeout: 30_000 });
  await expect.poll(async () => Object.values((await saved()).map.tiles).some(({ ruled }) => ruled !== undefined)).toBe(true);
  for (const [tile, { placed: own }] of Object.entries((await saved()).map.tiles)) expect(own).toBe(placed[tile]);
});

test('heights come in from a 16-bit PNG; what cannot be taken says why and changes nothing', async ({ page }) => {
  await openMap(page);
  await page.getByRole('tab', { name: 'Ground' }).click();
  const file = page.getByLabel('File of heights');
  const before = await saved();
  const eight = Buffer.from(encode({ width: 8, height: 8, data: new Uint8Array(64), channels: 1, depth: 8 }));
  await file.setInputFiles({ name: 'steps.png', mimeType: 'image/png', buffer: eight });
  await page.getByRole('button', { name: 'Use these heights' }).click();
  await expect(page.getByRole('alert').filter({ hasText: '8 bits a sample' })).toBeVisible();
  await file.setInputFiles({ name: 'broken.tif', mimeType: 'image/tiff', buffer: Buffer.from('II*\0nothing') });
  await page.getByRole('button', { name: 'Use these heights' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'broken.tif is damaged' })).toBeVisible();
  expect((await saved()).revision).toBe(before.revision);
  const [w, h] = before.map.terrains.e1.samples;
  const data = Uint16Array.from({ length: w * h }, (_, k) => (k % w) * 40);
  await file.setInputFiles({
    name: 'slope.png',
    mimeType: 'image/png',
    buffer: Buffer.from(encode({ width: w, height: h, data, channels: 1, depth: 16 })),
  });
  await page.getByRole('button', { name: 'Use these heights' }).click();
  await expect(page.getByText(/^Done: \d+ members changed/)).toBeVisible({ timeout: 30_000 });
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(async () => JSON.stringify((await saved()).map.tiles) === JSON.stringify(before.map.tiles)).toBe(true);
});

test('a zone without use or picture is found, and mended in the sheet of zones', async ({ page }) => {
  const at = await openMap(page);
  await page
    .getByRole('button', { name: /^Object/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Zone', exact: true }).click();
  await page.mouse.click(...(await at(-60, 110)));
  await expect.poll(async () => Object.values((await saved()).map.objects).some((o) => o.class === 'zone')).toBe(true);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Objects', exact: true }).click();
  await page.getByRole('button', { name: 'Sheet of all zones …' }).click();
  const sheet = page.getByRole('dialog', { name: 'Zones' });
  await expect(sheet.getByText('has no picture')).toBeVisible({ timeout: 20_000 });
  await sheet.getByLabel(/^Use of zone/).selectOption({ label: 'Respawn' });
  await sheet.getByLabel(/^Id of zone/).fill('top.respawn');
  await sheet.getByLabel(/^Id of zone/).press('Tab');
  await expect(sheet.getByText('has no picture')).toBeHidden({ timeout: 20_000 });
  await expect.poll(async () => Object.values((await saved()).map.objects).find((o) => o.class === 'zone')?.properties.code).toBe('top.respawn');
});

test('the stops of a route are reordered, and the order that the ribbon has brings them back', async ({ page }) => {
  await openMap(page);
  await page.getByRole('tab', { name: 'Route' }).click();
  const order = async () => (await saved()).map.routes.r1.stops;
  const before = await order();
  await page.getByRole('button', { name: 'gate_1_gate later' }).click();
  await expect.poll(order).toEqual([before[1], before[0], before[2]]);
  await expect(page.getByRole('button', { name: /Findings/ })).toContainText(/block/, { timeout: 20_000 });
  await page.getByRole('button', { name: 'By the ribbon' }).click();
  await expect.poll(order).toEqual(before);
});

test('two pages work at one ground, side by side', async ({ page, context }) => {
  const other = await context.newPage();
  const [here, there] = [await openMap(page), await openMap(other)];
  for (const one of [page, other]) {
    await one.bringToFront();
    await one.getByRole('button', { name: /^Ground/ }).click();
    await expect(one.getByLabel('Brush', { exact: true })).toBeVisible();
  }
  const before = (await saved()).revision;
  await stroke(page, 'Raise', await here(-200, 150), await here(-190, 150));
  await stroke(other, 'Lower', await there(180, 150), await there(190, 150));
  await expect.poll(async () => (await saved()).revision).toBe(before + 2);
  await expect(page.getByText('another page: lower ground')).toBeVisible();
  await expect(other.getByText('another page: raise ground')).toBeVisible();
  await other.close();
});

test('built, the race is ridden by the driver to its finish', async ({ page }) => {
  test.setTimeout(240_000);
  const job = await application.json<{ id: string }>(`/api/crates/${id}/builds`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ map: 'short_ridge', quality: 'draft' }),
  });
  await expect.poll(async () => (await application.json<{ state: string }>(`/api/jobs/${job.id}`)).state, { timeout: 120_000 }).toBe('done');
  await page.goto(`${application.url}/crates/${id}/trial`);
  await page.getByRole('heading', { name: 'Ride through short_ridge' }).waitFor({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Let it ride' }).click();
  await page.keyboard.press('v');
  const hud = page.getByTestId('race-hud');
  await expect.poll(async () => Number(await hud.getAttribute('data-passed')), { timeout: 120_000 }).toBeGreaterThan(0);
  await expect(page.getByRole('log')).toContainText('Finished after', { timeout: 150_000 });
});
