/** Drawing a map as people do: a house from blank, prefabs and series, paths, volumes, damaged files, two tabs. */

import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { unzipSync, zipSync } from 'fflate';
import { Application } from './application.ts';
import { newCrate } from './newCrate.ts';
import { clickOn, dragOn, saved, stage } from './sheet.ts';

let application: Application;
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

const inspector = (page: Page) => page.getByLabel('Inspector');
const plan = (page: Page) => page.getByTestId('plan');
const section = (page: Page) => page.getByTestId('section');

interface MapDocument {
  solids: Record<string, { faces: { material: string; normal: number[]; distance: number }[]; detail?: boolean }>;
  objects: Record<string, { class: string; name: string; position: number[]; properties: Record<string, unknown> }>;
  copies: Record<string, unknown>;
  paths: Record<string, { name: string; loop: boolean; points: number[][] }>;
}

/** The open map as the server has it. */
async function document(page: Page): Promise<MapDocument> {
  await saved(page);
  const id = /crates\/([^/]+)/.exec(page.url())![1];
  const view = (await (await page.request.get(`${application.url}/api/crates/${id}`)).json()) as { maps: string[] };
  return ((await (await page.request.get(`${application.url}/api/crates/${id}/maps/${view.maps[0]}`)).json()) as { map: MapDocument }).map;
}

/** Presses a key where keys mean commands: with the plan focused and nothing typed. */
async function key(page: Page, ...keys: string[]): Promise<void> {
  await plan(page).focus();
  for (const one of keys) await page.keyboard.press(one);
}

/** Runs a command by its name, as somebody would who does not know where it is. */
async function command(page: Page, name: string, answers: Record<string, string> = {}): Promise<void> {
  await page.keyboard.press('ControlOrMeta+k');
  await page.getByLabel('Search commands').fill(name);
  await page.keyboard.press('Enter');
  for (const [label, value] of Object.entries(answers)) {
    const field = page.getByRole('dialog').getByLabel(label);
    if ((await field.evaluate((e) => e.tagName)) === 'SELECT') await field.selectOption(value);
    else await field.fill(value);
  }
  if (Object.keys(answers).length > 0) await page.getByRole('button', { name: 'Do it' }).click();
}

const place = async (page: Page, label: string, at: [number, number]) => {
  await page.locator('#place-object').click();
  await page.getByRole('button', { name: label, exact: true }).click();
  await clickOn(page, plan(page), at);
  await page.keyboard.press('Escape');
};

test('a house of two rooms with door, window, stair and lamp, from blank and back to it', async ({ page }) => {
  test.setTimeout(180_000);
  await newCrate(page, application.url, 'Two Rooms', 'Blank');
  const before = JSON.stringify(await document(page));

  // A room with a door to the east, and one beyond it with a window, drawn against its wall.
  await key(page, '2');
  const options = page.getByRole('group', { name: 'Room options' });
  await options.getByLabel('Door in').selectOption('east');
  await dragOn(page, plan(page), [-256, -128], [-16, 128]);
  await expect(inspector(page).getByRole('heading', { name: '8 solids' })).toBeVisible();
  await key(page, '2');
  await options.getByLabel('Door in').selectOption('no wall');
  await options.getByLabel('Window in').selectOption('north');
  await dragOn(page, plan(page), [16, -128], [256, 128]);
  // The doorway still ends at the second room's wall: what overlaps it goes, by cutting a hole of the door's size.
  await key(page, 'Escape', 'Escape', '3');
  const solid = page.getByRole('group', { name: 'Block options' });
  await expect(solid).toBeVisible();
  await dragOn(page, plan(page), [-16, -32], [16, 16]);
  await inspector(page).getByLabel('Size z').fill('80');
  await inspector(page).getByLabel('Size z').press('Enter');
  await command(page, 'Subtract from all');
  await expect(inspector(page).getByRole('heading', { name: /solids$/ })).toBeVisible();

  // A stair: the note says whether it can be climbed while it is still dragged; the band gives its height.
  await key(page, 'Escape', 'Escape');
  await page.locator('#solid-shape').click();
  await page.getByRole('button', { name: 'Straight stair' }).click();
  await expect(page.getByRole('group', { name: 'Straight stair options' })).toContainText('steps. Risers of');
  await dragOn(page, plan(page), [-240, -112], [-48, -48]);
  await expect(inspector(page).getByRole('heading', { name: /solids$/ })).toBeVisible();
  const steps = Object.values((await document(page)).solids).filter((s) => s.detail);
  expect(steps.length).toBeGreaterThanOrEqual(10);

  // A window pane's sill pulled in by its edge, in the section.
  await key(page, 'Escape', 'Escape');
  await place(page, 'Lamp light', [128, 0]);
  await place(page, 'Start', [64, 0]);

  // Materials: one face painted in the perspective, a whole room by the palette's current material.
  await page.getByTestId('perspective').click({ position: { x: 170, y: 100 } });
  await expect(inspector(page).getByRole('heading', { name: /^Material of this face/ })).toBeVisible();
  await inspector(page).getByRole('button', { name: 'plaster' }).click();
  await inspector(page).getByLabel('Turn (°)').fill('45');
  await inspector(page).getByLabel('Turn (°)').press('Enter');
  expect(JSON.stringify((await document(page)).solids)).toContain('"material":"plaster"');

  // The window leads outside: the leak is found and drawn as soon as it is there.
  await expect(page.getByRole('button', { name: 'Leak trail' })).toBeVisible({ timeout: 20_000 });

  // The history goes back to any step; all of it leads back to blank.
  await page.getByRole('tab', { name: 'History' }).click();
  await expect(page.getByRole('list', { name: 'Steps of this session' }).getByRole('listitem').last()).toContainText('turn texture');
  for (let i = 0; i < 40 && (await page.getByRole('button', { name: 'Undo' }).isEnabled()); i++)
    await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('heading', { name: 'An empty map' })).toBeVisible();
  expect(JSON.stringify(await document(page))).toBe(before);
});

test('solids are pushed, cut, turned, hollowed and merged, and refusals say why', async ({ page }) => {
  test.setTimeout(120_000);
  await newCrate(page, application.url, 'Workshop', 'Blank');
  await key(page, '3');
  await dragOn(page, plan(page), [0, 0], [128, 128]);
  await expect(inspector(page).getByLabel('Size x')).toHaveValue('128');

  // A side face dragged outwards by two grid steps.
  await key(page, 'f');
  await dragOn(page, plan(page), [128, 64], [160, 64]);
  await key(page, 's');
  await clickOn(page, plan(page), [64, 64]);
  await expect(inspector(page).getByLabel('Size x')).toHaveValue('160');

  // A corner column dragged inwards is refused with its reason; outwards it moves.
  await key(page, 'c');
  await dragOn(page, plan(page), [0, 0], [48, 96]);
  await expect(page.getByRole('alert').filter({ hasText: 'concave' })).toBeVisible();
  await dragOn(page, plan(page), [0, 0], [-32, -32]);
  await key(page, 's');
  await expect(inspector(page).getByLabel('From x')).toHaveValue('-32');
  await key(page, 'ControlOrMeta+z');

  // Cut along a line, keep both; turn one by the keys; merge refuses what is not convex together.
  await key(page, '7');
  await dragOn(page, plan(page), [64, -64], [64, 192]);
  await expect(inspector(page).getByRole('heading', { name: '2 solids' })).toBeVisible();
  await key(page, 'u');
  await expect(inspector(page).getByRole('heading', { name: /^Solid s/ })).toBeVisible();
  await expect(inspector(page).getByLabel('Size x')).toHaveValue('160');
  await command(page, 'Hollow', { 'Wall thickness': '16' });
  await expect(inspector(page).getByRole('heading', { name: '6 solids' })).toBeVisible();
  await key(page, 'u');
  await expect(page.getByRole('alert').filter({ hasText: 'not convex' })).toBeVisible();
  await command(page, 'Row of copies', { Copies: '2', 'Step x': '256' });
  await expect(inspector(page).getByRole('heading', { name: '12 solids' })).toBeVisible();
  expect(Object.keys((await document(page)).solids)).toHaveLength(18);

  // In the section: the cut line across, the lower part is kept.
  await key(page, 'ControlOrMeta+a', 'Delete');
  await key(page, '3');
  await dragOn(page, plan(page), [-64, -32], [64, 32]);
  await key(page, '7');
  await page.getByRole('button', { name: 'The right part' }).click();
  await dragOn(page, section(page), [0, 48], [400, 48]);
  await expect(inspector(page).getByLabel('Size z')).toHaveValue('48');
});

test('a prefab with a series of three, a path and its follower, a trigger volume', async ({ page }) => {
  test.setTimeout(120_000);
  await newCrate(page, application.url, 'Harbour', 'Sealed room');
  // A beacon on a plinth, then the next two of its series by the key.
  await place(page, 'Harbour beacon', [0, 64]);
  await clickOn(page, plan(page), [0, 64]);
  await key(page, 'n', 'n');
  const beacons = async () =>
    Object.values((await document(page)).objects)
      .filter((o) => o.class === 'beacon')
      .map((o) => [o.name, o.properties.ordinal]);
  expect(await beacons()).toEqual([
    ['beacon_0', 0],
    ['beacon_1', 1],
    ['beacon_2', 2],
  ]);
  // A gap is a blocker, and its fix closes it.
  await inspector(page).getByLabel('Number').fill('7');
  await inspector(page).getByLabel('Number').press('Enter');
  await page.getByRole('button', { name: /^Findings/ }).click();
  await page.getByRole('button', { name: 'Renumber from 0' }).first().click();
  await page.getByRole('button', { name: /^Findings/ }).click();
  expect((await beacons()).map(([, n]) => n)).toEqual([0, 1, 2]);

  // A prefab of a lamp and a block, placed twice, changed in its place: both follow.
  await key(page, 'Escape', '3');
  await dragOn(page, plan(page), [-128, -96], [-96, -64]);
  await key(page, 'Escape');
  await dragOn(page, plan(page), [-132, -100], [-92, -60]);
  await command(page, 'Make a prefab', { Name: 'bollard' });
  await expect(inspector(page).getByRole('heading', { name: 'Copy of bollard' })).toBeVisible();
  await inspector(page).getByRole('button', { name: 'Place another' }).click();
  await clickOn(page, plan(page), [96, -96]);
  await page.keyboard.press('Escape');
  await clickOn(page, plan(page), [96, -96]);
  await expect(inspector(page).getByLabel('Name')).toHaveValue('bollard_2');
  await inspector(page).getByRole('button', { name: 'Edit in place' }).click();
  await expect(page.getByRole('button', { name: 'Done with bollard' })).toBeVisible();
  await clickOn(page, plan(page), [96, -96]);
  await inspector(page).getByLabel('Size z').fill('24');
  await inspector(page).getByLabel('Size z').press('Enter');
  await page.getByRole('button', { name: 'Done with bollard' }).click();
  expect(Object.keys((await document(page)).copies)).toHaveLength(2);
  await inspector(page).getByRole('button', { name: 'Make independent' }).click();
  await expect(inspector(page).getByLabel('Size z')).toHaveValue('24');

  // A path of three points, closed, and a ferry that follows it by picking it.
  await key(page, 'Escape', '8');
  for (const at of [
    [-96, 96],
    [96, 96],
    [96, -32],
    [-96, 96],
  ] as [number, number][])
    await clickOn(page, plan(page), at);
  await expect(inspector(page).getByRole('heading', { name: 'Path' })).toBeVisible();
  expect(Object.values((await document(page)).paths)).toMatchObject([{ name: 'path', loop: true }]);
  await key(page, 'Escape');
  await place(page, 'Ferry', [0, -32]);
  await clickOn(page, plan(page), [0, -32]);
  await inspector(page).getByLabel('Path').selectOption({ label: 'path' });
  await expect(page.locator('.finding', { hasText: 'follows no path' })).toHaveCount(0);

  // A trigger volume made of a solid keeps its shape.
  await key(page, 'Escape', '3');
  await dragOn(page, plan(page), [-64, 16], [-16, 48]);
  await command(page, 'Make a trigger volume');
  await expect(inspector(page).getByRole('heading', { name: /Trigger/ })).toBeVisible();
  await inspector(page).getByLabel('Properties (one a line)').fill('first "quoted"\nzweites Ö');
  await inspector(page).getByLabel('Properties (one a line)').blur();
  const trigger = Object.values((await document(page)).objects).find((o) => o.class === 'trigger')!;
  expect(trigger.properties.notes).toEqual(['first "quoted"', 'zweites Ö']);

  // The outline finds it by class, and shows it.
  await page.getByRole('tab', { name: 'Outline' }).click();
  await page.getByLabel('Find in the map').fill('class:beacon');
  await expect(page.getByRole('tree').getByRole('treeitem')).toHaveCount(3);
});

test('a damaged map opens with what can be read, and says what is lost and where', async ({ page }) => {
  await newCrate(page, application.url, 'Torn Map', 'Sealed room');
  const id = /crates\/([^/]+)/.exec(page.url())![1];
  const archive = Buffer.from(await (await page.request.get(`${application.url}/api/crates/${id}/export`)).body());
  const files = unzipSync(archive);
  const path = Object.keys(files).find((p) => p.endsWith('.map.json'))!;
  const text = Buffer.from(files[path]).toString('utf8').replace('"s3": {', '"s3": {"oops" ');
  files[path] = new TextEncoder().encode(text);
  files['crate.json'] = new TextEncoder().encode(
    Buffer.from(files['crate.json']).toString('utf8').replaceAll('torn_map', 'torn_again').replace('Torn Map', 'Torn Again'),
  );
  files[path.replace('torn_map', 'torn_again')] = files[path];
  delete files[path];
  const file = join(mkdtempSync(join(tmpdir(), 'violet-torn-')), 'torn.zip');
  writeFileSync(file, zipSync(files));
  await page.goto(application.url);
  await page.locator('input[type=file]').setInputFiles(file);
  await expect(page.getByRole('alert')).toContainText(/line \d+, column \d+: solid s3 could not be read/);
  await page.getByRole('button', { name: 'Open it' }).click();
  await expect(plan(page)).toBeVisible();
  await expect(inspector(page)).toContainText('5 solids, 2 objects');
});

test('two tabs: edits of different things merge at once; of the same, the user decides', async ({ page, context }) => {
  await newCrate(page, application.url, 'Two Tabs', 'Sealed room');
  const other = await context.newPage();
  await other.goto(page.url());
  const choose = (p: Page, name: string) => inspector(p).getByRole('button', { name, exact: true }).click();
  const moveTo = async (p: Page, x: string) => {
    await inspector(p).getByLabel('Position x').fill(x);
    await inspector(p).getByLabel('Position x').press('Enter');
  };
  // Different things: the other tab shows it without being asked.
  await choose(other, 'lamp_1');
  await choose(page, 'start');
  await moveTo(page, '32');
  await saved(page);
  await expect(other.locator('.bar')).toContainText('another page: move start');
  await moveTo(other, '48');
  await saved(other);
  await expect(page.locator('.bar')).toContainText('another page: move lamp_1');
  // The same thing while the second tab cannot reach the server.
  await other.route('**/edits*', (route) => (route.request().method() === 'POST' ? route.continue() : route.abort()));
  await other.route('**/edits', (route) => route.abort());
  await key(other, 'Escape');
  await choose(other, 'start');
  await moveTo(other, '-64');
  await moveTo(page, '96');
  await saved(page);
  await other.unrouteAll();
  await expect(other.getByRole('alert')).toContainText('Changed elsewhere too, not saved: start', { timeout: 15_000 });
  await other.getByRole('button', { name: 'Keep mine' }).click();
  await saved(other);
  await expect(inspector(page).getByLabel('Position x')).toHaveValue('-64');
  // Nothing of either is lost: the history has both.
  await page.getByRole('tab', { name: 'History' }).click();
  await expect(inspector(page).getByText('move start').first()).toBeVisible();
});

test('measuring says what the player can do; layers, hiding and a revision to go back to', async ({ page }) => {
  await newCrate(page, application.url, 'Rules', 'Sealed room');
  await key(page, '9');
  await clickOn(page, plan(page), [-64, 0]);
  await clickOn(page, plan(page), [64, 0]);
  const measure = page.getByRole('status', { name: 'Measure' });
  await expect(measure).toContainText('Distance 128 (4 m)');
  await expect(measure).toContainText('can jump across');
  await expect(measure).toContainText('can fit through');
  await key(page, 'Escape', 'ControlOrMeta+a');
  await command(page, 'Move to a layer', { 'Layer (a new name makes one)': 'shell' });
  await key(page, 'Escape');
  await inspector(page).getByLabel('Show layer shell').uncheck();
  await clickOn(page, plan(page), [0, 168]);
  await expect(inspector(page).getByRole('heading', { name: 'Map' })).toBeVisible();
  await inspector(page).getByLabel('Show layer shell').check();
  await key(page, 'ControlOrMeta+a', 'Delete');
  await saved(page);
  await page.getByRole('tab', { name: 'History' }).click();
  const began = inspector(page).locator('.panel-body > div').filter({ hasText: 'as it began' });
  await began.getByRole('button', { name: 'Compare' }).click();
  await expect(inspector(page).getByText(/^Since revision 0/)).toContainText('8 removed');
  await began.getByRole('button', { name: 'Restore' }).click();
  await expect.poll(async () => Object.keys((await document(page)).solids)).toHaveLength(6);
  await expect(stage(page, 'map')).toContainText('clear');
});

test('solids are turned by a handle, gathered in the section, lifted and pushed in the perspective', async ({ page }) => {
  await newCrate(page, application.url, 'By Hand', 'Blank');
  await key(page, '3');
  await dragOn(page, plan(page), [-64, -32], [64, 32]);
  const box = async () => {
    const { solids } = await document(page);
    const distance = (n: number[]) =>
      Object.values(solids)[0].faces.find((f) => f.normal.every((v, i) => Math.abs(v - n[i]) < 1e-6))?.distance ?? NaN;
    return [distance([1, 0, 0]), distance([0, 1, 0]), distance([0, 0, 1])];
  };
  const [, , height] = await box();
  expect((await box()).slice(0, 2)).toEqual([64, 32]);

  // The handle for turning stands over the middle of the upper side.
  const sheetScale = Number((await plan(page).getAttribute('data-sheet'))!.split(',')[2]);
  await dragOn(page, plan(page), [0, 32 + 26 / sheetScale], [-(32 + 26 / sheetScale), 0]);
  expect((await box()).slice(0, 2)).toEqual([32, 64]);

  // A rectangle in the section takes what the line cuts.
  await page.keyboard.press('Escape');
  const cut = (await section(page).boundingBox())!;
  await page.mouse.move(cut.x + 12, cut.y + 40);
  await page.mouse.down();
  await page.mouse.move(cut.x + cut.width - 150, cut.y + cut.height - 12, { steps: 5 });
  await page.mouse.up();
  await key(page, 'Delete');
  await expect.poll(async () => Object.keys((await document(page)).solids)).toEqual([]);
  await key(page, 'ControlOrMeta+z', 'ControlOrMeta+a');
  await command(page, 'Show what is selected');

  // In the perspective the middle of the picture shows what was framed.
  const perspective = page.getByTestId('perspective');
  const picture = (await perspective.boundingBox())!;
  const middle = { x: picture.x + picture.width / 2, y: picture.y + picture.height / 2 };
  const drag = async (dx: number, dy: number) => {
    await page.mouse.move(middle.x, middle.y);
    await page.mouse.down();
    await page.mouse.move(middle.x + dx, middle.y + dy, { steps: 6 });
    await page.mouse.up();
  };
  await page.keyboard.down('Shift');
  await drag(0, -60);
  await page.keyboard.up('Shift');
  await expect.poll(async () => (await box())[2]).toBeGreaterThan(height);

  // A face is chosen by a click and pushed by a drag, once the picture is no longer cut below it.
  await page.getByRole('button', { name: /^Cut at/ }).click();
  await command(page, 'Show what is selected');
  await key(page, 'f');
  await page.mouse.click(middle.x, middle.y);
  const distances = async () => Object.values((await document(page)).solids)[0].faces.map((f) => f.distance);
  const before = await distances();
  await drag(0, -60);
  await expect.poll(async () => (await distances()).filter((v, i) => v !== before[i]).length).toBe(1);
});
