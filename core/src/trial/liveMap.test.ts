import { afterEach, describe, expect, it } from '@jest/globals';
import type { CrateWorld } from '../crate/world.ts';
import { applyEdit, type Change } from '../document/edit.ts';
import type { GameMap } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { block } from '../solid/primitives.ts';
import { made } from '../testing/maps.ts';
import { testCollision } from '../testing/trial.ts';
import { BOX_MODEL, cubeBody, movable } from '../testing/trialBodies.ts';
import { testWorld } from '../testing/world.ts';
import { runtimeMap } from '../stages/pack/runtime.ts';
import { emptyMap } from '../profile/emptyMap.ts';
import { LiveMap } from './liveMap.ts';
import { TIME_STEP, TrialWorld } from './world.ts';

const crate = testWorld();
const MAP: GameMap = {
  ...emptyMap(crate.profile),
  solids: { s1: block({ min: [-512, -512, -16], max: [512, 512, 0] }, 'brick') },
  objects: {
    s: made('start', 'start', [0, 0, 1]),
    g: made('sluice', 'gate', [100, 0, 0], { size: [8, 200, 96], speed: 40 }),
    t: made('trigger', 'near', [0, 0, 0], { size: [20, 20, 60] }),
  },
  signals: {},
  copies: {},
};
const within = (map: GameMap): CrateWorld => ({ ...crate, crate: { ...crate.crate, maps: { hall: map } } });

let world: TrialWorld;
let live: LiveMap;
let map: GameMap;
afterEach(() => world?.stop());

async function begin(given = MAP): Promise<void> {
  map = given;
  const collision = testCollision(given.solids);
  const built = runtimeMap({ name: 'hall', map: given, scripts: {}, models: {} }, { [BOX_MODEL]: cubeBody(24, 12) });
  live = new LiveMap(built, collision);
  world = await TrialWorld.begin({ profile: crate.profile, map: built, collision, scripts: {} });
}
/** An edit of the map, as it reaches the run. */
function edit(...changes: Change[]) {
  map = applyEdit(map, { name: 'edit', changes });
  const change = live.follow(within(map));
  if (change) world.edit(change.edit);
  return change;
}
const seconds = (time: number, move: Vec3 = [0, 0, 0]) => {
  for (let i = 0; i < time / TIME_STEP; i++) world.step({ move, run: false, jump: false });
};
const live_ = (name: string, property: string) => world.objects.value(world.objects.named(name)!, property);
const object = (id: string, change: object): Change => ({ of: 'objects', id, to: { ...map.objects[id], ...change } });

describe('edits that flow into a run', () => {
  it('nothing changed is nothing to do', async () => {
    await begin();
    expect(live.follow(within(MAP))).toBeNull();
    expect(live.follow(within(structuredClone(MAP)))).toBeNull();
  });

  it('nor is what another engine’s sines make different in the last digit; anything more is', async () => {
    await begin();
    const other = structuredClone(MAP);
    other.objects.g.position[0] += 2e-14;
    const [face] = other.solids.s1.faces;
    face.distance *= 1 + Number.EPSILON;
    expect(other).not.toEqual(MAP);
    expect(live.follow(within(other))).toBeNull();
    const moved = structuredClone(MAP);
    moved.solids.s1.faces[0].distance += 0.001;
    expect(Object.keys(live.follow(within(moved))!.edit.solids)).toEqual(['s1']);
  });

  it('an object that is moved is elsewhere at once, and goes on with what it was doing', async () => {
    await begin();
    world.use(world.objects.named('gate')!);
    world.scripts.evaluate('fire("gate", "raise")');
    seconds(1);
    const raised = Number(live_('gate', 'raised'));
    expect(raised).toBeGreaterThan(0.3);
    edit(object('g', { position: [300, 0, 0] }));
    expect(live_('gate', 'raised')).toBe(raised);
    seconds(0.5);
    expect(live_('gate', 'raised')).toBeGreaterThan(raised);
    seconds(2, [1, 0, 0]);
    expect(world.walker.feet[0]).toBeGreaterThan(120);
  });

  it('what a script set stays, unless the edit sets it', async () => {
    await begin();
    world.scripts.evaluate('set("gate", "speed", 7)');
    edit(object('g', { position: [90, 0, 0] }));
    expect(live_('gate', 'speed')).toBe(7);
    edit(object('g', { properties: { ...map.objects.g.properties, speed: 99 } }));
    expect(live_('gate', 'speed')).toBe(99);
  });

  it('objects come and go, and signals lead elsewhere', async () => {
    await begin();
    edit(
      { of: 'objects', id: 'n', to: made('sluice', 'second', [0, 300, 0]) },
      { of: 'signals', id: 'g1', to: { from: 't', event: 'left', to: { object: 'n', action: 'raise' }, delay: 0 } },
    );
    seconds(0.2);
    seconds(1, [-1, 0, 0]);
    expect(Number(live_('second', 'raised'))).toBeGreaterThan(0);
    edit({ of: 'objects', id: 'n', to: null }, { of: 'signals', id: 'g1', to: null });
    expect(world.objects.named('second')).toBeUndefined();
    seconds(1);
  });

  it('a solid is in the way where it is now; one that is built around the player lifts it out', async () => {
    await begin();
    seconds(0.3);
    const wall = { of: 'solids' as const, id: 'w', to: block({ min: [40, -200, 0], max: [50, 200, 100] }, 'brick') };
    expect(edit(wall)!.shown.w).toMatchObject({ before: null, after: wall.to });
    seconds(1.5, [1, 0, 0]);
    expect(world.walker.feet[0]).toBeLessThan(40);
    edit({ of: 'solids', id: 'w', to: null });
    seconds(0.5, [1, 0, 0]);
    expect(world.walker.feet[0]).toBeGreaterThan(40);
    const [x, y] = world.walker.feet;
    edit({ of: 'solids', id: 'b', to: block({ min: [x - 40, y - 40, 0], max: [x + 40, y + 40, 70] }, 'brick') });
    seconds(1);
    expect(world.walker.feet[2]).toBeCloseTo(70, 0);
  });

  it('without its floor the player comes back to the start instead of being lost', async () => {
    await begin();
    seconds(0.3);
    edit({ of: 'solids', id: 's1', to: block({ min: [-512, -512, -16], max: [-400, 512, 0] }, 'brick') }, object('s', { position: [-450, 0, 1] }));
    seconds(5);
    expect(world.ended).toBeNull();
  });

  it('a new thing that moves does so at once; one of a model that the build did not have as a box, which is said', async () => {
    await begin({ ...MAP, objects: { ...MAP.objects, a: movable('box', [60, 60, 0]) } });
    edit({ of: 'objects', id: 'c', to: movable('other', [60, 100, 80]) });
    seconds(1);
    expect(world.bodies!.boxOf('c')!.min[2]).toBeCloseTo(0, 0);
    crate.crate.manifest.assets['models/urn.glb'] = {
      bounds: { min: [-10, -10, 0], max: [10, 10, 30] },
      collision: { kind: 'hull', parts: 1, volume: 1, meshVolume: null, mass: 9 },
    } as never;
    edit({ of: 'objects', id: 'd', to: movable('urn', [60, 200, 80], 'models/urn.glb') });
    expect(world.console.lines.at(-1)!.text).toMatch(/^urn moves as a box until the next build/);
    seconds(1);
    expect(world.bodies!.boxOf('d')!.max[2]).toBeCloseTo(30, 0);
    expect(world.bodies!.massOf('d')).toBeCloseTo(9, 3);
  });

  it('says what has to wait for the next build', async () => {
    await begin();
    edit({ of: 'settings', to: { ...map.settings, skyIntensity: 3 } });
    expect(world.console.lines.at(-1)!.text).toBe('The sky is as it was built; it changes with the next build.');
  });
});
