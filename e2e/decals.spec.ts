/** Decals: put with a click, dragged round a corner, carried by their wall; wear by rule, made anew and undone; a build has them. */

import { expect, test, type Page } from '@playwright/test';
import { Application } from './application.ts';
import { newCrate } from './newCrate.ts';
import { clickOn, dragOn, saved } from './sheet.ts';

let application: Application;
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

interface Decal {
  position: [number, number, number];
  normal: [number, number, number];
  material: string;
  on?: string;
  rule?: string;
}

const idOf = (page: Page) => /crates\/([^/]+)/.exec(page.url())![1];
async function document(page: Page): Promise<{
  decals?: Record<string, Decal>;
  overlays?: Record<string, { form: string; points: number[][]; on?: string }>;
  solids: Record<string, unknown>;
}> {
  await saved(page);
  const { maps } = (await (await page.request.get(`${application.url}/api/crates/${idOf(page)}`)).json()) as { maps: string[] };
  return ((await (await page.request.get(`${application.url}/api/crates/${idOf(page)}/maps/${maps[0]}`)).json()) as never as { map: never }).map;
}
const decals = async (page: Page) => Object.values((await document(page)).decals ?? {});

const key = async (page: Page, ...keys: string[]) => {
  await page.getByTestId('plan').focus();
  for (const one of keys) await page.keyboard.press(one);
};
/** A block north of the middle, and what it is called. */
async function block(page: Page): Promise<string> {
  const before = Object.keys((await document(page)).solids);
  await key(page, '3');
  await dragOn(page, page.getByTestId('plan'), [0, 48], [80, 96]);
  await expect.poll(async () => Object.keys((await document(page)).solids).length).toBe(before.length + 1);
  return Object.keys((await document(page)).solids).find((id) => !before.includes(id))!;
}

test('a decal is put on a floor, dragged up a block, goes with it, and lies in the build', async ({ page }) => {
  await newCrate(page, application.url, 'Stained', 'Sealed room');
  const plan = page.getByTestId('plan');
  const made = await block(page);
  await key(page, 'Escape', 'Escape', 'q');
  const options = page.getByRole('group', { name: 'Decal options' });
  await clickOn(page, plan, [40, 0]);
  await expect(options.getByRole('alert')).toHaveText('Choose the material of the decal first.');
  await options.getByLabel('Material').selectOption('chalk_arrow');
  await clickOn(page, plan, [40, 0]);
  await expect(page.getByRole('heading', { name: 'Decal', exact: true })).toBeVisible();
  const lies = async () => (await decals(page)).map(({ normal, on }) => [normal.map((v) => v + 0), on]);
  await expect.poll(lies).toEqual([[[0, 0, 1], 's1']]);

  // Looked at from the south, what is farther up in the picture lies farther north: the floor, then the block's side.
  await key(page, 'Escape');
  await page.keyboard.press('ControlOrMeta+k');
  await page.getByLabel('Search commands').fill('Show what is selected');
  await page.keyboard.press('Enter');
  const box = (await page.getByTestId('perspective').boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x, box.y + 60, { steps: 6 });
  await page.mouse.move(x, box.y + 12, { steps: 6 });
  await page.mouse.up();
  await expect.poll(lies).toEqual([[[0, -1, 0], made]]);
  await expect(page.getByText(/^Lies on .*, and goes where that goes/)).toBeVisible();

  // What it lies on takes it along, and back.
  const [{ position: before }] = await decals(page);
  await key(page, 'Escape', 'Escape');
  await clickOn(page, plan, [60, 90]);
  await dragOn(page, plan, [60, 90], [60, 122]);
  await expect.poll(async () => (await decals(page))[0].position[1]).toBeCloseTo(before[1] + 32, 3);
  await key(page, 'ControlOrMeta+z');
  await expect.poll(async () => (await decals(page))[0].position).toEqual(before);

  // Without its block it has lost its surface, and the finding takes it away.
  await key(page, 'Delete');
  const findings = page.getByRole('button', { name: /Findings/ });
  await findings.click();
  await expect(page.getByText(`The decal chalk_arrow_1 was on solid ${made}, which is gone.`)).toBeVisible();
  await key(page, 'ControlOrMeta+z');
  await expect(page.getByText(/was on solid/)).toHaveCount(0);
  await expect.poll(async () => Object.keys((await document(page)).solids)).toContain(made);

  // The build has it, cut and lit like what it lies on.
  const crate = `${application.url}/api/crates/${idOf(page)}`;
  const { id: job } = (await (await page.request.post(`${crate}/builds`, { data: { map: 'stained', quality: 'draft' } })).json()) as { id: string };
  await expect
    .poll(async () => ((await (await page.request.get(`${application.url}/api/jobs/${job}`)).json()) as { state: string }).state, { timeout: 60_000 })
    .toBe('done');
  const [{ id: build }] = (await (await page.request.get(`${crate}/builds`)).json()) as { id: string }[];
  const glb = await (await page.request.get(`${crate}/builds/${build}/files/maps/stained/map.glb`)).body();
  const json = JSON.parse(glb.subarray(20, 20 + glb.readUInt32LE(12)).toString()) as {
    materials: { name: string; extras: { decal?: number; lightmap?: object } }[];
  };
  expect(json.materials.filter(({ extras }) => extras.decal !== undefined)).toMatchObject([
    { name: 'chalk_arrow', extras: { decal: 0, lightmap: { texCoord: 1 } } },
  ]);
});

test('wear comes by rule, is made anew after a change, and is undone', async ({ page }) => {
  await newCrate(page, application.url, 'Worn', 'Sealed room');
  const wear = page.getByRole('region', { name: 'Wear' });
  await wear.getByRole('button', { name: 'Add' }).click();
  await expect.poll(async () => (await decals(page)).length).toBeGreaterThan(5);
  await wear.getByLabel('Decal', { exact: true }).selectOption('stain');
  await expect.poll(async () => new Set((await decals(page)).map(({ material }) => material))).toEqual(new Set(['stain']));
  await wear.getByLabel('Chance').fill('1');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await decals(page)).length).toBeGreaterThan(30);
  const all = (await decals(page)).length;

  // A block against which there was no wear: made anew, it has some.
  const made = await block(page);
  expect((await decals(page)).filter(({ on }) => on === made)).toEqual([]);
  await key(page, 'Escape', 'Escape');
  await wear.getByRole('button', { name: 'Anew' }).click();
  await expect.poll(async () => (await decals(page)).filter(({ on }) => on === made).length).toBeGreaterThan(0);
  await key(page, 'ControlOrMeta+z');
  await expect.poll(async () => (await decals(page)).length).toBe(all);
  await wear.getByRole('button', { name: /^Remove / }).click();
  await expect.poll(async () => (await decals(page)).length).toBe(0);
  await key(page, 'ControlOrMeta+z');
  await expect.poll(async () => (await decals(page)).length).toBe(all);
});

test('a strip is laid over the floor by its points, an area by its corners', async ({ page }) => {
  await newCrate(page, application.url, 'Marked', 'Sealed room');
  const plan = page.getByTestId('plan');
  await key(page, 'q');
  const options = page.getByRole('group', { name: 'Decal options' });
  await options.getByLabel('Lay').selectOption('strip');
  await options.getByLabel('Material').selectOption('tide_line');
  await clickOn(page, plan, [-60, 0]);
  await expect(options.getByRole('button', { name: 'Lay it' })).toBeDisabled();
  await clickOn(page, plan, [20, 0]);
  await clickOn(page, plan, [20, 60]);
  await key(page, 'Enter');
  const overlays = async () => Object.values((await document(page)).overlays ?? {}).map(({ form, points, on }) => [form, points.length, on]);
  await expect.poll(overlays).toEqual([['strip', 3, 's1']]);
  await expect(page.getByRole('heading', { name: 'Overlay', exact: true })).toBeVisible();
  await options.getByLabel('Lay').selectOption('area');
  for (const at of [
    [60, 20],
    [110, 20],
  ] as const)
    await clickOn(page, plan, [...at]);
  await options.getByRole('button', { name: 'Lay it' }).click();
  await expect(options.getByRole('alert')).toHaveText('An area has three corners at least, on surfaces that look one way.');
  await clickOn(page, plan, [110, 70]);
  await options.getByRole('button', { name: 'Lay it' }).click();
  await expect.poll(overlays).toEqual([
    ['strip', 3, 's1'],
    ['area', 3, 's1'],
  ]);
  await key(page, 'ControlOrMeta+z');
  await expect.poll(overlays).toEqual([['strip', 3, 's1']]);
});
