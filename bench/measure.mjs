/** Runs two pieces of work in turn, A B A B …, and compares them pair by pair: machine drift cancels out. */
export async function compare(name, rounds, ours, reference) {
  await ours();
  await reference();
  const ratios = [];
  const times = { ours: [], reference: [] };
  for (let i = 0; i < rounds; i++) {
    const a = await timed(ours);
    const b = await timed(reference);
    times.ours.push(a);
    times.reference.push(b);
    ratios.push(a / b);
  }
  const row = {
    name,
    ratio: median(ratios),
    low: Math.min(...ratios),
    high: Math.max(...ratios),
    ours: median(times.ours),
    reference: median(times.reference),
  };
  console.log(
    `${name}: ${row.ratio.toFixed(2)} × the reference's time (${row.low.toFixed(2)} to ${row.high.toFixed(2)}); ours ${row.ours.toFixed(1)} ms, reference ${row.reference.toFixed(1)} ms`,
  );
  return row;
}

/** Processor time of some work in milliseconds. */
export async function timed(work) {
  const start = process.cpuUsage();
  await work();
  const { user, system } = process.cpuUsage(start);
  return (user + system) / 1000;
}

const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];

/** A small seeded generator (mulberry32), so that every run measures the same work. */
export function seeded(seed) {
  let s = seed;
  return () => {
    s = (s + 0x6d2b79f5) | 0;
    let t = Math.imul(s ^ (s >>> 15), 1 | s);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
