import { describe, expect, it } from '@jest/globals';
import type { Vec3 } from '../math/vec3.ts';
import { kitePull, sledTurn, sledVelocity, type SledFacts, type SledGround, type SledState } from './sled.ts';

const G = 9.81;
const DT = 1 / 60;
const facts: SledFacts = { mass: 120, glide: 1, edge: 1, steer: 1, brake: 0.5, drag: 0, kite: 8, toughness: 9 };
const rest = (change: Partial<SledState> = {}): SledState => ({
  at: [0, 0, 0],
  velocity: [0, 0, 0],
  heading: 0,
  up: [0, 0, 1],
  onGround: true,
  jolt: 0,
  ...change,
});
const still = { steer: 0, sheet: 0, brake: 0 };
const slope = (degrees: number, friction: number): SledGround => {
  const a = (degrees * Math.PI) / 180;
  return { height: 0, normal: [Math.sin(a), 0, Math.cos(a)], friction };
};

/** Steps on a plane; answers the way along it and the speed after so many seconds. */
function run(state: SledState, ground: SledGround | null, seconds: number, of = facts, wants = still, wind: Vec3 = [0, 0, 0]) {
  let way = 0;
  let at = state.at;
  for (let n = 0; n < seconds * 60; n++) {
    const next = sledVelocity(state, of, wants, wind, ground, G, DT);
    const motion = [0, 1, 2].map((k) => ((state.velocity[k] + next[k]) / 2) * DT);
    at = [0, 1, 2].map((k) => at[k] + motion[k]) as Vec3;
    way += Math.hypot(...motion);
    state = { ...state, velocity: next, at };
  }
  return { way, speed: Math.hypot(...state.velocity), state };
}

describe('sliding', () => {
  it.each([
    [20, 0.05],
    [35, 0.3],
    [12, 0],
  ])('down a slope of %d° with μ = %d is g (sin θ − μ cos θ) t² / 2', (degrees, friction) => {
    const a = (degrees * Math.PI) / 180;
    const acceleration = G * (Math.sin(a) - friction * Math.cos(a));
    const { way, speed } = run(rest(), slope(degrees, friction), 3);
    expect(way).toBeCloseTo((acceleration * 9) / 2, 1);
    expect(speed).toBeCloseTo(acceleration * 3, 2);
  });

  it('stays where friction holds it, and comes to rest after v² / 2 μ g', () => {
    expect(run(rest(), slope(10, 0.4), 2).way).toBeLessThan(0.01);
    const { way, speed } = run(rest({ velocity: [10, 0, 0] }), slope(0, 0.1), 15);
    expect(speed).toBe(0);
    expect(way).toBeCloseTo(100 / (2 * 0.1 * G), 0);
  });

  it('brakes by the brake, and edges stop what goes sideways', () => {
    const braked = run(rest({ velocity: [10, 0, 0] }), slope(0, 0), 1, facts, { ...still, brake: 1 });
    expect(braked.speed).toBeCloseTo(10 - 0.5 * G, 2);
    const aside = run(rest({ velocity: [0, 3, 0] }), slope(0, 0), 1);
    expect(aside.speed).toBeLessThan(0.01);
  });

  it('air brakes to where drag carries a fall: √(2 m g / ρ c A)', () => {
    const { speed } = run(rest(), null, 60, { ...facts, drag: 0.8, mass: 90 });
    expect(speed).toBeCloseTo(Math.sqrt((2 * 90 * G) / (1.225 * 0.8)), 1);
  });

  it('flies the parabola of the handbook', () => {
    const { state } = run(rest({ velocity: [12, 3, 6], onGround: false }), null, 1);
    // After one second: v t − g t² / 2.
    const there = [12, 3, 6 - G / 2];
    state.at.forEach((v, k) => expect(v).toBeCloseTo(there[k], 6));
  });

  it('a turn at constant steering is a circle of radius v / ω', () => {
    const state = rest({ velocity: [10, 0, 0] });
    const turned = sledTurn(state, facts, { ...still, steer: 0.5 }, DT);
    expect(10 / (turned / DT)).toBeCloseTo(20, 6);
    // In the air and at a crawl less.
    expect(sledTurn({ ...state, onGround: false }, facts, { ...still, steer: 1 }, DT)).toBeLessThan(turned);
  });
});

describe('a kite', () => {
  it('pulls downwind by ½ ρ A v², never backwards, and less beside', () => {
    const [x, y] = kitePull(8, 0, [10, 0, 0]);
    expect(x).toBeCloseTo(0.5 * 1.225 * 8 * 100, 9);
    expect(y).toBe(0);
    const beside = kitePull(8, Math.PI / 2, [10, 0, 0]);
    expect(Math.hypot(beside[0], beside[1])).toBeLessThan(x);
    expect(beside[1]).toBeGreaterThan(0);
    expect(kitePull(8, Math.PI, [10, 0, 0])).toEqual([0, 0, 0]);
    expect(kitePull(8, 0, [0.05, 0, 0])).toEqual([0, 0, 0]);
  });

  it('brings a sled to a speed below the wind straight before it', () => {
    const { speed } = run(rest(), slope(0, 0.05), 40, { ...facts, drag: 0.5 }, { ...still, sheet: 1 }, [10, 0, 0]);
    expect(speed).toBeGreaterThan(4);
    expect(speed).toBeLessThan(10);
  });
});
