import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { Piece } from '@violet-crate/core/bank/bankMap';
import type { BankDocument } from '@violet-crate/core/bank/document';
import { editByte, withBytes } from '@violet-crate/core/bank/editBytes';
import type { BankLayout } from '@violet-crate/core/bank/layout';
import { message, request } from '../api/http.ts';
import { Busy, Trouble } from '../common/Busy.tsx';

const ROW = 22;
const WIDE = 16;

interface Props {
  crateId: string;
  bank: string;
  layout: BankLayout;
  document: BankDocument;
  pieces: readonly Piece[];
  /** The byte that is looked at, and typed over. */
  chosen: number | null;
  choose(at: number): void;
  readOnly: boolean;
  change(document: BankDocument): void;
  refused(why: string): void;
}

const MOVES: Record<string, number> = {
  ArrowLeft: -1,
  ArrowRight: 1,
  ArrowUp: -WIDE,
  ArrowDown: WIDE,
  PageUp: -16 * WIDE,
  PageDown: 16 * WIDE,
};

/** The bytes of a bank, sixteen a line, each coloured and named by what it is part of; two digits set the chosen one. */
export function HexView({ crateId, bank, layout, document, pieces, chosen, choose, readOnly, change, refused }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const [read, setRead] = useState<Uint8Array | null>(null);
  const [problem, setProblem] = useState('');
  const [digit, setDigit] = useState('');
  const bytes = useMemo(() => read && withBytes(read, layout, document), [read, layout, document]);
  useEffect(() => {
    let gone = false;
    request(`/api/crates/${crateId}/banks/${bank}/bytes`)
      .then((answer) => answer.arrayBuffer())
      .then((buffer) => !gone && setRead(new Uint8Array(buffer)))
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
    setDigit('');
    if (chosen !== null && read) virtual.scrollToIndex(Math.floor(chosen / WIDE), { align: 'auto' });
    // Only when another place is chosen.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [chosen, read]);
  if (problem) return <Trouble>{problem}</Trouble>;
  if (!read || !bytes) return <Busy what="Reading the bytes" />;
  const press = (event: KeyboardEvent): void => {
    const whole = event.ctrlKey || event.metaKey;
    if (event.altKey || (whole && !['Home', 'End'].includes(event.key))) return;
    const at = chosen ?? 0;
    if (whole) choose(event.key === 'Home' ? 0 : bytes.length - 1);
    else if (Object.hasOwn(MOVES, event.key)) choose(Math.max(0, Math.min(bytes.length - 1, at + MOVES[event.key])));
    else if (event.key === 'Home') choose(at - (at % WIDE));
    else if (event.key === 'End') choose(Math.min(bytes.length - 1, at - (at % WIDE) + WIDE - 1));
    else if (event.key === 'Escape') setDigit('');
    else if (/^[0-9a-f]$/i.test(event.key) && !readOnly) {
      if (digit === '') setDigit(event.key.toLowerCase());
      else {
        setDigit('');
        try {
          change(editByte(read, layout, document, at, parseInt(digit + event.key, 16)));
          refused('');
          choose(Math.min(bytes.length - 1, at + 1));
        } catch (error) {
          refused(message(error));
        }
      }
    } else return;
    event.preventDefault();
  };
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
    <div className="hex" ref={scroller} tabIndex={0} role="application" aria-label="Bytes" aria-describedby="byte-told" onKeyDown={press}>
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
                  const at = from + k;
                  const on = chosen !== null && chosen >= piece.from && chosen < piece.to;
                  const set = byte !== read[at];
                  const shown = at === chosen && digit !== '' ? `${digit}_` : byte.toString(16).padStart(2, '0');
                  return (
                    <span
                      key={k}
                      className={`byte piece-of-${piece.kind} ${on ? 'on' : ''} ${at === chosen ? 'here' : ''} ${set ? 'set' : ''}`}
                      title={`${piece.what}, byte ${at}${set ? `, was ${read[at].toString(16).padStart(2, '0')}` : ''}`}
                      onClick={() => choose(at)}
                    >
                      {shown}
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
