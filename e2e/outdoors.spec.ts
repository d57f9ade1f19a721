/** In the open: sculpt, paint and rebuild, a zone that is mended in the sheet, a route, build, ride, finish; two pages at one ground. */

import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { encode } from 'fast-png';
import { Application } from './application.ts';
import { stage, step } from './sheet.ts';

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
    terrains: Record<string, { samples: [number, number]; paint: object; surfaces: { id: string; label: string }[] }>;
    tiles: Record<string, { heights?: string; hand?: Record<string, string>; ruled?: object; placed?: string }>;
    objects: Record<string, { name: string; class: string; properties: Record<string, unknown>; labelAt?: [number, number] }>;
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

type Tiles = Saved['map']['tiles'];
/** Tiles whose heights differ. */
const changed = (a: Tiles, b: Tiles): string[] => Object.keys({ ...a, ...b }).filter((tile) => a[tile]?.heights !== b[tile]?.heights);

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
  expect(changed(before.map.tiles, raised.map.tiles).length).toBeGreaterThan(0);
  expect(changed(before.map.tiles, raised.map.tiles).length).toBeLessThan(4);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await saved()).revision).toBe(before.revision + 2);
  expect((await saved()).map.tiles).toEqual(before.map.tiles);

  await stroke(page, 'Paint', await at(-160, 110), await at(-150, 110));
  await expect.poll(async () => Object.values((await saved()).map.tiles).some(({ hand }) => hand !== undefined)).toBe(true);
});

test('kill -9 during a stroke and during weathering: what was acknowledged is there, and what was under way comes after', async ({ page }) => {
  const at = await openMap(page);
  await page
    .getByRole('button', { name: /Ground/ })
    .first()
    .click();
  const before = await saved();
  await stroke(page, 'Raise', await at(-160, 130), await at(-150, 130));
  await expect.poll(async () => (await saved()).revision).toBe(before.revision + 1);
  const acknowledged = (await saved()).map.tiles;
  await page.mouse.move(...(await at(160, 130)));
  await page.mouse.down();
  await page.mouse.move(...(await at(170, 130)), { steps: 4 });
  await application.kill('server', 'SIGKILL');
  await page.mouse.up();
  await expect(page.getByText('Not saved yet, trying again')).toBeVisible();
  await application.startServer();
  await expect.poll(async () => (await saved()).revision, { timeout: 30_000 }).toBe(before.revision + 2);
  const after = (await saved()).map.tiles;
  for (const tile of Object.keys(acknowledged)) if (!changed(acknowledged, after).includes(tile)) expect(after[tile]).toEqual(acknowledged[tile]);
  expect(changed(before.map.tiles, after).length).toBeGreaterThan(changed(before.map.tiles, acknowledged).length);

  await page.getByRole('tab', { name: 'Ground' }).click();
  await page.getByRole('button', { name: 'Weather it' }).click();
  await expect.poll(async () => page.getByLabel('Work on the ground').evaluate((one: HTMLProgressElement) => one.value)).toBeGreaterThan(0);
  await application.kill('server', 'SIGKILL');
  await expect(page.getByText(/^Done: \d+ members changed/)).toBeVisible({ timeout: 60_000 });
  await application.startServer();
  await expect.poll(async () => (await saved()).revision, { timeout: 30_000 }).toBe(before.revision + 3);
  expect(changed(after, (await saved()).map.tiles).length).toBeGreaterThan(2);
  for (let n = 1; n <= 3; n++) {
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect.poll(async () => (await saved()).revision).toBe(before.revision + 3 + n);
  }
  expect((await saved()).map.tiles).toEqual(before.map.tiles);
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

  const surface = Object.values(before.map.terrains)[0].surfaces.at(-1)!;
  const mask = page.getByLabel(`Mask of ${surface.label}`);
  await mask.setInputFiles({ name: 'small.png', mimeType: 'image/png', buffer: eight });
  await expect(page.getByRole('alert').filter({ hasText: `Scale the picture to ${w} × ${h}` })).toBeVisible();
  const half = Uint8Array.from({ length: w * h }, (_, k) => (k % w < w / 2 ? 255 : 0));
  const picture = Buffer.from(encode({ width: w, height: h, data: half, channels: 1, depth: 8 }));
  await mask.setInputFiles({ name: 'west.png', mimeType: 'image/png', buffer: picture });
  await expect.poll(async () => Object.values((await saved()).map.tiles).some(({ hand }) => hand?.[surface.id] !== undefined)).toBe(true);
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'GLB' }).click();
  const glb = readFileSync(await (await download).path());
  expect(glb.toString('latin1', 0, 4)).toBe('glTF');
  expect(glb.length).toBeGreaterThan(50_000);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
});

test('a shed with its two zones: what they lack is found, mended in the sheet, and drawn in the picture of the map', async ({ page }) => {
  const at = await openMap(page);
  const place = async (label: string, where: [number, number]) => {
    await page.locator('#place-object').click();
    await page.getByRole('button', { name: label, exact: true }).click();
    await page.mouse.click(...where);
    await page.keyboard.press('Escape');
  };
  await place('Prop', await at(-60, 110));
  await page.getByLabel('Inspector').getByLabel('Model').selectOption('models/shed.glb');
  await place('Zone', await at(-72, 110));
  await place('Zone', await at(-40, 118));
  const zones = async () => Object.values((await saved()).map.objects).filter((o) => o.class === 'zone');
  await expect.poll(async () => (await zones()).length).toBe(2);
  await page.getByRole('button', { name: 'Objects', exact: true }).click();
  await page.getByRole('button', { name: 'Sheet of all zones …' }).click();
  const sheet = page.getByRole('dialog', { name: 'Zones' });
  await expect(sheet.getByText('has no picture')).toHaveCount(2, { timeout: 20_000 });
  await sheet.getByLabel('Tick all').check();
  await sheet
    .getByLabel(/^Map icon of/)
    .first()
    .selectOption('symbols/house');
  await sheet.getByLabel('Tick all').uncheck();
  await sheet
    .getByLabel(/^Use of/)
    .first()
    .selectOption({ label: 'Entrance' });
  await sheet
    .getByLabel(/^Use of/)
    .nth(1)
    .selectOption({ label: 'Exit' });
  await sheet
    .getByLabel(/^Partner of/)
    .first()
    .selectOption({ index: 1 });
  for (const [n, end] of ['in', 'out'].entries()) {
    for (const [column, text] of [
      ['Id', `shed.${end}`],
      ['Label', `Shed, ${end}`],
    ] as const) {
      await sheet
        .getByLabel(new RegExp(`^${column} of`))
        .nth(n)
        .fill(text);
      await sheet
        .getByLabel(new RegExp(`^${column} of`))
        .nth(n)
        .press('Tab');
    }
  }
  await expect(sheet.getByText(/has no picture|without its/)).toHaveCount(0, { timeout: 20_000 });
  await expect.poll(async () => (await zones()).map(({ properties }) => properties.code)).toEqual(['shed.in', 'shed.out']);
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: 'Objects', exact: true }).click();
  await page.getByRole('button', { name: 'Picture of the map …' }).click();
  const label = page.getByRole('button', { name: /^Label of zone/ }).first();
  await label.focus({ timeout: 30_000 });
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowRight');
  await expect.poll(async () => (await zones()).filter(({ labelAt }) => labelAt).length).toBe(1);
  await page.getByRole('button', { name: 'Labels where they were' }).click();
  await expect.poll(async () => (await zones()).filter(({ labelAt }) => labelAt).length).toBe(0);
});

test('a route is laid and its stops reordered; a failing jump is seen and mended', async ({ page }) => {
  const at = await openMap(page);
  await page.getByRole('tab', { name: 'Route' }).click();
  const order = async () => Object.values((await saved()).map.routes)[0]?.stops;
  const before = await order();
  await page.getByRole('button', { name: 'gate_1_gate later' }).click();
  await expect.poll(order).toEqual([before[1], before[0], before[2]]);
  await expect(page.getByRole('button', { name: /Findings/ })).toContainText(/block/, { timeout: 20_000 });
  await page.getByRole('button', { name: 'By the ribbon' }).click();
  await expect.poll(order).toEqual(before);
  const line = (await saved()).map.routes.r1;

  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect.poll(order).toBeUndefined();
  await page.getByRole('button', { name: 'Lay a route' }).click();
  await expect.poll(order).toEqual(before);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(async () => (await saved()).map.routes.r1).toEqual(line);

  // A heap of snow across the way, then an even slope in its place.
  const tiles = (await saved()).map.tiles;
  await page
    .getByRole('button', { name: /^Ground/ })
    .first()
    .click();
  await page.getByLabel('Radius', { exact: true }).fill('9');
  await page.getByLabel('Radius', { exact: true }).press('Enter');
  const strokes = 4;
  for (let n = 0; n < strokes; n++) await stroke(page, 'Raise', await at(20, 52), await at(32, 44));
  await page.getByRole('button', { name: /Findings/ }).click();
  await expect(page.getByText(/comes down at .* vehicles stand/)).toBeVisible({ timeout: 20_000 });
  await page.getByLabel('Radius', { exact: true }).fill('20');
  await page.getByLabel('Radius', { exact: true }).press('Enter');
  await page.getByLabel('Strength').fill('1');
  for (let n = 0; n < 3; n++) await stroke(page, 'Incline', await at(-10, 34), await at(62, 58));
  await expect(page.getByText(/comes down at .* vehicles stand/)).toBeHidden({ timeout: 20_000 });
  for (let n = 0; n < strokes + 3; n++) await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(async () => JSON.stringify((await saved()).map.tiles) === JSON.stringify(tiles)).toBe(true);
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

test('built, ridden by the driver to its finish, published, installed and launched', async ({ page }) => {
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
  await page.locator('#trial-speed').selectOption('4');
  await page.keyboard.press('v');
  const hud = page.getByTestId('race-hud');
  await expect.poll(async () => Number(await hud.getAttribute('data-passed')), { timeout: 120_000 }).toBeGreaterThan(0);
  await expect(page.getByRole('log')).toContainText('Finished after', { timeout: 150_000 });

  await stage(page, 'publish').click();
  await page.getByLabel('Description').fill('A short race down a ridge.');
  await page.getByLabel('Authors').fill('Test Author');
  await page.getByRole('button', { name: 'Save details' }).click();
  await step(page, 'Package').click();
  await page.getByRole('button', { name: 'Make package' }).click();
  await step(page, 'Upload').click();
  await page.getByRole('button', { name: 'Publish 0.1.0' }).click({ timeout: 60_000 });
  await expect(page.locator('[data-share-code]')).toBeVisible();
  await step(page, 'Test as a player').click();
  await page.getByRole('button', { name: 'Install', exact: true }).click();
  await expect(page.locator('[data-installed="short_ridge"]')).toContainText('verified by SHA-256');
  await stage(page, 'trial').click();
  await page.getByRole('tab', { name: 'Game' }).click();
  await page.getByRole('button', { name: /Launch in Skarrow/ }).click();
  await expect(page.getByText(/loaded: short_ridge: .* ground of .* the route Ridge race/)).toBeVisible({ timeout: 60_000 });
});
