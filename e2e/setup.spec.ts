/** From a machine without any game to a running map by the application's own buttons; then the crate in a folder, under git, and what is preferred. */

import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, realpathSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { Application } from './application.ts';

let application: Application;
test.describe.configure({ mode: 'serial' });
test.beforeAll(async () => {
  application = await Application.startEmpty();
});
test.afterAll(() => application.stop());

const folder = join(realpathSync(mkdtempSync(join(tmpdir(), 'violet-e2e-bound-'))), 'crate');
let crate = '';
const region = (page: Page, name: string) => page.getByRole('region', { name });

test('the game comes from the depot, is prepared, and a map is built and walked through', async ({ page }) => {
  await page.goto(application.url);
  await expect(page.getByRole('heading', { name: 'No crates yet' })).toBeVisible();
  await region(page, 'Brinewick').getByRole('button', { name: 'Get' }).click();
  await expect(page.getByRole('heading', { name: 'Brinewick 2.4.1' })).toBeVisible({ timeout: 30_000 });

  await page.getByRole('button', { name: 'New crate' }).click();
  await page.getByLabel('Title', { exact: true }).fill('First Steps');
  await page.getByRole('radio', { name: /Stair hall/ }).check();
  await page
    .getByRole('button', { name: /Make|Create/ })
    .last()
    .click();
  await expect(page.getByTestId('plan')).toBeVisible();
  crate = /crates\/([^/]+)\//.exec(page.url())![1];

  await page.goto(`${application.url}/crates/${crate}/setup`);
  const preparation = region(page, 'Preparation');
  await expect(preparation.getByText('0 of 3 done')).toBeVisible();
  // The game is not started before it is prepared; nothing else waits for that.
  await preparation.getByRole('button', { name: 'Do it for me' }).first().click();
  await expect(preparation.getByText('1 of 3 done')).toBeVisible();
  await preparation.getByRole('button', { name: 'Do it for me' }).click();
  await preparation.getByRole('checkbox', { name: 'Done' }).click();
  await expect(preparation.getByText('3 of 3 done')).toBeVisible();
  expect(readFileSync(join(application.data, 'games/brinewick/settings.ini'), 'utf8')).toContain('allow_mods = yes');

  await expect(region(page, 'Next step')).toContainText('Build the map');
  await region(page, 'Next step').getByRole('link').click();
  await page.getByRole('radio', { name: 'draft' }).click();
  await page
    .getByRole('button', { name: /^Build/ })
    .first()
    .click();
  await expect(page.locator('[data-stage="build"]')).toHaveAttribute('data-state', 'clear', { timeout: 90_000 });
  const [build] = await application.json<{ artefacts: { path: string }[] }[]>(`/api/crates/${crate}/builds`);
  expect(build.artefacts.map(({ path }) => path)).toEqual(expect.arrayContaining(['maps/first_steps/stamp.json', 'maps/first_steps/textures.json']));
  await expect(region(page, 'Next step')).toContainText('Walk through it');
});

test('a pack of the depot is fetched and used, taken back by a version, and removed', async ({ page }) => {
  await page.goto(`${application.url}/crates/${crate}/setup`);
  const offer = page.locator('[data-offer="chandlery"]');
  await offer.getByRole('button', { name: 'Get' }).click();
  await expect(offer).toHaveAttribute('data-ok', 'true');
  expect(existsSync(join(application.data, 'games/brinewick/base/packs/chandlery/pack.json'))).toBe(true);
  const { materials } = await application.json<{ materials: { name: string }[] }>('/api/games/brinewick/pack');
  expect(materials.map(({ name }) => name)).toContain('galley_tiles');
  await offer.getByRole('combobox').selectOption('1.0.0');
  await offer.getByRole('button', { name: 'Go back' }).click();
  await expect(offer).toContainText('1.0.0 is there');
  page.on('dialog', (dialog) => void dialog.accept());
  await offer.getByRole('button', { name: 'Remove' }).click();
  await expect(offer).toHaveAttribute('data-ok', 'false');
});

test('instructions of a community’s pack are followed in one go, and taken back', async ({ page }) => {
  await page.goto(`${application.url}/crates/${crate}/setup`);
  await page.locator('[data-offer="night_bell"]').getByRole('button', { name: 'Get' }).click();
  const bell = region(page, 'Instructions of Night bell');
  await expect(bell.getByText('Adds ring_bell to scripts/main.lua.')).toBeVisible();
  await bell.getByRole('button', { name: 'Do what can be done' }).click();
  await expect(bell.locator('[data-ok="true"]')).toHaveCount(3);
  const script = () => fetch(`${application.url}/api/crates/${crate}/files/scripts/main.lua`).then((answer) => answer.text());
  expect(await script()).toContain('function ring_bell()');
  await bell.getByRole('button', { name: 'Take all of it back' }).click();
  await expect(bell.locator('[data-ok="true"]')).toHaveCount(0);
  expect(await script()).not.toContain('ring_bell');
});

test('the crate lives in a folder: what another program changes comes into the open map, and can be undone', async ({ page }) => {
  await page.goto(`${application.url}/crates/${crate}/setup`);
  await page.getByRole('button', { name: 'Bind to a folder' }).click();
  await page.getByLabel('Path of the folder').fill(folder);
  await page.getByRole('button', { name: 'Keep equal with this folder' }).click();
  await expect(region(page, 'Folder of the crate').getByText('equal', { exact: true })).toBeVisible();
  await page.goto(`${application.url}/crates/${crate}/map`);
  await expect(page.getByTestId('plan')).toBeVisible();
  const file = join(folder, 'maps/first_steps.map.json');
  const map = JSON.parse(readFileSync(file, 'utf8')) as { objects: Record<string, { position: number[] }> };
  const [id] = Object.keys(map.objects);
  const was = map.objects[id].position[0];
  map.objects[id].position[0] = was + 64;
  writeFileSync(file, JSON.stringify(map));
  await expect(page.getByText('another page: changed in the folder')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect.poll(() => (JSON.parse(readFileSync(file, 'utf8')) as typeof map).objects[id].position[0]).toBe(was);
});

test('versions are committed with a drafted message, and had back', async ({ page }) => {
  await page.goto(`${application.url}/crates/${crate}/versions`);
  await page.getByRole('button', { name: 'Keep versions from now on' }).click();
  await expect(page.getByLabel(/Message, drafted/)).toHaveValue('As it began');
  await page.getByRole('button', { name: 'Commit' }).click();
  await expect(region(page, 'Changes').getByText('all committed')).toBeVisible();
  writeFileSync(join(folder, 'scripts/main.lua'), '-- another start\n');
  await expect(page.getByLabel(/Message, drafted/)).toHaveValue('main.lua changed');
  await page.getByRole('button', { name: 'Commit' }).click();
  const history = region(page, 'History');
  await expect(history.getByRole('button', { name: /main.lua changed/ })).toBeVisible();
  await history.getByRole('button', { name: /As it began/ }).click();
  await history.getByRole('button', { name: /main.lua as it was then/ }).click();
  // Git takes a file away before it puts another in its place.
  const script = join(folder, 'scripts/main.lua');
  await expect.poll(() => (existsSync(script) ? readFileSync(script, 'utf8') : '')).toContain('First Steps');
  expect(execFileSync('git', ['log', '--format=%s'], { cwd: folder, encoding: 'utf8' })).toBe('main.lua changed\nAs it began\n');
});

test('two branches that moved the same thing are merged, and what clashes is settled in the page', async ({ page }) => {
  const at = `${application.url}/api/crates/${crate}/versions`;
  const post = async (path: string, body: object) => {
    const answer = await fetch(at + path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
    expect(answer.ok, await answer.clone().text()).toBe(true);
  };
  const map = join(folder, 'maps/first_steps.map.json');
  const moveTo = (x: number) => {
    const content = JSON.parse(readFileSync(map, 'utf8')) as { objects: Record<string, { position: number[] }> };
    Object.values(content.objects)[0].position[0] = x;
    writeFileSync(map, JSON.stringify(content));
  };
  const { branch } = (await (await fetch(at)).json()) as { branch: string };
  await post('/branch', { branch: 'dusk', fresh: true });
  moveTo(11);
  await post('/commits', { message: 'dusk' });
  await post('/branch', { branch, fresh: false });
  moveTo(22);
  await post('/commits', { message: 'dawn' });

  await page.goto(`${application.url}/crates/${crate}/versions`);
  await page.getByLabel('Branch to merge').selectOption('dusk');
  await page.getByRole('button', { name: /^Merge into/ }).click();
  const conflict = page.getByRole('group', { name: /^Conflict about maps\/first_steps/ });
  // Git and the merge of maps take their time where everything runs at once.
  await conflict.getByRole('radio', { name: 'as on the other branch' }).check({ timeout: 60_000 });
  await conflict.getByRole('button', { name: 'Settle as chosen' }).click();
  await expect(page.getByText(/All of it is settled/)).toBeVisible();
  await page.getByLabel(/^Message/).fill('dusk and dawn');
  await page.getByRole('button', { name: 'Commit' }).click();
  await expect(page.getByText('all committed')).toBeVisible();
  const [first] = Object.values((JSON.parse(readFileSync(map, 'utf8')) as { objects: Record<string, { position: number[] }> }).objects);
  expect(first.position[0]).toBe(11);
  // The history of the map alone, each version drawn.
  await page.getByLabel('History of').selectOption({ index: 1 });
  await expect(region(page, 'History').locator('.commit-row svg').first()).toBeVisible();
});

test('a script is edited in a program of the machine, and comes back by itself', async ({ page }) => {
  const program = join(folder, '..', 'my notes');
  writeFileSync(program, '#!/bin/sh\nsed -i "1i -- written elsewhere" "$1"\n', { mode: 0o755 });
  await page.goto(`${application.url}/preferences`);
  await page.getByLabel('Scripts', { exact: true }).fill(program);
  await page.getByRole('button', { name: 'Try the program for scripts' }).click();
  await expect(page.getByText(/my notes was given/)).toBeVisible();
  await page.goto(`${application.url}/crates/${crate}/scripts`);
  await page.getByRole('button', { name: 'Edit in my notes' }).click();
  await expect(page.locator('.cm-content')).toContainText('-- written elsewhere');
  await page.getByRole('button', { name: 'No longer' }).click();
});

test('a profile of the depot is added, and taken away', async ({ page }) => {
  await page.goto(`${application.url}/profiles`);
  await region(page, 'Profiles of the depot').getByRole('button', { name: 'Add' }).click();
  await expect(page.getByRole('heading', { name: 'Oxbow' })).toBeVisible();
  await expect(region(page, 'Profiles of the depot')).toContainText('there');
  page.on('dialog', (dialog) => void dialog.accept());
  await page.getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByRole('heading', { name: 'Oxbow' })).toBeHidden();
});

test('a profile is copied, changed in its form, and asks before its programs run', async ({ page }) => {
  await page.goto(`${application.url}/profiles`);
  await page.getByRole('button', { name: 'Copy' }).click();
  await page.getByLabel('Title of the game').fill('Marshlight');
  await page.getByRole('button', { name: 'Make the copy' }).click();
  await expect(page.getByRole('heading', { name: 'Marshlight' })).toBeVisible();
  await page.getByRole('button', { name: 'Player' }).click();
  await page.getByLabel('Eye height').fill('44');
  await page.getByRole('button', { name: 'Save …' }).click();
  await expect(region(page, 'What saving means')).toContainText('Changed: player');
  await page.getByRole('button', { name: 'Save it' }).click();
  await expect(page.getByRole('button', { name: 'Save …' })).toBeDisabled();
  await page.getByRole('button', { name: 'JSON' }).click();
  await expect(page.getByLabel('Profile as JSON')).toContainText('"eyeHeight": 44');
  const answer = await fetch(`${application.url}/api/profiles/marshlight`);
  expect(((await answer.json()) as { player: { eyeHeight: number } }).player.eyeHeight).toBe(44);
});

test('what the user prefers holds on every page, keys among it', async ({ page }) => {
  await page.goto(`${application.url}/preferences`);
  await page.getByLabel('Theme', { exact: true }).selectOption('light');
  await expect(page.locator('html')).toHaveAttribute('data-bs-theme', 'light');
  await page.getByRole('searchbox').fill('measure');
  const key = page.getByRole('button', { name: /^Key of Measure/ });
  await key.click();
  await page.keyboard.press('Control+Alt+m');
  await expect(key).toContainText('Ctrl+Alt+M');
  const other = await page.context().newPage();
  await other.goto(`${application.url}/crates/${crate}/map`);
  await expect(other.locator('html')).toHaveAttribute('data-bs-theme', 'light');
  await expect(other.getByTestId('plan')).toBeVisible();
  await other.keyboard.press('Control+Alt+m');
  await expect(other.getByRole('button', { name: /Measure/ }).first()).toHaveAttribute('aria-pressed', 'true');
});

test('what is preferred in one crate alone holds there', async ({ page }) => {
  await page.goto(`${application.url}/crates/${crate}/map`);
  await expect(page.getByTestId('plan')).toBeVisible();
  await page.getByRole('button', { name: 'Preferences' }).click();
  await page.getByRole('button', { name: /^Only First Steps/ }).click();
  await page.getByLabel('Lengths', { exact: true }).selectOption('metres');
  await page.getByRole('button', { name: 'Back to the crate' }).click();
  await expect(page.getByLabel('Grid').locator('option').first()).toContainText(' m');
  await page.getByTestId('plan').hover();
  await expect(page.getByText(/grid [\d.]+ m/)).toBeVisible();
});

test('a crate is deleted and had back', async ({ page }) => {
  await page.goto(application.url);
  await page.getByRole('button', { name: 'More for First Steps' }).click();
  await page.getByRole('button', { name: 'Delete' }).click();
  await region(page, 'Deleted crates').getByRole('button', { name: 'Have it back' }).click();
  await expect(page.getByRole('link', { name: /First Steps/ })).toBeVisible();
});
