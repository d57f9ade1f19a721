/** Every finding of maps in the open: made by one change to a map that has none, and gone where its fix is taken. */

import { describe, expect, it } from '@jest/globals';
import { applyEdit } from '../document/edit.ts';
import type { GameMap, MapObject, Route } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { newObject } from '../profile/newObject.ts';
import { block } from '../solid/primitives.ts';
import { shaped, terrain } from '../testing/terrains.ts';
import { testProfile, testWorld } from '../testing/world.ts';
import { newCrateContents } from '../crate/template.ts';
import { checkCrate } from './checkCrate.ts';
import { checkGround } from './checkGround.ts';
import { checkRoutes } from './checkRoutes.ts';
import { checkZones } from './checkZones.ts';

const profile = testProfile('skarrow');
const world = testWorld('blank', profile);
const LEVEL = shaped(terrain([201, 201]), () => 10).map;
const at = (x: number, y: number, z = 10): [number, number, number] => [x, y, z];
const withObjects = (objects: Record<string, MapObject>, map = LEVEL): GameMap => ({ ...map, objects });
const made = (of: string, name: string, position: [number, number, number], properties: MapObject['properties'] = {}): MapObject => {
  const object = newObject(profile, of, name, position);
  return { ...object, properties: { ...object.properties, ...properties } };
};

const found = (map: GameMap): Finding[] => [checkGround, checkZones, checkRoutes].flatMap((check) => check(world, map, 'hall'));
const codes = (map: GameMap): string[] => found(map).map(({ code }) => code);

/** What a finding's own fix makes of a map. */
function mended(map: GameMap, code: string): GameMap {
  const fix = found(map).find((one) => one.code === code)?.fix;
  if (fix?.kind !== 'edit') throw new Error(`${code} has no fix`);
  return applyEdit(map, fix.edit);
}

describe('tiles', () => {
  const [id, tile] = Object.entries(LEVEL.tiles)[0];

  it('of a ground that is not there are removed by the fix', () => {
    const lost = { ...LEVEL, tiles: { ...LEVEL.tiles, e9_0_0: { ...tile, terrain: 'e9' } } };
    expect(codes(lost)).toEqual(['tile-lost']);
    expect(mended(lost, 'tile-lost').tiles).toEqual(LEVEL.tiles);
  });

  it('that cannot be read are blockers, say which, and can be made level', () => {
    const torn = { ...LEVEL, tiles: { ...LEVEL.tiles, [id]: { ...tile, heights: 'AAAA' } } };
    expect(found(torn)).toMatchObject([{ code: 'tile-damaged', severity: 'blocker', message: expect.stringContaining(id) }]);
    expect(codes(mended(torn, 'tile-damaged'))).toEqual([]);
  });
});

describe('things on the ground', () => {
  const cairn = (z: number) => withObjects({ o1: made('prop', 'cairn', at(100, 100, z)) });

  it('stand within a little', () => {
    expect(codes(cairn(10))).toEqual([]);
    expect(codes(cairn(10.2))).toEqual([]);
  });

  it('that keep their height are no findings', () => {
    const map = cairn(14);
    expect(codes({ ...map, objects: { o1: { ...map.objects.o1, contact: 'keep' } } })).toEqual([]);
  });

  it('that float or lie under it are put onto it', () => {
    expect(found(cairn(14))).toMatchObject([{ code: 'object-off-ground', message: 'cairn floats 4 metres above the ground.' }]);
    expect(codes(cairn(5))).toEqual(['object-buried']);
    for (const [z, code] of [
      [14, 'object-off-ground'],
      [5, 'object-buried'],
    ] as const)
      expect(mended(cairn(z), code).objects.o1.position).toEqual([100, 100, 10]);
  });

  it('stand on solids as well, and beyond the ground on whatever', () => {
    const tower = { ...cairn(14), solids: { s1: block({ min: [95, 95, 10], max: [105, 105, 14] }, 'rock') } };
    expect(codes(tower)).toEqual([]);
    expect(codes(withObjects({ o1: made('prop', 'cairn', at(-50, 0, 99)) }))).toEqual([]);
  });
});

describe('zones', () => {
  const photo = (change: Partial<MapObject> = {}, properties: MapObject['properties'] = {}): MapObject => ({
    ...made('zone', 'view', at(100, 100), { use: 'photo', icon: 'textures/icon_view.ktx2', ...properties }),
    ...change,
  });
  const pair = (properties: MapObject['properties'], more: Partial<MapObject> = {}): Record<string, MapObject> => ({
    o1: made('zone', 'way_in', at(60, 60), { use: 'entrance', icon: 'textures/i.ktx2', partner: 'o2' }),
    o2: { ...made('zone', 'way_out', at(120, 120), { use: 'exit', icon: 'textures/i.ktx2', partner: 'o1', ...properties }), ...more },
  });

  it('in order have no findings', () => {
    expect(codes(withObjects({ o1: photo(), ...pair({}) }))).toEqual([]);
  });

  it('in the air or under the ground meet nobody, until they are put on it', () => {
    const hung = withObjects({ o1: photo({ position: at(100, 100, 30) }) });
    expect(codes(hung)).toEqual(['zone-in-air']);
    expect(codes(mended(hung, 'zone-in-air'))).toEqual([]);
    const sunk = withObjects({ o1: photo({ position: at(100, 100, -20) }) });
    expect(codes(sunk)).toEqual(['zone-buried']);
    expect(codes(mended(sunk, 'zone-buried'))).toEqual([]);
  });

  it('need a use, and a picture where the use is on the map', () => {
    expect(found(withObjects({ o1: photo({}, { use: 'tea' }) }))).toMatchObject([
      { code: 'zone-no-use', hint: 'Uses: Entrance, Exit, Respawn, Photo spot, Boundary.' },
    ]);
    expect(codes(withObjects({ o1: photo({}, { icon: '' }) }))).toEqual(['zone-no-icon']);
    expect(codes(withObjects({ o1: photo({}, { use: 'respawn', icon: '' }) }))).toEqual([]);
  });

  it('of a pair name each other, and one is what the other wants', () => {
    expect(codes(withObjects(pair({ partner: '' })))).toEqual(['zone-alone']);
    expect(codes(withObjects(pair({ use: 'photo' })))).toEqual(['zone-wrong-partner']);
  });

  it('with one id twice are a blocker that names both', () => {
    const twice = withObjects({ o1: photo({}, { code: 'a' }), o2: photo({ name: 'other', position: at(40, 40) }, { code: 'a' }) });
    expect(found(twice)).toMatchObject([{ code: 'zone-twice', severity: 'blocker', message: 'view and other both have the id a.' }]);
  });

  it('do not lead out into walls, off the ground, or up what is too steep; turned about they do', () => {
    const wall = { s1: block({ min: [124, 110, 10], max: [125, 130, 16] }, 'rock') };
    const walled = (turn: number) => ({ ...withObjects(pair({}, { turn })), solids: wall });
    expect(found(walled(0))).toMatchObject([{ code: 'zone-faces-wall', message: expect.stringContaining('into a wall') }]);
    expect(codes(walled(180))).toEqual([]);
    const edge = withObjects(pair({}, { position: at(196.5, 120) }));
    expect(found(edge)).toMatchObject([{ code: 'zone-faces-wall', message: expect.stringContaining('off the ground') }]);
    const cliff = shaped(terrain([201, 201]), (i) => (i < 124 ? 10 : 10 + (i - 124) * 3)).map;
    expect(found(withObjects(pair({}), cliff))).toMatchObject([{ code: 'zone-faces-wall', message: expect.stringContaining('too steep') }]);
  });
});

describe('routes', () => {
  const route = (change: Partial<Route> = {}): Route => ({
    name: 'Race',
    start: 'o1',
    stops: ['o2', 'o3'],
    finish: 'o4',
    laps: 1,
    width: 6,
    points: [at(20, 100), at(100, 100), at(180, 100)],
    branches: [],
    ...change,
  });
  const stops = (more: Record<string, MapObject> = {}): Record<string, MapObject> => ({
    o1: made('start_gate', 'start', at(20, 100)),
    o2: made('checkpoint', 'first', at(70, 100)),
    o3: made('checkpoint', 'second', at(130, 100)),
    o4: made('finish', 'line', at(180, 100)),
    ...more,
  });
  const race = (change: Partial<Route> = {}, more: Record<string, MapObject> = {}, map = LEVEL): GameMap => ({
    ...withObjects(stops(more), map),
    routes: { r1: route(change) },
  });

  it('in order have no findings', () => {
    expect(codes(race())).toEqual([]);
  });

  it('lead to stops that are there', () => {
    expect(found(race({ stops: ['o2', 'o9'] }))).toMatchObject([
      { code: 'route-stop-missing', severity: 'blocker', message: 'The route Race leads to o9, which is not there.' },
    ]);
  });

  it('pass through their stops, which the fix puts onto the ribbon', () => {
    const beside = race({}, { o2: made('checkpoint', 'first', at(70, 140)) });
    expect(codes(beside)).toEqual(['route-misses']);
    const after = mended(beside, 'route-misses');
    expect(codes(after)).toEqual([]);
    expect(after.objects.o2.position[0]).toBeCloseTo(70, 0);
  });

  it('have their stops in the order of the ribbon', () => {
    expect(found(race({ stops: ['o3', 'o2'] }))).toMatchObject([{ code: 'route-order', place: { object: 'o2' } }]);
  });

  it('have branches that leave before they join, past something of their own', () => {
    const gate = { o9: made('checkpoint', 'side', at(60, 140)) };
    const branch = { name: 'Side', after: 0, until: 2, stops: ['o9'], points: [at(20, 100), at(60, 140), at(180, 100)] };
    const said = (change: Partial<Route['branches'][number]>) =>
      found(race({ branches: [{ ...branch, ...change }] }, { ...stops(), ...gate })).filter(({ code }) => code === 'route-branch');
    expect(said({})).toEqual([]);
    expect(said({ until: 0 })).toMatchObject([{ message: expect.stringContaining('joins at stop 0') }]);
    expect(said({ stops: [] })).toMatchObject([{ message: expect.stringContaining('no checkpoint of its own') }]);
    expect(said({ stops: ['o77'] })).toMatchObject([{ message: expect.stringContaining('not there') }]);
    const broken = race({ branches: [{ ...branch, stops: [] }] }, { ...stops(), ...gate });
    expect(mended(broken, 'route-branch').routes.r1.branches).toEqual([]);
  });

  it('are no steeper than a vehicle climbs: 16° here', () => {
    const slope = (degrees: number) => {
      const rise = Math.tan((degrees * Math.PI) / 180);
      const hill = shaped(terrain([201, 201]), (i) => i * rise).map;
      const lifted = Object.fromEntries(
        Object.entries(stops()).map(([id, o]) => [id, { ...o, position: at(o.position[0], o.position[1], o.position[0] * rise) }]),
      );
      return codes(race({ points: route().points.map(([x, y]) => at(x, y, x * rise)) }, lifted, hill)).filter((code) => code.startsWith('route'));
    };
    expect(slope(14)).toEqual([]);
    expect(slope(18)).toEqual(['route-steep']);
  });

  it('jump to where there is ground, and no harder than vehicles stand', () => {
    const sled = { o5: made('sled', 'sled', at(20, 100)) };
    // Down a long slope, over a lip, and deep: level ground far below is hard, a slope that falls with the flight is not.
    const over = (below: (beyond: number) => number) =>
      shaped(terrain([201, 201]), (i) => (i <= 80 ? 60 + Math.max(0, i - 60) * 0.2 : Math.max(0, below(i - 80)))).map;
    const jumps = (map: GameMap) => codes(race({}, sled, map)).filter((code) => code.startsWith('jump'));
    expect(jumps(over(() => 20))).toEqual(['jump-hard']);
    // What a vehicle of a prefab does not say is what its class says.
    expect(
      codes(
        race(
          {},
          { o5: { ...sled.o5, properties: {} } },
          over(() => 20),
        ),
      ),
    ).toContain('jump-hard');
    expect(jumps(over((beyond) => 64 - beyond * 0.25))).toEqual([]);
    const short = shaped(terrain([96, 201]), (i) => (i <= 80 ? 60 + Math.max(0, i - 60) * 0.2 : -90)).map;
    expect(jumps(short)).toEqual(['jump-nowhere']);
  });
});

describe('roads', () => {
  const hill = shaped(terrain([201, 201]), (i) => Math.max(0, i - 100) * 0.9).map;
  const way = (points: [number, number, number][], map = LEVEL): GameMap => ({
    ...map,
    paths: { w1: { name: 'lane', points, loop: false, road: 6 } },
  });

  it('that lie on level ground are none', () => {
    expect(codes(way([at(20, 50), at(180, 50)]))).toEqual([]);
    expect(
      codes({ ...way([at(20, 50, 40), at(180, 50)]), paths: { w1: { name: 'lane', points: [at(20, 50, 40), at(180, 50)], loop: false } } }),
    ).toEqual([]);
  });

  it('that are too steep say by how much', () => {
    // 0.9 in 1 is 42°.
    expect(found(way([at(20, 50, 0), at(180, 50, 72)], hill))).toMatchObject([{ code: 'road-steep', message: expect.stringContaining('42°') }]);
  });

  it('in the air are laid on the ground by the fix', () => {
    const map = way([at(20, 50), at(100, 50, 16), at(180, 50)]);
    expect(found(map)).toMatchObject([{ code: 'road-off-ground', message: 'The road lane is 6 metres above the ground at its point 1.' }]);
    expect(mended(map, 'road-off-ground').paths.w1.points[1]).toEqual([100, 50, 10]);
  });
});

describe('placed prefabs', () => {
  const crate = newCrateContents(profile, { name: 'hall', title: 'Hall', template: 'ridge-race' });
  const lifted = (contact?: 'keep'): GameMap => {
    const { hall } = crate.maps;
    const [x, y, z] = hall.copies.c2.position;
    return { ...hall, copies: { ...hall.copies, c2: { ...hall.copies.c2, position: [x, y, z + 6], ...(contact ? { contact } : {}) } } };
  };
  const contactOf = (map: GameMap) =>
    checkCrate({ ...world, crate: { ...crate, maps: { hall: map } } }).findings.filter(({ code }) => /air|off-ground/.test(code));

  it('that float are moved as a whole by the fix of any of their members', () => {
    const map = lifted();
    const [first] = contactOf(map);
    expect(first).toMatchObject({ place: { copy: 'c2' }, fix: { edit: { changes: [{ of: 'copies', id: 'c2' }] } } });
    const done = applyEdit(map, (first.fix as Extract<Finding['fix'], { kind: 'edit' }>).edit);
    expect(Math.abs(done.copies.c2.position[2] - crate.maps.hall.copies.c2.position[2])).toBeLessThan(0.5);
    expect(contactOf(done)).toEqual([]);
  });

  it('that keep their height are no findings', () => {
    expect(contactOf(lifted('keep'))).toEqual([]);
  });
});
