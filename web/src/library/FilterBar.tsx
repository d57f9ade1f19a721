import { useMemo } from 'react';
import { ASSET_KINDS, ASSETS, type AssetKind } from '@violet-crate/core/crate/assetKind';
import { NO_FILTER, type LibraryEntry, type LibraryFilter } from '@violet-crate/core/library/library';
import { Icon } from '../common/Icon.tsx';
import { KIND_ICONS } from '../common/Thumb.tsx';
import type { LibraryLook } from './LibraryGrid.tsx';

const KIND_WORDS: Record<LibraryEntry['kind'], string> = {
  ...(Object.fromEntries(ASSET_KINDS.map((kind) => [kind, ASSETS[kind].words])) as Record<AssetKind, string>),
  material: 'Materials',
};

interface Props {
  entries: readonly LibraryEntry[];
  filter: LibraryFilter;
  onChange(filter: LibraryFilter): void;
  look: LibraryLook;
  onLook(look: LibraryLook): void;
  found: number;
}

/** Searching and narrowing down; every filter shows only what there is. */
export function FilterBar({ entries, filter, onChange, look, onLook, found }: Props) {
  const set = (change: Partial<LibraryFilter>) => onChange({ ...filter, ...change });
  const { kinds, types, packs } = useMemo(
    () => ({
      kinds: (Object.keys(KIND_WORDS) as LibraryEntry['kind'][]).map((kind) => ({ kind, count: entries.filter((e) => e.kind === kind).length })),
      types: [...new Set(entries.map((e) => e.materialType).filter(Boolean))].sort(),
      packs: [...new Set(entries.map((e) => e.pack).filter(Boolean))].sort(),
    }),
    [entries],
  );
  const select = (id: string, label: string, value: string, options: [string, string][], change: (value: string) => void) => (
    <>
      <label className="visually-hidden" htmlFor={`filter-${id}`}>
        {label}
      </label>
      <select id={`filter-${id}`} className="form-select w-auto" value={value} onChange={(event) => change(event.target.value)}>
        {options.map(([key, word]) => (
          <option key={key} value={key}>
            {word}
          </option>
        ))}
      </select>
    </>
  );
  const toggle = (on: boolean, label: string, icon: string, change: () => void) => (
    <button className="btn btn-quiet btn-sm" aria-pressed={on} onClick={change}>
      <Icon name={icon} /> {label}
    </button>
  );
  const filtered = JSON.stringify(filter) !== JSON.stringify(NO_FILTER);
  return (
    <div className="library-filters" role="search">
      <div className="search">
        <Icon name="search" />
        <input
          type="search"
          className="form-control"
          aria-label="Search the library"
          placeholder="Search names, packs, types"
          value={filter.query}
          onChange={(event) => set({ query: event.target.value })}
        />
      </div>
      <div className="kinds" role="group" aria-label="Kind">
        {kinds.map(({ kind, count }) => (
          <button
            key={kind}
            className="btn btn-quiet btn-sm"
            aria-pressed={filter.kind === kind}
            onClick={() => set({ kind: filter.kind === kind ? '' : kind })}
          >
            <Icon name={KIND_ICONS[kind]} /> {KIND_WORDS[kind]} <span className="faint">{count}</span>
          </button>
        ))}
      </div>
      {select(
        'origin',
        'Origin',
        filter.origin,
        [
          ['', 'Crate and game'],
          ['crate', 'This crate'],
          ['game', 'The game'],
        ],
        (value) => set({ origin: value as LibraryFilter['origin'] }),
      )}
      {select(
        'use',
        'Use',
        filter.use,
        [
          ['', 'Used or not'],
          ['used', 'Used'],
          ['unused', 'Unused'],
        ],
        (value) => set({ use: value as LibraryFilter['use'] }),
      )}
      {select('type', 'Material type', filter.materialType, [['', 'Any type'], ...types.map((t): [string, string] => [t, t])], (value) =>
        set({ materialType: value }),
      )}
      {select('pack', 'Pack', filter.pack, [['', 'Any pack'], ...packs.map((p): [string, string] => [p, p])], (value) => set({ pack: value }))}
      {toggle(filter.onlyFindings, 'With findings', 'exclamation-triangle', () => set({ onlyFindings: !filter.onlyFindings }))}
      {toggle(filter.onlyStale, 'Stale', 'clock-history', () => set({ onlyStale: !filter.onlyStale }))}
      {filtered && (
        <button className="btn btn-quiet btn-sm" onClick={() => onChange(NO_FILTER)}>
          Show all
        </button>
      )}
      <span className="flex-grow-1" />
      <span className="faint small" role="status">
        {found} of {entries.length}
      </span>
      <label className="visually-hidden" htmlFor="library-size">
        Size of the pictures
      </label>
      <input
        id="library-size"
        type="range"
        className="form-range"
        min={80}
        max={200}
        step={8}
        value={look.size}
        disabled={look.list}
        onChange={(event) => onLook({ ...look, size: Number(event.target.value) })}
      />
      <button className="btn btn-quiet btn-sm" aria-pressed={look.list} onClick={() => onLook({ ...look, list: !look.list })} title="As a list">
        <Icon name="list-ul" /> List
      </button>
    </div>
  );
}
