/* global HTMLCanvasElement, WebGL2RenderingContext, requestAnimationFrame, window */
/**
 * `node bench/browserMap.mjs ADDRESS`: opens a generated map of 5,000 solids and 1,000 objects in a running
 * application and drags one solid; prints how long opening took and how long scripts ran per pointer move
 * (JavaScript only, as the browser's own counters tell; drawing to the screen is not in it). Time inside calls of WebGL,
 * which a machine without a graphics card spends on software rasterising, is told apart.
 */
import { generatedMap } from './mapEdits.mjs';
import { openInBrowser } from './mapInBrowser.mjs';

const address = process.argv[2] ?? 'http://127.0.0.1:4377';
const map = generatedMap(5000);
const { page, planDrawn, metric, close } = await openInBrowser(address, 'brinewick', map, () => {
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
});
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
await close();
