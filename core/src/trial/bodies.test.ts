import { afterEach, beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { MapObject, Signal, Solid } from '../document/schema.ts';
import { boxesTouch } from '../math/box3.ts';
import { dot, type Vec3 } from '../math/vec3.ts';
import { loadRapier, type Rapier } from '../physics/rapier.ts';
import { block } from '../solid/primitives.ts';
import { rotation, transformSolid } from '../solid/transform.ts';
import { codesOf, hall, made, mended, object, profile, withChanges } from '../testing/maps.ts';
import { testCollision, trialInputs } from '../testing/trial.ts';
import { BOX_MODEL, cubeBody, movable } from '../testing/trialBodies.ts';
import { obstacleFromBox, obstacleFromPlanes } from './collide.ts';
import type { Intent } from './move.ts';
import { Surround } from './surround.ts';
import { TIME_STEP, TrialWorld } from './world.ts';

const FLOOR = block({ min: [-512, -512, -16], max: [512, 512, 0] }, 'brick');
const START = made('start', 'start', [0, 0, 1]);
const m = profile.unit.metres;
const g = profile.player.gravity;

let world: TrialWorld;
afterEach(() => world?.stop());

async function begin(objects: Record<string, MapObject>, options: { solids?: Solid[]; signals?: Signal[]; body?: ReturnType<typeof cubeBody> } = {}) {
  const signals = Object.fromEntries((options.signals ?? []).map((one, i) => [`g${i}`, one]));
  const inputs = trialInputs(options.solids ?? [FLOOR], { start: START, ...objects }, signals);
  inputs.map.bodies[BOX_MODEL] = options.body ?? cubeBody(24, 12);
  return (world = await TrialWorld.begin(inputs));
}
const steps = (count: number, intent: Partial<Intent> = {}) => {
  for (let i = 0; i < count; i++) world.step({ move: [0, 0, 0], run: false, jump: false, ...intent });
};
const seconds = (time: number, intent: Partial<Intent> = {}) => steps(Math.round(time / TIME_STEP), intent);
const at = (id: string): Vec3 => {
  const item = [...world.objects].find((one) => one.id === id)!;
  return item.object.position.map((v, i) => v + world.objects.poseOf(item).offset[i]) as Vec3;
};
const live = (name: string, property: string) => world.objects.value(world.objects.named(name)!, property);
const TOWARDS_X: Vec3 = [1, 0, 0];

// Formulas: Halliday, Resnick, Walker, Fundamentals of Physics (from memory), as any handbook of mechanics has them.
describe('bodies follow the laws of mechanics', () => {
  it('fall by g t² / 2', async () => {
    await begin({ a: movable('box', [200, 0, 400]) });
    seconds(1);
    // A step's own error is g t dt / 2.
    expect(Math.abs(400 - at('a')[2] - g / 2)).toBeLessThan((g * TIME_STEP) / 2 + 0.5);
  });

  it('slide down a slope with a = g (sin θ - μ cos θ), and stay where μ > tan θ', async () => {
    const angle = 30;
    const slope = transformSolid(block({ min: [-800, -100, -20], max: [800, 100, 0] }, 'brick'), rotation(1, angle, [0, 0, 0]));
    const down: Vec3 = [Math.cos((angle * Math.PI) / 180), 0, -Math.sin((angle * Math.PI) / 180)];
    const inputs = trialInputs([slope], {
      start: made('start', 'start', [0, 900, 1]),
      a: movable('box', [-300, 0, 300 * Math.tan((angle * Math.PI) / 180)]),
    });
    for (const friction of [0.3, 0.45, 0.7]) {
      inputs.map.bodies[BOX_MODEL] = turnedCube(24, 12, friction * 2 - 0.6, angle);
      world?.stop();
      world = await TrialWorld.begin(inputs);
      world.walker.flying = true;
      seconds(0.5);
      const from = dot(at('a'), down);
      seconds(0.1);
      const speed = (dot(at('a'), down) - from) / 0.1;
      seconds(0.9);
      const later = dot(at('a'), down);
      seconds(0.1);
      const acceleration = (dot(at('a'), down) - later) / 0.1 - speed;
      const wanted = Math.max(0, g * (Math.sin((angle * Math.PI) / 180) - friction * Math.cos((angle * Math.PI) / 180)));
      expect(Math.abs(acceleration - wanted)).toBeLessThan(wanted * 0.05 + 2);
    }
  });

  it('keep their momentum when they meet', async () => {
    await begin({ a: movable('one', [-100, 0, 0]), b: movable('two', [0, 0, 0]) }, { body: cubeBody(24, 12, -0.6) });
    world.walker.flying = true;
    seconds(0.5);
    world.bodies!.kick('a', [12 * 60 * m, 0, 0]);
    steps(2);
    const before = world.bodies!.velocity('a')[0] + world.bodies!.velocity('b')[0];
    expect(before).toBeGreaterThan(50);
    seconds(2);
    expect(world.bodies!.velocity('b')[0]).toBeGreaterThan(20);
    expect(world.bodies!.velocity('a')[0] + world.bodies!.velocity('b')[0]).toBeCloseTo(before, 0);
  });

  // Archimedes' principle.
  it('float with as much under water as their density is of that of water', async () => {
    const side = 24;
    const density = 600;
    const pool = made('water', 'pool', [200, 0, 0], { size: [200, 200, 96] });
    await begin({ w: pool, a: movable('box', [200, 0, 60]) }, { body: cubeBody(side, density * (side * m) ** 3) });
    seconds(12);
    expect((96 - at('a')[2]) / side).toBeCloseTo(density / 1000, 1);
  });
});

/** A cube that lies flat on a slope about y. */
function turnedCube(side: number, mass: number, friction: number, degrees: number) {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const flat = cubeBody(side, mass, friction).hulls[0];
  const hull = Array.from({ length: 8 }, (_, i) => {
    const [x, y, z] = flat.slice(i * 3, i * 3 + 3);
    return [x * c + z * s, y, z * c - x * s];
  }).flat();
  return { mass, friction, hulls: [hull] };
}

describe('against Rapier itself', () => {
  let rapier: Rapier;
  beforeAll(async () => void (rapier = await loadRapier()));

  it('a pile falls to the same places as by Rapier alone, and every time to the bit', async () => {
    const objects = Object.fromEntries([0, 1, 2, 3, 4].map((i) => [`b${i}`, movable(`box_${i}`, [200 + i * 2, i, 2 + i * 27])]));
    const places = async () => {
      world?.stop();
      await begin(objects);
      world.walker.flying = true;
      seconds(4);
      return [0, 1, 2, 3, 4].map((i) => at(`b${i}`));
    };
    const first = await places();
    expect(await places()).toEqual(first);

    const alone = new rapier.World({ x: 0, y: 0, z: -g * m });
    alone.timestep = TIME_STEP;
    const corners = obstacleFromPlanes('f', testCollision({ f: FLOOR }).solids[0].planes).corners.flat();
    alone.createCollider(rapier.ColliderDesc.convexHull(Float32Array.from(corners, (v) => v * m))!.setFriction(0.6));
    const hull = Float32Array.from(cubeBody(24, 12).hulls[0], (v) => v * m);
    const bodies = Object.values(objects).map(({ position: [x, y, z] }) => {
      const body = alone.createRigidBody(rapier.RigidBodyDesc.dynamic().setTranslation(x * m, y * m, z * m));
      alone.createCollider(rapier.ColliderDesc.convexHull(hull)!.setMass(12).setFriction(0.6), body);
      return body;
    });
    for (let i = 0; i < 240; i++) alone.step();
    bodies.forEach((body, i) => {
      const { x, y, z } = body.translation();
      // They are the same bodies, made in another order.
      expect(Math.hypot(x / m - first[i][0], y / m - first[i][1], z / m - first[i][2])).toBeLessThan(0.5);
    });
    alone.free();
  });
});

describe('the player and things', () => {
  it('picks up, carries onto a plate that opens a gate, sets down, and the gate stays open', async () => {
    const plate = made('trigger', 'plate', [160, 0, 0], { size: [40, 40, 12], senses: 'things' });
    const gate = made('sluice', 'gate', [300, 0, 0]);
    const signals: Signal[] = [{ from: 'p', event: 'entered', to: { object: 'g', action: 'raise' }, delay: 0 }];
    await begin({ p: plate, g: gate, a: movable('box', [40, 0, 0]) }, { signals });
    seconds(0.5);
    expect(world.offer(TOWARDS_X)).toEqual({ does: 'pick up', name: 'box' });
    world.operate(TOWARDS_X);
    expect(world.offer(TOWARDS_X)).toEqual({ does: 'set down', name: 'box' });
    seconds(1.1, { move: TOWARDS_X, look: TOWARDS_X });
    expect(at('a')[2]).toBeGreaterThan(12);
    expect(live('gate', 'raised')).toBe(0);
    world.operate(TOWARDS_X);
    seconds(4);
    expect(at('a')[2]).toBeLessThan(1);
    expect(live('gate', 'raised')).toBe(1);
  });

  it('throws as far as a throw of that momentum goes', async () => {
    await begin({ a: movable('box', [40, 0, 0]) });
    seconds(0.5);
    world.operate(TOWARDS_X);
    seconds(1, { look: TOWARDS_X });
    const from = at('a');
    world.fling(TOWARDS_X);
    const speed = profile.player.strength!.throw / 12 / m;
    const flight = Math.sqrt((2 * from[2]) / g);
    while (at('a')[2] > 2 && world.time < 10) steps(1);
    expect(Math.abs((at('a')[0] - from[0]) / (speed * flight) - 1)).toBeLessThan(0.1);
  });

  it('lifts nothing that is too heavy, pushes what it can, and not what it cannot', async () => {
    await begin({ a: movable('box', [40, 0, 0]) }, { body: cubeBody(24, 45) });
    seconds(0.5);
    expect(world.offer(TOWARDS_X)).toBeNull();
    const before = at('a')[0];
    seconds(2, { move: TOWARDS_X });
    expect(at('a')[0]).toBeGreaterThan(before + 20);
    world.stop();
    await begin({ a: movable('box', [40, 0, 0]) }, { body: cubeBody(24, 400) });
    seconds(2.5, { move: TOWARDS_X });
    expect(Math.abs(at('a')[0] - 40)).toBeLessThan(1);
    expect(world.walker.feet[0]).toBeLessThan(40 - 12 - profile.player.radius + 1);
  });

  it('what hangs behind a wall slips out of hand, and stays on its side', async () => {
    const wall = block({ min: [64, -100, 0], max: [80, 100, 100] }, 'brick');
    await begin({ a: movable('box', [40, 0, 0]) }, { solids: [FLOOR, wall] });
    seconds(0.5);
    world.operate(TOWARDS_X);
    seconds(0.5, { look: TOWARDS_X });
    expect(world.hands!.held).toBe('a');
    world.walker.feet = [160, 0, 1];
    seconds(1, { look: [-1, 0, 0] });
    expect(world.hands!.held).toBeNull();
    expect(world.console.lines.at(-1)!.text).toBe('box slipped out of hand.');
    expect(at('a')[0]).toBeLessThan(64);
  });

  it('stands on things, which bear its weight', async () => {
    await begin({ s2: made('start', 'other', [100, 0, 0]), a: movable('box', [100, 0, 0]) });
    seconds(0.5);
    world.walker.feet = [100, 0, 60];
    seconds(1);
    expect(world.walker.ground?.id).toBe('a');
    expect(world.walker.feet[2]).toBeCloseTo(24, 0);
  });
});

describe('very many things', () => {
  it('more than a run moves lie still, and are counted in a finding; nothing hangs', async () => {
    const objects = Object.fromEntries(
      Array.from({ length: 2300 }, (_, i) => [`b${i}`, movable(`box_${i}`, [(i % 100) * 40 - 400, Math.floor(i / 100) * 40 - 400, 0])]),
    );
    await begin(objects);
    expect(world.findings).toMatchObject([{ code: 'bodies-full', message: expect.stringContaining('300 things') }]);
    steps(2);
    expect(world.time).toBeCloseTo(2 * TIME_STEP, 6);
  }, 60_000);
});

describe('what moves and what is in its way', () => {
  const lift = (blocked: string, at: Vec3 = [0, 0, -8]) => made('sluice', 'lift', at, { size: [64, 64, 8], travel: [0, 0, 80], speed: 40, blocked });
  const raised = (from: string): Signal[] => [{ from: 'start', event: from, to: { object: 'l', action: 'raise' }, delay: 0.5 }];
  const pit = block({ min: [-512, -512, -16], max: [512, 512, -8] }, 'brick');

  it('a lift carries who and what stands on it', async () => {
    await begin({ l: lift('stop'), a: movable('box', [18, 0, 2]) }, { solids: [pit], signals: raised('spawned'), body: cubeBody(12, 5) });
    seconds(5);
    expect(live('lift', 'raised')).toBe(1);
    expect(world.walker.feet[2]).toBeCloseTo(80, 0);
    expect(at('a')[2]).toBeCloseTo(80, 0);
  });

  it('a lift under a ceiling stops, or crushes whoever is on it', async () => {
    const ceiling = block({ min: [-200, -200, 100], max: [200, 200, 116] }, 'brick');
    await begin({ l: lift('stop') }, { solids: [pit, ceiling], signals: raised('spawned') });
    seconds(5);
    expect(live('lift', 'raised')).toBeLessThan(0.6);
    expect(world.ended).toBeNull();
    world.stop();
    await begin({ l: lift('crush') }, { solids: [pit, ceiling], signals: raised('spawned') });
    seconds(5);
    expect(world.ended).toBe('died');
  });

  it('a ram stops at a box, or pushes it along', async () => {
    const ram = (blocked: string) => made('sluice', 'lift', [-80, 100, 0], { size: [16, 32, 32], travel: [100, 0, 0], speed: 50, blocked });
    for (const rule of ['stop', 'push']) {
      await begin({ l: ram(rule), a: movable('box', [-40, 100, 0]) }, { signals: raised('spawned') });
      seconds(5);
      if (rule === 'stop') expect([Number(live('lift', 'raised')) < 0.3, Math.round(at('a')[0])]).toEqual([true, -40]);
      else expect([live('lift', 'raised'), at('a')[0] > 30]).toEqual([1, true]);
      world.stop();
    }
  });

  it('a leaf swings about its hinge, and is in the way where it has swung to', async () => {
    const leaf = { ...made('leaf', 'lift', [60, 0, 0], { size: [48, 4, 88], hinge: [-24, 0, 0], angle: 90, speed: 90 }), turn: 90 };
    await begin({ l: leaf }, { signals: [{ from: 'start', event: 'spawned', to: { object: 'l', action: 'open' }, delay: 0 }] });
    seconds(2);
    expect(live('lift', 'swung')).toBe(1);
    const [obstacle] = world.near({ min: [30, -60, 10], max: [90, 60, 20] });
    expect(obstacle.box.min.map(Math.round)).toEqual([12, -26, 0]);
    expect(obstacle.box.max.map(Math.round)).toEqual([60, -22, 88]);
    seconds(2, { move: TOWARDS_X });
    expect(world.walker.feet[0]).toBeGreaterThan(100);
  });

  it('a loose leaf hangs from its hinge and swings like a physical pendulum', async () => {
    const size = [6, 20, 80] as const;
    const leaf = made('leaf', 'sign', [0, 300, 40], { size: [...size], hinge: [0, 0, 80], axis: [1, 0, 0], angle: 30, loose: true });
    await begin({ sign: leaf });
    const item = world.objects.named('sign')!;
    const { part, life } = item.parts.find(({ part: { id } }) => id === 'hinge')!;
    part.actions!.knock(life, '12');
    const swung: number[] = [];
    for (let i = 0; i < 600; i++) {
      steps(1);
      swung.push(world.objects.liveOf(item).swung);
    }
    const crossings = swung.flatMap((v, i) => (i > 0 && swung[i - 1] < 0 && v >= 0 ? [i - swung[i - 1] / (swung[i - 1] - v) - 1] : []));
    const period = ((crossings.at(-1)! - crossings[0]) / (crossings.length - 1)) * TIME_STEP;
    // T = 2π √(I / m g d) for small angles (handbook: physical pendulum), a uniform block about its upper edge.
    const d = size[2] / 2;
    const inertia = (size[1] ** 2 + size[2] ** 2) / 12 + d ** 2;
    expect(period / (2 * Math.PI * Math.sqrt(inertia / (world.profile.player.gravity * d)))).toBeCloseTo(1, 2);
    expect(Math.max(...swung.map(Math.abs))).toBeLessThan(0.5);
  });

  it('a hinge without an axis is found and mended, and stays shut', async () => {
    const map = withChanges(hall(), object('l', 'leaf', 'leaf_1', [64, 64, 16], { axis: [0, 0, 0] }));
    expect(codesOf(map)).toContain('hinge-axis');
    expect(codesOf(mended(map, 'hinge-axis'))).not.toContain('hinge-axis');
    await begin(
      { l: made('leaf', 'lift', [60, 0, 0], { axis: [0, 0, 0] }) },
      { signals: [{ from: 'start', event: 'spawned', to: { object: 'l', action: 'open' }, delay: 0 }] },
    );
    seconds(1);
    expect(world.objects.poseOf(world.objects.named('lift')!).turn).toEqual([0, 0, 0, 1]);
  });

  it('a belt carries players and things, until it is stopped', async () => {
    await begin(
      { b: made('belt', 'belt', [0, 0, -12], { size: [400, 64, 12], flow: [40, 0, 0] }), a: movable('box', [60, 0, 1]) },
      { solids: [pit] },
    );
    seconds(2);
    expect(world.walker.feet[0]).toBeGreaterThan(60);
    expect(at('a')[0]).toBeGreaterThan(110);
  });

  it('boards break under what is thrown hard enough, and no longer stop anybody', async () => {
    for (const strength of [20, 500]) {
      await begin({ a: movable('box', [40, 0, 0]), b: made('boards', 'boards', [120, 0, 0], { size: [4, 80, 72], strength }) });
      seconds(0.5);
      world.operate(TOWARDS_X);
      seconds(0.7, { look: TOWARDS_X });
      world.fling(TOWARDS_X);
      seconds(1);
      expect(live('boards', 'broken')).toBe(strength === 20 ? 1 : 0);
      world.stop();
    }
  });

  it('a stream carries along what floats and who swims', async () => {
    const stream = made('stream', 'stream', [0, 0, 0], { size: [800, 200, 80], flow: [40, 0, 0] });
    await begin({ w: stream, a: movable('box', [0, 60, 40]) }, { body: cubeBody(24, 100) });
    seconds(4);
    expect(world.walker.swimming).toBe(true);
    expect(world.walker.feet[0]).toBeGreaterThan(80);
    expect(at('a')[0]).toBeGreaterThan(60);
  });
});

describe('things to take along', () => {
  it('are gone once taken, and ready with what they need', async () => {
    const objects = {
      l: made('handlamp', 'lamp_a', [40, 0, 30], { needs: 'o' }),
      o: made('find', 'oil', [40, 20, 30]),
    };
    await begin(objects);
    seconds(0.3);
    world.use(world.objects.named('lamp_a')!);
    steps(2);
    expect([live('lamp_a', 'taken'), live('lamp_a', 'ready')]).toEqual([1, 0]);
    expect(world.usable([1, 0, -0.4])?.object.name).not.toBe('lamp_a');
    world.use(world.objects.named('oil')!);
    steps(2);
    expect([live('lamp_a', 'ready'), live('oil', 'ready')]).toEqual([1, 1]);
  });

  it('a lamp without oil is a finding; oil alone is none', () => {
    const map = withChanges(hall(), object('l', 'handlamp', 'lamp_a', [64, 64, 16]), object('o', 'find', 'oil', [96, 64, 16]));
    expect(codesOf(map).filter((code) => code === 'item-useless')).toHaveLength(1);
    const mendedMap = withChanges(map, object('l', 'handlamp', 'lamp_a', [64, 64, 16], { needs: 'o' }));
    expect(codesOf(mendedMap)).not.toContain('item-useless');
  });
});

describe('crouching and swimming', () => {
  it('crouches under what is too low to stand, and stands up when there is room', async () => {
    const beam = block({ min: [60, -100, 40], max: [120, 100, 60] }, 'brick');
    await begin({}, { solids: [FLOOR, beam] });
    seconds(1, { move: TOWARDS_X });
    expect(world.walker.feet[0]).toBeLessThan(60);
    seconds(1.5, { move: TOWARDS_X, crouch: true });
    expect(world.walker.feet[0]).toBeGreaterThan(60);
    steps(5);
    expect(world.walker.crouching).toBe(true);
    seconds(2.5, { move: TOWARDS_X });
    expect([world.walker.crouching, world.walker.feet[0] > 140]).toEqual([false, true]);
  });

  it('swims up, down and out over an edge', async () => {
    const pool = made('water', 'pool', [0, 0, 0], { size: [160, 160, 100] });
    const edge = block({ min: [80, -100, 0], max: [200, 100, 96] }, 'brick');
    await begin({ w: pool }, { solids: [FLOOR, edge] });
    seconds(3);
    expect(world.walker.swimming).toBe(true);
    const afloat = world.walker.feet[2];
    expect(afloat).toBeGreaterThan(40);
    seconds(2, { crouch: true });
    expect(world.walker.feet[2]).toBeLessThan(afloat - 20);
    let stood = 0;
    for (let i = 0; i < 240; i++) {
      steps(1, { move: TOWARDS_X, jump: true });
      if (world.walker.onGround && !world.walker.swimming) stood = Math.max(stood, world.walker.feet[2]);
    }
    expect(stood).toBeCloseTo(96, 0);
  });
});

describe('the broad phase', () => {
  const box = fc
    .tuple(...[0, 1, 2].map(() => fc.tuple(fc.integer({ min: -900, max: 900 }), fc.integer({ min: 1, max: 400 }))))
    .map((axes) => ({ min: axes.map(([from]) => from) as Vec3, max: axes.map(([from, size]) => from + size) as Vec3 }));

  it('finds exactly what a look at everything finds, also after changes', () => {
    fc.assert(
      fc.property(fc.array(box, { maxLength: 40 }), box, fc.integer({ min: 0, max: 39 }), (boxes, here, gone) => {
        const surround = new Surround(112);
        boxes.forEach((one, i) => surround.set(`s${i}`, [obstacleFromBox(`s${i}`, one)]));
        surround.near(here);
        surround.set(`s${gone}`, []);
        const wanted = boxes.flatMap((one, i) => (i !== gone && boxesTouch(one, here) ? [`s${i}`] : []));
        expect(surround.near(here).map(({ id }) => id)).toEqual(wanted);
      }),
    );
  });
});
