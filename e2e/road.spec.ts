/** All eight steps on a new crate, with real files from disk, ending with the mod in the game's folder. */

import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { paintTexture, TEXTURES } from '@violet-crate/demo/textures';
import { Application } from './application.ts';
import { clickOn, dragOn, saved, stage, step } from './sheet.ts';

let application: Application;
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

/** A cube about its centre: it sinks half into the floor until its pivot is mended. */
const CUBE = [
  'o cube',
  ...[-0.4, 0.4].flatMap((z) => [-0.4, 0.4].flatMap((y) => [-0.4, 0.4].map((x) => `v ${x} ${y} ${z}`))),
  'f 1 3 4 2',
  'f 5 6 8 7',
  'f 1 2 6 5',
  'f 3 7 8 4',
  'f 1 5 7 3',
  'f 2 4 8 6',
].join('\n');

test('a new crate from set-up to published', async ({ page }) => {
  const problems: string[] = [];
  page.on('pageerror', (error) => problems.push(error.message));
  const files = mkdtempSync(join(tmpdir(), 'violet-files-'));
  writeFileSync(join(files, 'Tide Marker.obj'), CUBE);
  writeFileSync(join(files, 'glaze.png'), paintTexture(TEXTURES.tile, 64));

  await test.step('set up', async () => {
    await page.goto(application.url);
    await expect(page.getByRole('heading', { name: 'Pumphouse at Low Tide' })).toBeVisible();
    await expect(page.locator('[data-check="base"]')).toContainText(['all hashes right', 'all hashes right']);
    await page.getByRole('button', { name: 'New crate' }).click();
    await page.getByLabel('Title').fill('Tide Marker Hall');
    await expect(page.getByLabel('Short name')).toHaveValue('tide_marker_hall');
    await page.getByLabel('Short name').fill('Tide Hall');
    await expect(page.getByText('No spaces: the game cannot load names with them.')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Make the crate' })).toBeDisabled();
    await page.getByLabel('Short name').fill('tide_hall');
    await expect(page.getByText('maps/tide_hall.map.json')).toBeVisible();
    await page.getByRole('button', { name: 'Make the crate' }).click();
    await expect(page.getByTestId('plan')).toBeVisible();
  });

  await test.step('assets', async () => {
    await stage(page, 'assets').click();
    await page.getByLabel('Choose files to convert').setInputFiles([join(files, 'Tide Marker.obj'), join(files, 'glaze.png')]);
    await page.getByRole('button', { name: /tide_marker\.glb/ }).click();
    await expect(page.getByRole('img', { name: /tide_marker.glb beside a player-sized figure/ })).toBeVisible();
    await expect(page.locator('[data-code="model-sinks"]')).toContainText('50 %');
    await expect(stage(page, 'assets')).toContainText('warnings');
    await page.getByRole('button', { name: 'Put the pivot at the base' }).click();
    await expect(page.locator('[data-code="model-sinks"]')).toHaveCount(0);
    await page.getByRole('button', { name: /glaze\.ktx2/ }).click();
    await expect(page.getByText('Tiled three by three')).toBeVisible();
  });

  await test.step('scripts', async () => {
    await stage(page, 'scripts').click();
    const editor = page.getByRole('textbox', { name: 'Script scripts/main.lua' });
    await editor.click();
    await page.keyboard.press('ControlOrMeta+End');
    await page.keyboard.type('\nfunction crank_turned()\nsay("It gives."\nend\n');
    await expect(page.getByRole('alert').filter({ hasText: 'scripts/main.lua:' })).toBeVisible();
    await expect(page.locator('.cm-lintRange-error, .cm-lint-marker-error').first()).toBeVisible();
    await expect(stage(page, 'scripts')).toHaveAttribute('data-state', 'blocked');
    await page.keyboard.press('ControlOrMeta+a');
    await page.keyboard.insertText('function startup()\n  say("Tide Marker Hall")\nend\n\nfunction crank_turned()\n  say("It gives.")\nend\n');
    await expect(page.getByRole('button', { name: 'crank_turned()' })).toBeVisible();
    await expect(page.locator('section .stamp', { hasText: 'Saved' }).first()).toBeVisible();
  });

  const plan = page.getByTestId('plan');
  const section = page.getByTestId('section');
  const inspector = page.getByLabel('Inspector');
  const place = async (label: string, at: [number, number]) => {
    await page.locator('#place-object').click();
    await page.getByRole('button', { name: label, exact: true }).click();
    await clickOn(page, plan, at);
  };

  await test.step('map', async () => {
    await stage(page, 'map').click();
    // A solid, moved and resized on the grid.
    await page.getByRole('button', { name: /^Solid/ }).click();
    await dragOn(page, plan, [-128, 64], [-64, 128]);
    await expect(inspector.getByRole('heading', { name: 'Solid s7' })).toBeVisible();
    await dragOn(page, plan, [-96, 96], [-64, 96]);
    await expect(inspector.getByLabel('From x')).toHaveValue('-96');
    await dragOn(page, plan, [-32, 96], [0, 96]);
    await expect(inspector.getByLabel('Size x')).toHaveValue('96');
    await inspector.getByLabel('Size z').fill('48');
    await inspector.getByLabel('Size z').press('Enter');
    await expect(inspector.getByLabel('Size z')).toHaveValue('48');
    // Its own material, made from the texture.
    await inspector.getByRole('button', { name: 'glaze' }).click();
    await expect(inspector.getByRole('button', { name: 'glaze' })).toHaveAttribute('aria-pressed', 'true');
    // One face alone, picked in the perspective view.
    await page.getByTestId('perspective').click({ position: { x: 230, y: 150 } });
    await expect(inspector.getByRole('heading', { name: 'Material of this face' })).toBeVisible();
    await inspector.getByRole('button', { name: 'plaster' }).click();
    // A second room in one drag, and away again: undo, redo, undo.
    await page.getByRole('button', { name: /^Room/ }).click();
    await dragOn(page, plan, [-128, -128], [-80, -96]);
    await expect(inspector.getByRole('heading', { name: '6 solids' })).toBeVisible();
    await page.keyboard.press('Escape');
    await page.keyboard.press('ControlOrMeta+z');
    await expect(inspector).toContainText('7 solids');
    await page.keyboard.press('ControlOrMeta+Shift+z');
    await expect(inspector).toContainText('13 solids');
    await page.keyboard.press('ControlOrMeta+z');
    await expect(inspector).toContainText('7 solids');
    // The band's top handle, dragged in the section.
    await page.keyboard.press('Escape');
    const box = (await section.boundingBox())!;
    const [, cv, scale] = (await section.getAttribute('data-sheet'))!.split(',').map(Number);
    const top = box.y + box.height / 2 - (128 - cv) * scale;
    await page.mouse.move(box.x + box.width - 60, top);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width - 60, top + 32 * scale, { steps: 5 });
    await page.mouse.up();
    await expect(inspector).toContainText('0 … 96');
    await page.keyboard.press('ControlOrMeta+z');
    await expect(inspector).toContainText('0 … 128');

    await place('Lamp light', [64, 64]);
    await inspector.getByLabel('Intensity (cd)').fill('80');
    await inspector.getByLabel('Intensity (cd)').press('Enter');
    await place('Crank', [80, -80]);
    await place('Sluice', [-96, 0]);
    await inspector.getByLabel('Name').fill('Gate One');
    await expect(page.getByText('No spaces')).toBeVisible();
    await inspector.getByLabel('Name').fill('gate');
    await inspector.getByLabel('Name').press('Enter');
    await inspector.getByLabel('Travel z').fill('24');
    await inspector.getByLabel('Travel z').press('Enter');
    await page.locator('#place-object').click();
    await page.getByRole('button', { name: 'tide_marker.glb' }).click();
    await clickOn(page, plan, [112, 112]);
    await expect(inspector.getByLabel('Model')).toHaveValue('models/tide_marker.glb');
    await page.keyboard.press('Escape');
    await page.keyboard.press('Escape');
    await inspector.getByRole('button', { name: 'crank', exact: true }).click();
    for (const target of ['crank_turned()', 'gate · Raise']) {
      await inspector.getByRole('button', { name: 'Connect a signal' }).click();
      await inspector.getByLabel('Target').selectOption({ label: target });
      await inspector.getByRole('button', { name: 'Connect', exact: true }).click();
      await expect(inspector.locator('[data-signal]').filter({ hasText: target })).toBeVisible();
    }
    await page.getByRole('button', { name: 'Take picture' }).click();
    await expect(page.getByRole('button', { name: 'Picture taken' })).toBeVisible();
    await saved(page);
    await application.kill('server', 'SIGTERM');
    await application.startServer();
    await page.reload();
    await expect(page.getByLabel('Inspector')).toContainText('7 solids, 6 objects, 2 signals');
    await expect(stage(page, 'map')).toHaveAttribute('data-state', 'clear');
  });

  await test.step('links', async () => {
    await stage(page, 'links').click();
    await expect(page.locator('tr[data-origin="crate"]', { hasText: 'models/tide_marker.glb' })).toBeVisible();
    await expect(page.locator('tr[data-origin="game"]', { hasText: 'models/crank.glb' })).toBeVisible();
    await expect(page.locator('tr[data-origin="missing"]')).toHaveCount(0);
  });

  await test.step('build', async () => {
    await stage(page, 'build').click();
    await page.getByRole('radio', { name: 'draft' }).click();
    await page.getByRole('button', { name: 'Build tide_hall' }).click();
    await expect(page.locator('[data-build-ok="true"][data-build-fresh="true"]')).toBeVisible({ timeout: 90_000 });
    await expect(page.locator('.log')).toContainText('packing: ran');
    await expect(stage(page, 'build')).toHaveAttribute('data-state', 'clear');
  });

  await test.step('test run', async () => {
    await stage(page, 'trial').click();
    const hud = page.getByTestId('trial-hud');
    await expect(hud).toBeVisible({ timeout: 60_000 });
    await expect(page.getByRole('log')).toContainText('Tide Marker Hall');
    // The start looks along +x, at the crank.
    await page.keyboard.down('w');
    await expect(page.getByText('operate crank')).toBeVisible({ timeout: 30_000 });
    await page.keyboard.up('w');
    await page.keyboard.press('q');
    await expect(page.getByRole('log')).toContainText('It gives.');
    await expect(page.getByRole('log')).toContainText('crank.turned → gate.raise');
    await page.keyboard.press('g');
    await expect(hud).toContainText('gliding');
  });

  await test.step('publish', async () => {
    await stage(page, 'publish').click();
    await page.getByLabel('Description').fill('A hall with a tide marker.');
    await page.getByLabel('Authors').fill('Test Author');
    await page.getByRole('button', { name: 'Save details' }).click();
    await expect(page.locator('form .stamp', { hasText: 'Saved' })).toBeVisible();
    await step(page, 'Package').click();
    await page.getByRole('button', { name: 'Make package' }).click();
    await step(page, 'Upload').click();
    await page.getByRole('button', { name: 'Publish 0.1.0' }).click({ timeout: 60_000 });
    const code = await page.locator('[data-share-code]').textContent();
    expect(code).toMatch(/^[2-9A-Z]{4}-[2-9A-Z]{4}$/);
    await step(page, 'Test as a player').click();
    await page.getByRole('button', { name: 'Install', exact: true }).click();
    await expect(page.locator('[data-installed="tide_hall"]')).toContainText('verified by SHA-256');
    await expect(stage(page, 'publish')).toContainText('published');

    const release = (await (await fetch(`${application.workshopUrl}/api/releases/${code}`)).json()) as { title: string };
    expect(release.title).toBe('Tide Marker Hall');
    const folder = join(application.mods, 'tide_hall');
    const manifest = JSON.parse(readFileSync(join(folder, 'release.json'), 'utf8')) as { files: { path: string; sha256: string }[] };
    expect(manifest.files.map((f) => f.path)).toEqual(
      expect.arrayContaining(['maps/tide_hall/map.glb', 'models/tide_marker.glb', 'textures/glaze.ktx2', 'scripts/main.lua', 'thumbnail.png']),
    );
    for (const file of manifest.files)
      expect(
        createHash('sha256')
          .update(readFileSync(join(folder, file.path)))
          .digest('hex'),
      ).toBe(file.sha256);
  });

  expect(problems).toEqual([]);
});
