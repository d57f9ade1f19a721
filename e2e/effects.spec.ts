/** Effects: made from nothing, what they cost, placed, started by a signal, seen in the test run; the same to the bit in both engines. */

import { expect, test, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { build, type Rollup } from 'vite';
import type { MapEdit } from '@violet-crate/core/document/edit';
import type { MapObject } from '@violet-crate/core/document/schema';
import { EffectPlay } from '@violet-crate/core/effect/play';
import type { Effect } from '@violet-crate/core/effect/document';
import type { Profile } from '@violet-crate/core/profile/schema';
import { Application } from './application.ts';
import { newCrate } from './newCrate.ts';

let application: Application;
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

const idOf = (page: Page) => /crates\/([^/]+)/.exec(page.url())![1];
const send = <T>(path: string, body: unknown): Promise<T> =>
  application.json<T>(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });

/** The effect as the server has it. */
async function effectOn(page: Page, name: string): Promise<Effect> {
  const answer = await page.request.get(`${application.url}/api/crates/${idOf(page)}/files/effects/${name}.effect.json`);
  return (await answer.json()) as Effect;
}

test('an effect is made from nothing: its curves by hand and by keys, its cost against the budget, undone', async ({ page }) => {
  await newCrate(page, application.url, 'Vapours', 'Sealed room');
  await page.goto(`${application.url}/crates/${idOf(page)}/assets`);
  await page.getByRole('link', { name: 'Effects' }).click();
  await expect(page.getByText('No effects yet.')).toBeVisible();
  await page.getByLabel('Name of a new effect').fill('not a name');
  await expect(page.getByRole('button', { name: 'Add the effect' })).toBeDisabled();
  await page.getByLabel('Name of a new effect').fill('puff');
  await page.getByRole('button', { name: 'Add the effect' }).click();
  await expect(page.getByTestId('effect-preview').locator('canvas')).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: 'All saved' })).toBeVisible();
  expect((await effectOn(page, 'puff')).emitters).toHaveLength(1);

  // A key is added, moved by the keyboard and dragged with the pointer.
  const births = page.getByRole('figure', { name: 'Births a second over its round' });
  await births.getByRole('button', { name: 'Add a key to Births a second' }).click();
  const second = births.getByRole('button', { name: /key 2 of 2/ });
  await second.focus();
  await page.keyboard.press('ArrowRight');
  await expect.poll(async () => (await effectOn(page, 'puff')).emitters[0].rate[1]?.[0]).toBeCloseTo(0.51, 5);
  const box = (await second.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + 40, box.y + 40, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => (await effectOn(page, 'puff')).emitters[0].rate[1]?.[1]).toBeLessThan(30);
  await second.focus();
  await page.keyboard.press('Delete');
  await expect.poll(async () => (await effectOn(page, 'puff')).emitters[0].rate).toHaveLength(1);

  // A stop of the gradient takes a colour.
  await page.getByRole('button', { name: /Colour: stop 1 of 2/ }).focus();
  await page.getByLabel('Colour: colour of the chosen stop').fill('#ff8800');
  await expect.poll(async () => (await effectOn(page, 'puff')).emitters[0].colour[0].colour).toBe('#ff8800');

  // Too much of it is told at once, with what to do.
  const cost = page.getByRole('region', { name: 'Cost' });
  await expect(cost).toContainText(/Particles at once\s*\d+ of 1,000/);
  await births.getByLabel('Births a second: how much').fill('4000');
  await page.keyboard.press('Enter');
  await page.getByLabel('At most at once').fill('20000');
  await page.keyboard.press('Enter');
  await expect(cost).toContainText('the game wants at most 1,000 for one effect');
  await expect(cost).toContainText('Most are of Main');
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(cost).not.toContainText('the game wants');

  // Time in hand: held, stepped, wound back to the same.
  await page.getByRole('button', { name: 'Pause' }).click();
  const time = page.getByLabel('Time', { exact: true });
  await time.fill('1');
  const shown = page.getByLabel('Seconds and particles');
  await expect(shown).toHaveText(/^1\.00 s · \d+$/);
  const then = await shown.textContent();
  await page.getByRole('button', { name: 'One step on' }).click();
  await expect(shown).toHaveText(/^1\.02 s/);
  await time.fill('0.5');
  await time.fill('1');
  await page.waitForTimeout(200);
  expect((await shown.textContent())!.slice(0, 6)).toBe(then!.slice(0, 6));

  // Children of themselves are refused before they are kept.
  await page.getByRole('button', { name: 'Copy this emitter' }).click();
  await page.getByLabel('Children', { exact: true }).selectOption('Main');
  await page.getByRole('tab', { name: 'Main', exact: true }).click();
  await page.getByLabel('Children', { exact: true }).selectOption('Main 2');
  await expect(page.getByRole('alert')).toContainText('without end');
});

test('an effect that waits for a signal is started by it and seen in the test run', async ({ page }) => {
  await newCrate(page, application.url, 'Signalled', 'Sealed room');
  const id = idOf(page);
  await page.goto(`${application.url}/crates/${id}/effects`);
  await page.getByLabel('What a new effect begins as').selectOption('Smoke');
  await page.getByLabel('Name of a new effect').fill('plume');
  await page.getByRole('button', { name: 'Add the effect' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'All saved' })).toBeVisible();
  const object = (of: string, name: string, position: [number, number, number], properties: MapObject['properties']): MapObject => ({
    class: of,
    name,
    position,
    turn: 0,
    properties,
  });
  const changes: MapEdit['changes'] = [
    { of: 'objects', id: 'fx', to: object('effect', 'chimney', [40, 0, 20], { effect: 'plume', running: false }) },
    { of: 'objects', id: 'clock', to: object('timer', 'clock', [40, 40, 20], { seconds: 3, repeat: false, running: true }) },
    { of: 'signals', id: 'sg', to: { from: 'clock', event: 'elapsed', to: { object: 'fx', action: 'start' }, delay: 0 } },
  ];
  const { revision } = await application.json<{ revision: number }>(`/api/crates/${id}/maps/signalled`);
  await send(`/api/crates/${id}/maps/signalled/edits`, { base: revision, edits: [{ name: 'a chimney', changes }] });
  const job = await send<{ id: string }>(`/api/crates/${id}/builds`, { map: 'signalled', quality: 'draft' });
  await expect.poll(async () => (await application.json<{ state: string }>(`/api/jobs/${job.id}`)).state, { timeout: 120_000 }).toBe('done');

  // The map's inspector names it and leads to its effect's choice.
  await page.goto(`${application.url}/crates/${id}/map`);
  await expect(page.getByTestId('plan')).toBeVisible();
  await page.getByRole('button', { name: 'Play effects' }).click();
  await expect(page.getByRole('button', { name: 'Play effects' })).toHaveAttribute('aria-pressed', 'true');

  await page.goto(`${application.url}/crates/${id}/trial`);
  await page.getByRole('heading', { name: 'Walk through signalled' }).waitFor({ timeout: 60_000 });
  await page.keyboard.press('Shift');
  const particles = async () => Number(await page.getByTestId('trial-hud').getAttribute('data-particles'));
  expect(await particles()).toBe(0);
  await expect.poll(particles, { timeout: 30_000 }).toBeGreaterThan(5);
});

test('ten thousand steps of every template of both games are the same to the bit in Node.js and in the browser', async ({ page }) => {
  const entry = fileURLToPath(new URL('../core/dist/effect/play.js', import.meta.url));
  const made = await build({
    configFile: false,
    logLevel: 'error',
    build: { write: false, minify: false, lib: { entry, formats: ['iife'], name: 'play' } },
  });
  const [{ output }] = [made].flat() as Rollup.RollupOutput[];
  await page.goto('about:blank');
  await page.addScriptTag({ content: output[0].code });
  for (const game of ['brinewick', 'skarrow']) {
    const file = new URL(`../core/profiles/${game}.json`, import.meta.url);
    const profile = JSON.parse(readFileSync(file, 'utf8')) as Profile;
    const { gravity } = profile.player;
    const metre = 1 / profile.unit.metres;
    for (const { id, effect } of profile.effects!.templates) {
      const here = new EffectPlay(effect);
      for (let i = 0; i < 10_000; i++) {
        const stand = { position: [Math.fround(i / 997), 0, metre] as [number, number, number], turn: (i * 7) % 360 };
        here.step(stand, { gravity, wind: [metre * 2, -metre, 0], below: () => 0 });
        if (i % 300 === 0) here.burst();
      }
      const there = await page.evaluate(
        ([of, down, unit]) => {
          const { EffectPlay: Play } = (window as never as { play: { EffectPlay: typeof EffectPlay } }).play;
          const run = new Play(of);
          for (let i = 0; i < 10_000; i++) {
            const stand = { position: [Math.fround(i / 997), 0, unit] as [number, number, number], turn: (i * 7) % 360 };
            run.step(stand, { gravity: down, wind: [unit * 2, -unit, 0], below: () => 0 });
            if (i % 300 === 0) run.burst();
          }
          return run.hash();
        },
        [effect, gravity, metre] as const,
      );
      expect(there, `${game}, ${id}`).toBe(here.hash());
    }
  }
});
