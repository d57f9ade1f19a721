/**
 * Weathering of a grid of heights, in steps. Both keep the mass: what leaves one sample arrives at others.
 *
 * Thermal: what lies steeper than the angle of rest slides to its lower neighbours (F. K. Musgrave, C. Kolb, R. Mace, "The
 * synthesis and rendering of eroded fractal terrains", SIGGRAPH 1989).
 * Hydraulic: rain flows through pipes between samples and carries what it can (X. Mei, P. Decaudin, B. Hu, "Fast hydraulic erosion
 * simulation and visualization on GPU", Pacific Graphics 2007); what it carries moves with the water from sample to sample instead
 * of being traced backwards, which would not keep the mass. What is still under way at the end settles where it is.
 */

/** A grid with how far each sample takes part, 0..1 (all of it where left out). */
export interface Erodible {
  nx: number;
  ny: number;
  heights: Float64Array;
  share?: Float32Array;
}

/** The eight about a sample: along x, along y, and how many spacings away. */
const DI = Int32Array.of(1, -1, 0, 0, 1, -1, 1, -1);
const DJ = Int32Array.of(0, 0, 1, -1, 1, 1, -1, -1);
const FAR = Float64Array.of(1, 1, 1, 1, Math.SQRT2, Math.SQRT2, Math.SQRT2, Math.SQRT2);

/** Share of the excess that slides in one step: above a half, samples would swing. */
const SLIDE = 0.25;

/**
 * One step of sliding.
 *
 * @param rest angle of rest in degrees
 * @param strength 0..1
 */
export function slide({ nx, ny, heights, share }: Erodible, spacing: number, rest: number, strength: number): void {
  const drop = Math.tan((rest * Math.PI) / 180) * spacing;
  const moved = new Float64Array(nx * ny);
  const excess = new Float64Array(DI.length);
  // Plain loops over numbers: millions of samples a step.
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const k = j * nx + i;
      if (share && share[k] === 0) continue;
      const height = heights[k];
      const inside = i > 0 && j > 0 && i < nx - 1 && j < ny - 1;
      let sum = 0;
      let most = 0;
      for (let n = 0; n < DI.length; n++) {
        excess[n] = 0;
        if (!inside && (i + DI[n] < 0 || i + DI[n] >= nx || j + DJ[n] < 0 || j + DJ[n] >= ny)) continue;
        const other = k + DJ[n] * nx + DI[n];
        const over = (height - heights[other] - drop * FAR[n]) * (share ? share[other] : 1);
        if (over <= 0) continue;
        excess[n] = over;
        sum += over;
        if (over > most) most = over;
      }
      if (sum === 0) continue;
      const leaves = most * SLIDE * strength * (share ? share[k] : 1);
      moved[k] -= leaves;
      for (let n = 0; n < DI.length; n++) if (excess[n] > 0) moved[k + DJ[n] * nx + DI[n]] += (leaves * excess[n]) / sum;
    }
  for (let k = 0; k < moved.length; k++) heights[k] += moved[k];
}

const STEP = 0.02;
const GRAVITY = 9.81;
const RAIN = 0.012;
const DRIES = 0.015;
const CARRIES = 0.4;
const TAKES = 0.4;
const DROPS = 0.5;
const LEAST_TILT = 0.05;

/** Rain on a grid, which keeps its water and what that carries between steps. */
export class Rain {
  private readonly water: Float64Array;
  private readonly carried: Float64Array;
  /** Flow to the west, east, south and north, four numbers a sample. */
  private readonly flow: Float64Array;

  constructor(
    private readonly grid: Erodible,
    private readonly spacing: number,
    private readonly strength: number,
  ) {
    const size = grid.nx * grid.ny;
    this.water = new Float64Array(size);
    this.carried = new Float64Array(size);
    this.flow = new Float64Array(size * 4);
  }

  step(): void {
    const { nx, ny, heights, share } = this.grid;
    const { water, carried, flow, spacing } = this;
    const size = nx * ny;
    const area = spacing * spacing;
    for (let k = 0; k < size; k++) water[k] += RAIN * STEP * 10 * (share ? share[k] : 1);
    const sides = [-1, 1, -nx, nx];
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        const k = j * nx + i;
        const surface = heights[k] + water[k];
        let total = 0;
        for (let n = 0; n < 4; n++) {
          const open = n === 0 ? i > 0 : n === 1 ? i < nx - 1 : n === 2 ? j > 0 : j < ny - 1;
          const other = k + sides[n];
          const flows = open ? Math.max(0, flow[k * 4 + n] + STEP * GRAVITY * spacing * (surface - heights[other] - water[other])) : 0;
          flow[k * 4 + n] = flows;
          total += flows;
        }
        // No more may leave than is there.
        const most = total > 0 ? Math.min(1, (water[k] * area) / (total * STEP)) : 1;
        if (most < 1) for (let n = 0; n < 4; n++) flow[k * 4 + n] *= most;
      }
    const newWater = water.slice();
    const newCarried = carried.slice();
    for (let k = 0; k < size; k++) {
      if (water[k] <= 0) continue;
      for (let n = 0; n < 4; n++) {
        const part = flow[k * 4 + n];
        if (part === 0) continue;
        const leaves = (part * STEP) / area;
        const takes = carried[k] * Math.min(1, leaves / water[k]);
        newWater[k] -= leaves;
        newCarried[k] -= takes;
        newWater[k + sides[n]] += leaves;
        newCarried[k + sides[n]] += takes;
      }
    }
    water.set(newWater);
    carried.set(newCarried);
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        const k = j * nx + i;
        const w = i > 0 ? k - 1 : k;
        const e = i < nx - 1 ? k + 1 : k;
        const s = j > 0 ? k - nx : k;
        const n = j < ny - 1 ? k + nx : k;
        const dx = (heights[e] - heights[w]) / (2 * spacing);
        const dy = (heights[n] - heights[s]) / (2 * spacing);
        const square = dx * dx + dy * dy;
        const along = flow[k * 4 + 1] - flow[k * 4];
        const across = flow[k * 4 + 3] - flow[k * 4 + 2];
        const speed = water[k] > 1e-6 ? Math.sqrt(along * along + across * across) / (spacing * (water[k] + 0.05)) : 0;
        // The sine of the slope: sin(atan t) = t / √(1 + t²).
        const room = CARRIES * Math.max(LEAST_TILT, Math.sqrt(square / (1 + square))) * Math.min(4, speed) * Math.min(1, water[k] * 8);
        const part = (share ? share[k] : 1) * this.strength;
        if (room > carried[k]) {
          // A sample gives no more than brings it down to its lowest neighbour: rain makes no pits.
          const above = heights[k] - Math.min(heights[w], heights[e], heights[s], heights[n]);
          const takes = Math.min(Math.max(0, above) / 2, (room - carried[k]) * TAKES * STEP * 10) * part;
          heights[k] -= takes;
          carried[k] += takes;
        } else {
          const drops = (carried[k] - room) * DROPS * STEP * 10;
          heights[k] += drops;
          carried[k] -= drops;
        }
        water[k] *= 1 - DRIES;
      }
  }

  /** Lets everything settle that is under way. */
  settle(): void {
    const { heights } = this.grid;
    for (let k = 0; k < heights.length; k++) {
      heights[k] += this.carried[k];
      this.carried[k] = 0;
    }
  }
}

/** Called with what is done, 0..1, after every step; may throw to stop. */
export function erodeGrid(
  grid: Erodible,
  spacing: number,
  { kind, steps, strength, rest }: { kind: 'thermal' | 'hydraulic'; steps: number; strength: number; rest: number },
  onStep: (done: number) => void = () => {},
): void {
  const rain = kind === 'hydraulic' ? new Rain(grid, spacing, strength) : null;
  for (let n = 0; n < steps; n++) {
    if (rain) rain.step();
    else slide(grid, spacing, rest, strength);
    onStep((n + 1) / steps);
  }
  rain?.settle();
}
