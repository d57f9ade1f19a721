import { useState } from 'react';
import type { Piece } from '@violet-crate/core/bank/bankMap';
import { bytes } from '../common/format.ts';

const WORDS: Record<Piece['kind'], string> = {
  section: 'rows',
  block: 'what they point at',
  pointer: 'pointers',
  count: 'counts',
  checksum: 'checksums',
  free: 'free',
  unknown: 'unknown',
};

interface Props {
  pieces: readonly Piece[];
  size: number;
  chosen: number | null;
  choose(piece: Piece): void;
}

/** What lies where in a bank: a strip from its first byte to its last, which can be looked at nearer, and the same as a list. */
export function BankStrip({ pieces, size, chosen, choose }: Props) {
  const [[from, to], setWindow] = useState<[number, number]>([0, size]);
  const zoom = (factor: number) => {
    // Without a choice one goes to what is known, not into the free room that most of it is.
    const known = pieces.find((piece) => piece.to > from && piece.from < to && piece.kind !== 'free');
    const middle = chosen ?? known?.from ?? (from + to) / 2;
    const half = Math.max(32, ((to - from) * factor) / 2);
    const start = Math.max(0, Math.min(size - half * 2, middle - half));
    setWindow([Math.floor(start), Math.min(size, Math.ceil(start + half * 2))]);
  };
  const seen = pieces.filter((piece) => piece.to > from && piece.from < to);
  return (
    <section className="bank-map" aria-label="What lies where">
      <div className="d-flex gap-2 align-items-center mb-1">
        <ul className="bank-legend">
          {Object.entries(WORDS).map(([kind, word]) => (
            <li key={kind}>
              <svg width="14" height="14" aria-hidden="true">
                <rect width="14" height="14" className={`piece-${kind}`} />
              </svg>{' '}
              {word}
            </li>
          ))}
        </ul>
        <span className="faint small mono ms-auto">
          {from} – {to}
        </span>
        <button className="btn btn-quiet btn-sm" onClick={() => zoom(0.25)}>
          Nearer
        </button>
        <button className="btn btn-quiet btn-sm" onClick={() => zoom(4)}>
          Farther
        </button>
        <button className="btn btn-quiet btn-sm" onClick={() => setWindow([0, size])}>
          All
        </button>
      </div>
      <svg className="bank-strip" viewBox={`0 0 1000 40`} preserveAspectRatio="none" role="img" aria-label={`Bytes ${from} to ${to}`}>
        <defs>
          <pattern id="bank-unknown" width="6" height="6" patternUnits="userSpaceOnUse">
            <path d="M0 6 L6 0" className="hatch" />
          </pattern>
        </defs>
        {seen.map((piece) => {
          const x = ((Math.max(from, piece.from) - from) / (to - from)) * 1000;
          const width = Math.max(0.6, ((Math.min(to, piece.to) - Math.max(from, piece.from)) / (to - from)) * 1000);
          const on = chosen !== null && chosen >= piece.from && chosen < piece.to;
          return (
            <g key={piece.from} onClick={() => choose(piece)}>
              <rect x={x} y={on ? 0 : 6} width={width} height={on ? 40 : 28} className={`piece-${piece.kind}`}>
                <title>{`${piece.what}: ${piece.to - piece.from} bytes at ${piece.from}`}</title>
              </rect>
              {piece.kind === 'unknown' && (
                <rect x={x} y={on ? 0 : 6} width={width} height={on ? 40 : 28} fill="url(#bank-unknown)" pointerEvents="none" />
              )}
            </g>
          );
        })}
      </svg>
      <div className="bank-pieces">
        <table className="table table-sm mb-0">
          <thead>
            <tr>
              <th className="text-end">From</th>
              <th className="text-end">Bytes</th>
              <th>What</th>
            </tr>
          </thead>
          <tbody>
            {seen.slice(0, 400).map((piece) => (
              <tr key={piece.from} className={chosen !== null && chosen >= piece.from && chosen < piece.to ? 'table-active' : ''}>
                <td className="text-end mono">{piece.from}</td>
                <td className="text-end">{bytes(piece.to - piece.from)}</td>
                <td>
                  <button className="bank-name" onClick={() => choose(piece)}>
                    {piece.what}
                  </button>{' '}
                  {piece.what !== WORDS[piece.kind] && <span className="faint">{WORDS[piece.kind]}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {seen.length > 400 && <p className="faint small m-1">Look nearer for the other {seen.length - 400}.</p>}
      </div>
    </section>
  );
}
