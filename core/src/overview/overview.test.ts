/** The picture of a map: what lies where on it, that it is a picture, and that it is the same again. */

import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { describe, expect, it } from '@jest/globals';
import { Resvg } from '@resvg/resvg-js';
import { PNG } from 'pngjs';
import type { GameMap } from '../document/schema.ts';
import { newObject } from '../profile/newObject.ts';
import { block } from '../solid/primitives.ts';
import { buildOverview } from '../stages/overview/stage.ts';
import { shaped, terrain } from '../testing/terrains.ts';
import { testProfile, testWorld } from '../testing/world.ts';
import { drawOverview } from './drawing.ts';
import { overviewInputs, type OverviewInputs } from './inputs.ts';
import { letteringOf } from './lettering.ts';
import { isSymbol, SYMBOLS } from './symbols.ts';

const font = readFileSync(createRequire(import.meta.url).resolve('dejavu-fonts-ttf/ttf/DejaVuSans-Bold.ttf'));
const letters = letteringOf(font.buffer.slice(font.byteOffset, font.byteOffset + font.byteLength));
const png = (svg: string, width: number): Uint8Array =>
  Uint8Array.from(new Resvg(svg, { fitTo: { mode: 'width', value: width }, font: { loadSystemFonts: false } }).render().asPng());

const profile = testProfile('skarrow');
const zone = (name: string, x: number, y: number, label: string, icon = 'symbols/house') => {
  const object = newObject(profile, 'zone', name, [x, y, 0]);
  return { ...object, properties: { ...object.properties, label, icon } };
};

/** 200 by 100 units of snow with a block of brick, two labelled places and a road. */
function ridge(): GameMap {
  const { map } = shaped(terrain([201, 101]), (i) => i * 0.2);
  return {
    ...map,
    solids: { s1: block({ min: [20, 20, 0], max: [60, 40, 30] }, 'brick') },
    objects: { o1: zone('shed', 100, 50, 'The shed'), o2: zone('view', 150, 80, 'View', '') },
    paths: { w1: { name: 'lane', points: [[10, 90, 0], [190, 90, 0]], loop: false, road: 6 } }, // prettier-ignore
  };
}

function inputsOf(map: GameMap): OverviewInputs {
  const world = testWorld('blank', profile);
  world.crate.maps.hall = map;
  return overviewInputs(world, 'hall');
}

const drawn = (map: GameMap, side = 800) => drawOverview(inputsOf(map), side, letters, () => null)!;

describe('the picture of a map', () => {
  it('shows all of the ground, with the longer side as long as asked', () => {
    const { width, height, min, max } = drawn(ridge());
    expect([width, height, min, max]).toEqual([800, 400, [0, 0], [200, 100]]);
  });

  it('has places where they lie, +y upwards, and labels within the picture and off each other', () => {
    const { places, width, height } = drawn(ridge());
    expect(places.map(({ id, at }) => [id, at])).toEqual([
      ['o1', [400, 200]],
      ['o2', [600, 80]],
    ]);
    const [a, b] = places.map(({ label }) => label!);
    for (const [l, t, r, bottom] of [a, b]) {
      expect(Math.min(l, t)).toBeGreaterThanOrEqual(0);
      expect(r).toBeLessThanOrEqual(width);
      expect(bottom).toBeLessThanOrEqual(height);
    }
    expect(a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3]).toBe(false);
  });

  it('two places in one spot get labels that can both be read', () => {
    const map = ridge();
    const { places } = drawn({ ...map, objects: { ...map.objects, o2: zone('twin', 100, 50, 'The other shed') } });
    const [a, b] = places.map(({ label }) => label!);
    expect(a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3]).toBe(false);
  });

  it('puts a label where the user has put it', () => {
    const map = ridge();
    const moved = { ...map, objects: { ...map.objects, o1: { ...map.objects.o1, labelAt: [20, 10] as [number, number] } } };
    const [l, t, r, b] = drawn(moved).places[0].label!;
    expect([(l + r) / 2, (t + b) / 2]).toEqual([expect.closeTo(480, 6), expect.closeTo(160, 6)]);
  });

  it('is a picture in which the block has its colour, the road runs, and the ground is lighter where it looks to the light', () => {
    const map = ridge();
    const { svg } = drawn(map);
    const picture = PNG.sync.read(Buffer.from(png(svg, 800)));
    const pixel = (x: number, y: number) => [...picture.data.subarray((y * picture.width + x) * 4, (y * picture.width + x) * 4 + 3)];
    // The brick of the test pack, #a05040, at the block's middle (40, 30) and beside it the snow.
    expect(pixel(160, 280)).toEqual([0xa0, 0x50, 0x40]);
    expect(pixel(160, 330)).not.toEqual([0xa0, 0x50, 0x40]);
    expect(pixel(500, 40)).toEqual([0xc9, 0xb4, 0x8a]);
    // Ground that rises to the east looks to the west, whence the light comes; one that falls looks away.
    const falls = PNG.sync.read(Buffer.from(png(drawn({ ...shaped(terrain([201, 101]), (i) => -i * 0.2).map }).svg, 800)));
    const bright = (data: Buffer) => data[(300 * 800 + 400) * 4];
    expect(bright(picture.data)).toBeGreaterThan(bright(falls.data));
  });

  it('is nothing of an empty map', () => {
    const map = ridge();
    expect(drawOverview(inputsOf({ ...map, terrains: {}, tiles: {}, solids: {}, objects: {} }), 512, letters, () => null)).toBeNull();
  });

  it('keeps what is written in names out of the drawing’s own text', () => {
    const map = ridge();
    const { svg } = drawn({ ...map, objects: { o1: zone('shed', 100, 50, '</svg><script>"&') } });
    expect(svg).not.toContain('script');
    expect(svg.match(/<svg/g)).toHaveLength(1);
  });

  it('goes out in every size of the game, with where its places lie and the symbols that it uses', async () => {
    const files = await buildOverview(inputsOf(ridge()), { letters, png }, undefined, () => {});
    expect([...files.keys()].sort()).toEqual([
      'overview.json',
      'overview_1024.png',
      'overview_512.png',
      'symbol_house_32.png',
      'symbol_house_64.png',
    ]);
    const { width, height } = PNG.sync.read(Buffer.from(files.get('overview_512.png')!));
    expect([width, height]).toEqual([512, 256]);
    const told = JSON.parse(new TextDecoder().decode(files.get('overview.json'))) as { places: object[]; max: number[] };
    expect(told.max).toEqual([200, 100]);
    expect(told.places[0]).toEqual({ object: 'o1', label: 'The shed', icon: 'symbols/house', at: [0.5, 0.5] });
    const again = await buildOverview(inputsOf(ridge()), { letters, png }, undefined, () => {});
    for (const [name, bytes] of files) expect(Buffer.compare(Buffer.from(bytes), Buffer.from(again.get(name)!))).toBe(0);
  });
});

describe('symbols and letters', () => {
  it('symbols are drawn: each covers some of its square, and none all', () => {
    for (const symbol of SYMBOLS) {
      const map = ridge();
      expect(isSymbol(symbol)).toBe(true);
      expect(drawn({ ...map, objects: { o1: zone('one', 100, 50, '', symbol) } }).svg).toContain('<g transform');
    }
    expect(isSymbol('symbols/constructor')).toBe(false);
    expect(isSymbol('textures/house.ktx2')).toBe(false);
  });

  it('text is as wide as the font says, in every script that it has', () => {
    // DejaVu Sans Bold 2.37: 1,458 of 2,048 units for "n" (its hmtx table).
    expect(letters.width('n', 1000)).toBeCloseTo((1458 / 2048) * 1000, 6);
    expect(letters.width('nn', 10)).toBeCloseTo(2 * letters.width('n', 10), 6);
    expect(letters.outline('Ωж', 0, 0, 10).length).toBeGreaterThan(100);
    expect(letters.outline('', 0, 0, 10)).toBe('');
  });
});
