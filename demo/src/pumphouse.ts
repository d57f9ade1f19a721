/**
 * The map of *Pumphouse at Low Tide*. Units are notches (1/32 m), z up.
 *
 *     gallery  x 0..640    y 480..672   z 0..176      lamps
 *     hall     x 0..640    y 0..448     z 0..224      pump, crank, hatch
 *     cellar   x 0..384    y 96..448    z -176..-16   flooded at first
 *     tunnel   x 400..720  y 240..304   z -176..-80   behind the sluice
 *     tower    x 656..720  y 304..672   z -176..176   stair up to the gallery
 */

import { newObject } from '@violet-crate/core/profile/newObject';
import { emptyMap } from '@violet-crate/core/profile/emptyMap';
import type { Bed, Decal, GameMap, MapObject, Overlay, PropertyValue, Signal, Solid } from '@violet-crate/core/document/schema';
import type { Box3 } from '@violet-crate/core/math/box3';
import { addScaled, type Vec3 } from '@violet-crate/core/math/vec3';
import { plainOverlay, plainStyle } from '@violet-crate/core/decal/place';
import { pickSolids } from '@violet-crate/core/map/pick';
import type { Profile } from '@violet-crate/core/profile/schema';
import { block, cylinder, straightStair, wedge } from '@violet-crate/core/solid/primitives';
import { box, boxMinusBox } from './boxMinusBox.ts';

interface Room {
  inner: Box3;
  floor: string;
  walls: string;
  ceiling: string;
}

const ROOMS: Record<string, Room> = {
  hall: { inner: box(0, 0, 0, 640, 448, 224), floor: 'tile', walls: 'brick', ceiling: 'plank' },
  gallery: { inner: box(0, 480, 0, 640, 672, 176), floor: 'plank', walls: 'plaster', ceiling: 'timber' },
  cellar: { inner: box(0, 96, -176, 384, 448, -16), floor: 'slate', walls: 'wet_stone', ceiling: 'wet_stone' },
  tunnel: { inner: box(400, 240, -176, 720, 304, -80), floor: 'slate', walls: 'wet_stone', ceiling: 'wet_stone' },
  tower: { inner: box(656, 304, -176, 720, 672, 176), floor: 'slate', walls: 'wet_stone', ceiling: 'plank' },
};

const HATCH = box(48, 112, -16, 224, 176, 0);
const SKYLIGHTS = [box(128, 160, 224, 224, 288, 240), box(272, 160, 224, 368, 288, 240), box(416, 160, 224, 512, 288, 240)];
const WINDOWS = [box(96, 448, 48, 192, 480, 128), box(272, 448, 48, 368, 480, 128), box(448, 448, 48, 544, 480, 128)];
const OPENINGS = [
  HATCH,
  ...SKYLIGHTS,
  ...WINDOWS,
  box(384, 240, -176, 400, 304, -80), // cellar to tunnel, behind the sluice
  box(656, 296, -176, 720, 312, -80), // tunnel to tower
  box(640, 608, 0, 656, 664, 88), // tower to gallery
];
const RISER = 5.5;
const TREAD = 9;
const STEPS = 31;

class Builder {
  readonly solids: Record<string, Solid> = {};
  readonly objects: Record<string, MapObject> = {};
  readonly signals: Record<string, Signal> = {};
  private solidCount = 0;
  private signalCount = 0;

  constructor(private readonly profile: Profile) {}

  add(solid: Solid, detail = false): void {
    this.solids[`s${++this.solidCount}`] = detail ? { ...solid, detail } : solid;
  }

  block(b: Box3, material: string, detail = false): void {
    this.add(block(b, material), detail);
  }

  place(classId: string, name: string, position: Vec3, properties: Record<string, PropertyValue> = {}, turn = 0): string {
    const id = `o${Object.keys(this.objects).length + 1}`;
    const object = newObject(this.profile, classId, name, position);
    this.objects[id] = { ...object, turn, properties: { ...object.properties, ...properties } };
    return id;
  }

  connect(from: string, event: string, to: Signal['to'], value?: string, delay = 0): void {
    this.signals[`g${++this.signalCount}`] = { from, event, to, delay, ...(value === undefined ? {} : { value }) };
  }
}

/** What is heard in the rooms: the pump in the hall, water below, wind in the gallery. */
const BEDS: Bed[] = [
  {
    name: 'Engine',
    fade: 1.2,
    loops: [{ sound: 'sounds/engine_drone.wav', volume: 0.45, when: 'always', weather: 'any' }],
    shots: [{ sound: 'sounds/clank.wav', volume: 0.12, when: 'always', weather: 'any', every: [11, 29], most: 1 }],
  },
  {
    name: 'Water',
    fade: 1.2,
    loops: [{ sound: 'sounds/cellar_water.wav', volume: 0.4, when: 'always', weather: 'any' }],
    shots: [{ sound: 'sounds/drip.wav', volume: 0.18, when: 'always', weather: 'any', every: [2, 7], most: 2 }],
  },
  { name: 'Wind', fade: 2, loops: [{ sound: 'sounds/gallery_wind.wav', volume: 0.3, when: 'always', weather: 'any' }], shots: [] },
];

/** Floor, ceiling and walls of every room, with all rooms and openings cut out of them. */
function shells(b: Builder): void {
  const t = 16;
  // Where the shells of two rooms meet, the first one built stands: nothing of them overlaps.
  const cuts = [...Object.values(ROOMS).map((room) => room.inner), ...OPENINGS];
  for (const { inner, floor, walls, ceiling } of Object.values(ROOMS)) {
    const [x0, y0, z0] = inner.min;
    const [x1, y1, z1] = inner.max;
    const slabs: [Box3, string][] = [
      [box(x0 - t, y0 - t, z0 - t, x1 + t, y1 + t, z0), floor],
      [box(x0 - t, y0 - t, z1, x1 + t, y1 + t, z1 + t), ceiling],
      [box(x0 - t, y0 - t, z0, x0, y1 + t, z1), walls],
      [box(x1, y0 - t, z0, x1 + t, y1 + t, z1), walls],
      [box(x0, y0 - t, z0, x1, y0, z1), walls],
      [box(x0, y1, z0, x1, y1 + t, z1), walls],
    ];
    for (const [slab, material] of slabs)
      for (const part of cuts.reduce((parts, cut) => parts.flatMap((p) => boxMinusBox(p, cut)), [slab])) {
        b.block(part, material);
        cuts.push(part);
      }
  }
  for (const light of SKYLIGHTS) b.block(box(light.min[0] - 8, light.min[1] - 8, 240, light.max[0] + 8, light.max[1] + 8, 248), 'sky');
}

function stairs(b: Builder): void {
  for (const solid of straightStair(box(48, 112, -176, 48 + TREAD * STEPS, 176, -RISER), 0, -1, STEPS, 'slate')) b.add(solid, true);
  for (const solid of straightStair(box(656, 320, -176, 720, 320 + TREAD * STEPS, -RISER), 1, 1, STEPS, 'slate')) b.add(solid, true);
  b.block(box(656, 320 + TREAD * STEPS, -176, 720, 672, 0), 'slate', true);
}

function hallDetails(b: Builder): void {
  for (const x of [96, 240, 384, 528]) {
    for (const y of [24, 400]) {
      b.block(box(x, y, 0, x + 32, y + 24, 12), 'slate', true);
      b.block(box(x + 4, y + 3, 12, x + 28, y + 21, 196), 'brick', true);
      b.block(box(x, y, 196, x + 32, y + 24, 208), 'slate', true);
    }
    b.block(box(x + 8, 0, 208, x + 24, 448, 224), 'timber', true);
  }
  for (const y of [152, 288]) b.block(box(0, y, 212, 640, y + 8, 224), 'timber', true);
  // Skirting.
  for (const part of [box(0, 0, 0, 4, 448, 16), box(636, 0, 0, 640, 448, 16), box(4, 0, 0, 636, 4, 16), box(4, 444, 0, 636, 448, 16)])
    b.block(part, 'timber', true);
  // Rails round the hatch; it is open where the stair begins, at the west.
  for (const y of [108, 176]) {
    for (let x = 56; x <= 228; x += 43) b.block(box(x, y, 0, x + 4, y + 4, 32), 'iron', true);
    b.block(box(52, y, 32, 232, y + 4, 36), 'brass', true);
  }
  for (const y of [129, 150]) b.block(box(228, y, 0, 232, y + 4, 32), 'iron', true);
  b.block(box(228, 108, 32, 232, 180, 36), 'brass', true);
  // Pipes from the pump along the east wall.
  b.add(cylinder(box(596, 96, 8, 620, 120, 224), 12, 'brass'), true);
  b.add(cylinder(box(596, 328, 8, 620, 352, 224), 12, 'brass'), true);
  for (const y of [92, 324]) b.block(box(590, y, 0, 626, y + 32, 10), 'iron', true);
  // A catwalk along the west wall, from which the pipes are looked after.
  b.block(box(0, 216, 104, 40, 344, 108), 'iron', true);
  for (const y of [218, 338]) b.block(box(34, y, 0, 38, y + 4, 104), 'iron', true);
  b.block(box(36, 256, 140, 40, 344, 144), 'brass', true);
  for (const y of [256, 298, 340]) b.block(box(36, y, 108, 40, y + 4, 140), 'iron', true);
  // Plinth under the pump.
  b.block(box(384, 176, 0, 512, 272, 12), 'slate', true);
  for (const [x0, x1] of [
    [376, 384],
    [512, 520],
  ])
    b.block(box(x0, 184, 0, x1, 264, 6), 'slate', true);
  b.add(wedge(box(400, 264, 0, 496, 304, 12), 1, -1, 'slate'), true);
}

function windowBars(b: Builder): void {
  for (const w of WINDOWS) {
    b.block(box(w.min[0] - 4, 446, 48, w.max[0] + 4, 482, 52), 'slate', true);
    for (let x = w.min[0] + 16; x < w.max[0]; x += 16) b.block(box(x - 1.5, 462, 52, x + 1.5, 465, 128), 'iron', true);
  }
}

function cellarDetails(b: Builder): void {
  for (const [x, y] of [
    [144, 256],
    [144, 368],
    [288, 256],
    [288, 368],
  ]) {
    b.block(box(x - 14, y - 14, -176, x + 14, y + 14, -168), 'slate', true);
    b.add(cylinder(box(x - 11, y - 11, -168, x + 11, y + 11, -32), 12, 'wet_stone'), true);
    b.block(box(x - 14, y - 14, -32, x + 14, y + 14, -16), 'slate', true);
  }
  for (const y of [240, 352]) b.block(box(0, y, -32, 384, y + 32, -24), 'timber', true);
  for (const x of [32, 64, 96]) b.block(box(x, 432, -176, x + 24, 448, -176 + x), 'brick', true);
  // Frame of the sluice.
  b.block(box(376, 228, -176, 384, 240, -72), 'iron', true);
  b.block(box(376, 304, -176, 384, 316, -72), 'iron', true);
  b.block(box(376, 228, -80, 384, 316, -72), 'iron', true);
  // Ribs in the tunnel.
  for (const x of [464, 528, 592]) {
    b.block(box(x, 240, -176, x + 8, 248, -80), 'iron', true);
    b.block(box(x, 296, -176, x + 8, 304, -80), 'iron', true);
    b.block(box(x, 248, -88, x + 8, 296, -80), 'iron', true);
  }
}

function galleryDetails(b: Builder): void {
  for (const x of [112, 224, 336, 448, 560]) {
    b.block(box(x - 8, 664, 0, x + 8, 672, 160), 'timber', true);
    b.block(box(x - 8, 480, 160, x + 8, 672, 176), 'timber', true);
  }
  b.block(box(0, 480, 0, 640, 484, 12), 'timber', true);
  b.block(box(0, 668, 0, 640, 672, 12), 'timber', true);
  // Three plinths for the lamps, rising towards the last.
  [96, 272, 448].forEach((x, i) => {
    b.block(box(x - 24, 608, 0, x + 24, 656, 4 + i * 4), 'slate', true);
    b.block(box(x - 16, 616, 4 + i * 4, x + 16, 648, 8 + i * 4), 'brass', true);
  });
}

function objects(b: Builder): void {
  b.place('start', 'start', [320, 64, 2], {}, 90);
  b.place('start', 'start_2', [368, 64, 2], {}, 90);
  const crank = b.place('crank', 'crank', [560, 224, 0], {}, 180);
  const sluice = b.place('sluice', 'sluice', [392, 272, -176], { size: [8, 64, 96], travel: [0, 0, 88], speed: 44, material: 'iron' });
  const water = b.place('water', 'flood', [192, 272, -176], { size: [384, 352, 44], rate: 14 });
  const goal = b.place('goal', 'goal', [560, 576, 0], { text: 'Three lamps burn over the canal. Low tide, high spirits.' });
  const lamps = [96, 272, 448].map((x, i) =>
    b.place('gallery_lamp', `gallery_lamp_${i + 1}`, [x, 632, 8 + i * 4], { colour: ['#ffb65c', '#ffc47a', '#ffa64d'][i], intensity: 70 }),
  );
  b.place('sign', 'sign_crank', [600, 288, 48], { text: 'CRANK: opens the low sluice. Mind the water.' }, 180);
  b.place('sign', 'sign_lamps', [560, 660, 48], { text: 'Light them west to east, as the tide goes.' }, 270);
  b.place('sign', 'sign_cellar', [24, 100, 48], { text: 'Cellar. "Keep your lantern dry." – the Keeper' });
  b.place('ladder', 'catwalk_ladder', [42, 236, 0], { size: [4, 20, 108] });
  const splash = b.place('sound', 'sound_rush', [384, 272, -120], { sound: 'sounds/rush.wav', subtitles: 'subtitles/rush.vtt' });
  const clank = b.place('sound', 'sound_clank', [560, 224, 32], { sound: 'sounds/clank.wav' });
  b.place('sound', 'sound_drip', [200, 300, -60], { sound: 'sounds/drip.wav', volume: 0.4 });
  const chime = b.place('sound', 'sound_chime', [320, 576, 120], { sound: 'sounds/chime.wav', subtitles: 'subtitles/chime.vtt' });
  const cellarTrigger = b.place('trigger', 'enter_cellar', [192, 272, -176], { size: [384, 352, 96] });
  const galleryTrigger = b.place('trigger', 'enter_gallery', [320, 576, 0], { size: [620, 180, 96] });

  // Light: warm in the hall, cold below, faint in the gallery until its lamps burn.
  const lamp = (name: string, at: Vec3, colour: string, intensity: number, reach = 448) =>
    b.place('lamp', name, at, { colour, intensity, reach, radius: 3 });
  [
    [64, 224],
    [320, 96],
    [576, 224],
    [320, 368],
  ].forEach(([x, y], i) => lamp(`hall_lamp_${i + 1}`, [x, y, 150], '#ffcf94', 30));
  lamp('hatch_lamp', [136, 144, -40], '#ffcf94', 12, 320);
  [
    [80, 320],
    [216, 320],
    [344, 200],
    [344, 400],
  ].forEach(([x, y], i) => lamp(`cellar_lamp_${i + 1}`, [x, y, -64], '#9fd6cf', 14, 384));
  [
    [440, 272],
    [624, 272],
  ].forEach(([x, y], i) => lamp(`tunnel_lamp_${i + 1}`, [x, y, -104], '#ffb978', 7, 256));
  [
    [688, 420, 0],
    [688, 600, 120],
  ].forEach(([x, y, z], i) => lamp(`tower_lamp_${i + 1}`, [x, y, z], '#ffcf94', 12, 320));
  [
    [160, 560],
    [480, 560],
  ].forEach(([x, y], i) => lamp(`gallery_glow_${i + 1}`, [x, y, 132], '#b7a8e6', 9, 384));

  const prop = (model: string, name: string, at: Vec3, turn = 0) => b.place('prop', name, at, { model: `models/${model}.glb` }, turn);
  prop('pump', 'pump', [448, 224, 12], 0);
  [
    [40, 400],
    [72, 410],
    [44, 360],
  ].forEach(([x, y], i) => prop('crate', `crate_${i + 1}`, [x, y, 0], i * 17));
  prop('crate', 'crate_top', [52, 400, 24], 30);
  [
    [600, 40],
    [600, 64],
    [576, 40],
  ].forEach(([x, y], i) => prop('barrel', `barrel_${i + 1}`, [x, y, 0]));
  [
    [200, 40],
    [456, 40],
  ].forEach(([x, y], i) => prop('bench', `bench_${i + 1}`, [x, y, 0]));
  prop('valve', 'valve_1', [560, 336, 0], 90);
  prop('valve', 'valve_2', [560, 110, 0], 90);
  [
    [40, 420],
    [330, 420],
  ].forEach(([x, y], i) => prop('barrel', `cellar_barrel_${i + 1}`, [x, y, -176]));
  [
    [180, 500],
    [380, 500],
  ].forEach(([x, y], i) => prop('bench', `gallery_bench_${i + 1}`, [x, y, 0]));
  b.place('prop', 'gallery_crate', [600, 510, 0], { model: 'models/crate.glb', movable: true }, 20);

  // What leads on from the gallery: beacons in a row, each the next in the series, and a lamp over them.
  [0, 1, 2].forEach((ordinal) => b.place('beacon', `beacon_${ordinal}`, [208 + ordinal * 112, 500, 0], { ordinal }, 90));
  b.place('spot', 'gallery_spot', [320, 540, 148], { intensity: 24, cone: 80, colour: '#cfd8ff' });
  // A raft drifts round the cellar.
  b.place('ferry', 'raft', [60, 300, -140], { model: 'models/crate.glb', solid: false, path: 'w1', speed: 20, going: true });

  // The keeper's chain: it lets go once she was outwitted.
  const chain = b.place('relay', 'crank_chain', [560, 224, 48], { open: false });
  b.connect(crank, 'turned', { object: chain, action: 'pass' });
  b.connect(crank, 'turned', { script: 'crank_turned' });
  b.connect(chain, 'passed', { object: sluice, action: 'raise' });
  b.connect(crank, 'turned', { object: clank, action: 'play' });
  b.connect(sluice, 'raised', { object: water, action: 'drain' });
  b.connect(sluice, 'raised', { object: splash, action: 'play' });
  b.connect(water, 'drained', { script: 'cellar_drained' });
  lamps.forEach((id, i) => b.connect(id, 'touched', { script: 'lamp_touched' }, String(i + 1)));
  b.connect(cellarTrigger, 'entered', { script: 'entered_cellar' });
  b.connect(galleryTrigger, 'entered', { script: 'entered_gallery' });
  b.connect(goal, 'completed', { object: chime, action: 'play' });
  steam(b, crank, cellarTrigger);
  store(b);
  people(b);
  // What moves by itself, or once something heavy meets it.
  b.place('belt', 'coal_belt', [150, 250, 0], { size: [96, 40, 8], flow: [32, 0, 0], material: 'iron' });
  b.place('stream', 'tunnel_stream', [560, 272, -176], { size: [312, 60, 6], flow: [24, 0, 0], rate: 4 });
  b.place('boards', 'cellar_boards', [330, 396, -176], { size: [56, 4, 72], material: 'plank' });
  effects(b, { crank, sluice, water, lamps });
}

/** Flames that burn with their lamps, drips from the cellar's beams, spray while the sluice lets the water out, sparks off the crank. */
function effects(b: Builder, { crank, sluice, water, lamps }: { crank: string; sluice: string; water: string; lamps: string[] }): void {
  const effect = (name: string, at: Vec3, of: string, running = true, turn = 0) => b.place('effect', name, at, { effect: of, running }, turn);
  lamps.forEach((id, i) => {
    const flame = effect(`flame_${i + 1}`, [96 + i * 176, 632, 34 + i * 4], 'lamp_flame', false);
    b.connect(id, 'lit', { object: flame, action: 'start' });
    b.connect(id, 'doused', { object: flame, action: 'stop' });
  });
  [
    [144, 300],
    [288, 330],
    [216, 240],
  ].forEach(([x, y], i) => effect(`drips_${i + 1}`, [x, y, -36], 'drips'));
  const spray = effect('sluice_spray', [396, 272, -150], 'spray', false, 180);
  b.connect(sluice, 'raised', { object: spray, action: 'start' });
  b.connect(water, 'drained', { object: spray, action: 'stop' });
  const sparks = effect('crank_sparks', [552, 224, 30], 'sparks', false);
  b.connect(crank, 'turned', { object: sparks, action: 'burst' });
  effect('pump_smoke', [448, 224, 84], 'smoke');
  const area = (name: string, bed: string, { inner: { min, max } }: Room, near: number) =>
    b.place('sound_area', name, [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, min[2]], {
      bed,
      size: [max[0] - min[0], max[1] - min[1], max[2] - min[2]],
      near,
    });
  area('hall_sound', 'Engine', ROOMS.hall, 64);
  area('cellar_sound', 'Water', ROOMS.cellar, 56);
  area('gallery_sound', 'Wind', ROOMS.gallery, 64);
  SKYLIGHTS.forEach(({ min, max }, i) => effect(`motes_${i + 1}`, [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, 100], 'dust_motes'));
}

/** The oil store in a corner of the gallery: a crate on the pad keeps its leaf open. The oil is for the lamp down in the hall. */
function store(b: Builder): void {
  b.block(box(0, 556, 0, 100, 560, 104), 'plank', true);
  for (const part of [box(96, 484, 0, 100, 500, 104), box(96, 548, 0, 100, 556, 104), box(96, 500, 88, 100, 548, 104)]) b.block(part, 'plank', true);
  b.block(box(0, 484, 104, 100, 560, 108), 'plank', true);
  b.block(box(304, 536, 0, 344, 576, 2), 'brass', true);
  const leaf = b.place('leaf', 'store_leaf', [98, 524, 0], { size: [47, 4, 87], hinge: [-23.5, 0, 0], angle: 95 }, 90);
  const pad = b.place('trigger', 'store_pad', [324, 556, 2], { size: [36, 36, 20], senses: 'both' });
  b.place('sign', 'sign_store', [106, 566, 48], { text: 'OIL. Keep the pad down and the leaf stays open.' });
  const oil = b.place('find', 'oil', [30, 520, 0]);
  b.place('handlamp', 'handlamp', [380, 130, 0], { needs: oil });
  b.connect(pad, 'entered', { object: leaf, action: 'open' });
  b.connect(pad, 'left', { object: leaf, action: 'close' });
}

/** A leaking pipe in a corner of the cellar: while somebody is there it blows every few seconds, until the crank was turned three times. */
function steam(b: Builder, crank: string, cellar: string): void {
  const blast = b.place('scald', 'steam', [48, 388, -176], { size: [48, 48, 72], harm: 40, armed: false });
  const clock = b.place('timer', 'steam_clock', [48, 388, -80], { seconds: 4, repeat: true });
  const valve = b.place('relay', 'steam_valve', [48, 360, -80]);
  const tally = b.place('counter', 'crank_tally', [560, 224, 64], { target: 3 });
  b.place('landing', 'dry_landing', [320, 128, 2]);
  b.connect(cellar, 'entered', { object: clock, action: 'start' });
  b.connect(cellar, 'left', { object: clock, action: 'stop' });
  b.connect(clock, 'elapsed', { object: valve, action: 'pass' });
  b.connect(valve, 'passed', { object: blast, action: 'arm' });
  b.connect(valve, 'passed', { object: blast, action: 'disarm' }, undefined, 1.5);
  b.connect(crank, 'turned', { object: tally, action: 'count' });
  b.connect(tally, 'reached', { object: valve, action: 'close' });
}

/** Who is about at low tide. Those of the cellar and the tunnel keep to their boats. */
function people(b: Builder): void {
  const person = (record: string, name: string, at: Vec3, turn: number, more: Record<string, PropertyValue> = {}) =>
    b.place('person', name, at, { record, ...more }, turn);
  person('odile', 'keeper', [540, 140, 0], 180, { talk: 'keeper', moves: 'stands', sight: 3, cone: 140 });
  person('mina', 'mina', [320, 320, 0], 270, { talk: 'mina', moves: 'looks', sight: 2 });
  person('wick', 'wick', [540, 600, 0], 90, { talk: 'wick', moves: 'stands', sight: 2 });
  const around = (who: string, at: Vec3, turn: number, more: Record<string, PropertyValue> = {}) =>
    person(who, who, at, turn, { talk: `remark_${who}`, ...more });
  around('harl', [300, 200, 0], 0, { moves: 'looks' });
  around('pell', [230, 540, 0], 90);
  around('gant', [240, 310, -176], 90);
}

/** By the ids of those who act, which are looked up by name. */
function scenes(b: Builder): GameMap['sequences'] {
  const who = (name: string) => Object.entries(b.objects).find(([, object]) => object.name === name)![0];
  const [keeper, mina, wick] = ['keeper', 'mina', 'wick'].map(who);
  return {
    q1: {
      name: 'to_the_crank',
      steps: [
        { who: keeper, do: 'walk', to: [584, 176, 0], wait: true },
        { who: keeper, do: 'turn', to: 90, wait: true },
        { who: keeper, do: 'pause', seconds: 0.6, wait: true },
        { who: keeper, do: 'follow', whom: 'player', gap: 72, wait: false },
      ],
      starts: [
        [490, 140, 0],
        [540, 90, 0],
      ],
    },
    q2: {
      name: 'mina_steps_aside',
      steps: [
        { who: mina, do: 'walk', to: [290, 350, 0], wait: true },
        { who: mina, do: 'turn', to: 300, wait: true },
      ],
      starts: [[320, 270, 0]],
    },
    q3: {
      name: 'gallery_welcome',
      steps: [
        { who: wick, do: 'jump', wait: true },
        { who: wick, do: 'walk', to: [500, 570, 0], wait: true },
        { who: wick, do: 'turn', to: 0, wait: true },
      ],
      starts: [[590, 620, 0]],
    },
  };
}

/** A chalked way from the door to the pump. */
function overlays(b: Builder): Record<string, Overlay> {
  const points: Vec3[] = [
    [120, 40, 0],
    [200, 60, 0],
    [300, 60, 0],
    [430, 110, 0],
  ];
  const [hit] = pickSolids(b.solids, addScaled(points[0], [0, 0, 1], 4), [0, 0, -1]);
  return { v1: { name: 'chalk_line', ...plainOverlay('chalk_arrow', 12), repeat: 24, ends: 40, points, normal: [0, 0, 1], on: hit.solid } };
}

/** What the tide, the oil and the keeper's chalk have left on the walls. */
function decals(b: Builder): Record<string, Decal> {
  const { solids } = b;
  const made: Record<string, Decal> = {};
  const put = (material: string, position: Vec3, normal: Vec3, size: [number, number], more: Partial<Decal> = {}) => {
    const [on] = pickSolids(solids, addScaled(position, normal, 4), [-normal[0], -normal[1], -normal[2]]);
    const id = `d${Object.keys(made).length + 1}`;
    made[id] = { name: `${material}_${id.slice(1)}`, ...plainStyle(material, size), position, normal, ...(on ? { on: on.solid } : {}), ...more };
  };
  const { hall, cellar } = ROOMS;
  put('chalk_arrow', [240, hall.inner.max[1], 72], [0, -1, 0], [64, 32]);
  put('stain', [544, 150, 0], [0, 0, 1], [96, 80], { soft: 0.2 });
  put('stain', [470, 190, 0], [0, 0, 1], [56, 64], { turn: 40, order: 1, tint: '#c8b090' });
  put('crack', [hall.inner.min[0], 210, 110], [1, 0, 0], [72, 96]);
  for (const [n, y] of [180, 260, 340].entries()) put('tide_line', [cellar.inner.min[0], y, -140], [1, 0, 0], [80, 64], { order: n });
  return made;
}

export function pumphouseMap(profile: Profile): GameMap {
  const b = new Builder(profile);
  shells(b);
  stairs(b);
  hallDetails(b);
  windowBars(b);
  cellarDetails(b);
  galleryDetails(b);
  objects(b);
  const map = emptyMap(profile);
  return {
    ...map,
    settings: {
      skyColour: '#a9b8ea',
      skyIntensity: 1.4,
      beds: BEDS,
      skyMaterial: 'dusk_sky',
      trial: [
        { walkTo: [490, 140, 0] },
        { use: 'keeper' },
        { answer: 'Let me turn the crank.' },
        { answer: 'won' },
        { answer: 'Go on' },
        { wait: 4 },
        { answer: 'Go on' },
        { wait: 1 },
        { walkTo: [520, 150, 0] },
        { walkTo: [540, 200, 0] },
        { use: 'crank' },
        { wait: 3 },
        { expect: { object: 'sluice', property: 'raised', equals: 1 } },
        { walkTo: [320, 80, 0] },
        { walkTo: [30, 80, 0] },
        { walkTo: [30, 144, 0] },
        { walkTo: [350, 144, -176] },
        { walkTo: [350, 272, -176] },
        { expect: { object: 'flood', property: 'level', equals: 0 } },
        { walkTo: [688, 272, -176] },
        { walkTo: [688, 632, 0] },
        { walkTo: [560, 632, 0] },
        { walkTo: [480, 590, 0] },
        { walkTo: [96, 590, 0] },
        { use: 'gallery_lamp_1' },
        { walkTo: [272, 590, 0] },
        { use: 'gallery_lamp_2' },
        { walkTo: [448, 590, 0] },
        { use: 'gallery_lamp_3' },
        { wait: 1 },
        { expect: { object: 'gallery_lamp_3', property: 'lit', equals: true } },
      ],
    },
    bands: {
      b1: { name: 'Hall', bottom: 0, top: 224 },
      b2: { name: 'Cellar', bottom: -176, top: -16 },
      b3: { name: 'Gallery', bottom: 0, top: 176 },
    },
    solids: b.solids,
    objects: b.objects,
    decals: decals(b),
    overlays: overlays(b),
    signals: b.signals,
    paths: {
      w1: {
        name: 'drift',
        points: [
          [60, 300, -140],
          [220, 310, -140],
          [230, 400, -140],
          [70, 390, -140],
        ],
        loop: true,
      },
    },
    sequences: scenes(b),
    copies: {
      c1: { prefab: 'mooring', name: 'mooring', position: [24, 200, -176], turn: 90, values: { glow: '#ffd9a0' } },
      c2: { prefab: 'mooring', name: 'mooring_2', position: [24, 330, -176], turn: 90, values: {} },
    },
    bookmarks: { v1: { name: 'Over the stair', position: [60, 60, 180], target: [300, 240, 0] } },
  };
}
