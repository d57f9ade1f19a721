import { useLayoutEffect, useRef, useState, type KeyboardEvent, type MouseEvent } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { LibraryEntry } from '@violet-crate/core/library/library';
import { bytes } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { KIND_ICONS, Thumb } from '../common/Thumb.tsx';
import type { AssetSource } from '../api/assetUrl.ts';

export interface LibraryLook {
  list: boolean;
  /** Pixels of a picture. */
  size: number;
}

interface Props {
  entries: readonly LibraryEntry[];
  source: AssetSource;
  look: LibraryLook;
  current: string;
  picked: ReadonlySet<string>;
  onOpen(id: string): void;
  onPick(picked: ReadonlySet<string>): void;
  onRemove(): void;
}

const ROW = 34;
const LABEL = 40;
const GAP = 8;

/** Only rows in view are in the page, so that thousands of assets scroll as a few do. */
export function LibraryGrid({ entries, source, look, current, picked, onOpen, onPick, onRemove }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(600);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    observer.observe(host.current!);
    return () => observer.disconnect();
  }, []);
  const columns = look.list ? 1 : Math.max(1, Math.floor((width - GAP) / (look.size + GAP)));
  const rowHeight = look.list ? ROW : look.size + LABEL + GAP;
  const rows = useVirtualizer({
    count: Math.ceil(entries.length / columns),
    getScrollElement: () => host.current,
    estimateSize: () => rowHeight,
    overscan: 3,
  });
  const { measure, scrollToIndex } = rows;
  useLayoutEffect(() => measure(), [measure, rowHeight, columns]);
  const at = entries.findIndex((entry) => entry.id === current);
  useLayoutEffect(() => {
    if (at >= 0) scrollToIndex(Math.floor(at / columns));
  }, [scrollToIndex, at, columns]);

  const onKeyDown = (event: KeyboardEvent) => {
    const steps: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -columns, ArrowDown: columns };
    if (event.key === 'Delete' && picked.size > 0) return onRemove();
    const step = steps[event.key];
    if (!step) return;
    event.preventDefault();
    const next = entries[Math.min(entries.length - 1, Math.max(0, at + step))];
    if (!next) return;
    onOpen(next.id);
    requestAnimationFrame(() => host.current?.querySelector<HTMLElement>('[aria-current="true"]')?.focus());
  };
  const onClick = (event: MouseEvent, entry: LibraryEntry) => {
    if ((event.ctrlKey || event.metaKey) && entry.origin === 'crate') {
      const next = new Set(picked.size === 0 && current ? [current] : picked);
      if (next.has(entry.id) && picked.size > 0) next.delete(entry.id);
      else next.add(entry.id);
      return onPick(next);
    }
    onPick(new Set());
    onOpen(entry.id);
  };

  return (
    <div ref={host} className="library-grid" onKeyDown={onKeyDown} data-testid="library">
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map((row) => (
          <div
            key={row.key}
            className={look.list ? 'list-row' : 'grid-row'}
            style={{ transform: `translateY(${row.start}px)`, height: row.size, gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}
          >
            {entries.slice(row.index * columns, (row.index + 1) * columns).map((entry) => (
              <Cell
                key={entry.id}
                entry={entry}
                source={source}
                look={look}
                current={entry.id === current}
                picked={picked.has(entry.id)}
                onClick={(event) => onClick(event, entry)}
              />
            ))}
          </div>
        ))}
      </div>
    </div>
  );
}

interface CellProps {
  entry: LibraryEntry;
  source: AssetSource;
  look: LibraryLook;
  current: boolean;
  picked: boolean;
  onClick(event: MouseEvent): void;
}

function Cell({ entry, source, look, current, picked, onClick }: CellProps) {
  const worst = entry.findings.some((f) => f.severity === 'blocker')
    ? 'blocker'
    : entry.findings.some((f) => f.severity === 'warning')
      ? 'warning'
      : null;
  const marks = (
    <>
      {entry.stale && (
        <span className="mark warm">
          <Icon name="clock-history" /> stale
        </span>
      )}
      {entry.placeholder && (
        <span className="mark">
          <Icon name="cone-striped" /> placeholder
        </span>
      )}
      {worst && (
        <span className={`mark ${worst === 'blocker' ? 'block' : 'warm'}`}>
          <Icon name={worst === 'blocker' ? 'x-octagon' : 'exclamation-triangle'} /> {entry.findings.length}
        </span>
      )}
    </>
  );
  const picture = <Thumb entry={entry} source={source} size={look.list ? 24 : look.size} />;
  return (
    <button
      className={`cell ${picked ? 'picked' : ''}`}
      aria-current={current}
      aria-pressed={picked || undefined}
      onClick={onClick}
      title={`${entry.name} · ${entry.kind}${entry.origin === 'game' ? ' of the game, read-only' : ''}`}
    >
      {picture}
      <span className="name">
        <Icon name={KIND_ICONS[entry.kind]} /> {entry.name}
      </span>
      {look.list ? (
        <>
          <span className="marks">{marks}</span>
          <span className="faint">{entry.materialType || entry.kind}</span>
          <span className="faint">{entry.origin === 'game' ? 'game' : entry.pack || 'crate'}</span>
          <span className="faint">{entry.uses.length === 0 ? 'unused' : `used ${entry.uses.length}×`}</span>
          <span className="faint text-end">{entry.bytes > 0 ? bytes(entry.bytes) : ''}</span>
        </>
      ) : (
        <>
          <span className="faint sub">{entry.origin === 'game' ? 'game' : entry.uses.length === 0 ? 'unused' : `used ${entry.uses.length}×`}</span>
          <span className="marks">{marks}</span>
        </>
      )}
    </button>
  );
}
