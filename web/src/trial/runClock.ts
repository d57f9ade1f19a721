/** How much of the world's time passes while a page draws its frames: paused, step by step, slower or faster. */

import { TIME_STEP } from '@violet-crate/core/trial/world';

export const SPEEDS = [0.1, 0.25, 0.5, 1, 2, 4, 8] as const;

/** Seconds that are made up for: slow frames are, a hidden tab's hours are not. Nobody steers a demonstration, so it may take longer steps. */
const MADE_UP = 0.25;
const MADE_UP_SHOWN = 2;

export class RunClock {
  paused = false;
  speed = 1;
  private spare = 0;
  private single = 0;

  /** @param frame seconds since the last frame */
  pass(frame: number, demonstration: boolean): void {
    if (this.paused) return;
    const most = (demonstration ? MADE_UP_SHOWN : MADE_UP) * Math.max(1, this.speed);
    this.spare = Math.min(most, this.spare + frame * this.speed);
  }

  /** One step, after which time stands. */
  once(): void {
    this.paused = true;
    this.spare = 0;
    this.single++;
  }

  /** Steps that are due now. */
  take(): number {
    const whole = Math.floor(this.spare / TIME_STEP + 1e-9);
    this.spare = Math.max(0, this.spare - whole * TIME_STEP);
    const due = whole + this.single;
    this.single = 0;
    return due;
  }
}
