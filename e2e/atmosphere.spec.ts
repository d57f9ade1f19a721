/** Moods that signals change, and sound beds that come through a door and not through a wall. */

import { expect, test, type Page } from '@playwright/test';
import { fileURLToPath } from 'node:url';
import { build, type Rollup } from 'vite';
import { Hearing, type HeardArea } from '@violet-crate/core/bed/hear';
import type { Bed, GameMap, MapObject } from '@violet-crate/core/document/schema';
import type { MapEdit } from '@violet-crate/core/document/edit';
import { soundWorld } from '@violet-crate/core/map/sound';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Profile } from '@violet-crate/core/profile/schema';
import { block } from '@violet-crate/core/solid/primitives';
import { soundCells, type SoundFile } from '@violet-crate/core/stages/pack/soundFile';
import { Application } from './application.ts';
import { newCrate } from './newCrate.ts';
import { saved } from './sheet.ts';

let application: Application;
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

const send = <T>(path: string, body: unknown): Promise<T> =>
  application.json<T>(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
const idOf = (page: Page) => /crates\/([^/]+)/.exec(page.url())![1];
const opened = (id: string, map: string) => application.json<{ map: GameMap; revision: number }>(`/api/crates/${id}/maps/${map}`);
const edit = async (id: string, map: string, changes: MapEdit['changes']) =>
  send(`/api/crates/${id}/maps/${map}/edits`, { base: (await opened(id, map)).revision, edits: [{ name: 'test', changes }] });
const object = (of: string, name: string, position: Vec3, properties: MapObject['properties']): MapObject => ({
  class: of,
  name,
  position,
  turn: 0,
  properties,
});

async function built(id: string, map: string): Promise<string> {
  const job = await send<{ id: string }>(`/api/crates/${id}/builds`, { map, quality: 'draft' });
  await expect.poll(async () => (await application.json<{ state: string }>(`/api/jobs/${job.id}`)).state, { timeout: 120_000 }).toBe('done');
  return (await application.json<{ id: string }[]>(`/api/crates/${id}/builds`))[0].id;
}

test('moods are made, looked at without a build, and changed by a signal in the test run', async ({ page }) => {
  await newCrate(page, application.url, 'Weathered', 'Sealed room');
  const id = idOf(page);
  const moods = page.getByRole('region', { name: 'Moods' });
  await moods.getByRole('button', { name: 'Add' }).click();
  await moods.getByRole('button', { name: 'Add' }).click();
  await moods.getByLabel('Name').fill('Downpour');
  await page.keyboard.press('Enter');
  await moods.getByLabel('Falls').selectOption('rain');
  await moods.getByLabel('Hour of Downpour').fill('22');
  await expect(moods).toContainText('below the horizon');
  const show = moods.getByRole('button', { name: 'Show Downpour in the perspective' });
  await show.click();
  await expect(show).toHaveAttribute('aria-pressed', 'true');
  await saved(page);
  const { map } = await opened(id, 'weathered');
  expect(map.settings.moods!.map(({ name, falling }) => [name, falling])).toEqual([
    ['Mood 1', 'none'],
    ['Downpour', 'rain'],
  ]);

  await edit(id, 'weathered', [
    { of: 'objects', id: 'w', to: object('weather', 'front', [40, 0, 40], { mood: 'Downpour', seconds: 1 }) },
    { of: 'objects', id: 'clock', to: object('timer', 'clock', [40, 40, 40], { seconds: 4, repeat: false, running: true }) },
    { of: 'signals', id: 'sg', to: { from: 'clock', event: 'elapsed', to: { object: 'w', action: 'change' }, delay: 0 } },
  ]);
  await built(id, 'weathered');
  await page.goto(`${application.url}/crates/${id}/trial`);
  await page.getByRole('heading', { name: 'Walk through weathered' }).waitFor({ timeout: 60_000 });
  await page.keyboard.press('Shift');
  const mood = () => page.getByTestId('trial-hud').getAttribute('data-mood');
  expect(await mood()).toBe('Mood 1');
  await expect.poll(mood, { timeout: 30_000 }).toBe('Downpour');
});

/** Two rooms, a wall of 16 between, with a doorway where `door` is set. */
function rooms(door: boolean): MapEdit['changes'] {
  const boxes: [Vec3, Vec3][] = [
    [
      [-272, -144, -16],
      [288, 144, 0],
    ],
    [
      [-272, -144, 112],
      [288, 144, 128],
    ],
    [
      [-272, -144, 0],
      [-256, 144, 112],
    ],
    [
      [272, -144, 0],
      [288, 144, 112],
    ],
    [
      [-256, -144, 0],
      [272, -128, 112],
    ],
    [
      [-256, 128, 0],
      [272, 144, 112],
    ],
    [
      [0, -128, 0],
      [16, door ? -32 : 128, 112],
    ],
    ...(door
      ? ([
          [
            [0, 32, 0],
            [16, 128, 112],
          ],
          [
            [0, -32, 80],
            [16, 32, 112],
          ],
        ] as [Vec3, Vec3][])
      : []),
  ];
  return boxes.map(([min, max], i) => ({ of: 'solids', id: `s${i + 100}`, to: block({ min, max }, 'brick') }));
}

const BED: Bed = { name: 'Engine', fade: 0, loops: [{ sound: 'sounds/engine_drone.wav', volume: 0.5, when: 'always', weather: 'any' }], shots: [] };

/** A map of two rooms with an engine in the western one, built; what is heard there at two ears. */
async function engineRoom(name: string, door: boolean): Promise<{ id: string; heard(ear: Vec3): HeardArea[] }> {
  const { id } = await send<{ id: string }>('/api/crates', { profile: 'brinewick', name, title: name, template: 'sealed-room' });
  const { map } = await opened(id, name);
  const [start] = Object.entries(map.objects).find(([, one]) => one.class === 'start')!;
  await edit(id, name, [
    ...Object.keys(map.solids).map((solid) => ({ of: 'solids' as const, id: solid, to: null })),
    ...rooms(door),
    { of: 'objects', id: start, to: { ...map.objects[start], position: [140, 0, 2], turn: 180 } },
    // Light keeps the western room reached where nothing leads into it.
    { of: 'objects', id: 'lamp', to: object('lamp', 'lamp', [-140, 0, 60], { colour: '#ffffff', intensity: 10, reach: 300, radius: 0, lit: true }) },
    {
      of: 'objects',
      id: 'area',
      to: object('sound_area', 'engine', [-192, 0, 0], { bed: 'Engine', size: [96, 200, 100], near: 64, priority: 0, reverb: 0 }),
    },
    { of: 'settings', to: { ...map.settings, beds: [BED] } },
  ]);
  const build1 = await built(id, name);
  const file = await application.json<SoundFile>(`/api/crates/${id}/builds/${build1}/files/maps/${name}/sound.json`);
  const { map: now } = await opened(id, name);
  const [{ profile }] = (await application.json<{ profile: Profile }[]>('/api/games')).filter(({ profile: one }) => one.id === 'brinewick');
  const crate = { manifest: { materials: [], assets: {} } } as never;
  const base = { materials: [{ name: 'brick', type: 'lit', colour: '#ffffff', unitsPerRepeat: 64, surface: 'stone' }], assets: {} } as never;
  const hearing = new Hearing(soundWorld({ profile, crate, base }, now, soundCells(file)));
  return { id, heard: (ear) => hearing.at(ear) };
}

test('a bed is heard through a door and not through a wall, measured on an offline audio context', async ({ page }) => {
  const entry = fileURLToPath(new URL('../web/src/sound/bedAudio.ts', import.meta.url));
  const made = await build({
    configFile: false,
    logLevel: 'error',
    resolve: { conditions: ['source'] },
    build: { write: false, minify: false, lib: { entry, formats: ['iife'], name: 'beds' } },
  });
  const [{ output }] = [made].flat() as Rollup.RollupOutput[];
  const open = await engineRoom('engine_door', true);
  const shut = await engineRoom('engine_wall', false);
  const within: Vec3 = [-192, 0, 50];
  const beyond: Vec3 = [140, 0, 50];
  await page.goto('about:blank');
  await page.addScriptTag({ content: output[0].code });
  /** Decibels of a tone of full scale in the bed, as it comes to the ears within two seconds. */
  const measured = (heard: HeardArea[]) =>
    page.evaluate(
      async ([areas, bed]) => {
        const { BedAudio } = (window as never as { beds: { BedAudio: new (...given: unknown[]) => { update(moment: unknown): void } } }).beds;
        const context = new OfflineAudioContext(2, 44_100 * 2, 44_100);
        const tone = context.createBuffer(1, 44_100, 44_100);
        // Two tones: what a wall takes of the higher one is measured too.
        tone
          .getChannelData(0)
          .forEach((_, i, data) => (data[i] = 0.5 * Math.sin((2 * Math.PI * 220 * i) / 44_100) + 0.5 * Math.sin((2 * Math.PI * 2000 * i) / 44_100)));
        const audio = new BedAudio(context, () => Promise.resolve(tone), 1 / 32);
        const moment = { heard: areas, beds: [bed], time: 0, mood: null, place: undefined, reverb: 0, right: [1, 0, 0], ear: [0, 0, 0] };
        audio.update(moment);
        await new Promise((done) => setTimeout(done, 50));
        audio.update(moment);
        const buffer = await context.startRendering();
        let power = 0;
        for (let channel = 0; channel < 2; channel++) for (const value of buffer.getChannelData(channel).subarray(44_100)) power += value * value;
        return 10 * Math.log10(power / 88_200 + 1e-12);
      },
      [heard, BED] as const,
    );
  const inside = await measured(open.heard(within));
  const throughDoor = await measured(open.heard(beyond));
  const throughWall = await measured(shut.heard(beyond));
  // Half of full scale, two tones of half an amplitude each: −12 dB a channel, give or take the panning.
  expect(Math.abs(inside + 12)).toBeLessThan(4);
  expect(inside - throughDoor).toBeGreaterThan(6);
  expect(inside - throughDoor).toBeLessThan(25);
  expect(throughDoor - throughWall).toBeGreaterThan(30);

  // The test run hears the same area where the player stands, and the map's inspector says how its room sounds on.
  await page.goto(`${application.url}/crates/${open.id}/trial`);
  await page.getByRole('heading', { name: 'Walk through engine_door' }).waitFor({ timeout: 60_000 });
  await expect.poll(() => page.getByTestId('trial-hud').getAttribute('data-heard'), { timeout: 20_000 }).toMatch(/^engine -\d+ dB$/);
  await page.goto(`${application.url}/crates/${open.id}/map`);
  await page.getByRole('region', { name: 'Sound beds' }).getByRole('button', { name: 'Loudness plan' }).click();
  await expect(page.getByRole('img', { name: /^Loudness of the sound beds; at most -\d/ })).toBeVisible({ timeout: 60_000 });
});
