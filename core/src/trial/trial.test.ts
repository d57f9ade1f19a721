import { describe, expect, it } from '@jest/globals';
import { newObject } from '../profile/newObject.ts';
import type { MapObject, Signal, Solid } from '../document/schema.ts';
import { testCollision, trialInputs } from '../testing/trial.ts';
import { testProfile } from '../testing/world.ts';
import { block, straightStair, wedge } from '../solid/primitives.ts';
import { runTrial } from './headless.ts';
import { newWalker, stepWalker, type Walker } from './move.ts';
import { obstacleFromPlanes, sweepBox, type Obstacle } from './collide.ts';
import { TIME_STEP, TrialWorld } from './world.ts';

const profile = testProfile();
const { player } = profile;
const FLOOR = block({ min: [-512, -512, -16], max: [512, 512, 0] }, 'brick');

const start = (z = 2, x = 0): MapObject => newObject(profile, 'start', 'start', [x, 0, z]);
const STILL = { move: [0, 0, 0] as [number, number, number], run: false, jump: false };
const obstaclesOf = (solids: Solid[]): Obstacle[] =>
  testCollision(Object.fromEntries(solids.map((s, i) => [`s${i}`, s]))).solids.map((s) => obstacleFromPlanes(s.id, s.planes));

describe('climbing', () => {
  const ladder = (): MapObject => {
    const object = newObject(profile, 'ladder', 'ladder', [62, 0, 0]);
    return { ...object, turn: 180, properties: { ...object.properties, size: [4, 20, 160] } };
  };
  const cliff = block({ min: [64, -200, 0], max: [400, 200, 160] }, 'brick');
  const move = (x: number, y = 0, jump = false) => ({ move: [x, y, 0] as [number, number, number], run: false, jump });
  const run = (world: TrialWorld, seconds: number, intent: ReturnType<typeof move>) => {
    for (let t = 0; t < seconds; t += TIME_STEP) world.step(intent);
  };
  const begin = () => TrialWorld.begin(trialInputs([FLOOR, cliff], { o1: start(), o2: ladder() }));

  it('goes up a ladder with forward, over its top, and stands on what is there', async () => {
    const world = await begin();
    run(world, 6, move(1));
    expect(world.walker.feet[2]).toBeCloseTo(160, 0);
    expect(world.walker.feet[0]).toBeGreaterThan(80);
    expect([world.walker.onGround, world.walker.climbing]).toEqual([true, false]);
    world.stop();
  });

  it('holds on without a key, comes down with backward, and lets go with a jump', async () => {
    const world = await begin();
    run(world, 1.5, move(1));
    const high = world.walker.feet[2];
    expect(high).toBeGreaterThan(30);
    run(world, 1, STILL);
    expect([world.walker.feet[2], world.walker.climbing]).toEqual([high, true]);
    run(world, 0.3, move(-1));
    expect(world.walker.feet[2]).toBeLessThan(high);
    world.step(move(0, 0, true));
    run(world, 1, STILL);
    expect(world.walker.feet[2]).toBeCloseTo(0, 0);
    expect(world.walker.climbing).toBe(false);
    world.stop();
  });

  it('falls off where it steps aside, and walks past without taking hold', async () => {
    const world = await begin();
    run(world, 1.5, move(1));
    run(world, 1, move(0, 1));
    expect(world.walker.feet[2]).toBeCloseTo(0, 0);
    const beside = await begin();
    beside.walker.feet = [50, -40, 0.02];
    run(beside, 1, move(0, 1));
    expect(beside.walker.feet[2]).toBeLessThan(0.1);
    expect(beside.walker.feet[1]).toBeGreaterThan(20);
    world.stop();
    beside.stop();
  });
});

describe('movement', () => {
  // Outside reference: free fall from rest, s = g t² / 2.
  it('falls as g t²/2 at every step', () => {
    const walker = newWalker([0, 0, 0]);
    for (let n = 1; n <= 120; n++) {
      stepWalker(walker, STILL, [], player, TIME_STEP);
      const t = n * TIME_STEP;
      expect(walker.feet[2]).toBeCloseTo((-player.gravity * t * t) / 2, 6);
    }
  });

  it('lands on the floor and stays', async () => {
    const world = await TrialWorld.begin(trialInputs([FLOOR], { o1: start(64) }));
    for (let i = 0; i < 120; i++) world.step(STILL);
    expect(world.walker.onGround).toBe(true);
    expect(world.walker.feet[2]).toBeGreaterThanOrEqual(0);
    expect(world.walker.feet[2]).toBeLessThan(0.1);
    world.stop();
  });

  const walk = (solids: Solid[], seconds: number, direction: [number, number, number] = [1, 0, 0]) => {
    const walker: Walker = { ...newWalker([0, 0, 0.02]), onGround: true };
    const obstacles = obstaclesOf(solids);
    for (let t = 0; t < seconds; t += TIME_STEP) stepWalker(walker, { move: direction, run: false, jump: false }, obstacles, player, TIME_STEP);
    return walker;
  };

  it('is stopped by a wall and slides along it', () => {
    const wall = block({ min: [64, -400, 0], max: [80, 400, 128] }, 'brick');
    expect(walk([FLOOR, wall], 3).feet[0]).toBeCloseTo(64 - player.radius, 1);
    const slid = walk([FLOOR, wall], 2, [0.7, 0.7, 0]);
    expect(slid.feet[0]).toBeCloseTo(64 - player.radius, 1);
    expect(slid.feet[1]).toBeGreaterThan(100);
  });

  it('climbs a step of the step height, and not a higher one', () => {
    const ledge = (height: number) => block({ min: [48, -200, 0], max: [400, 200, height] }, 'brick');
    expect(walk([FLOOR, ledge(player.stepHeight)], 2).feet[2]).toBeCloseTo(player.stepHeight, 1);
    expect(walk([FLOOR, ledge(player.stepHeight + 2)], 2).feet[2]).toBeLessThan(1);
  });

  it('goes up and down a stair without leaving the ground', () => {
    const up = straightStair({ min: [48, -64, 0], max: [138, 64, 55] }, 0, 1, 10, 'brick');
    const top = block({ min: [138, -64, 0], max: [300, 64, 55] }, 'brick');
    expect(walk([FLOOR, ...up, top], 2).feet[2]).toBeCloseTo(55, 0);
  });

  it('walks up a gentle slope', () => {
    const slope = wedge({ min: [32, -64, 0], max: [232, 64, 80] }, 0, 1, 'brick');
    const walker = walk([FLOOR, slope], 1.6);
    expect(walker.feet[2]).toBeGreaterThan(25);
  });

  it('a sweep stops before what it meets and knows when it began inside', () => {
    const [obstacle] = obstaclesOf([block({ min: [10, -8, -8], max: [20, 8, 8] }, 'brick')]);
    const hit = sweepBox([obstacle], [0, 0, 0], [2, 2, 2], [16, 0, 0]);
    expect(hit.fraction).toBeCloseTo(8 / 16, 2);
    expect(hit.normal).toEqual([-1, 0, 0]);
    expect(sweepBox([obstacle], [15, 0, 0], [2, 2, 2], [1, 0, 0]).stuck).toBe(true);
    expect(sweepBox([obstacle], [0, 30, 0], [2, 2, 2], [50, 0, 0]).fraction).toBe(1);
  });
});

describe('a test run', () => {
  it('falls out of the world where the start touches the floor, names the start and ends', async () => {
    const report = await runTrial(trialInputs([FLOOR], { o1: start(0) }));
    expect(report.ended).toBe('fell');
    expect(report.ok).toBe(false);
    expect(report.findings.find((f) => f.code === 'fell-out')).toMatchObject({ severity: 'blocker', place: { object: 'o1' } });
    expect(report.findings[0].message).toContain('start');
    expect((await runTrial(trialInputs([FLOOR], { o1: start(2) }))).ok).toBe(true);
  });

  it('a signal runs the Lua function and raises the sluice, with delay and value', async () => {
    const objects = {
      o1: start(),
      o2: newObject(profile, 'crank', 'crank', [40, 0, 0]),
      o3: {
        ...newObject(profile, 'sluice', 'sluice', [200, 0, 0]),
        properties: { size: [16, 64, 96], travel: [0, 0, 96], speed: 96, material: 'brass' },
      } as MapObject,
    };
    const signals: Record<string, Signal> = {
      g1: { from: 'o2', event: 'turned', to: { script: 'turned' }, delay: 0, value: '7' },
      g2: { from: 'o2', event: 'turned', to: { object: 'o3', action: 'raise' }, delay: 0.5 },
      g3: { from: 'o3', event: 'raised', to: { script: 'done' }, delay: 0 },
    };
    const script =
      'function startup() say("ready") end function turned(v, from) say("turned " .. v .. " by " .. from) end function done() say("up") win("through") end';
    const report = await runTrial(
      trialInputs([FLOOR], objects, signals, script, [
        { use: 'crank' },
        { wait: 2 },
        { expect: { object: 'sluice', property: 'raised', equals: 1 } },
      ]),
    );
    expect(report.console.filter((l) => l.kind === 'say').map((l) => l.text)).toEqual(['ready', 'turned 7 by crank', 'up']);
    expect(report.ended).toBe('won');
    expect(report.ok).toBe(true);
    const raisedAt = report.console.find((l) => l.text === 'up')!.time - report.console.find((l) => l.text.startsWith('turned'))!.time;
    expect(raisedAt).toBeCloseTo(1.5, 1);
  });

  it('a closed sluice stops the player, an open one does not', async () => {
    const sluice = {
      ...newObject(profile, 'sluice', 'sluice', [60, 0, 0]),
      properties: { size: [8, 400, 96], travel: [0, 0, 96], speed: 200, material: 'brass' },
    } as MapObject;
    const blocked = await runTrial(trialInputs([FLOOR], { o1: start(), o2: sluice }, {}, '', [{ walkTo: [150, 0, 0] }]));
    expect(blocked.ok).toBe(false);
    expect(blocked.findings[0].code).toBe('trial-step');
    expect(blocked.findings[0].message).toMatch(/blocked at 4\d, 0, 0/);
    const open = await runTrial(
      trialInputs([FLOOR], { o1: start(), o2: sluice }, {}, 'function startup() fire("sluice", "raise") end', [{ wait: 1 }, { walkTo: [150, 0, 0] }]),
    );
    expect(open.ok).toBe(true);
  });

  it('water drains and slows, volumes notice the player', async () => {
    const objects = {
      o1: start(),
      o2: { ...newObject(profile, 'water', 'pool', [0, 0, 0]), properties: { size: [400, 400, 24], rate: 24, material: 'water' } } as MapObject,
      o3: { ...newObject(profile, 'trigger', 'door', [120, 0, 0]), properties: { size: [40, 400, 64] } } as MapObject,
    };
    const signals: Record<string, Signal> = {
      g1: { from: 'o3', event: 'entered', to: { script: 'entered' }, delay: 0 },
      g2: { from: 'o3', event: 'entered', to: { object: 'o2', action: 'drain' }, delay: 0 },
    };
    const report = await runTrial(
      trialInputs([FLOOR], objects, signals, 'function entered() say("in at level " .. get("pool", "level")) end', [
        { walkTo: [120, 0, 0] },
        { wait: 1.2 },
        { expect: { object: 'pool', property: 'level', equals: 0 } },
      ]),
    );
    expect(report.ok).toBe(true);
    expect(report.console.some((l) => l.text === 'in at level 24.0' || l.text === 'in at level 24')).toBe(true);
    // Half speed in the water: 109 units at 52 units per second.
    const entered = report.console.find((l) => l.text.startsWith('in at'))!.time - 2;
    expect(entered).toBeGreaterThan(80 / player.walkSpeed);
  });

  it('script errors are findings with file and line; circles of signals are cut', async () => {
    const objects = {
      o1: start(),
      o2: newObject(profile, 'lamp', 'a', [0, 0, 90]),
      o3: newObject(profile, 'lamp', 'b', [0, 0, 90]),
      o4: newObject(profile, 'crank', 'crank', [40, 0, 0]),
    };
    const signals: Record<string, Signal> = {
      g1: { from: 'o4', event: 'turned', to: { object: 'o2', action: 'douse' }, delay: 0 },
      g2: { from: 'o2', event: 'doused', to: { object: 'o2', action: 'light' }, delay: 0 },
      g3: { from: 'o2', event: 'lit', to: { object: 'o2', action: 'douse' }, delay: 0 },
    };
    const report = await runTrial(
      trialInputs([FLOOR], objects, signals, 'function startup()\n  fire("nobody", "raise")\n  local x = nil\n  x()\nend'),
    );
    expect(report.findings.map((f) => f.code)).toEqual(expect.arrayContaining(['script-error', 'signal-loop']));
    expect(report.findings.find((f) => f.place?.file === 'scripts/main.lua')?.place?.line).toBe(4);
  });
});
