/** The test run played: things carried, runs recorded and played back, edits that flow in, changes that are kept. */

import { expect, test, type Page } from '@playwright/test';
import { decodeCollision } from '@violet-crate/core/stages/pack/collisionBin';
import type { RuntimeMap } from '@violet-crate/core/stages/pack/runtime';
import type { MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap, MapObject } from '@violet-crate/core/document/schema';
import type { Profile } from '@violet-crate/core/profile/schema';
import { STILL } from '@violet-crate/core/trial/move';
import { Recorder } from '@violet-crate/core/trial/record';
import { readWalk } from '@violet-crate/core/trial/walkFiles';
import { TIME_STEP, TrialWorld } from '@violet-crate/core/trial/world';
import { playWalksApart } from '@violet-crate/host/trialApart';
import { Application } from './application.ts';

let application: Application;
let id = '';
/** Every test begins in the same room, whatever became of the one before. */
test.beforeAll(async () => {
  application = await Application.start();
  const made = await send<{ id: string }>('POST', '/api/crates', { profile: 'brinewick', name: 'yard', title: 'Yard', template: 'sealed-room' });
  id = made.id;
  const { map } = await opened();
  const [start] = Object.entries(map.objects).find(([, one]) => one.class === 'start')!;
  await edit([{ of: 'objects', id: start, to: { ...map.objects[start], position: [-96, -80, 2], turn: 0 } }]);
});
test.afterAll(() => application.stop());

const send = <T>(method: string, path: string, body: unknown): Promise<T> =>
  application.json<T>(path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
const opened = () => application.json<{ map: GameMap; revision: number }>(`/api/crates/${id}/maps/yard`);
const edit = async (changes: MapEdit['changes']) =>
  send('POST', `/api/crates/${id}/maps/yard/edits`, { base: (await opened()).revision, edits: [{ name: 'yard', changes }] });
const object = (of: string, name: string, position: [number, number, number], properties: MapObject['properties']): MapObject => ({
  class: of,
  name,
  position,
  turn: 0,
  properties,
});
const PLATE = { size: [96, 48, 24], senses: 'things' } as MapObject['properties'];
const feet = async (page: Page) => (await page.getByTestId('trial-hud').getAttribute('data-feet'))!.split(',').map(Number);

async function build(): Promise<string> {
  const job = await send<{ id: string }>('POST', `/api/crates/${id}/builds`, { map: 'yard', quality: 'draft' });
  await expect.poll(async () => (await application.json<{ state: string }>(`/api/jobs/${job.id}`)).state, { timeout: 120_000 }).toBe('done');
  return (await application.json<{ id: string }[]>(`/api/crates/${id}/builds`))[0].id;
}

test('solids and objects that are edited elsewhere are in the run at once', async ({ page }) => {
  await build();
  await page.goto(`${application.url}/crates/${id}/trial`);
  await page.getByRole('heading', { name: 'Walk through yard' }).waitFor({ timeout: 60_000 });
  await page.keyboard.press('Shift');
  const wall: MapEdit['changes'][number] = {
    of: 'solids',
    id: 'wall',
    to: {
      faces: (
        [
          [[1, 0, 0], -60],
          [[-1, 0, 0], 64],
          [[0, 1, 0], 0],
          [[0, -1, 0], 120],
          [[0, 0, 1], 96],
          [[0, 0, -1], 0],
        ] as const
      ).map(([normal, distance]) => ({ normal: [...normal], distance, material: 'brick' })),
    },
  };
  await edit([wall]);
  await expect(page.getByText('another page: yard')).toBeVisible();
  await page.waitForTimeout(500);
  const [from] = await feet(page);
  let at = from;
  await page.keyboard.down('ArrowUp');
  // It walks until the wall holds it: it has moved, and moves no more.
  await expect
    .poll(
      async () => {
        const before = at;
        [at] = await feet(page);
        return at > from && at === before;
      },
      { intervals: [400], timeout: 20_000 },
    )
    .toBe(true);
  expect(at).toBeLessThan(-70);
  await edit([{ of: 'solids', id: 'wall', to: null }]);
  await expect.poll(async () => (await feet(page))[0], { timeout: 20_000 }).toBeGreaterThan(-40);
  await page.keyboard.up('ArrowUp');
});

test('ten minutes of play come out the same to the bit in Node.js and in the browser', async ({ page }) => {
  const [build1] = await application.json<{ id: string }[]>(`/api/crates/${id}/builds`);
  const file = async (path: string) => new Uint8Array(await (await fetch(`${application.url}/api/crates/${id}/${path}`)).arrayBuffer());
  const text = async (path: string) => new TextDecoder().decode(await file(path));
  const [game] = (await application.json<{ profile: Profile }[]>('/api/games')).filter(({ profile }) => profile.id === 'brinewick');
  const world = await TrialWorld.begin({
    profile: game.profile,
    map: JSON.parse(await text(`builds/${build1.id}/files/maps/yard/map.json`)) as RuntimeMap,
    collision: decodeCollision(await file(`builds/${build1.id}/files/maps/yard/collision.bin`)),
    scripts: { 'scripts/main.lua': await text('files/scripts/main.lua') },
  });
  const recorder = new Recorder(world);
  // Somebody who runs about without a plan, jumps and looks around.
  let seed = 7;
  const chance = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  let intent = STILL;
  for (let i = 0; i < 600 / TIME_STEP; i++) {
    if (i % 20 === 0) {
      const angle = chance() * 6.2831;
      intent = {
        move: [Math.cos(angle), Math.sin(angle), 0],
        run: chance() < 0.5,
        jump: chance() < 0.3,
        look: [Math.sin(angle), Math.cos(angle), 0],
      };
    }
    recorder.step(intent);
  }
  const walk = recorder.walk('yard');
  world.stop();
  expect(walk.hashes).toHaveLength(600);
  await send('PUT', `/api/crates/${id}/walks/yard/ten_minutes`, { walk });

  await page.goto(`${application.url}/crates/${id}/trial`);
  await page.getByRole('heading', { name: 'Walk through yard' }).waitFor({ timeout: 60_000 });
  await page.keyboard.press('Shift');
  await page.getByRole('tab', { name: 'Walks' }).click();
  await page.getByRole('button', { name: 'Play all' }).click();
  await expect(page.getByRole('list', { name: 'Walks' })).toContainText('works, the same to the bit, 600 s', { timeout: 120_000 });
  await page.getByRole('button', { name: 'Remove ten_minutes' }).click();
  await expect(page.getByText(/^No walks yet/)).toBeVisible();
});

test('a crate carried onto a plate opens a gate; the walk plays back to the bit in Node.js, and fails once the plate is moved', async ({ page }) => {
  await edit([
    { of: 'objects', id: 'box', to: object('prop', 'box', [-56, -80, 0], { model: 'models/crate.glb', solid: true, movable: true }) },
    { of: 'objects', id: 'plate', to: object('trigger', 'plate', [48, -80, 0], PLATE) },
    {
      of: 'objects',
      id: 'gate',
      to: object('sluice', 'gate', [0, 96, 0], { size: [64, 8, 48], travel: [0, 0, 24], speed: 48, material: 'brass', blocked: 'stop' }),
    },
    { of: 'signals', id: 'g1', to: { from: 'plate', event: 'entered', to: { object: 'gate', action: 'raise' }, delay: 0 } },
  ]);
  const built = await build();
  await page.goto(`${application.url}/crates/${id}/trial`);
  await page.getByRole('heading', { name: 'Walk through yard' }).waitFor({ timeout: 60_000 });
  await page.keyboard.press('Shift');
  await expect(page.getByText('pick up box')).toBeVisible();
  await page.keyboard.press('q');
  await expect(page.getByText('set down box')).toBeVisible();
  await page.keyboard.down('ArrowUp');
  await expect.poll(async () => (await feet(page))[0], { timeout: 30_000, intervals: [50] }).toBeGreaterThan(0);
  await page.keyboard.up('ArrowUp');
  await page.keyboard.press('q');
  await expect(page.getByRole('log')).toContainText('plate.entered → gate.raise', { timeout: 20_000 });

  // Saved as a walk, it is the same to the bit in another engine.
  await page.getByRole('tab', { name: 'Walks' }).click();
  await page.getByLabel('Save this run so far').fill('carried');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('Saved as carried.')).toBeVisible();
  const file = async (path: string) => new Uint8Array(await (await fetch(`${application.url}/api/crates/${id}/${path}`)).arrayBuffer());
  const text = async (path: string) => new TextDecoder().decode(await file(path));
  const walk = readWalk(await text('files/walks/yard/carried.walk.json'), 'carried', 'yard');
  const [game] = (await application.json<{ profile: Profile }[]>('/api/games')).filter(({ profile }) => profile.id === 'brinewick');
  const played = await playWalksApart(
    {
      profile: game.profile,
      map: JSON.parse(await text(`builds/${built}/files/maps/yard/map.json`)) as RuntimeMap,
      collision: decodeCollision(await file(`builds/${built}/files/maps/yard/collision.bin`)),
      scripts: { 'scripts/main.lua': await text('files/scripts/main.lua') },
    },
    { carried: walk },
  );
  expect(played).toMatchObject({ reports: [{ name: 'carried', difference: null, ok: true, exact: true }] });

  // What the run has moved can be kept in the map, in one edit.
  await page.getByRole('tab', { name: 'Changes' }).click();
  await expect(page.getByRole('list', { name: 'What differs from the map' })).toContainText('moved by');
  await page.getByRole('button', { name: 'Keep box' }).click();
  await expect.poll(async () => (await opened()).map.objects.box.position[0]).toBeGreaterThan(0);
  await expect(page.getByText('Nothing differs from the map.')).toBeVisible();
  await page.keyboard.press('Escape');

  // Somebody else moves things while it runs: here at once, and the walk says what no longer happens.
  await edit([
    { of: 'objects', id: 'box', to: object('prop', 'box', [-56, -80, 0], { model: 'models/crate.glb', solid: true, movable: true }) },
    { of: 'objects', id: 'plate', to: object('trigger', 'plate', [48, 80, 0], PLATE) },
  ]);
  await page.getByRole('tab', { name: 'Walks' }).click();
  await expect(async () => {
    await page.getByRole('button', { name: 'Play all' }).click();
    await expect(page.getByRole('list', { name: 'Walks' })).toContainText('“plate.entered → gate.raise” did not happen', { timeout: 10_000 });
  }).toPass({ timeout: 60_000 });
  await page.getByRole('button', { name: /^Findings/ }).click();
  await expect(page.getByText(/The walk carried no longer works/).first()).toBeVisible();
});
