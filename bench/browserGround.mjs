/* global Blob, MutationObserver, document, window */
/**
 * `node bench/browserGround.mjs ADDRESS [SIDE]`: opens a map with ground of SIDE² samples (2049 without it) in a running application;
 * prints when the plan stood, what scripts took for strokes of radius 32, and what the page takes up (its process, on Linux).
 */
import { readFileSync } from 'node:fs';
import { zipSync } from 'fflate';
import { chromium } from 'playwright-core';
import { serialiseMap } from '@violet-crate/core/document/serialise';
import { hills } from './ground.mjs';

const address = process.argv[2] ?? 'http://127.0.0.1:4377';
const side = Number(process.argv[3] ?? 2049);
const name = `ground_${Math.floor(performance.timeOrigin % 1e7)}`;
const text = (value) => new TextEncoder().encode(value);
const manifest = {
  format: 1,
  name,
  title: 'Ground',
  description: '',
  version: '0.1.0',
  profile: 'skarrow',
  mainMap: name,
  authors: [],
  credits: [],
  materials: [],
  assets: {},
};
const archive = zipSync({
  'crate.json': text(JSON.stringify(manifest)),
  [`maps/${name}.map.json`]: text(serialiseMap(hills(side, { depth: 'u16' }))),
  'scripts/main.lua': text('function startup() end\n'),
});
const form = new FormData();
form.append('file', new Blob([archive]), 'ground.zip');
const { id } = await (await fetch(`${address}/api/crates/import`, { method: 'POST', body: form })).json();

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.addInitScript(() => {
  const watch = new MutationObserver(() => {
    if (!document.querySelector('[data-testid=plan][data-sheet*=","]')) return;
    window.planDrawn = performance.now();
    watch.disconnect();
  });
  watch.observe(document, { subtree: true, childList: true, attributes: true, attributeFilter: ['data-sheet'] });
});
const session = await page.context().newCDPSession(page);
await session.send('Performance.enable');
const metric = async (key) => (await session.send('Performance.getMetrics')).metrics.find((m) => m.name === key).value * 1000;
await page.goto(`${address}/crates/${id}/map`);
await page.locator('[data-testid=plan][data-sheet*=","]').waitFor({ timeout: 120_000 });
console.log(`${side}²: the plan stood after ${((await page.evaluate(() => window.planDrawn)) / 1000).toFixed(2)} s`);
await page.waitForTimeout(12_000);

/** Resident memory of the page's process, MiB. */
async function resident() {
  const { processInfo } = await (await browser.newBrowserCDPSession()).send('SystemInfo.getProcessInfo');
  const pages = processInfo.filter(({ type }) => type === 'renderer');
  const sizes = pages.map(({ id: pid }) => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024);
  return Math.max(...sizes);
}
console.log(`  its process takes up ${(await resident()).toFixed(0)} MiB`);

await page.keyboard.press('x');
await page.getByLabel('Radius', { exact: true }).fill('32');
await page.getByLabel('Radius', { exact: true }).press('Enter');
const plan = (await page.getByTestId('plan').boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
const [x, y] = [plan.x + plan.width * 0.3, plan.y + plan.height * 0.4];
const costs = [];
for (let n = 0; n < 8; n++) {
  await page.mouse.move(x, y + n * 8);
  await page.mouse.down();
  const before = await metric('ScriptDuration');
  for (let k = 1; k <= 20; k++) await page.mouse.move(x + k * 3, y + n * 8);
  costs.push(((await metric('ScriptDuration')) - before) / 20);
  await page.mouse.up();
  await page.waitForTimeout(1500);
}
costs.sort((a, b) => a - b);
console.log(`  scripts per move of a stroke: ${costs[4].toFixed(1)} ms in the middle, ${costs.at(-1).toFixed(1)} ms at most`);
console.log(`  its process takes up ${(await resident()).toFixed(0)} MiB after ${costs.length} strokes`);
await fetch(`${address}/api/crates/${id}`, { method: 'DELETE' });
await browser.close();
