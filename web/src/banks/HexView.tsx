import { useEffect, useRef, useState } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { Piece } from '@violet-crate/core/bank/bankMap';
import { message, request } from '../api/http.ts';
import { Busy, Trouble } from '../common/Busy.tsx';

const ROW = 22;
const WIDE = 16;

interface Props {
  crateId: string;
  bank: string;
  pieces: readonly Piece[];
  chosen: number | null;
  choose(piece: Piece): void;
}

/** The bytes of a bank, sixteen a line, each coloured and named by what it is part of. */
export function HexView({ crateId, bank, pieces, chosen, choose }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const [bytes, setBytes] = useState<Uint8Array | null>(null);
  const [problem, setProblem] = useState('');
  useEffect(() => {
    let gone = false;
    request(`/api/crates/${crateId}/banks/${bank}/bytes`)
      .then((answer) => answer.arrayBuffer())
      .then((buffer) => !gone && setBytes(new Uint8Array(buffer)))
      .catch((error) => !gone && setProblem(message(error)));
    return () => {
      gone = true;
    };
  }, [crateId, bank, pieces]);
  const virtual = useVirtualizer({
    count: Math.ceil((bytes?.length ?? 0) / WIDE),
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  useEffect(() => {
    if (chosen !== null && bytes) virtual.scrollToIndex(Math.floor(chosen / WIDE), { align: 'center' });
    // Only when another place is chosen.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [chosen, bytes]);
  if (problem) return <Trouble>{problem}</Trouble>;
  if (!bytes) return <Busy what="Reading the bytes" />;
  const pieceAt = (at: number): Piece => {
    let [low, high] = [0, pieces.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (pieces[middle].from <= at) low = middle;
      else high = middle - 1;
    }
    return pieces[low];
  };
  return (
    <div className="hex" ref={scroller} tabIndex={0} role="region" aria-label="Bytes">
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const from = index * WIDE;
          const line = Array.from(bytes.subarray(from, from + WIDE));
          const begun = [...new Set(line.map((_, k) => pieceAt(from + k)))].filter((piece) => piece.from >= from).map(({ what }) => what);
          return (
            <div key={index} className="hex-line mono" style={{ transform: `translateY(${start}px)` }}>
              <span className="faint">{from.toString(16).padStart(6, '0')}</span>
              <span>
                {line.map((byte, k) => {
                  const piece = pieceAt(from + k);
                  const on = chosen !== null && chosen >= piece.from && chosen < piece.to;
                  return (
                    <span
                      key={k}
                      className={`byte piece-of-${piece.kind} ${on ? 'on' : ''}`}
                      title={`${piece.what}, byte ${from + k}`}
                      onClick={() => choose(piece)}
                    >
                      {byte.toString(16).padStart(2, '0')}
                    </span>
                  );
                })}
              </span>
              <span className="faint hex-what">{begun.join(', ')}</span>
            </div>
          );
        })}
      </div>
    </div>
  );
}
