/* global Blob, HTMLCanvasElement, MutationObserver, WebGL2RenderingContext, document, requestAnimationFrame, window */
/**
 * `node bench/browserMap.mjs ADDRESS`: opens a generated map of 5,000 solids and 1,000 objects in a running
 * application and drags one solid; prints how long opening took and how long scripts ran per pointer move
 * (JavaScript only, as the browser's own counters tell; drawing to the screen is not in it). Time inside calls of WebGL,
 * which a machine without a graphics card spends on software rasterising, is told apart.
 */
import { zipSync } from 'fflate';
import { chromium } from 'playwright-core';
import { serialiseMap } from '@violet-crate/core/document/serialise';
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
await page.addInitScript(() => {
  window.inWebGl = 0;
  const undo = [];
  window.unwrapWebGl = () => undo.forEach((back) => back());
  const timed = (owner, key) => {
    const real = owner[key];
    undo.push(() => (owner[key] = real));
    owner[key] = function (...given) {
      const start = performance.now();
      try {
        return real.apply(this, given);
      } finally {
        window.inWebGl += performance.now() - start;
      }
    };
  };
  timed(HTMLCanvasElement.prototype, 'getContext');
  const calls = Object.entries(Object.getOwnPropertyDescriptors(WebGL2RenderingContext.prototype));
  for (const [key, { value }] of calls) if (typeof value === 'function') timed(WebGL2RenderingContext.prototype, key);
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
const metric = async (key) => (await session.send('Performance.getMetrics')).metrics.find((m) => m.name === key).value * 1000;

await page.goto(`${address}/crates/${id}/map`);
await page.locator('[data-testid=plan][data-sheet*=","]').waitFor();
const planDrawn = await page.evaluate(() => window.planDrawn);
await page.waitForTimeout(15000);
const [scripts, webGl] = [await metric('ScriptDuration'), await page.evaluate(() => window.inWebGl)];
console.log(
  `opening: plan stands after ${Math.round(planDrawn)} ms; until all stands scripts run ${Math.round(scripts - webGl)} ms and ${Math.round(webGl)} inside WebGL`,
);
await page.evaluate(() => window.unwrapWebGl());

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
