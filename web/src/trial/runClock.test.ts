import { describe, expect, it } from '@jest/globals';
import { TIME_STEP } from '@violet-crate/core/trial/world';
import { RunClock } from './runClock.ts';

/** Steps over so many frames. */
const over = (clock: RunClock, frames: number, frame: number, demonstration = false) => {
  let steps = 0;
  for (let i = 0; i < frames; i++) {
    clock.pass(frame, demonstration);
    steps += clock.take();
  }
  return steps;
};

describe('time in a test run', () => {
  it('keeps up with the clock on the wall, whatever the frames', () => {
    for (const rate of [24, 30, 60, 75, 144]) expect(Math.abs(over(new RunClock(), rate * 10, 1 / rate) - 600)).toBeLessThanOrEqual(1);
  });

  it('passes slower and faster', () => {
    const clock = new RunClock();
    clock.speed = 0.1;
    expect(Math.abs(over(clock, 600, 1 / 60) - 60)).toBeLessThanOrEqual(1);
    clock.speed = 8;
    expect(Math.abs(over(clock, 60, 1 / 60) - 480)).toBeLessThanOrEqual(1);
  });

  it('makes up for slow frames but not for hours, and for more of a demonstration', () => {
    expect(over(new RunClock(), 1, 0.2)).toBe(12);
    expect(over(new RunClock(), 1, 3600)).toBe(15);
    expect(over(new RunClock(), 1, 3600, true)).toBe(120);
  });

  it('stands still, and goes on one step at a time', () => {
    const clock = new RunClock();
    clock.paused = true;
    expect(over(clock, 100, 1 / 60)).toBe(0);
    clock.once();
    expect(over(clock, 100, 1 / 60)).toBe(1);
    clock.once();
    clock.once();
    expect(over(clock, 1, 1 / 60)).toBe(2);
    clock.paused = false;
    // What was left over before does not come afterwards.
    expect(over(clock, 1, TIME_STEP)).toBe(1);
  });
});
