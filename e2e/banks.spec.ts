/** The game's binary bank: a member more in a party, moved with its pointers, packaged as a patch, and played by the game. */

import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { Application } from './application.ts';

let application: Application;
let crate: string;
test.describe.configure({ mode: 'serial' });

const post = <T>(path: string, body: object, method?: string) => application.post<T>(path, body, method);
const done = async (job: { id: string }) => expect(await application.over(job)).toBe('done');
const hashOf = (file: string): string => createHash('sha256').update(readFileSync(file)).digest('hex');

test.beforeAll(async () => {
  application = await Application.start();
  crate = (await post<{ id: string }>('/api/crates', { profile: 'brinewick', name: 'wits', title: 'Wits', template: 'sealed-room' })).id;
});
test.afterAll(() => application.stop());

test('a fourth member of a party is moved with its pointer; the original stays; sheets, undo and what lies where', async ({ page }) => {
  const original = hashOf(join(application.game, 'ledger.bnk'));
  await page.goto(`${application.url}/crates/${crate}/assets`);
  await page.getByRole('link', { name: 'Game banks' }).click();
  await expect(page.getByRole('heading', { name: 'Ledger of the lamplighters' })).toBeVisible();
  const people = page.getByRole('grid', { name: 'People' });
  await expect(people.locator('[data-cell="0.name"]')).toHaveText('Odile Marsh');

  // Another bank of the game beside this one, in words.
  await page.getByRole('button', { name: 'Changes 0' }).click();
  const second = readFileSync(join(application.game, 'ledger.bnk'));
  await page.getByLabel('Bank to compare with').setInputFiles({ name: 'second.bnk', mimeType: 'application/octet-stream', buffer: second });
  await expect(page.getByText('Nothing is different in second.bnk.')).toBeVisible();
  await page.getByRole('button', { name: 'No longer with second.bnk' }).click();
  await page.getByRole('button', { name: /^People/ }).click();

  // A party of four.
  await page.getByRole('button', { name: 'Add to party' }).click();
  const party = page.getByRole('grid', { name: 'Party' });
  await party.locator('[data-cell="3.strength"]').click();
  await page.keyboard.type('33');
  await page.keyboard.press('Enter');
  await expect(party.locator('[data-cell="3.strength"]')).toHaveText('33');

  // Keys, typing, undo; what does not fit is told.
  await people.locator('[data-cell="1.reward"]').click();
  await page.keyboard.type('70000');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Write …' }).click();
  await expect(page.getByRole('alert')).toContainText('people 2, reward: 70000 does not fit; whole numbers from 0 to 65535 do.');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(people.locator('[data-cell="1.reward"]')).toHaveText('10');

  await page.getByRole('button', { name: 'Write …' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText(/people 1, party: 16 bytes at , before at 4164/);
  // A place of one's own: taken if it is free, refused with the reason if not.
  const place = dialog.getByLabel('Byte that people 1, party is to lie at');
  await place.fill('8192');
  await place.press('Enter');
  await expect(dialog).toContainText('at 284: 4164 → 8192');
  await expect(dialog).toContainText('1 pointer changed');
  await dialog.getByRole('button', { name: 'Write it' }).click();
  await expect(dialog).toContainText('The crate keeps a patch against your own original');
  await dialog.getByRole('button', { name: 'Close' }).last().click();
  expect(hashOf(join(application.game, 'ledger.bnk'))).toBe(original);

  await page.getByRole('button', { name: /^Changes 2/ }).click();
  await expect(page.getByRole('cell', { name: 'people 1 Odile Marsh, party 4' })).toBeVisible();
  await page.getByRole('button', { name: 'What lies where' }).click();
  await expect(page.getByRole('button', { name: 'people 1, party', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'people 1, party', exact: true }).click();
  await page.getByRole('button', { name: 'Bytes', exact: true }).click();
  const hex = page.getByRole('application', { name: 'Bytes' });
  await expect(hex.locator('.byte.on').first()).toBeVisible();
  // A byte of one's own: where the layout knows it as a pointer it is refused, elsewhere it is a change that is undone.
  await hex.locator('.byte.on').first().click();
  await page.keyboard.press('Control+Home');
  await hex.locator('.byte.piece-of-pointer').first().click();
  await page.keyboard.type('5a');
  await expect(page.getByRole('alert')).toContainText('is part of a pointer: choose in its row what it leads to');
  await hex.locator('.byte.piece-of-unknown').first().click();
  await page.keyboard.type('5a');
  await expect(hex.locator('.byte.set').first()).toHaveText('5a');
  await page.keyboard.press('Control+z');
  await expect(hex.locator('.byte.set')).toHaveCount(0);
});

test('cells are copied and pasted as spreadsheets have them, filled down and sorted', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.goto(`${application.url}/crates/${crate}/banks?view=wits`);
  const wits = page.getByRole('grid', { name: 'Wits' });
  await wits.locator('[data-cell="0.power"]').click();
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('ControlOrMeta+c');
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('10\t2\n17\t3');
  await page.evaluate(() => navigator.clipboard.writeText('41\t1\n42\tno number'));
  await page.keyboard.press('ControlOrMeta+v');
  await expect(wits.locator('[data-cell="1.power"]')).toHaveText('42');
  await expect(wits.locator('[data-cell="1.cost"]')).toHaveText('3');
  await wits.locator('[data-cell="0.power"]').click();
  await wits.locator('[data-cell="3.power"]').click({ modifiers: ['Shift'] });
  await page.keyboard.press('ControlOrMeta+d');
  await expect(wits.locator('[data-cell="3.power"]')).toHaveText('41');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(wits.locator('[data-cell="3.power"]')).toHaveText('31');
  // Out as CSV and in again, changed; a column that is none is told.
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page
      .getByRole('button', { name: 'CSV' })
      .click()
      .then(() => page.getByRole('button', { name: 'Save these rows' }).click()),
  ]);
  const text = readFileSync(await saved.path(), 'utf8');
  expect(text.split('\r\n').slice(0, 2)).toEqual(['row,name,power,cost,wet,loud,blunt', '1,Riddle,41,1,0,1,0']);
  const values = (csv: string) =>
    page.getByLabel('Values from a CSV file').setInputFiles({ name: 'wits.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) });
  await values('row,name,power\r\n2,Long look,29\r\n13,Echo,7\r\n');
  await expect(wits.locator('[data-cell="1.power"]')).toHaveText('29');
  await expect(wits.locator('[data-cell="12.name"]')).toHaveText('Echo');
  await values('row,colour\r\n1,red\r\n');
  await expect(page.getByRole('alert')).toContainText('wits.csv: "colour" is no column of wits.');
  // A row of another bank, with what hangs on it.
  await page.getByRole('button', { name: /^People/ }).click();
  await page.getByLabel('Another bank').setInputFiles(join(application.game, 'ledger.bnk'));
  await page.getByRole('dialog').getByRole('button', { name: 'Tansy Reed' }).click();
  await expect(page.getByRole('complementary', { name: 'Row 25 of people' })).toContainText('Tansy Reed');
  await page.getByRole('button', { name: /^Wits/ }).click();
  await wits.getByRole('button', { name: 'Power' }).click();
  await wits.getByRole('button', { name: 'Power' }).click();
  await expect(wits.locator('tbody tr').first().locator('[data-cell$=".name"]')).not.toHaveText('Riddle');
  await page.getByLabel('Search rows').fill('lore');
  await expect(wits.locator('tbody tr')).toHaveCount(1);
});

test('the package carries the patch; installing it makes the copy, the game plays it, removing it takes it back', async ({ page }) => {
  await done(await post<{ id: string }>(`/api/crates/${crate}/builds`, { map: 'wits', quality: 'draft' }));
  await post(`/api/crates/${crate}`, { description: 'Wits.', authors: ['Ada Reed'], licence: 'CC-BY-4.0' }, 'PATCH');
  await done(await post<{ id: string }>(`/api/crates/${crate}/packages`, {}));
  const { packages } = await application.json<{ packages: { id: string; manifest: { files: { path: string; bytes: number }[] } }[] }>(
    `/api/crates/${crate}/packages`,
  );
  const patch = packages[0].manifest.files.find(({ path }) => path === 'banks/ledger.vcdiff')!;
  expect(patch.bytes).toBeLessThan(200);
  await post(`/api/crates/${crate}/publish`, { packageId: packages[0].id });
  const codeOf = async () => (await application.json<{ releases: { shareCode: string }[] }>(`/api/crates/${crate}/packages`)).releases[0]?.shareCode;
  await expect.poll(codeOf).toBeTruthy();
  await page.goto(`${application.url}/mods/brinewick`);
  await page.getByLabel('Install by share code').fill((await codeOf())!);
  await page.getByRole('button', { name: 'Install', exact: true }).click();
  await expect(page.getByText(/wits 0\.1\.0: installed/i)).toBeVisible();
  const [own, copy] = ['ledger.bnk', 'ledger.wits.bnk'].map((name) => join(application.game, name));
  expect(existsSync(copy)).toBe(true);
  expect(hashOf(copy)).not.toBe(hashOf(own));

  // The game itself: a contest against four.
  const said = execFileSync(join(application.game, 'bin/brinewick.mjs'), ['--mod', 'wits', '--map', 'wits'], {
    cwd: application.game,
    input: 'contest Odile Marsh\nquit\n',
    encoding: 'utf8',
  });
  expect(said).toContain('contest: Odile Marsh with 4 wits');
  expect(said).toContain('contest: Plain word, 33');
  await page.goto(`${application.url}/mods/brinewick`);
  await page.getByRole('button', { name: 'Remove wits' }).click();
  await expect(page.locator('[data-mod="wits"]')).toHaveCount(0);
  expect([existsSync(copy), existsSync(own)]).toEqual([false, true]);
});
