/** Game data: rows of tables, a contest that lacks a text, a movement sequence on the plan and in the run, and somebody who sees through a wall. */

import { expect, test, type Page } from '@playwright/test';
import { Application } from './application.ts';

let application: Application;
let crate: string;
test.describe.configure({ mode: 'serial' });

interface MapAnswer {
  revision: number;
  map: { objects: Record<string, { name: string; properties: Record<string, unknown> }> };
}

const tray = async (page: Page) => {
  const open = page.getByRole('button', { name: 'Findings' });
  if ((await open.getAttribute('aria-expanded')) !== 'true') await open.click();
  return page.getByRole('region', { name: 'Findings' });
};

test.beforeAll(async () => {
  application = await Application.start();
  crate = (await application.json<{ id: string; manifest: { name: string } }[]>('/api/crates')).find(
    ({ manifest }) => manifest.name === 'pumphouse',
  )!.id;
});
test.afterAll(() => application.stop());

test('rows are edited as a sheet and as a form, checked, undone, renamed with all that refers to them, and taken from a file after a look', async ({
  page,
}) => {
  await page.goto(`${application.url}/crates/${crate}/assets`);
  await page.getByRole('link', { name: 'Game data' }).click();
  await page.getByRole('button', { name: 'People 25' }).click();
  const people = page.getByRole('grid', { name: 'People' });
  await people.locator('[data-cell="1.breath"]').click();
  await page.keyboard.type('99');
  await page.keyboard.press('Enter');
  await expect(people.locator('[data-cell="1.breath"]')).toHaveAttribute('title', 'Breath is 99 breaths; it may be 60 at most.');
  const findings = await tray(page);
  await expect(findings).toContainText('People, Odile Marsh: Breath is 99 breaths; it may be 60 at most.');
  await findings.getByRole('button', { name: 'Set it right' }).click();
  await expect(people.locator('[data-cell="1.breath"]')).toHaveText('60');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(people.locator('[data-cell="1.breath"]')).toHaveText('26');

  // One more in the party, in the form; what it comes to follows.
  await people.locator('[data-cell="1.name"]').click();
  const form = page.getByRole('complementary', { name: 'Row Odile Marsh' });
  await expect(form).toContainText('keeper in map pumphouse');
  await form.getByRole('button', { name: 'Add (3 of 6)' }).click();
  await form.getByLabel('Wits 4', { exact: true }).selectOption({ label: 'Silence' });
  await expect(people.locator('[data-cell="1.party"]')).toHaveText('riddle; counting; plain_word; silence');

  // Another key is followed by rows that refer to it.
  await people.locator('[data-cell="13.id"]').click();
  await page.keyboard.press('Enter');
  await page.keyboard.press('Control+a');
  await page.keyboard.type('stoker');
  await page.keyboard.press('Enter');
  await people.locator('[data-cell="1.name"]').click();
  await expect(form.getByLabel('Taught by')).toHaveValue('stoker');

  await page
    .locator('input[type=file][aria-label="File with rows"]')
    .setInputFiles({ name: 'more.csv', mimeType: 'text/csv', buffer: Buffer.from('id,reward\r\nodile,17\r\nnobody,1\r\n') });
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('1 row would come, 1 value would change');
  await dialog.getByRole('button', { name: 'Take them' }).click();
  await expect(people.locator('[data-cell="1.reward"]')).toHaveText('17');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(people.locator('[data-cell="1.reward"]')).toHaveText('5');
  await expect(page.getByText('All saved')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('grid', { name: 'People' }).locator('[data-cell="1.party"]')).toHaveText('riddle; counting; plain_word; silence');
});

test('a contest that lacks a text blocks the build until it is written; the conversation is held beside its editor', async ({ page }) => {
  await page.goto(`${application.url}/crates/${crate}/data?file=talk/keeper.json&line=18`);
  const step = page.getByRole('complementary', { name: 'Step 14' });
  await expect(step).toContainText('A contest');
  await step.getByLabel('When nothing more can be carried').fill('');
  await step.getByLabel('After losing').click();
  await expect(step).toContainText('A contest for a reward needs the text “When nothing more can be carried”');
  await expect(page.getByText('All saved')).toBeVisible();

  const build = (quality: string) => application.post<{ id: string }>(`/api/crates/${crate}/builds`, { map: 'pumphouse', quality });
  await application.over(await build('draft'));
  const [failed] = await application.json<{ ok: boolean; stages: { findings: { code: string }[] }[] }[]>(`/api/crates/${crate}/builds`);
  expect(failed.ok).toBe(false);
  expect(failed.stages.flatMap(({ findings }) => findings.map(({ code }) => code))).toContain('talk-contest-text');
  await page.goto(`${application.url}/crates/${crate}/build`);
  await expect(await tray(page)).toContainText('needs the text “When nothing more can be carried”');

  await page.goto(`${application.url}/crates/${crate}/data?file=talk/keeper.json&line=18`);
  await step.getByLabel('When nothing more can be carried').fill('Come back with empty hands.');
  await step.getByLabel('After losing').click();
  await expect(step).not.toContainText('needs the text');
  await expect(page.getByText('All saved')).toBeVisible();
  expect(await application.over(await build('draft'))).toBe('done');

  // Held from a state of one's choice.
  await page.getByRole('button', { name: 'Hold it' }).click();
  const held = page.getByRole('complementary', { name: 'The conversation, held' });
  await held.getByLabel('met_odile').check();
  await held.getByRole('button', { name: 'Begin' }).click();
  await expect(held).toContainText('You again. The water has not gone');
  await held.getByRole('button', { name: 'Go on' }).click();
  await held.getByRole('button', { name: 'Let me turn the crank.' }).click();
  await held.getByRole('button', { name: 'Won' }).click();
  await expect(held.getByRole('log')).toContainText('won: That is well said. The crank is yours.');
  await expect(held.getByLabel('outwitted')).toBeChecked();

  // As a graph, and all texts with their spelling.
  await page.getByRole('button', { name: 'Hold it' }).click();
  await page.getByRole('button', { name: 'Graph' }).click();
  await expect(page.getByText('The end', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Texts' }).click();
  const texts = page.getByRole('grid', { name: 'Texts of the conversation' });
  await texts.locator('[data-cell="1.text"]').dblclick();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('The tyde is out.');
  await page.keyboard.press('Enter');
  await expect(texts.locator('[data-cell="1.spelling"]')).toContainText('tyde (');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect
    .poll(async () => (await fetch(`${application.url}/api/crates/${crate}/files/talk/keeper.json`)).text())
    .toContain('The tide is out. Who let you in?');

  // Who sets and reads what is remembered.
  await page.getByRole('button', { name: 'Flags and values' }).click();
  const row = page.getByRole('row', { name: /outwitted/ });
  await expect(row).toContainText('keeper 14');
  await expect(row).toContainText('main.lua:');
});

test('a movement sequence is watched on the plan and in the test run', async ({ page }) => {
  test.setTimeout(240_000);
  await page.goto(`${application.url}/crates/${crate}/map`);
  await page.getByRole('tab', { name: 'People' }).click();
  const panel = page.getByRole('tabpanel', { name: 'People' });
  await expect(panel.getByLabel('Sequence', { exact: true })).toHaveValue('q1');
  await expect(panel.getByRole('status')).toContainText('0.0 of 1.8 s');
  const before = await page.getByTestId('plan').screenshot();
  await panel.getByLabel('Time in the sequence').fill('1.5');
  await expect(panel.getByRole('status')).toContainText('1.5 of 1.8 s');
  expect((await page.getByTestId('plan').screenshot()).equals(before)).toBe(false);

  // Waiting for somebody who follows would be waiting for ever.
  await panel.locator('.scene-steps > li').nth(3).getByLabel('Wait until it is done').check();
  await expect(panel).toContainText('never ends: step 4 waits for what cannot happen');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Undo' }).first().click();
  await expect(panel).not.toContainText('never ends');

  await application.over(await application.post<{ id: string }>(`/api/crates/${crate}/builds`, { map: 'pumphouse', quality: 'draft' }));
  await page.goto(`${application.url}/crates/${crate}/trial`);
  await page.getByRole('button', { name: 'Start walking' }).click({ timeout: 120_000 });
  const type = page.getByRole('textbox', { name: /Lua/ });
  await type.fill('/go 540 70 2');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('trial-hud')).toContainText('540, 70');
  await type.evaluate((field: HTMLElement) => field.blur());
  await expect(page.getByText('talk to keeper')).toBeVisible();
  await page.keyboard.press('q');
  const talk = page.getByRole('dialog', { name: 'Conversation' });
  await expect(talk).toContainText('The tide is out. Who let you in?');
  await page.keyboard.press('1');
  await expect(talk).toContainText('I am Odile Marsh');
  await page.keyboard.press('1');
  // A choice lets the pointer go; the others are answered by keys.
  await talk.getByRole('button', { name: 'Let me turn the crank.' }).click();
  await expect(talk).toContainText('2 Let it be won');
  await page.keyboard.press('2');
  await expect(talk).toContainText('I shall come along.');
  await page.keyboard.press('1');
  const log = page.getByRole('log');
  await expect(log).toContainText('to_the_crank is over.', { timeout: 30_000 });
  await expect(talk).toContainText('Turn it, then.');
  await page.keyboard.press('1');
  await expect(talk).toBeHidden();
  await type.fill('recall("outwitted")');
  await page.keyboard.press('Enter');
  await expect(log).toContainText('true');
});

test('who sees through a wall is found, shown and mended', async ({ page }) => {
  const { revision, map } = await application.json<MapAnswer>(`/api/crates/${crate}/maps/pumphouse`);
  const [id, keeper] = Object.entries(map.objects).find(([, { name }]) => name === 'wick')!;
  const to = { ...keeper, properties: { ...keeper.properties, sight: 6, cone: 0 } };
  await application.post(`/api/crates/${crate}/maps/pumphouse/edits`, {
    base: revision,
    tab: 'x',
    edits: [{ name: 'look further', changes: [{ of: 'objects', id, to }] }],
  });
  await page.goto(`${application.url}/crates/${crate}/map`);
  const findings = await tray(page);
  await expect(findings).toContainText('wick sees through a wall: the game asks for 6 steps and for no walls.');
  await findings.getByRole('button', { name: /^See \d steps?$/ }).click();
  await expect(findings).not.toContainText('wick sees through a wall');
  await expect
    .poll(async () => (await application.json<MapAnswer>(`/api/crates/${crate}/maps/pumphouse`)).map.objects[id].properties.sight)
    .toBeLessThan(6);
});
