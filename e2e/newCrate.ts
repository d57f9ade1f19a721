import { expect, type Page } from '@playwright/test';

/** Makes a crate from a template by the screen, and opens its map. */
export async function newCrate(page: Page, url: string, title: string, template: string, game?: string): Promise<void> {
  await page.goto(url);
  await page.getByRole('button', { name: 'New crate' }).click();
  await page.getByLabel('Title').fill(title);
  if (game) await page.getByLabel('Game', { exact: true }).selectOption(game);
  await page.getByRole('radio', { name: new RegExp(template) }).check();
  await expect(page.getByText('crate.json')).toBeVisible();
  await page.getByRole('button', { name: 'Make the crate' }).click();
  await expect(page.getByTestId('plan')).toBeVisible();
}
