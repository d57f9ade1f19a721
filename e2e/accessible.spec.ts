/** Every page by the rules of axe-core (WCAG 2): serious and critical findings fail. Every page also has one first-level heading. */

import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import type { AxeResults } from 'axe-core';
import { Application } from './application.ts';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

let application: Application;
let crate: string;
test.beforeAll(async () => {
  test.setTimeout(180_000);
  application = await Application.start();
  crate = (await application.json<{ id: string }[]>('/api/crates'))[0].id;
  // With a build the pages of its results, the test run and publishing are full.
  await fetch(`${application.url}/api/crates/${crate}/builds`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ map: 'pumphouse', quality: 'draft' }),
  });
  await expect.poll(async () => (await application.json<{ state: string }[]>('/api/jobs'))[0].state, { timeout: 120_000 }).toBe('done');
});
test.afterAll(() => application.stop());

/** Serious and critical findings, one line each: rule, what it asks, where. */
async function problems(page: Page): Promise<string[]> {
  await page.evaluate(axe);
  const { violations } = await page.evaluate(async () => {
    const { axe: rules } = window as unknown as { axe: { run(options: unknown): Promise<AxeResults> } };
    return rules.run({ resultTypes: ['violations'] });
  });
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .flatMap(({ id, help, nodes }) => nodes.map(({ target }) => `${id}: ${help}: ${target.join(' ')}`));
}

const PAGES: [name: string, path: string, ready: string][] = [
  ['crates', '/', 'h1'],
  ['set-up', '/crates/ID/setup', 'h1'],
  ['assets', '/crates/ID/assets', '.thumb'],
  ['scripts', '/crates/ID/scripts', '.cm-content'],
  ['map', '/crates/ID/map', '[data-testid=perspective] canvas'],
  ['links', '/crates/ID/links', 'tbody tr'],
  ['links as a drawing, with one thing', '/crates/ID/links?view=graph&thing=material:keeper_tile', '.link-box'],
  ['links as bytes', '/crates/ID/links?view=bytes', 'tbody tr'],
  ['build', '/crates/ID/build', '[data-build-ok=true]'],
  ['test run', '/crates/ID/trial', 'button:has-text("Start walking")'],
  ['publish', '/crates/ID/publish', 'h1'],
  ['check before publishing', '/crates/ID/publish?step=check', '[data-point]'],
  ['other crates', '/crates/ID/links?view=crates', '.required'],
  ['a table', '/crates/ID/data?file=records/people.json', '[role="grid"] td'],
  ['a conversation', '/crates/ID/data?file=talk/keeper.json&line=18', '.talk-step'],
  ['an effect', '/crates/ID/effects?file=effects/smoke.effect.json', '.emitter-form'],
  ['what is remembered', '/crates/ID/data?file=talk/memory.json', 'tbody tr'],
  ['a bank', '/crates/ID/banks', '[role="grid"]'],
  ['what lies where in a bank', '/crates/ID/banks?view=map', '.bank-strip'],
  ['bytes of a bank', '/crates/ID/banks?view=bytes', '.hex-line'],
  ['pictures of a release', '/crates/ID/publish?step=package', '.pictures'],
  ['upload', '/crates/ID/publish?step=upload', '#change-notes'],
  ['mods', '/mods/brinewick', 'h2'],
  ['workshop', 'WORKSHOP/', 'h1'],
  ['signing up', 'WORKSHOP/sign-up', 'h1'],
  ['versions', '/crates/ID/versions', 'h1'],
  ['profiles', '/profiles', '.profile-main h2'],
  ['preferences', '/preferences', '[data-command]'],
];

test('all pages are accessible, dark and light', async ({ page }) => {
  test.setTimeout(300_000);
  // Colours that still fade would be measured half way.
  await page.emulateMedia({ reducedMotion: 'reduce' });
  for (const [name, path, ready] of PAGES)
    await test.step(name, async () => {
      await page.goto(path.startsWith('WORKSHOP') ? path.replace('WORKSHOP', application.workshopUrl) : application.url + path.replace('ID', crate));
      // The test run takes longest: it loads the built map.
      await expect(page.locator(ready).first()).toBeVisible({ timeout: 60_000 });
      for (const theme of ['dark', 'light'] as const) {
        // As the application's switch does, which not every page has, and the workshop follows the system.
        await page.emulateMedia({ colorScheme: theme });
        await page.evaluate((name) => {
          document.documentElement.dataset.bsTheme = name;
          window.dispatchEvent(new Event('themechange'));
        }, theme);
        expect.soft(await problems(page), `${name}, ${theme}`).toEqual([]);
      }
      expect.soft(await page.locator('h1').count(), `${name}: first-level headings`).toBe(1);
    });
});
