/** Assets: what people bring, with the mistakes that they make. */

import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { encode } from 'fast-png';
import { Application } from './application.ts';
import { sheetPoint, stage } from './sheet.ts';

let application: Application;
const folder = mkdtempSync(join(tmpdir(), 'violet-assets-'));
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

const png = (level: number, size = 16) =>
  encode({ width: size, height: size, data: new Uint8Array(size * size * 3).fill(level), channels: 3, depth: 8 });
/** A closed wedge whose middle is its origin: half of it lies in the floor. */
const WEDGE = 'v -0.5 -0.5 -0.5\nv 0.5 -0.5 -0.5\nv -0.5 0.5 -0.5\nv -0.5 -0.5 0.5\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n';

function put(path: string, content: string | Uint8Array): string {
  const file = join(folder, path);
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(file, content);
  return file;
}

async function newCrate(name: string): Promise<string> {
  const { id } = await application.json<{ id: string }>('/api/crates', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ profile: 'brinewick', name, title: name, template: 'sealed-room' }),
  });
  return id;
}

const open = (page: Page, id: string, where = 'assets') => page.goto(`${application.url}/crates/${id}/${where}`);
const cell = (page: Page, name: string | RegExp) => page.getByTestId('library').getByRole('button', { name });
const batch = (page: Page) => page.getByRole('region', { name: 'Import' });
const manifest = async (id: string) =>
  (
    await application.json<{ manifest: { credits: object[]; assets: Record<string, { bounds?: { min: number[]; max: number[] } }> } }>(
      `/api/crates/${id}`,
    )
  ).manifest;

test('a folder with two bad files in it comes in as one batch, and nothing stops the rest', async ({ page }) => {
  const id = await newCrate('folder_import');
  put('moor/props/wedge.obj', WEDGE);
  put('moor/tex/peat.png', png(90));
  put('moor/tex/peat_n.png', png(128));
  put('moor/tex/broken.png', 'not a picture');
  put('moor/cut.glb', 'glTF');
  put('moor/readme.txt', 'hello');
  await open(page, id);
  await page.getByLabel('Choose a folder to import').setInputFiles(join(folder, 'moor'));
  await expect(batch(page)).toContainText('3 files imported · 2 failed · 1 left out');
  await expect(batch(page).locator('.finding')).toHaveCount(2);
  await expect(batch(page)).toContainText('broken.png is not a PNG file');
  await expect(batch(page)).toContainText(/cut\.glb: only 4 bytes.*byte 4/);
  await expect(stage(page, 'assets')).toContainText('blocked · 2');
  await batch(page).getByRole('button', { name: 'Show files' }).click();
  await expect(batch(page).locator('li[data-state="skipped"]')).toContainText('readme.txt');
  // Pictures of one name became one material.
  await cell(page, /^peat material/)
    .or(cell(page, /^peat unused/))
    .first()
    .click();
  await expect(page.getByLabel('Normal map')).toHaveValue('textures/peat_n.ktx2');
  // The same folder again: nothing is done twice.
  await page.getByLabel('Choose a folder to import').setInputFiles(join(folder, 'moor'));
  await expect(batch(page)).toContainText('2 failed · 3 unchanged · 1 left out');
});

test('a model that sinks stands after one click, and the preview shows it', async ({ page }) => {
  const id = await newCrate('pivot_fix');
  await open(page, id);
  await page.getByLabel('Choose files to convert').setInputFiles(put('wedge.obj', WEDGE));
  await cell(page, /wedge\.glb/).click();
  const detail = page.getByRole('complementary', { name: 'Details' });
  await expect(detail.locator('[data-code="model-sinks"]')).toContainText('50 %');
  await expect(detail).toContainText('stands from -16 to 16');
  const picture = page.getByRole('img', { name: 'models/wedge.glb beside a player-sized figure' });
  await expect(picture).toHaveAttribute('data-loaded', 'true');
  const before = await picture.screenshot();
  await detail.getByRole('button', { name: 'Put the pivot at the base' }).click();
  await expect(detail).toContainText('stands from 0 to 32');
  await expect(detail.locator('[data-code="model-sinks"]')).toHaveCount(0);
  await expect(picture).toHaveAttribute('data-loaded', 'true');
  await expect.poll(async () => (await picture.screenshot()).equals(before)).toBe(false);
  // Every way of drawing it works, its collision shape too.
  for (const look of ['Wireframe', 'Normals', 'Texture layout', 'Texel density', 'Collision shape'])
    await page.getByRole('button', { name: look }).click();
  // Settings by hand: levels of detail, and the same for the whole folder.
  await page.getByLabel('Levels of detail').selectOption('50 %');
  await page.getByRole('button', { name: 'Convert again' }).click();
  await expect(page.getByLabel('Level of detail')).toBeVisible();
});

test('a shared snippet comes with its credit and goes without a trace', async ({ page }) => {
  const id = await newCrate('snippets');
  await open(page, id, 'scripts');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  const dialog = page.getByRole('dialog');
  const snippet = {
    format: 1,
    title: 'Dripping pipes',
    author: 'Ilse Brandt',
    licence: 'CC BY 4.0',
    call: 'drip_pipes()',
    body: 'function drip_pipes()\n  say("drip")\nend',
  };
  await dialog.locator('input[type=file]').setInputFiles(put('drip.json', JSON.stringify(snippet)));
  await expect(dialog.getByLabel('Title')).toHaveValue('Dripping pipes');
  await dialog.getByRole('button', { name: 'Add to the script' }).click();
  const editor = page.getByRole('textbox', { name: 'Script scripts/main.lua' });
  await expect(editor).toContainText('drip_pipes() -- from snippet: Dripping pipes');
  await expect
    .poll(async () => (await manifest(id)).credits)
    .toEqual([{ author: 'Ilse Brandt', work: 'Dripping pipes (script)', licence: 'CC BY 4.0' }]);
  // The outline knows who calls it.
  await expect(page.getByText('called by startup')).toBeVisible();
  // A second time is recognised.
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await dialog.locator('input[type=file]').setInputFiles(put('drip.json', JSON.stringify(snippet)));
  await expect(dialog.getByRole('status')).toHaveText('"Dripping pipes" is in this script already.');
  await expect(dialog.getByRole('button', { name: 'Add to the script' })).toBeDisabled();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Remove snippet Dripping pipes' }).click();
  await expect(editor).not.toContainText('drip_pipes');
  await expect.poll(async () => (await manifest(id)).credits).toEqual([]);
});

test('a pack is looked into, and a name that is taken is settled with both pictures in view', async ({ page }) => {
  const id = await newCrate('packs');
  await open(page, id);
  await page.getByLabel('Choose files to convert').setInputFiles(put('peat.png', png(200)));
  await expect(cell(page, /peat\.ktx2/)).toBeVisible();
  const text = (content: string) => new TextEncoder().encode(content);
  const pack = writeZip(
    new Map([
      [
        'moor/pack.json',
        text(JSON.stringify({ format: 1, title: 'Moor set', author: 'Jorun Pell', licence: 'CC0', instructions: 'Scatter freely.' })),
      ],
      ['moor/wedge.obj', text(WEDGE)],
      ['moor/peat.png', png(60)],
      ['moor/unwanted.png', png(10)],
    ]),
  );
  await page.getByLabel('Choose a pack').setInputFiles(put('moor.zip', pack));
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('by Jorun Pell, CC0');
  await expect(dialog).toContainText('Scatter freely.');
  await dialog.getByRole('button', { name: 'wedge.obj' }).click();
  await expect(dialog.getByRole('img', { name: 'Preview of wedge.obj' })).toBeVisible();
  await dialog.getByRole('checkbox', { name: 'Take unwanted.png' }).uncheck();
  const clash = dialog.getByRole('region', { name: 'Names that are taken' });
  await expect(clash.getByRole('img', { name: 'Mine: textures/peat.ktx2' })).toBeVisible();
  await expect(clash.getByRole('img', { name: 'Theirs: peat.png' })).toBeVisible();
  await expect(clash.getByLabel('peat.png')).toContainText('take it as peat_2');
  await clash.getByLabel('peat.png').selectOption('keep mine, leave this out');
  await dialog.getByRole('button', { name: 'Import 2 assets' }).click();
  await expect(cell(page, /wedge\.glb/)).toBeVisible();
  await expect(cell(page, /peat_2/)).toHaveCount(0);
  await expect(cell(page, /unwanted/)).toHaveCount(0);
  await expect.poll(async () => (await manifest(id)).credits).toEqual([{ author: 'Jorun Pell', work: 'Moor set', licence: 'CC0' }]);
  await page.getByLabel('Pack', { exact: true }).selectOption('Moor set');
  await expect(cell(page, /\./)).toHaveCount(1);
});

test('a changed source in the watched folder is stale, and one click imports it again', async ({ page }) => {
  const id = await newCrate('watching');
  const watched = join(folder, 'sources');
  put('sources/wedge.obj', WEDGE);
  await open(page, id);
  await page.getByRole('button', { name: 'Watch a folder' }).click();
  await page.getByLabel('Folder on this machine').fill(join(folder, 'none'));
  await page.getByRole('button', { name: 'Watch', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('There is no folder');
  await page.getByLabel('Folder on this machine').fill(watched);
  await page.getByRole('button', { name: 'Watch', exact: true }).click();
  await page.getByRole('button', { name: 'Import 1 new file' }).click();
  await expect(cell(page, /wedge\.glb/)).toBeVisible();
  put('sources/wedge.obj', WEDGE.replace('v -0.5 0.5', 'v -0.5 1.5'));
  await expect(cell(page, /wedge\.glb.*stale/)).toBeVisible();
  await expect(stage(page, 'assets')).toContainText('warnings');
  await page.getByRole('button', { name: 'Import 1 changed file again' }).click();
  await expect(cell(page, /wedge\.glb.*stale/)).toHaveCount(0);
  await expect.poll(async () => (await manifest(id)).assets['models/wedge.glb'].bounds!.max[2]).toBe(48);
});

test('the library: search, rename that follows into the map, removal with undo, and dragging onto the plan', async ({ page }) => {
  const id = await newCrate('library');
  await open(page, id);
  await page.getByLabel('Choose files to convert').setInputFiles([put('wedge.obj', WEDGE), put('moss.png', png(120))]);
  await expect(cell(page, /wedge\.glb/)).toBeVisible();
  await page.getByRole('searchbox', { name: 'Search the library' }).fill('barrel');
  await expect(cell(page, /\./)).toHaveCount(1);
  await page.getByRole('button', { name: 'Show all' }).click();

  // Onto the plan by dragging; a material onto a wall.
  await stage(page, 'map').click();
  await page.getByRole('button', { name: 'Library' }).click();
  const shelf = page.getByRole('complementary', { name: 'Library' });
  await shelf.getByRole('searchbox').fill('wedge');
  const plan = page.getByTestId('plan');
  await shelf.getByRole('button', { name: /wedge\.glb/ }).dragTo(plan, { targetPosition: await sheetPoint(plan, 32, 32) });
  await expect(page.getByLabel('Model')).toHaveValue('models/wedge.glb');
  await shelf.getByRole('searchbox').fill('moss');
  await shelf
    .getByRole('button', { name: /moss/ })
    .first()
    .dragTo(plan, { targetPosition: await sheetPoint(plan, 0, 0) });
  const map = async () =>
    (
      await application.json<{
        map: { solids: Record<string, { faces: { material: string }[] }>; objects: Record<string, { properties: { model?: string } }> };
      }>(`/api/crates/${id}/maps/library`)
    ).map;
  await expect
    .poll(async () => Object.values((await map()).solids).some((solid) => solid.faces.every((face) => face.material === 'moss')))
    .toBe(true);

  await open(page, id, 'assets?file=models/wedge.glb');
  const detail = page.getByRole('complementary', { name: 'Details' });
  await expect(detail).toContainText('object prop');
  await detail.getByRole('button', { name: 'Rename' }).click();
  await detail.getByLabel('New name').fill('Bad Name');
  await detail.getByRole('button', { name: 'Rename' }).click();
  await expect(detail.getByRole('alert')).toContainText('No spaces');
  await detail.getByLabel('New name').fill('ramp');
  await detail.getByRole('button', { name: 'Rename' }).click();
  await expect(cell(page, /ramp\.glb/)).toBeVisible();
  expect(Object.values((await map()).objects).map((object) => object.properties.model)).toContain('models/ramp.glb');

  await detail.getByRole('button', { name: 'Remove' }).click();
  await expect(detail.getByRole('alert')).toContainText('models/ramp.glb is used by map library');
  await detail.getByRole('button', { name: 'Remove it anyway' }).click();
  await expect(cell(page, /ramp\.glb/)).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(cell(page, /ramp\.glb/)).toBeVisible();
  // The game's own can be looked at and used, never changed.
  await cell(page, /barrel\.glb/).click();
  await expect(detail).toContainText('of the game, read-only');
  await expect(detail.getByRole('button', { name: 'Remove' })).toHaveCount(0);
});

test('a material is tuned on a sphere; a sound is heard and seen', async ({ page }) => {
  const id = await newCrate('tuning');
  await open(page, id);
  const samples = 22050;
  const wav = new DataView(new ArrayBuffer(44 + samples * 2));
  const tag = (at: number, text: string) => [...text].forEach((c, i) => wav.setUint8(at + i, c.charCodeAt(0)));
  tag(0, 'RIFF');
  wav.setUint32(4, 36 + samples * 2, true);
  tag(8, 'WAVEfmt ');
  wav.setUint32(16, 16, true);
  wav.setUint16(20, 1, true);
  wav.setUint16(22, 1, true);
  wav.setUint32(24, samples, true);
  wav.setUint32(28, samples * 2, true);
  wav.setUint16(32, 2, true);
  wav.setUint16(34, 16, true);
  tag(36, 'data');
  wav.setUint32(40, samples * 2, true);
  for (let i = 0; i < samples; i++) wav.setInt16(44 + i * 2, 9000 * Math.sin(i / 11), true);
  await page.getByLabel('Choose files to convert').setInputFiles([put('moss.png', png(120)), put('hum.wav', new Uint8Array(wav.buffer))]);
  await cell(page, /^moss/).first().click();
  await page.getByRole('button', { name: 'sphere' }).click();
  await expect(page.getByRole('img', { name: 'Material moss on a sphere' })).toBeVisible();
  await page.getByRole('spinbutton', { name: 'Roughness' }).fill('0.3');
  await page.getByLabel('Kind of surface').selectOption('wood');
  await page.getByRole('button', { name: 'Save material' }).click();
  await expect
    .poll(async () => (await application.json<{ manifest: { materials: object[] } }>(`/api/crates/${id}`)).manifest.materials)
    .toMatchObject([{ name: 'moss', roughness: 0.3, surface: 'wood' }]);
  await cell(page, /hum\.wav/).click();
  await expect(page.getByRole('img', { name: 'Waveform' })).toHaveAttribute('data-drawn', 'true');
  await expect(page.getByText(/-20 LUFS · peaks at/)).toBeVisible();
  await page.getByLabel('Loop', { exact: true }).check();
  await page.getByRole('button', { name: 'Convert again' }).click();
  await expect(page.locator('audio[loop]')).toBeVisible();
});
