/** The map of *Snowgate Ridge*: land, course, gates, a shed with its zones, a wood, light and weather. */

import { applyEdit, type Change } from '@violet-crate/core/document/edit';
import { TILE, type Copy, type GameMap, type MapObject, type Mood, type PropertyValue, type Terrain } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { emptyMap } from '@violet-crate/core/profile/emptyMap';
import { newObject } from '@violet-crate/core/profile/newObject';
import type { Profile } from '@violet-crate/core/profile/schema';
import { groundOf, type Ground } from '@violet-crate/core/terrain/ground';
import { replaceHeights, reshape, road } from '@violet-crate/core/terrain/reshape';
import { erodeGrid } from '@violet-crate/core/terrain/erode';
import { tileId, withWeights } from '@violet-crate/core/terrain/tile';
import { workOnGround } from '@violet-crate/core/terrain/work/groundWork';
import { JUMPS, landAt, LINE, ORIGIN, SAMPLES, SMOOTH, SPACING, TARN } from './land.ts';

const ID = 'e1';

const TERRAIN: Terrain = {
  name: 'ridge',
  origin: ORIGIN,
  spacing: SPACING,
  samples: SAMPLES,
  range: [-60, 460],
  depth: 'u16',
  base: 0,
  surfaces: [
    { id: 'snow', label: 'Snow', material: 'snow' },
    { id: 'rock', label: 'Rock', material: 'rock' },
    { id: 'ice', label: 'Ice', material: 'ice' },
    { id: 'turf', label: 'Turf', material: 'turf' },
  ],
  things: [
    { id: 'tall', label: 'Tall pine', model: 'models/pine_tall.glb', size: [0.75, 1.3], sink: 0.2, lean: 0, radius: 0.3, tall: 7 },
    { id: 'small', label: 'Small pine', model: 'models/pine_small.glb', size: [0.7, 1.4], sink: 0.15, lean: 0, radius: 0.2, tall: 3.5 },
    { id: 'boulder', label: 'Boulder', model: 'models/boulder.glb', size: [0.5, 1.7], sink: 0.2, lean: 0.6, radius: 1.1, tall: 1.1 },
    { id: 'cairn', label: 'Cairn', model: 'models/cairn.glb', size: [0.8, 1.2], sink: 0.1, lean: 0.2, radius: 0.6, tall: 1.3 },
  ],
  paint: {
    p1: { name: 'Bare slopes', seed: 1, surface: 'rock', soft: 7, slope: [36, 90] },
    p2: { name: 'Turf blown free', seed: 2, surface: 'turf', soft: 3, slope: [9, 26], height: [55, 170], noise: { size: 70, share: 0.28 } },
  },
  scatter: {
    g1: {
      name: 'The wood',
      seed: 11,
      thing: 'tall',
      apart: 5,
      share: 0.85,
      slope: [0, 32],
      height: [14, 74],
      noise: { size: 170, share: 0.42 },
      surfaces: ['snow', 'turf'],
      clear: 13,
    },
    g2: {
      name: 'Young pines',
      seed: 12,
      thing: 'small',
      apart: 8,
      share: 0.55,
      slope: [0, 34],
      height: [10, 105],
      noise: { size: 120, share: 0.5 },
      surfaces: ['snow', 'turf'],
      clear: 11,
    },
    g3: { name: 'Scree', seed: 13, thing: 'boulder', apart: 15, share: 0.6, slope: [14, 44], noise: { size: 90, share: 0.35 }, clear: 12 },
  },
};

const lengths = SMOOTH.reduce<number[]>(
  (out, p, n) => [...out, n === 0 ? 0 : out[n - 1] + Math.hypot(p[0] - SMOOTH[n - 1][0], p[1] - SMOOTH[n - 1][1])],
  [],
);

/** Length of the course in metres. */
export const COURSE = lengths[lengths.length - 1];

/** A place on the course by its metre, with where it leads, degrees. */
function at(along: number): { x: number; y: number; turn: number } {
  const n = Math.max(
    1,
    lengths.findIndex((l) => l >= along),
  );
  const [a, b] = [SMOOTH[n - 1], SMOOTH[n]];
  const t = (along - lengths[n - 1]) / (lengths[n] - lengths[n - 1]);
  return { x: a[0] + (b[0] - a[0]) * t, y: a[1] + (b[1] - a[1]) * t, turn: (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI };
}

/** How far along the course a point is, and how far beside it. */
function beside(x: number, y: number): { along: number; off: number } {
  let best = { along: 0, off: Infinity };
  for (let n = 1; n < SMOOTH.length; n++) {
    const [a, b] = [SMOOTH[n - 1], SMOOTH[n]];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const t = Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / (dx * dx + dy * dy)));
    const off = Math.hypot(a[0] + dx * t - x, a[1] + dy * t - y);
    if (off < best.off) best = { along: lengths[n - 1] + t * (lengths[n] - lengths[n - 1]), off };
  }
  return best;
}

/** Where checkpoints stand, in metres of the course. */
const GATES = [250, 560, 870, 1090, 1310, 1590, 1980, 2210];

/** The shed stands over the course between two checkpoints. */
const SHED = 1790;

/** What the moods of the ridge have in common, and what its morning is like. */
const MOOD: Mood = {
  name: '',
  hour: 10,
  skyColour: '#5f8fd0',
  horizonColour: '#d6e3f0',
  skyIntensity: 0.9,
  clouds: 0.35,
  sunIntensity: 3.4,
  moonIntensity: 0.05,
  fogColour: '#cfdcec',
  fog: 1600,
  fogHeight: 0,
  windFrom: 160,
  wind: 11,
  gusts: 0.25,
  falling: 'snow',
  heavy: 0.4,
  exposure: 1,
};

export function snowgateMap(profile: Profile): GameMap {
  let map: GameMap = { ...emptyMap(profile), terrains: { [ID]: TERRAIN } };
  map.settings = {
    ...map.settings,
    skyMaterial: 'ridge_sky',
    skyIntensity: 0.9,
    weather: { windFrom: 160, wind: 11, gusts: 0.25, fogColour: '#cfdcec', fog: 1600, falling: 'snow' },
    // The race begins in the morning; on the crest it closes in, and at night it is run by moonlight.
    place: { latitude: 61, day: '2024-03-24' },
    moods: [
      { ...MOOD, name: 'Bright morning' },
      {
        ...MOOD,
        name: 'Whiteout',
        hour: 14,
        clouds: 1,
        skyColour: '#b9c4d2',
        horizonColour: '#e2e8f0',
        fog: 160,
        fogHeight: 0,
        gusts: 0.35,
        heavy: 1,
        exposure: 0.9,
      },
      {
        ...MOOD,
        name: 'Blue night',
        hour: 23,
        clouds: 0.15,
        skyColour: '#3a5488',
        horizonColour: '#7c8fb4',
        fog: 900,
        fogHeight: 60,
        moonIntensity: 0.5,
        heavy: 0.2,
        exposure: 3.2,
      },
    ],
    trial: [],
  };
  map.bands = { b1: { name: 'Course', bottom: 0, top: 4 } };
  const change = (changes: Change[]) => (map = changes.length > 0 ? applyEdit(map, { name: 'demo', changes }) : map);
  const ground = (): Ground => groundOf(map, ID)!;

  // The land, a little weathered.
  const [nx, ny] = SAMPLES;
  const heights = Float64Array.from({ length: nx * ny }, (_, k) => landAt(ORIGIN[0] + (k % nx) * SPACING, ORIGIN[1] + Math.floor(k / nx) * SPACING));
  erodeGrid({ nx, ny, heights }, SPACING, { kind: 'hydraulic', steps: 24, strength: 0.8, rest: 40 });
  erodeGrid({ nx, ny, heights }, SPACING, { kind: 'thermal', steps: 10, strength: 0.6, rest: 42 });
  change(replaceHeights(ground(), heights));

  // The course, and kickers across it.
  change(road(ground(), SMOOTH, { width: 15, shoulder: 26, camber: -0.012, balance: false }).changes);
  for (const jump of JUMPS)
    change(
      reshape(ground(), { i0: 0, j0: 0, i1: nx - 1, j1: ny - 1 }, (i, j, now) => {
        const [x, y] = ground().pointOf(i, j);
        const middle = at(jump.along);
        if (Math.hypot(x - middle.x, y - middle.y) > 40) return null;
        const { along, off } = beside(x, y);
        const t = (along - jump.along + jump.length) / jump.length;
        if (t < 0 || t > 1.14 || off > 8) return null;
        const side = off < 5 ? 1 : 1 - (off - 5) / 3;
        // Curved up to its lip, then off.
        return now + (t <= 1 ? jump.height * t * t : 0) * side;
      }).changes,
    );

  // The tarn: level ice, painted by hand.
  change(
    reshape(ground(), { i0: 0, j0: 0, i1: nx - 1, j1: ny - 1 }, (i, j, now) => {
      const [x, y] = ground().pointOf(i, j);
      const r = Math.hypot((x - TARN.x) / TARN.rx, (y - TARN.y) / TARN.ry);
      if (r > 1.35) return null;
      const share = r < 1 ? 1 : 1 - (r - 1) / 0.35;
      return now + (TARN.level - now) * share * share * (3 - 2 * share);
    }).changes,
  );
  change(iceOnTarn(map));

  const objects: Record<string, MapObject> = {};
  const copies: Record<string, Copy> = {};
  const place = (id: string, classId: string, name: string, position: Vec3, turn: number, properties: Record<string, PropertyValue> = {}) => {
    const object = newObject(profile, classId, name, position);
    objects[id] = { ...object, turn, properties: { ...object.properties, ...properties } };
  };
  const on = (x: number, y: number): number => ground().heightAt(x, y) ?? 0;
  const copy = (id: string, prefab: string, name: string, along: number, values: Copy['values'] = {}) => {
    const { x, y, turn } = at(along);
    copies[id] = { prefab, name, position: [x, y, on(x, y)], turn, values };
  };
  copy('c1', 'start_line', 'start', 14);
  GATES.forEach((along, n) => copy(`c${n + 2}`, 'checkpoint_gate', `gate_${n + 1}`, along, { ordinal: n }));
  copy('c20', 'finish_line', 'finish', COURSE - 24, { text: 'Over the line. The tarn is yours.' });

  const shed = at(SHED);
  place('o1', 'prop', 'shed', [shed.x, shed.y, on(shed.x, shed.y) - 0.1], shed.turn, { model: 'models/shed.glb', solid: false });
  const zoneAt = (along: number, off = 0): [Vec3, number] => {
    const { x, y, turn } = at(along);
    const a = ((turn + 90) * Math.PI) / 180;
    const [px, py] = [x + Math.cos(a) * off, y + Math.sin(a) * off];
    return [[px, py, on(px, py)], turn];
  };
  const zone = (id: string, name: string, [position, turn]: [Vec3, number], properties: Record<string, PropertyValue>) =>
    place(id, 'zone', name, position, turn, properties);
  zone('o2', 'shed_in', zoneAt(SHED - 9), {
    use: 'entrance',
    code: 'shed.in',
    label: 'Ridge shed',
    icon: 'textures/icon_shed.ktx2',
    partner: 'o3',
    size: [4, 7, 4],
  });
  zone('o3', 'shed_out', zoneAt(SHED + 9), {
    use: 'exit',
    code: 'shed.out',
    label: 'Ridge shed',
    icon: 'textures/icon_shed.ktx2',
    partner: 'o2',
    size: [4, 7, 4],
  });
  zone('o4', 'tarn_view', zoneAt(1180, 24), { use: 'photo', code: 'tarn.view', label: 'The tarn', icon: 'textures/icon_view.ktx2', size: [6, 6, 4] });
  zone('o5', 'crest_view', zoneAt(360, 10), {
    use: 'photo',
    code: 'crest.view',
    label: 'The crest',
    icon: 'textures/icon_view.ktx2',
    size: [6, 6, 4],
  });
  zone('o6', 'ravine', [[-330, 60, 40], 0], { use: 'boundary', code: 'ravine', label: '', size: [120, 150, 60] });
  zone('o7', 'crest_respawn', zoneAt(640), { use: 'respawn', code: 'crest.respawn', size: [6, 6, 4] });

  place('o8', 'sun', 'sun', [-420, -420, 220], 215, { colour: '#ffe8c8', intensity: 2.7, height: 32, size: 1 });
  place('o9', 'sound', 'horn', [at(8).x, at(8).y, on(at(8).x, at(8).y) + 2], 0, { sound: 'sounds/horn.ogg' });
  const lamps: [number, number][] = [
    [SHED - 6, 3],
    [SHED + 6, -3],
  ];
  lamps.forEach(([along, off], n) => {
    const [p] = zoneAt(along, off);
    place(`o${10 + n}`, 'beacon', `shed_lamp_${n + 1}`, [p[0], p[1], p[2] + 2.7], 0, { intensity: 60, reach: 14, colour: '#ffd28a' });
  });
  let next = 20;
  // Poles on both sides of the way, fences on the outside of bends, cairns on the crest, banners at the ends.
  for (let along = 50; along < COURSE - 60; along += 46) {
    for (const off of [-9.2, 9.2]) {
      const [p, turn] = zoneAt(along, off);
      place(`o${next}`, 'prop', `pole_${next}`, p, turn + (off > 0 ? 180 : 0), { model: 'models/pole.glb', solid: false });
      next++;
    }
  }
  for (const [along, off] of [
    [1030, 9.6],
    [1039, 9.6],
    [1048, 9.6],
    [1610, 9.6],
    [1619, 9.6],
    [1628, 9.6],
    [SHED - 14, 5.2],
    [SHED - 14, -5.2],
  ]) {
    const [p, turn] = zoneAt(along, off);
    place(`o${next}`, 'prop', `fence_${next}`, p, turn, { model: 'models/rope_fence.glb', solid: false });
    next++;
  }
  for (const [along, off] of [
    [120, 12],
    [310, -13],
    [430, 12],
    [610, -12],
  ]) {
    const [p] = zoneAt(along, off);
    place(`o${next}`, 'prop', `cairn_${next}`, p, along % 360, { model: 'models/cairn.glb' });
    next++;
  }
  for (const along of [10, 22, COURSE - 34, COURSE - 12])
    for (const off of [-10.5, 10.5]) {
      const [p, turn] = zoneAt(along, off);
      place(`o${next}`, 'prop', `banner_${next}`, p, turn, { model: 'models/banner.glb', solid: false });
      next++;
    }
  // Three who race against the player: beside it and behind.
  const rivals: [rider: string, along: number, off: number][] = [
    ['runa', 12, 3.2],
    ['signe', 12, -3.2],
    ['orm', 7, 1.6],
  ];
  for (const [rider, along, off] of rivals) {
    const [[x, y, z], turn] = zoneAt(along, off);
    place(`o${next}`, 'sled', `sled_${rider}`, [x, y, z + 0.1], turn, { rider });
    next++;
  }
  // Snow over the start, veils of it off the crest, smoke from the shed, a flame under each of its lamps.
  const effect = (name: string, of: string, [x, y, z]: readonly number[], turn = 0) => {
    place(`o${next}`, 'effect', name, [x, y, z], turn, { effect: of });
    next++;
  };
  for (const along of [20, 300]) {
    const [[x, y, z]] = zoneAt(along);
    effect(`snow_${along}`, 'snow', [x, y, z + 1]);
  }
  for (const along of [480, 560, 640]) {
    const [p, turn] = zoneAt(along, 8);
    effect(`veil_${along}`, 'spindrift', p, turn + 90);
  }
  effect('shed_smoke', 'smoke', [shed.x, shed.y, on(shed.x, shed.y) + 4.5]);
  lamps.forEach(([along, off], n) => {
    const [[x, y, z]] = zoneAt(along, off);
    effect(`shed_flame_${n + 1}`, 'lamp_flame', [x, y, z + 2.75]);
  });
  const crest = next;
  const [gate, gateTurn] = zoneAt(980);
  place(`o${next++}`, 'trigger', 'crest_line', gate, gateTurn, { size: [6, 30, 8] });
  place(`o${next++}`, 'weather', 'crest_weather', [gate[0], gate[1], gate[2] + 3], 0, { mood: 'Whiteout', seconds: 12 });
  place(`o${next}`, 'trigger', 'on_tarn', [TARN.x, TARN.y, TARN.level], 0, { size: [150, 100, 4] });
  map = {
    ...map,
    objects,
    copies,
    signals: {
      g1: { from: `o${next}`, event: 'entered', to: { script: 'on_ice' }, delay: 0 },
      g2: { from: `o${crest}`, event: 'entered', to: { object: `o${crest + 1}`, action: 'change' }, delay: 0 },
      g3: { from: `o${next}`, event: 'entered', to: { object: `o${crest + 1}`, action: 'change' }, delay: 0, value: 'Bright morning' },
    },
    paths: { w1: { name: 'course', points: LINE, loop: false } },
    routes: {
      r1: {
        name: 'Snowgate Ridge',
        start: 'c1_o1',
        stops: GATES.map((_, n) => `c${n + 2}_o1`),
        finish: 'c20_o1',
        laps: 1,
        width: 14,
        points: SMOOTH.filter((_, n) => n % 4 === 0 || n === SMOOTH.length - 1).map(([x, y]): Vec3 => [round(x), round(y), round(on(x, y))]),
        branches: [],
      },
    },
    bookmarks: {
      k1: { name: 'From the start', position: [-600, -360, 190], target: [-420, -240, 130] },
      k2: { name: 'Over the tarn', position: [330, -10, 95], target: [120, -130, 15] },
      k3: { name: 'The shed', position: [-30, -440, 62], target: [60, -395, 36] },
    },
  };
  // What grows by rule, last: it keeps clear of the course.
  return applyEdit(map, { name: 'grow', changes: workOnGround(map, ID, { kind: 'rebuild' }).changes });
}

const round = (v: number): number => Math.round(v * 100) / 100;

function iceOnTarn(map: GameMap): Change[] {
  // Ice lies where the tarn is level: painted as a hand would, tile by tile.
  const ground = groundOf(map, ID)!;
  return paintWhere(ground, 'ice', (x, y) => {
    const r = Math.hypot((x - TARN.x) / TARN.rx, (y - TARN.y) / TARN.ry);
    return r < 1 ? 1 : Math.max(0, 1 - (r - 1) / 0.08);
  });
}

/** Paints a surface by hand where a formula says, tile by tile. */
function paintWhere(ground: Ground, surface: string, share: (x: number, y: number) => number): Change[] {
  const changes: Change[] = [];
  for (let y = 0; y < ground.tilesY; y++)
    for (let x = 0; x < ground.tilesX; x++) {
      const weights = Uint8Array.from({ length: TILE * TILE }, (_, k) => {
        const [px, py] = ground.pointOf(x * TILE + (k % TILE), y * TILE + Math.floor(k / TILE));
        return Math.round(share(px, py) * 255);
      });
      if (weights.every((w) => w === 0)) continue;
      const there = ground.tiles[y * ground.tilesX + x] ?? { terrain: ground.id, x, y };
      changes.push({ of: 'tiles', id: tileId(ground.id, x, y), to: withWeights(there, 'hand', { [surface]: weights }) });
    }
  return changes;
}
