/** `node bench/firstPage.mjs ADDRESS`: script that each page of a running application loads before it is left alone, compressed as sent. */
import { chromium } from 'playwright-core';

const address = process.argv[2] ?? 'http://127.0.0.1:4280';
const [{ id }] = await (await fetch(`${address}/api/crates`)).json();
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
for (const path of ['/', ...['setup', 'assets', 'scripts', 'map', 'links', 'build', 'trial', 'publish'].map((page) => `/crates/${id}/${page}`)]) {
  const page = await browser.newPage();
  const sizes = new Map();
  page.on('response', async (response) => {
    const name = new URL(response.url()).pathname;
    if (name.endsWith('.js')) sizes.set(name, Number((await response.allHeaders())['content-length'] ?? 0));
  });
  await page.goto(address + path, { waitUntil: 'networkidle' }).catch(() => undefined);
  const bytes = [...sizes.values()].reduce((sum, size) => sum + size, 0);
  const largest = [...sizes].sort((a, b) => b[1] - a[1]).slice(0, 3);
  const list = largest.map(([name, size]) => `${name.split('/').pop()} ${Math.round(size / 1024)}`).join(', ');
  console.log(`${path.replace(id, 'ID').padEnd(20)} ${Math.round(bytes / 1024)} KiB (${list})`);
  await page.close();
}
await browser.close();
