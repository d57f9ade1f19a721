/** From links to players: why something is in a package, releases that are compared and taken back, and mods of a game. */

import { expect, test } from '@playwright/test';
import { readZip } from '@violet-crate/core/asset/archive/zip';
import { encode } from 'fast-png';
import { Application } from './application.ts';
import { stage, step } from './sheet.ts';

let application: Application;
let crate: string;
test.describe.configure({ mode: 'serial' });

const post = <T>(path: string, body: object, method?: string) => application.post<T>(path, body, method);
const done = async (job: { id: string }) => expect(await application.over(job)).toBe('done');

interface MapAnswer {
  revision: number;
  map: { solids: Record<string, { faces: { material: string }[] }> };
}

const picture = (level: number) =>
  new Uint8Array(encode({ width: 64, height: 64, data: new Uint8Array(64 * 64 * 3).map((_, i) => (i * 7 + level) % 255), channels: 3, depth: 8 }));

/** A crate with a floor of its own picture, by the API: making one by the screen is tested elsewhere. */
async function smallCrate(name: string): Promise<string> {
  const { id } = await post<{ id: string }>('/api/crates', { profile: 'brinewick', name, title: name, template: 'sealed-room' });
  const form = new FormData();
  for (const [file, level] of Object.entries({ 'moss.png': 90, 'old_moss.png': 140 })) form.append('files', new Blob([picture(level)]), file);
  const { jobs } = await application.json<{ jobs: { id: string }[] }>(`/api/crates/${id}/assets`, { method: 'POST', body: form });
  for (const job of jobs) await done(job);
  const { revision, map } = await application.json<MapAnswer>(`/api/crates/${id}/maps/${name}`);
  const [solid, to] = Object.entries(map.solids)[0];
  const wear = { ...to, faces: to.faces.map((face) => ({ ...face, material: 'moss' })) };
  await post(`/api/crates/${id}/maps/${name}/edits`, {
    base: revision,
    tab: 'x',
    edits: [{ name: 'wear', changes: [{ of: 'solids', id: solid, to: wear }] }],
  });
  await post(`/api/crates/${id}`, { description: 'A *small* room.', authors: ['Ada Reed'], licence: 'CC-BY-4.0' }, 'PATCH');
  return id;
}

async function build(id: string, map: string): Promise<void> {
  await done(await post<{ id: string }>(`/api/crates/${id}/builds`, { map, quality: 'draft' }));
}

test.beforeAll(async () => {
  application = await Application.start();
  crate = await smallCrate('moss_room');
});
test.afterAll(() => application.stop());

test('why a file is in the package, what would go without it, and getting rid of it in one change that is undone', async ({ page }) => {
  await page.goto(`${application.url}/crates/${crate}/links`);
  await page.getByLabel('Search links').fill('moss.ktx2');
  await page.getByRole('button', { name: 'textures/moss.ktx2', exact: true }).click();
  const panel = page.getByRole('complementary', { name: /textures\/moss\.ktx2/ });
  await expect(panel.getByRole('list')).toContainText(/moss_room.*solids.*moss.*its picture/);
  await expect(panel).toContainText(/would go/);
  // Its material is what holds it: another in its place, and it is held by nothing.
  await panel.getByRole('button', { name: 'moss', exact: true }).click();
  const material = page.getByRole('complementary', { name: /About moss/ });
  await material.getByLabel('In its place').selectOption('material:brick');
  await material.getByRole('button', { name: 'Replace …' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('map moss_room: 1 solid changed');
  await dialog.getByRole('button', { name: 'Change it' }).click();
  await expect(page.locator('.last-change')).toContainText('Done: material:brick in the place of material:moss');
  await page.getByRole('button', { name: /^unused/ }).click();
  await expect(page.locator('[data-thing="texture:textures/moss.ktx2"]')).toContainText('unused');
  // All that is unused goes at once, and comes back at once.
  await page
    .getByRole('group', { name: 'How links are shown' })
    .getByRole('button', { name: /^Findings/ })
    .click();
  await page.getByRole('button', { name: /Remove all/ }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Change it' }).click();
  await expect(page.locator('.links-bar').first()).toContainText('0 unused');
  await page.locator('.last-change').getByRole('button', { name: 'Undo' }).click();
  await expect(page.locator('.links-bar').first()).toContainText('4 unused');
  await page.getByRole('button', { name: 'Changes' }).click();
  const rows = page.getByRole('region', { name: 'Changes of the crate' }).getByRole('row');
  await rows.filter({ hasText: 'material:brick' }).getByRole('button', { name: 'Undo' }).click();
  await expect(page.locator('.links-bar').first()).toContainText('2 unused');
  // The same as a drawing and as bytes.
  await page.getByRole('button', { name: 'Graph' }).click();
  await expect(page.locator('.link-canvas .link-box').filter({ hasText: 'moss.ktx2' })).toBeVisible();
  await page.getByRole('button', { name: 'Bytes' }).click();
  await expect(page.getByRole('table')).toContainText('texture textures/moss.ktx2');
});

test('pictures: taken in the test run and from a file, cropped, made the title; and one that moves along a path', async ({ page }) => {
  const { map, revision } = await application.json<MapAnswer & { map: { objects: Record<string, { class: string; position: number[] }> } }>(
    `/api/crates/${crate}/maps/moss_room`,
  );
  const [x, y, z] = Object.values(map.objects).find((object) => object.class === 'start')!.position;
  const path = {
    name: 'tour',
    points: [
      [x, y, z + 60],
      [x + 40, y, z + 60],
    ],
    loop: false,
  };
  await post(`/api/crates/${crate}/maps/moss_room/edits`, {
    base: revision,
    tab: 'x',
    edits: [{ name: 'way', changes: [{ of: 'paths', id: 'w9', to: path }] }],
  });
  await build(crate, 'moss_room');
  await page.goto(`${application.url}/crates/${crate}/trial`);
  await page.getByRole('button', { name: 'Start walking' }).click();
  await page.keyboard.press('i');
  await expect(page.getByText('Picture taken: it is the title of the release.')).toBeVisible();

  await page.goto(`${application.url}/crates/${crate}/publish?step=package`);
  await expect(page.locator('[data-picture="title"] img')).toBeVisible();
  await page.getByLabel('Picture from a file').setInputFiles({ name: 'moss.png', mimeType: 'image/png', buffer: Buffer.from(picture(200)) });
  const second = page.locator('[data-picture="01"]');
  await expect(second.locator('img')).toBeVisible();
  const widthOf = () => second.locator('img').evaluate((image: HTMLImageElement) => image.naturalWidth);
  expect(await widthOf()).toBe(64);
  await page.getByRole('button', { name: 'Crop Picture 01' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('status')).toContainText('51 × 29 pixels; the game’s page shows 640 × 360');
  await dialog.getByRole('button', { name: 'Crop', exact: true }).click();
  await expect.poll(widthOf).toBe(51);
  await page.getByLabel('Picture from a file').setInputFiles({ name: 'words.png', mimeType: 'image/png', buffer: Buffer.from('no picture') });
  await expect(page.getByRole('alert')).toContainText('words.png is no picture that can be read');
  await page.getByRole('button', { name: 'Make Picture 01 the title' }).click();
  await expect(page.locator('[data-picture="title"] img')).toHaveJSProperty('naturalWidth', 51);
  await page.getByRole('button', { name: 'Make Picture 01 the title' }).click();
  await expect(page.locator('[data-picture="title"] img')).toHaveJSProperty('naturalWidth', 640);

  await page.getByLabel('Moving preview along the path').selectOption('tour');
  await page.getByLabel('seconds').fill('1');
  await expect
    .poll(async () => (await application.json<{ manifest: object }>(`/api/crates/${crate}`)).manifest)
    .toMatchObject({ preview: { seconds: 1 } });
  await done(await post<{ id: string }>(`/api/crates/${crate}/packages`, {}));
  const { packages } = await application.json<{ packages: { id: string; manifest: { preview?: string; pictures?: string[] } }[] }>(
    `/api/crates/${crate}/packages`,
  );
  expect(packages[0].manifest).toMatchObject({ preview: 'preview.webp', pictures: ['pictures/01.png'] });
  // A second decoder: the browser's.
  const zip = readZip(new Uint8Array(await (await fetch(`${application.url}/api/packages/${packages[0].id}/file`)).arrayBuffer()), 'x');
  const frames = await page.evaluate(
    async (bytes) => {
      const decoder = new ImageDecoder({ data: new Uint8Array(bytes), type: 'image/webp' });
      await decoder.tracks.ready;
      const { frameCount, repetitionCount } = decoder.tracks.selectedTrack!;
      const { image } = await decoder.decode({ frameIndex: frameCount - 1 });
      return [frameCount, repetitionCount, image.displayWidth, image.displayHeight];
    },
    [...zip.get('preview.webp')!],
  );
  expect(frames).toEqual([8, Infinity, 320, 180]);
  const seen = await fetch(`${application.url}/api/packages/${packages[0].id}/view?eye=${x},${y},${z + 60}&direction=1,0,0`);
  expect([seen.status, seen.headers.get('content-type')]).toEqual([200, 'image/png']);
  expect((await fetch(`${application.url}/api/packages/${packages[0].id}/view?eye=here&direction=1,0,0`)).status).toBe(422);
  await post(`/api/crates/${crate}`, { preview: null }, 'PATCH');
  for (const name of ['title', '01']) await fetch(`${application.url}/api/crates/${crate}/files/sources/pictures/${name}.png`, { method: 'DELETE' });
});

test('two versions: sent though the workshop was away, compared, rolled back, withdrawn', async ({ page }) => {
  await build(crate, 'moss_room');
  await page.goto(`${application.url}/crates/${crate}/publish?step=check`);
  await expect(page.locator('[data-point="built"]')).toHaveAttribute('data-state', 'met');
  await expect(page.locator('[data-point="quality"]')).toHaveAttribute('data-state', 'warning');
  await expect(page.locator('[data-point="credits"]')).toHaveAttribute('data-state', 'met');
  await expect(page.locator('[data-point="explorer"]')).toHaveAttribute('data-state', 'note');
  await page.getByRole('button', { name: 'Let it try' }).click();
  await expect(page.locator('[data-point="explorer"]')).toContainText(/The explorer tried everything|in its time/);
  await step(page, 'Package').click();
  await page.getByLabel('Lantern, the handheld').check();
  await page.getByRole('button', { name: 'Make package' }).click();
  await page.locator('[data-platform="lantern"] summary').click();
  await expect(page.locator('[data-platform="lantern"]')).toContainText('main.lua: lines end with CR and LF');
  await expect(step(page, 'Package')).toContainText('made', { timeout: 60_000 });
  await application.kill('workshop', 'SIGKILL');
  await step(page, 'Upload').click();
  await page.getByRole('radio', { name: /Only you, your organisation/ }).check();
  await page.getByRole('button', { name: 'Publish 0.1.0' }).click();
  await expect(page.locator('[data-upload="failed"]')).toContainText('does not answer');
  await application.startWorkshop();
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.locator('[data-share-code]')).toBeVisible();

  const { revision, map } = await application.json<MapAnswer>(`/api/crates/${crate}/maps/moss_room`);
  const [solid, to] = Object.entries(map.solids)[1];
  await post(`/api/crates/${crate}/maps/moss_room/edits`, {
    base: revision,
    tab: 'x',
    edits: [{ name: 'name it', changes: [{ of: 'solids', id: solid, to: { ...to, label: 'wall' } }] }],
  });
  await page.reload();
  await step(page, 'Describe').click();
  await page.getByRole('button', { name: /^0\.2\.0: there is something new/ }).click();
  await page.getByRole('button', { name: 'Save details' }).click();
  await expect(page.locator('form .stamp', { hasText: 'Saved' })).toBeVisible();
  await build(crate, 'moss_room');
  await page.reload();
  await step(page, 'Package').click();
  await page.getByRole('button', { name: 'Make package' }).click();
  const comparison = page.getByRole('region', { name: 'Comparison of two packages' });
  await expect(comparison).toContainText('1 solid changed', { timeout: 60_000 });
  await expect(comparison.getByRole('img', { name: /Plan of moss_room: 0 added, 0 removed, 1 changed/ })).toBeVisible();
  await step(page, 'Upload').click();
  await expect(page.getByLabel(/What changed since 0\.1\.0/)).toHaveValue(/1 solid changed/);
  await page.getByRole('button', { name: 'Publish 0.2.0' }).click();
  await expect(page.locator('[data-share-code]')).toBeVisible();
  await step(page, 'List').click();
  const version = (name: string) => page.locator(`[data-version="${name}"]`);
  await expect(version('0.2.0')).toContainText('given out');
  await version('0.1.0').getByRole('button', { name: 'Give this one out' }).click();
  await expect(version('0.1.0')).toContainText('given out');
  await version('0.2.0').getByRole('button', { name: 'Withdraw …' }).click();
  await page.getByLabel(/Why 0\.2\.0 is withdrawn/).fill('the wall is gone');
  await page.getByRole('button', { name: 'Withdraw it' }).click();
  await expect(version('0.2.0')).toContainText('withdrawn');
});

test('private, tested by a second account in its own browser, then listed', async ({ page, browser }) => {
  await page.goto(`${application.url}/crates/${crate}/publish?step=list`);
  await expect(page.locator('[data-condition="tested"]')).toHaveAttribute('data-met', 'false');
  await page.getByRole('button', { name: /Listed: everybody/ }).click();
  await expect(page.getByRole('alert')).toContainText('Somebody else has tested');

  // The tester signs up on the workshop's own site.
  const context = await browser.newContext();
  const site = await context.newPage();
  await site.goto(`${application.workshopUrl}/sign-up`);
  await site.getByLabel('Name').fill('second_reader');
  await site.getByLabel('Mail address').fill('second@mail.example');
  await site.getByLabel(/Password/).fill('a tide of lamps');
  await site.getByRole('button', { name: 'Sign up' }).click();
  await expect(site.getByRole('heading', { name: 'second_reader' })).toBeVisible();
  await site.goto(`${application.workshopUrl}/mods/moss_room`);
  await expect(site.getByRole('alert')).toContainText('There is no mod moss_room');

  // The author is let in by the workbench, and invites.
  await step(page, 'Upload').click();
  const [own] = await Promise.all([page.waitForEvent('popup'), page.getByRole('button', { name: 'Open its site' }).click()]);
  await expect(own.getByRole('heading', { name: 'keeper' })).toBeVisible();
  await own.getByRole('link', { name: 'keeper', exact: true }).last().click();
  await own.getByLabel('Account').fill('second_reader');
  await own.getByRole('button', { name: 'Invite' }).click();
  await site.goto(`${application.workshopUrl}/mailbox`);
  await site.getByText('Come to keeper').locator('..').getByRole('link').click();
  await site.getByRole('button', { name: 'Yes' }).click();
  await site.goto(`${application.workshopUrl}/mods/moss_room`);
  await site.getByLabel('Note').fill('Quiet, and mossy.');
  await site.getByRole('button', { name: 'Say so' }).click();

  await page.reload();
  await step(page, 'Test as a player').click();
  await expect(page.getByText('second_reader on 0.1.0: works. Quiet, and mossy.')).toBeVisible();
  await step(page, 'List').click();
  await page.getByRole('button', { name: /Listed: everybody/ }).click();
  await expect(step(page, 'List')).toContainText('listed');
  await site.goto(application.workshopUrl);
  await site.getByRole('searchbox').fill('moss');
  await site.getByRole('button', { name: 'Find' }).click();
  await site.getByRole('link', { name: 'moss_room' }).click();
  await expect(site.locator('em', { hasText: 'small' })).toBeVisible();
  await context.close();
});

test('installed with what it needs, updated, in conflict, gone back, removed and played', async ({ page }) => {
  // A second mod that needs the first, and brings the same file with other content.
  const other = await smallCrate('moss_hall');
  await post(`/api/crates/${other}`, { requires: { moss_room: '>=0.1.0' } }, 'PATCH');
  await post(`/api/crates/${other}/scripts/main.lua`, { source: 'function startup() say("the hall") end\n' }, 'PUT');
  await build(other, 'moss_hall');
  await done(await post<{ id: string }>(`/api/crates/${other}/packages`, {}));
  const { packages } = await application.json<{ packages: { id: string }[] }>(`/api/crates/${other}/packages`);
  await post(`/api/crates/${other}/publish`, { packageId: packages[0].id });
  const codeOf = async (id: string) =>
    (await application.json<{ releases: { shareCode: string }[] }>(`/api/crates/${id}/packages`)).releases[0]?.shareCode;
  await expect.poll(() => codeOf(other)).toBeTruthy();

  await page.goto(application.url);
  await page.getByRole('button', { name: 'Mods' }).click();
  await page.getByLabel('Install by share code').fill((await codeOf(other))!);
  await page.getByRole('button', { name: 'Install', exact: true }).click();
  await expect(page.getByRole('status').filter({ hasText: 'moss_room 0.1.0, moss_hall 0.1.0: installed and verified' })).toBeVisible();
  await expect(page.locator('[data-conflict="scripts/main.lua"]')).toContainText('that of moss_hall counts');
  await page.getByRole('button', { name: 'Let moss_room count' }).click();
  await expect(page.locator('[data-conflict="scripts/main.lua"]')).toContainText('that of moss_room counts');
  await page.getByRole('button', { name: 'Remove moss_room' }).click();
  await expect(page.getByRole('alert')).toContainText('moss_hall needs moss_room');

  // A newer version of the first: an update, which one can go back from.
  await post(`/api/crates/${crate}`, { version: '0.3.0' }, 'PATCH');
  await done(await post<{ id: string }>(`/api/crates/${crate}/packages`, {}));
  const made = await application.json<{ packages: { id: string }[] }>(`/api/crates/${crate}/packages`);
  await post(`/api/crates/${crate}/publish`, { packageId: made.packages[0].id, notes: 'Only the number.' });
  await expect
    .poll(async () => (await application.json<{ updates: object }>('/api/games/brinewick/mods/updates')).updates)
    .toHaveProperty('moss_room');
  await page.reload();
  const row = page.locator('[data-mod="moss_room"]');
  await expect(row).toContainText('Only the number.');
  await row.getByRole('button', { name: 'Take 0.3.0' }).click();
  await expect(row).toContainText('0.3.0');
  await row.getByRole('button', { name: 'Back to 0.1.0' }).click();
  await expect(row.getByRole('button', { name: 'Back to 0.3.0' })).toBeVisible();
  await row.getByRole('button', { name: 'Verify moss_room' }).click();
  await expect(row).toContainText('every file is as it was published');

  await page.getByRole('button', { name: 'Play moss_hall' }).click();
  await expect(page.getByText('The game runs with moss_hall.')).toBeVisible();
  await expect(row.getByRole('button', { name: 'Remove moss_room' })).toBeDisabled();
  await page.getByRole('button', { name: 'End it' }).click();
  await page.getByRole('button', { name: 'Remove moss_hall' }).click();
  await expect(page.locator('[data-mod="moss_hall"]')).toHaveCount(0);
  await page.getByRole('button', { name: 'Remove moss_room' }).click();
  await expect(page.getByText(/None yet\. Choose one below/)).toBeVisible();
  await page.getByRole('button', { name: 'Install moss_room' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'moss_room 0.3.0: installed' })).toBeVisible();
  await page.goto(`${application.url}/crates/${crate}/links`);
  await expect(stage(page, 'publish')).toContainText('published');
});

test('made with a version of another crate, whose material it wears; a newer one is looked at, taken, and given back', async ({ page }) => {
  const { id } = await post<{ id: string }>('/api/crates', { profile: 'brinewick', name: 'gate', title: 'Gate', template: 'sealed-room' });
  await page.goto(`${application.url}/crates/${id}/links?view=crates`);
  await page.getByLabel('Name of a crate on the workshop').fill('moss_room');
  await page.getByLabel('Versions that do').fill('^0.1.0');
  await page.getByRole('button', { name: 'Require it' }).click();
  const row = page.locator('tr', { hasText: 'moss_room' });
  await expect(row).toContainText('not chosen yet');
  await page.getByRole('button', { name: 'Look for versions' }).click();
  await expect(page.getByRole('region', { name: 'Other versions' })).toContainText('moss_room 0.1.0, new');
  await page.getByRole('button', { name: 'Take them' }).click();
  await expect(row).toContainText('1 file');

  const { revision, map } = await application.json<MapAnswer>(`/api/crates/${id}/maps/gate`);
  const [solid, to] = Object.entries(map.solids)[0];
  const wear = { ...to, faces: to.faces.map((face) => ({ ...face, material: 'moss' })) };
  const edits = [{ name: 'wear', changes: [{ of: 'solids', id: solid, to: wear }] }];
  await post(`/api/crates/${id}/maps/gate/edits`, { base: revision, tab: 'x', edits });
  await build(id, 'gate');
  await done(await post<{ id: string }>(`/api/crates/${id}/packages`, {}));
  const { packages } = await application.json<{ packages: { manifest: { files: { path: string }[]; requires: object } }[] }>(
    `/api/crates/${id}/packages`,
  );
  expect(packages[0].manifest.requires).toEqual({ moss_room: '^0.1.0' });
  expect(packages[0].manifest.files.map(({ path }) => path).filter((path) => path.includes('moss'))).toEqual([]);
  const picture = (await application.json<{ base: { materials: { name: string; texture?: string }[] } }>(`/api/crates/${id}/stock`)).base.materials;
  const texture = picture.find(({ name }) => name === 'moss')!.texture!;
  expect(texture).toMatch(/^mods\/moss_room\/textures\//);
  const file = await fetch(`${application.url}/api/crates/${id}/required/moss_room/files/${texture.slice('mods/moss_room/'.length)}`);
  expect(file.status).toBe(200);
  expect((await fetch(`${application.url}/api/crates/${id}/required/moss_room/files/..%2Fpack.json`)).status).toBe(404);

  // Another range, another version, and back.
  await post(`/api/crates/${id}`, { requires: { moss_room: '>=0.1.0' } }, 'PATCH');
  await page.reload();
  await page.getByRole('button', { name: 'Look for versions' }).click();
  await expect(page.getByRole('region', { name: 'Other versions' })).toContainText('moss_room 0.1.0 → 0.3.0');
  await expect(page.getByRole('region', { name: 'Other versions' })).toContainText('Nothing that this crate uses becomes another one');
  await page.getByRole('button', { name: 'Take them' }).click();
  await expect(row).toContainText('0.3.0');
  await page.getByRole('button', { name: 'Changes', exact: true }).click();
  await page.getByRole('button', { name: /^Undo/ }).first().click();
  await page.getByRole('button', { name: 'Other crates' }).click();
  await expect(row.locator('td').nth(2)).toHaveText('0.1.0');
});
