/** Killed servers and bad input: nothing acknowledged is lost, nothing half-made is left. */

import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { Application } from './application.ts';
import { saved, stage } from './sheet.ts';

let application: Application;
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

const demoId = async () =>
  (await application.json<{ id: string; manifest: { name: string } }[]>('/api/crates')).find((c) => c.manifest.name === 'pumphouse')!.id;
const post = (path: string, body: unknown) =>
  application.json<Record<string, unknown>>(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });

test('kill -9 during edits: every acknowledged edit is there afterwards, and the page goes on', async ({ page }) => {
  const id = await demoId();
  await page.goto(`${application.url}/crates/${id}/map`);
  const inspector = page.getByLabel('Inspector');
  await inspector.getByRole('button', { name: 'crank', exact: true }).click();
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowLeft');
  await saved(page);
  await application.kill('server', 'SIGKILL');
  // Edits made while the server is away wait in the page.
  await page.keyboard.press('ArrowUp');
  await expect(page.getByText('Not saved yet, trying again')).toBeVisible();
  await application.startServer();
  await saved(page);
  const { map } = await application.json<{ map: { objects: Record<string, { name: string; position: number[] }> } }>(
    `/api/crates/${id}/maps/pumphouse`,
  );
  expect(Object.values(map.objects).find((o) => o.name === 'crank')!.position).toEqual([560 - 8 * 16, 224 + 16, 0]);
  await page.reload();
  await expect(stage(page, 'map')).toHaveAttribute('data-state', 'clear');
});

test('kill -9 amid a stream of edits loses none that was answered', async () => {
  const { id } = (await post('/api/crates', { profile: 'brinewick', name: 'stream', title: 'Stream', template: 'blank' })) as { id: string };
  const edit = (n: number) => ({ name: `n${n}`, changes: [{ of: 'bands', id: 'b1', to: { name: `n${n}`, bottom: 0, top: 128 } }] });
  let acknowledged = 0;
  const stream = (async () => {
    for (;;) {
      const answer = await post(`/api/crates/${id}/maps/stream/edits`, { base: acknowledged, edits: [edit(acknowledged + 1)] });
      acknowledged = answer.revision as number;
    }
  })().catch(() => {});
  await new Promise((done) => setTimeout(done, 700));
  await application.kill('server', 'SIGKILL');
  await stream;
  await application.startServer();
  const { map, revision } = await application.json<{ revision: number; map: { bands: { b1: { name: string } } } }>(`/api/crates/${id}/maps/stream`);
  expect(acknowledged).toBeGreaterThan(5);
  expect(revision).toBeGreaterThanOrEqual(acknowledged);
  expect(map.bands.b1.name).toBe(`n${revision}`);
});

test('kill -9 during a build: it is marked interrupted, and the next build just works', async ({ page }) => {
  const id = await demoId();
  await post(`/api/crates/${id}/builds`, { map: 'pumphouse', quality: 'final' });
  await expect
    .poll(async () => (await application.json<{ state: string; step: string }[]>('/api/jobs'))[0].step, { timeout: 60_000 })
    .toBe('lighting');
  await application.kill('server', 'SIGKILL');
  await application.startServer();
  expect((await application.json<{ state: string }[]>('/api/jobs'))[0].state).toBe('interrupted');
  await page.goto(`${application.url}/crates/${id}/build`);
  await expect(page.locator('[data-job-state="interrupted"]')).toContainText('Nothing needs repair');
  await page.getByRole('radio', { name: 'draft' }).click();
  await page.getByRole('button', { name: 'Build pumphouse' }).click();
  await expect(page.locator('[data-build-ok="true"]')).toBeVisible({ timeout: 120_000 });
  await expect(page.locator('.stage-row', { hasText: 'Geometry' })).toContainText('from cache');
});

test('bad files are refused with what, where and how, and leave the crate as it was', async ({ page }) => {
  const id = await demoId();
  const folder = mkdtempSync(join(tmpdir(), 'violet-bad-'));
  const file = (name: string, content: string | Uint8Array) => {
    writeFileSync(join(folder, name), content);
    return join(folder, name);
  };
  const before = JSON.stringify((await application.json<{ files: unknown }>(`/api/crates/${id}`)).files);
  await page.goto(`${application.url}/crates/${id}/assets`);
  const choose = page.getByLabel('Choose files to convert');
  await choose.setInputFiles([
    file('cut.glb', 'glTF\u0002\0\0\0\u00ff\u00ff\0\0'),
    file('indices.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 900\n'),
    file('fake.png', 'this is text'),
  ]);
  const rows = page.locator('section .finding');
  await expect(rows.filter({ hasText: /cut\.glb: cut off.*byte 14/ })).toBeVisible();
  await expect(rows.filter({ hasText: /indices\.obj:4: face refers to vertex 900/ })).toBeVisible();
  await expect(rows.filter({ hasText: /fake\.png is not a PNG file/ })).toBeVisible();
  await expect(stage(page, 'assets')).toContainText('blocked · 3');
  await choose.setInputFiles(file('notes.docx', 'x'));
  await expect(page.getByRole('alert')).toContainText('files of this kind are not taken');
  expect(JSON.stringify((await application.json<{ files: unknown }>(`/api/crates/${id}`)).files)).toBe(before);

  // Archives that would write elsewhere, or declare two gigabytes.
  await page.goto(application.url);
  const bomb = writeZip(new Map([['crate.json', new Uint8Array(400)]]));
  const entry = bomb.findIndex((_, i) => bomb[i] === 0x50 && bomb[i + 1] === 0x4b && bomb[i + 2] === 1 && bomb[i + 3] === 2);
  new DataView(bomb.buffer, bomb.byteOffset).setUint32(entry + 24, 2_000_000_000, true);
  for (const [name, content, message] of [
    ['evil.zip', writeZip(new Map([['../evil.txt', new Uint8Array(4)]])), /would be written outside the folder/],
    ['bomb.zip', bomb, /2000000000 bytes/],
  ] as const) {
    await page.locator('input[type=file]').setInputFiles(file(name, content));
    await expect(page.getByRole('alert')).toContainText(message);
  }
  await expect(page.getByRole('heading', { name: 'Pumphouse at Low Tide' })).toBeVisible();
});

test('damage to the install is found and repaired from the screen', async ({ page }) => {
  writeFileSync(join(application.data, 'games/brinewick/base/textures/brick.ktx2'), 'overwritten');
  await page.goto(application.url);
  const game = page.locator('section.panel', { has: page.getByRole('heading', { name: /^Brinewick/ }) });
  const row = game.locator('[data-check="base"]');
  await expect(row).toHaveAttribute('data-ok', 'false');
  await expect(row).toContainText('textures/brick.ktx2');
  await row.getByRole('button', { name: 'Restore the base pack' }).click();
  await expect(row).toHaveAttribute('data-ok', 'true');
});

test('a script that never comes back is ended with its place, and the page goes on', async ({ page }) => {
  const id = await demoId();
  const job = (await post(`/api/crates/${id}/builds`, { map: 'pumphouse', quality: 'draft' })) as { id: string };
  await expect.poll(async () => (await application.json<{ state: string }>(`/api/jobs/${job.id}`)).state, { timeout: 120_000 }).toBe('done');
  const script = (body: string) =>
    application.json(`/api/crates/${id}/scripts/main.lua`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ source: `function startup()\n  ${body}\nend\n` }),
    });
  await script('local text = ("a"):rep(3000)\n  say(text:find("a-a-a-a-a-b"))');
  await page.goto(`${application.url}/crates/${id}/trial`);
  // A page cannot tell a busy machine from a script that hangs: whoever tests is asked, with the place.
  const asked = page.getByRole('alertdialog', { name: 'The test run does not answer' });
  await expect(asked).toContainText('scripts/main.lua:3) did not come back within 5 seconds', { timeout: 60_000 });
  await asked.getByRole('button', { name: 'End the run' }).click();
  await expect(page.getByRole('alert')).toContainText('scripts/main.lua:3) did not come back', { timeout: 60_000 });
  // The page answers all the while, and the finding leads to the line.
  await page.getByRole('button', { name: /^Findings/ }).click();
  await expect(page.getByText('The test run was ended').last()).toBeVisible();

  await script('after(2, function()\n    local text = ("a"):rep(3000)\n    say(text:find("a-a-a-a-a-b"))\n  end)');
  await page.reload();
  await page.getByRole('heading', { name: 'Walk through pumphouse' }).waitFor({ timeout: 60_000 });
  await asked.getByRole('button', { name: 'Wait' }).click({ timeout: 60_000 });
  await expect(asked).toBeHidden();
  await asked.getByRole('button', { name: 'End the run' }).click({ timeout: 60_000 });
  await expect(page.getByRole('heading', { name: 'The run was ended' })).toBeVisible();
  await script('say("fine again")');
  await page.reload();
  await expect(page.getByRole('log')).toContainText('fine again', { timeout: 60_000 });

  // Edited beside the run it is loaded into it; what cannot be read leaves the old code running.
  const type = async (text: string) => {
    await page.getByRole('tab', { name: 'Script' }).click();
    await page.getByRole('textbox', { name: 'Script scripts/main.lua' }).click();
    await page.keyboard.press('Control+End');
    await page.keyboard.type(text);
    await page.getByRole('tab', { name: 'Console' }).click();
  };
  await type('say("live")\n');
  await expect(page.getByRole('log')).toContainText('Loaded scripts/main.lua anew.', { timeout: 20_000 });
  await expect(page.getByRole('log')).toContainText('live');
  await type('x = = 1\n');
  await expect(page.getByRole('log').getByRole('link', { name: 'scripts/main.lua:5' })).toBeVisible({ timeout: 20_000 });
  await expect(page.getByRole('log')).toContainText('The code from before runs on.');
});

test('what is not needed any more is cleared away from the first page', async ({ page }) => {
  const made = (await post('/api/crates', { profile: 'brinewick', name: 'gone', title: 'Gone', template: 'example' })) as { id: string };
  await application.json(`/api/crates/${made.id}/scripts/own.lua`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ source: `-- ${'only in the crate that goes '.repeat(100)}` }),
  });
  await fetch(`${application.url}/api/crates/${made.id}`, { method: 'DELETE' });
  await fetch(`${application.url}/api/crates/deleted/${made.id}`, { method: 'DELETE' });
  await page.goto(application.url);
  await page.getByRole('button', { name: 'Free space' }).click();
  const dialog = page.getByRole('dialog', { name: 'Free space' });
  await dialog.getByRole('button', { name: /^Free \d/ }).click();
  await expect(dialog.getByRole('status')).toContainText('freed');
  await expect(dialog.getByRole('button', { name: 'Free 0 B' })).toBeDisabled();
});
