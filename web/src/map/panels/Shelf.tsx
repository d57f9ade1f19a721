import { useMemo, useRef, useState } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { NO_FILTER, searchLibrary, type LibraryEntry } from '@violet-crate/core/library/library';
import { ASSET_DRAG } from '../../common/assetDrag.ts';
import { Icon } from '../../common/Icon.tsx';
import { KIND_ICONS, Thumb } from '../../common/Thumb.tsx';
import { useAssetSource, useLibrary } from '../../common/useLibrary.ts';

const ROW = 46;
/** What can be put into a map. */
const PLACEABLE = ['model', 'material', 'sound'];

interface Props {
  /** What a click or Enter on an entry does. */
  onUse(entry: LibraryEntry): void;
  onClose(): void;
}

/** The library beside the plan: drag a model or sound to place it, a material onto what it shall cover. */
export function Shelf({ onUse, onClose }: Props) {
  const entries = useLibrary();
  const source = useAssetSource();
  const [query, setQuery] = useState('');
  const found = useMemo(() => searchLibrary(entries, { ...NO_FILTER, query }).filter((entry) => PLACEABLE.includes(entry.kind)), [entries, query]);
  const host = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({ count: found.length, getScrollElement: () => host.current, estimateSize: () => ROW, overscan: 4 });
  if (!source) return null;
  return (
    <aside className="shelf" aria-label="Library">
      <div className="d-flex gap-1 p-1">
        <input
          type="search"
          className="form-control form-control-sm"
          aria-label="Search the library"
          placeholder="Search"
          autoFocus
          value={query}
          onChange={(event) => setQuery(event.target.value)}
        />
        <button className="btn btn-quiet btn-sm" aria-label="Close the library" onClick={onClose}>
          <Icon name="x-lg" />
        </button>
      </div>
      <div ref={host} className="shelf-list">
        <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
          {rows.getVirtualItems().map((row) => {
            const entry = found[row.index];
            return (
              <button
                key={entry.id}
                className="shelf-entry"
                style={{ transform: `translateY(${row.start}px)`, height: ROW }}
                draggable
                onDragStart={(event) => {
                  event.dataTransfer.setData(ASSET_DRAG, entry.id);
                  event.dataTransfer.effectAllowed = 'copy';
                }}
                onClick={() => onUse(entry)}
                title={
                  entry.kind === 'material'
                    ? 'Drag it onto a solid, or click to draw with it'
                    : 'Drag it into the plan, or click and then click in the plan'
                }
              >
                <Thumb entry={entry} source={source} size={38} />
                <span className="text-truncate">
                  <Icon name={KIND_ICONS[entry.kind]} /> {entry.name}
                </span>
              </button>
            );
          })}
        </div>
        {found.length === 0 && <p className="faint p-2">Nothing matches.</p>}
      </div>
    </aside>
  );
}
