/* global Blob, FormData, requestAnimationFrame */
/**
 * `node bench/browserMap.mjs ADDRESS`: opens a generated map of 5,000 solids and 1,000 objects in a running
 * application and drags one solid; prints how long opening took and how long scripts ran per pointer move
 * (JavaScript only, as the browser's own counters tell; drawing to the screen is not in it).
 */
import { zipSync } from 'fflate';
import { chromium } from 'playwright-core';
import { serialiseMap } from '@violet-crate/core/map/serialise';
import { generatedMap } from './mapEdits.mjs';

const address = process.argv[2] ?? 'http://127.0.0.1:4377';
const name = `bench_${Math.floor(performance.timeOrigin % 1e7)}`;
const text = (value) => new TextEncoder().encode(value);
const manifest = {
  format: 1,
  name,
  title: 'Bench',
  description: '',
  version: '0.1.0',
  profile: 'brinewick',
  mainMap: name,
  authors: [],
  credits: [],
  materials: [],
  assets: {},
};
const map = generatedMap(5000);
const archive = zipSync({
  'crate.json': text(JSON.stringify(manifest)),
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
const session = await page.context().newCDPSession(page);
await session.send('Performance.enable');
const metric = async (key) => (await session.send('Performance.getMetrics')).metrics.find((m) => m.name === key).value * 1000;

const opened = performance.now();
await page.goto(`${address}/crates/${id}/map`);
await page.locator('[data-testid=plan][data-sheet*=","]').waitFor();
console.log(`opening: plan drawn after ${Math.round(performance.now() - opened)} ms, scripts ran ${Math.round(await metric('ScriptDuration'))} ms`);
await page.waitForTimeout(15000);

const plan = page.getByTestId('plan');
const box = await plan.boundingBox();
const [cu, cv, scale] = (await plan.getAttribute('data-sheet')).split(',').map(Number);
const target = map.objects.o7.position;
const at = { x: box.x + box.width / 2 + (target[0] - cu) * scale, y: box.y + box.height / 2 - (target[1] - cv) * scale };
const times = [];
await page.mouse.move(at.x, at.y);
await page.mouse.down();
for (let i = 1; i <= 60; i++) {
  const before = await metric('ScriptDuration');
  await page.mouse.move(at.x + i * 2, at.y + i);
  await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => done())));
  times.push((await metric('ScriptDuration')) - before);
}
await page.mouse.up();
times.sort((a, b) => a - b);
console.log(`dragging an object: scripts per move ${times[30].toFixed(1)} ms in the middle, ${times[57].toFixed(1)} ms at the 95th percentile`);
await fetch(`${address}/api/crates/${id}`, { method: 'DELETE' });
await browser.close();
