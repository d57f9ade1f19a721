/** Free room in a bank, and who has what: nothing that is written ever lies over something else. */

import type { BankLayout } from './layout.ts';

export interface Span {
  from: number;
  /** Without it. */
  to: number;
}

/** Taken pieces of a file, in order, none over another. */
export class Ledger {
  private readonly spans: Span[] = [];

  /** All at once, which may overlap: what was read lies as it lies. */
  static of(spans: readonly Span[]): Ledger {
    const ledger = new Ledger();
    for (const { from, to } of [...spans].sort((a, b) => a.from - b.from)) {
      const last = ledger.spans.at(-1);
      if (to <= from) continue;
      if (last && from <= last.to) last.to = Math.max(last.to, to);
      else ledger.spans.push({ from, to });
    }
    return ledger;
  }

  /** The first span that ends after a place. */
  private find(place: number): number {
    let [low, high] = [0, this.spans.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.spans[middle].to <= place) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Whether nothing is taken between two places. */
  isFree(from: number, to: number): boolean {
    const next = this.spans[this.find(from)];
    return !next || next.from >= to;
  }

  /** @returns whether it was free, and is taken now */
  take(from: number, to: number): boolean {
    if (to <= from) return true;
    if (!this.isFree(from, to)) return false;
    this.spans.splice(this.find(from), 0, { from, to });
    return true;
  }

  /** Takes what may overlap others: what was read lies as it lies. */
  takeOver(from: number, to: number): void {
    let at = from;
    while (at < to) {
      const next = this.spans[this.find(at)];
      if (next && next.from <= at) at = next.to;
      else {
        const end = Math.min(to, next?.from ?? to);
        this.take(at, end);
        at = end;
      }
    }
  }

  /** The first taken place at or after one; Infinity where there is none. */
  nextTaken(place: number): number {
    const next = this.spans[this.find(place)];
    return next ? Math.max(place, next.from) : Infinity;
  }

  /** Where what is taken at a place ends; the place itself where nothing is. */
  endOf(place: number): number {
    const next = this.spans[this.find(place)];
    return next && next.from <= place ? next.to : place;
  }

  list(): readonly Span[] {
    return this.spans;
  }
}

/**
 * Runs of the fill byte within the allowed regions that nothing claims, the margin after what is used left out. In linear time.
 *
 * @param taken what is known of the file
 */
export function freeRuns(bytes: Uint8Array, { free: { fill, regions, margin = 0 } }: Pick<BankLayout, 'free'>, taken: Ledger): Span[] {
  const runs: Span[] = [];
  const claims = taken.list();
  for (const [start, stop] of regions) {
    const end = Math.min(stop, bytes.length);
    let at = start;
    let claim = claims.findIndex((one) => one.to > start);
    if (claim < 0) claim = claims.length;
    while (at < end) {
      while (claim < claims.length && claims[claim].to <= at) claim++;
      if (claim < claims.length && claims[claim].from <= at) {
        at = claims[claim].to;
        continue;
      }
      if (bytes[at] !== fill) {
        at = bytes.indexOf(fill, at);
        if (at < 0) break;
        continue;
      }
      const limit = Math.min(end, claims[claim]?.from ?? end);
      const to = endOfRun(bytes, at, limit, fill);
      // What is used before may go on with bytes that look like fill.
      const first = at === 0 || (at === start && bytes[at - 1] === fill && taken.isFree(at - 1, at));
      const from = first ? at : at + margin;
      if (to > from) runs.push({ from, to });
      at = to;
    }
  }
  return runs;
}

/** The first byte from a place on that is another one: four at a time where the run is long. */
function endOfRun(bytes: Uint8Array, from: number, limit: number, fill: number): number {
  let at = from;
  while (at < limit && (bytes.byteOffset + at) % 4 !== 0 && bytes[at] === fill) at++;
  if ((bytes.byteOffset + at) % 4 === 0) {
    const words = new Uint32Array(bytes.buffer, bytes.byteOffset + at, (limit - at) >> 2);
    const four = (fill * 0x01010101) >>> 0;
    let n = 0;
    while (n < words.length && words[n] === four) n++;
    at += n * 4;
  }
  while (at < limit && bytes[at] === fill) at++;
  return at;
}

/**
 * The first place in free runs for so many bytes; null where none is large enough. What it takes is taken off the runs.
 *
 * @param align its place is a multiple of this
 * @param window bytes of the windows that it may not lie across; 0 where there are none
 * @param below where it may not reach, since no pointer leads there
 */
export function placeFor(
  runs: Span[],
  size: number,
  { align = 1, window = 0, below = Infinity }: { align?: number; window?: number; below?: number } = {},
): number | null {
  for (const [n, run] of runs.entries()) {
    let at = Math.ceil(run.from / align) * align;
    if (window > 0 && Math.floor(at / window) !== Math.floor((at + size - 1) / window))
      at = Math.ceil((Math.ceil(at / window) * window) / align) * align;
    if (at + size > run.to || at >= below || (window > 0 && size > window)) continue;
    runs.splice(
      n,
      1,
      ...[
        { from: run.from, to: at },
        { from: at + size, to: run.to },
      ].filter(({ from, to }) => Math.ceil(from / align) * align < to),
    );
    return at;
  }
  return null;
}
