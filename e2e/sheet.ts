/** Pointing at places of a drawing sheet in its own coordinates. */

import { expect, type Locator, type Page } from '@playwright/test';

type Point = [number, number];

async function screenPoint(canvas: Locator, [u, v]: Point): Promise<{ x: number; y: number }> {
  await expect(canvas).toHaveAttribute('data-sheet', /,/);
  const [cu, cv, scale] = (await canvas.getAttribute('data-sheet'))!.split(',').map(Number);
  const box = (await canvas.boundingBox())!;
  return { x: box.x + box.width / 2 + (u - cu) * scale, y: box.y + box.height / 2 - (v - cv) * scale };
}

/** A place of the sheet in pixels from the canvas's corner. */
export async function sheetPoint(canvas: Locator, ...at: Point): Promise<{ x: number; y: number }> {
  const [point, box] = [await screenPoint(canvas, at), (await canvas.boundingBox())!];
  return { x: point.x - box.x, y: point.y - box.y };
}

export async function dragOn(page: Page, canvas: Locator, from: Point, to: Point): Promise<void> {
  const [a, b] = [await screenPoint(canvas, from), await screenPoint(canvas, to)];
  await page.mouse.move(a.x, a.y);
  await page.mouse.down();
  await page.mouse.move((a.x + b.x) / 2, (a.y + b.y) / 2, { steps: 4 });
  await page.mouse.move(b.x, b.y, { steps: 4 });
  await page.mouse.up();
}

export async function clickOn(page: Page, canvas: Locator, at: Point): Promise<void> {
  const p = await screenPoint(canvas, at);
  await page.mouse.click(p.x, p.y);
}

/** Waits until all edits are acknowledged. */
export const saved = (page: Page) => expect(page.locator('.bar .stamp.clear', { hasText: 'Saved' })).toBeVisible();

export const stage = (page: Page, name: string) => page.locator(`.rail a[data-stage="${name}"]`);

/** A step of publishing. */
export const step = (page: Page, name: string) =>
  page.getByRole('navigation', { name: 'Steps of publishing' }).getByRole('button', { name: new RegExp(`^${name}`) });
