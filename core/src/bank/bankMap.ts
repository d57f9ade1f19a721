/** What lies where in a bank, from its first byte to its last. */

import type { BankLayout } from './layout.ts';
import type { BankRead, Claim } from './read.ts';
import { freeRuns, Ledger } from './room.ts';

export interface Piece {
  from: number;
  /** Without it. */
  to: number;
  kind: Claim['kind'] | 'free' | 'unknown';
  what: string;
  section?: string;
  block?: string;
}

/** Pieces one after the other without gaps. Where things overlap, as texts that share their ends, the longer one is told whole. */
export function mapOfBank(bytes: Uint8Array, layout: BankLayout, { claims }: Pick<BankRead, 'claims'>): Piece[] {
  const taken = new Ledger();
  const pieces: Piece[] = [];
  for (const { from, to, kind, what, section, block } of [...claims].sort((a, b) => a.from - b.from || b.to - a.to)) {
    const start = Math.max(from, pieces.at(-1)?.to ?? 0);
    if (to <= start) continue;
    taken.takeOver(start, to);
    pieces.push({ from: start, to, kind, what, ...(section === undefined ? {} : { section }), ...(block === undefined ? {} : { block }) });
  }
  const free = freeRuns(bytes, layout, taken);
  const all: Piece[] = [];
  let at = 0;
  const rest = [...pieces, ...free.map((run): Piece => ({ ...run, kind: 'free', what: 'free' }))].sort((a, b) => a.from - b.from);
  for (const piece of [...rest, { from: bytes.length, to: bytes.length, kind: 'free', what: '' } as Piece]) {
    if (piece.from > at) all.push({ from: at, to: piece.from, kind: 'unknown', what: 'unknown' });
    if (piece.to > piece.from) all.push(piece);
    at = Math.max(at, piece.to);
  }
  return all;
}

/** The row that a piece is of, by what it is called: names of pieces begin with their section, and the number of the row. */
export function rowOfPiece(layout: BankLayout, { what, kind, section }: Piece): { section: string; n: number } | null {
  if (kind === 'section' && section !== undefined) return { section, n: 0 };
  const [, name, number] = /^([a-z][a-z0-9_]*) (\d+)/.exec(what) ?? [];
  return name && layout.sections.some((one) => one.name === name) ? { section: name, n: Number(number) - 1 } : null;
}

/** Bytes by kind. */
export function bankUse(pieces: readonly Piece[]): Record<Piece['kind'], number> {
  const use = { section: 0, block: 0, pointer: 0, count: 0, checksum: 0, free: 0, unknown: 0 };
  for (const { kind, from, to } of pieces) use[kind] += to - from;
  return use;
}
