/* global Blob, MutationObserver, document, window */
/** A generated map in a running application, opened in Chromium, with the browser's own counters. */
import { zipSync } from 'fflate';
import { chromium } from 'playwright-core';
import { serialiseMap } from '@violet-crate/core/document/serialise';

/**
 * @param before runs in the page before its own scripts
 * @returns the page when its plan stands; `planDrawn` in ms from the start; `metric` in ms; `close` removes the crate again
 */
export async function openInBrowser(address, profile, map, before) {
  const name = `bench_${Math.floor(performance.timeOrigin % 1e7)}`;
  const text = (value) => new TextEncoder().encode(value);
  const manifest = { format: 1, name, title: 'Bench', description: '', version: '0.1.0', profile, mainMap: name };
  const lists = { authors: [], credits: [], materials: [], assets: {} };
  const archive = zipSync({
    'crate.json': text(JSON.stringify({ ...manifest, ...lists })),
    [`maps/${name}.map.json`]: text(serialiseMap(map)),
    'scripts/main.lua': text('function startup() end\n'),
  });
  const form = new FormData();
  form.append('file', new Blob([archive]), 'bench.zip');
  const { id } = await (await fetch(`${address}/api/crates/import`, { method: 'POST', body: form })).json();
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  if (before) await page.addInitScript(before);
  await page.addInitScript(() => {
    // The page itself notes when the plan stands: set-up of WebGL right afterwards would hold up an answer.
    const watch = new MutationObserver(() => {
      if (!document.querySelector('[data-testid=plan][data-sheet*=","]')) return;
      window.planDrawn = performance.now();
      watch.disconnect();
    });
    watch.observe(document, { subtree: true, childList: true, attributes: true, attributeFilter: ['data-sheet'] });
  });
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable');
  await page.goto(`${address}/crates/${id}/map`);
  await page.locator('[data-testid=plan][data-sheet*=","]').waitFor({ timeout: 120_000 });
  return {
    browser,
    page,
    planDrawn: await page.evaluate(() => window.planDrawn),
    metric: async (key) => (await session.send('Performance.getMetrics')).metrics.find((m) => m.name === key).value * 1000,
    async close() {
      await fetch(`${address}/api/crates/${id}`, { method: 'DELETE' });
      await browser.close();
    },
  };
}
