/**
 * A step of 100,000 particles against copying their columns once, which nothing that moves them can go below; what drawing takes of them; and the
 * ways of sound in a building of 500 cells.
 */
import { newEffect } from '@violet-crate/core/effect/document';
import { columnsFor, EmitterLook } from '@violet-crate/core/effect/look';
import { EffectPlay } from '@violet-crate/core/effect/play';
import { Hearing } from '@violet-crate/core/bed/hear';

const COUNT = 100_000;
const STEPS = 60;
const STAND = { position: [0, 0, 0], turn: 0 };
const AIR = { gravity: 314, wind: [50, 0, 0], below: () => 0 };
const median = (list) => [...list].sort((a, b) => a - b)[list.length >> 1];

function many(forces, ground = {}) {
  const effect = newEffect('many', 8);
  const [one] = effect.emitters;
  const emitter = { ...one, most: COUNT, rate: [[0, COUNT / 4]], life: [4, 4], forces, ground: { ...one.ground, ...ground } };
  return { ...effect, seconds: 10, emitters: [emitter] };
}

function stepOf(effect) {
  const play = new EffectPlay(effect);
  while (play.steps < 260) play.step(STAND, AIR);
  const times = Array.from({ length: STEPS }, () => {
    const start = performance.now();
    play.step(STAND, AIR);
    return performance.now() - start;
  });
  return { time: median(times), play };
}

/** Rooms of 10 in a grid, each open to its neighbours, under a tree of planes. */
function building(rooms) {
  const planes = [];
  const children = [];
  const cellOf = [];
  const split = (x0, x1, y0, y1) => {
    if (x1 - x0 === 1 && y1 - y0 === 1) {
      cellOf.push(x0 + y0 * rooms[0]);
      return -cellOf.length;
    }
    const at = planes.length / 4;
    const along = x1 - x0 >= y1 - y0;
    const middle = along ? (x0 + x1) >> 1 : (y0 + y1) >> 1;
    planes.push(along ? 1 : 0, along ? 0 : 1, 0, middle * 10);
    children.push(0, 0);
    children[at * 2] = along ? split(middle, x1, y0, y1) : split(x0, x1, middle, y1);
    children[at * 2 + 1] = along ? split(x0, middle, y0, y1) : split(x0, x1, y0, middle);
    return at;
  };
  split(0, rooms[0], 0, rooms[1]);
  const openings = [];
  for (let y = 0; y < rooms[1]; y++)
    for (let x = 0; x < rooms[0]; x++) {
      const cell = x + y * rooms[0];
      if (x > 0) openings.push({ a: cell - 1, b: cell, box: { min: [x * 10, y * 10 + 4, 0], max: [x * 10, y * 10 + 6, 2] } });
      if (y > 0) openings.push({ a: cell - rooms[0], b: cell, box: { min: [x * 10 + 4, y * 10, 0], max: [x * 10 + 6, y * 10, 2] } });
    }
  return { planes, children, cellOf, cells: rooms[0] * rooms[1], openings };
}

export function atmosphere() {
  const plain = stepOf(many({ gravity: 0.1, drag: 0.5, wind: 1 }));
  const falling = stepOf(many({ gravity: 0.1, drag: 0.5, wind: 1 }, { against: 'depth', bounce: 0.5 }));
  const turbulent = stepOf(many({ gravity: 0.1, drag: 0.5, wind: 1, turbulence: { speed: 20, size: 32, pace: 0.5 } }));
  const [pool] = plain.play.pools;
  const copy = new Float64Array(COUNT);
  const copied = median(
    Array.from({ length: STEPS }, () => {
      const start = performance.now();
      for (const column of [pool.x, pool.y, pool.z, pool.vx, pool.vy, pool.vz, pool.age, pool.life]) copy.set(column);
      return performance.now() - start;
    }),
  );
  const look = new EmitterLook(plain.play.effect.emitters[0]);
  const columns = columnsFor(COUNT);
  const drawn = median(
    Array.from({ length: STEPS }, () => {
      const start = performance.now();
      look.fill(pool, plain.play.seedOf(0), columns);
      return performance.now() - start;
    }),
  );
  const ratio = (time) => `${time.toFixed(1)} ms (${(time / copied).toFixed(1)} ×)`;
  console.log(
    `A step of 100,000 particles (reference: copying their columns, ${copied.toFixed(2)} ms): ${ratio(plain.time)}; onto the map ${ratio(falling.time)}; in turbulence ${ratio(turbulent.time)}; columns for drawing ${ratio(drawn)}`,
  );
  const cells = building([25, 20]);
  const areas = Array.from({ length: 12 }, (_, i) => ({
    id: `a${i}`,
    bed: 'Bed',
    box: { min: [(i * 20) % 250, ((i * 70) % 200) + 1, 0], max: [((i * 20) % 250) + 9, ((i * 70) % 200) + 9, 3] },
    near: 20,
    priority: 0,
  }));
  const ears = new Hearing({ areas, cells, metres: 1, lossAlong: () => 45 });
  const times = Array.from({ length: 400 }, (_, n) => {
    const start = performance.now();
    ears.at([(n * 7.3) % 250, (n * 3.1) % 200, 1]);
    return performance.now() - start;
  });
  console.log(`Ways of sound through 500 cells to 12 areas: ${median(times).toFixed(2)} ms, at most ${Math.max(...times.slice(20)).toFixed(2)} ms`);
}
