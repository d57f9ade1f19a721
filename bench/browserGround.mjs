/**
 * `node bench/browserGround.mjs ADDRESS [SIDE]`: opens a map with ground of SIDE² samples (2049 without it) in a running application;
 * prints when the plan stood, what scripts took for strokes of radius 32, and what the page takes up (its process, on Linux).
 */
import { readFileSync } from 'node:fs';
import { hills } from './ground.mjs';
import { openInBrowser } from './mapInBrowser.mjs';

const address = process.argv[2] ?? 'http://127.0.0.1:4377';
const side = Number(process.argv[3] ?? 2049);
const { browser, page, planDrawn, metric, close } = await openInBrowser(address, 'skarrow', hills(side, { depth: 'u16' }));
console.log(`${side}²: the plan stood after ${(planDrawn / 1000).toFixed(2)} s`);
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
await close();
