import { useEffect, useMemo, useRef, useState, type ClipboardEvent, type KeyboardEvent } from 'react';
import {
  columnFilteringFeature,
  createColumnHelper,
  createFilteredRowModel,
  createSortedRowModel,
  filterFns,
  globalFilteringFeature,
  rowSortingFeature,
  sortFns,
  tableFeatures,
  useTable,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Icon } from '../common/Icon.tsx';
import { readTabbed, writeTabbed } from './tabbed.ts';
import './records.css';

export interface RecordColumn {
  id: string;
  title: string;
  kind: 'number' | 'text' | 'choice' | 'list';
  /** Words for numbers. */
  choices?: Readonly<Record<string, string>>;
  /** Shown only. */
  fixed?: boolean;
}
export interface RecordRow {
  /** Its number in the list, whatever order is shown. */
  n: number;
  cells: Readonly<Record<string, number | string | null>>;
}
export interface CellChange {
  n: number;
  column: string;
  text: string;
}

interface Props {
  label: string;
  columns: readonly RecordColumn[];
  rows: readonly RecordRow[];
  query: string;
  chosen: number | null;
  choose(n: number): void;
  /** Rows that are marked, by their numbers. */
  mark?(rows: readonly number[]): void;
  /** Columns beside the number that stay where they are. */
  frozen?: number;
  /** What is wrong in cells, by `row.column`. */
  wrong?: ReadonlyMap<string, string>;
  /** Several at once, as pasted or filled: one step of the history. */
  change(changes: CellChange[]): void;
}

const features = tableFeatures({
  columnFilteringFeature,
  globalFilteringFeature,
  rowSortingFeature,
  sortedRowModel: createSortedRowModel(),
  filteredRowModel: createFilteredRowModel(),
  sortFns,
  filterFns,
});
const helper = createColumnHelper<typeof features, RecordRow>();

const ROW = 30;

/** What a cell says: the word of a choice, the number of a list’s rows. */
export const cellText = ({ kind, choices }: RecordColumn, value: number | string | null): string =>
  value === null
    ? kind === 'list'
      ? 'none'
      : ''
    : kind === 'choice'
      ? (choices?.[String(value)] ?? String(value))
      : kind === 'list'
        ? `${value} rows`
        : String(value);

const canEdit = ({ kind, fixed }: RecordColumn): boolean => kind !== 'list' && !fixed;

interface Spot {
  row: number;
  column: number;
}

/** Rows of a table, edited in place like a sheet: arrows, typing, ranges with Shift, copying and pasting with tabs, filling down. */
export function RecordTable({ label, columns, rows, query, chosen, choose, change, mark, frozen = 0, wrong }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState<Spot>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<Spot>(at);
  const [editing, setEditing] = useState<string | null>(null);
  const definitions = useMemo(
    () =>
      helper.columns(
        columns.map((column) =>
          helper.accessor(({ cells }) => (column.kind === 'choice' ? cellText(column, cells[column.id]) : (cells[column.id] ?? '')), {
            id: column.id,
            header: column.title,
          }),
        ),
      ),
    [columns],
  );
  const table = useTable({
    features,
    columns: definitions,
    data: rows as RecordRow[],
    state: { globalFilter: query },
    globalFilterFn: 'includesString',
    getRowId: (row) => String(row.n),
  });
  const shown = table.getRowModel().rows;
  const virtual = useVirtualizer({ count: shown.length, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 10 });
  const items = virtual.getVirtualItems();
  const [before, after] = items.length > 0 ? [items[0].start, virtual.getTotalSize() - items[items.length - 1].end] : [0, 0];
  const place: Spot = { row: Math.min(at.row, shown.length - 1), column: Math.min(at.column, columns.length - 1) };
  const range = {
    top: Math.min(place.row, anchor.row),
    bottom: Math.max(place.row, anchor.row),
    left: Math.min(place.column, anchor.column),
    right: Math.max(place.column, anchor.column),
  };
  const here = shown[place.row]?.original;

  useEffect(() => {
    if (editing === null && scroller.current?.contains(document.activeElement)) scroller.current.querySelector<HTMLElement>('[data-at]')?.focus();
  }, [place.row, place.column, editing, shown]);

  // Another row was chosen elsewhere: the sheet goes there.
  const followed = useRef<number | null>(null);
  useEffect(() => {
    if (chosen === followed.current) return;
    followed.current = chosen;
    const row = shown.findIndex(({ original }) => original.n === chosen);
    if (row < 0) return;
    setAt((before) => (before.row === row ? before : { ...before, row }));
    setAnchor((before) => (shown[before.row]?.original.n === chosen ? before : { ...before, row }));
    virtual.scrollToIndex(row);
  }, [chosen, shown, virtual]);

  const go = (to: Spot, extend: boolean) => {
    const next = { row: Math.max(0, Math.min(shown.length - 1, to.row)), column: Math.max(0, Math.min(columns.length - 1, to.column)) };
    setAt(next);
    if (!extend) setAnchor(next);
    const from = extend ? anchor.row : next.row;
    mark?.(shown.slice(Math.min(from, next.row), Math.max(from, next.row) + 1).map(({ original }) => original.n));
    if (shown[next.row]) {
      followed.current = shown[next.row].original.n;
      choose(followed.current);
    }
    virtual.scrollToIndex(next.row);
  };
  const finish = (step: number) => {
    const column = columns[place.column];
    if (editing !== null && here && editing !== String(here.cells[column.id] ?? '')) change([{ n: here.n, column: column.id, text: editing }]);
    setEditing(null);
    if (step !== 0) go({ row: place.row + step, column: place.column }, false);
    // The field that had the focus is gone with this.
    requestAnimationFrame(() => scroller.current?.querySelector<HTMLElement>('[data-at]')?.focus());
  };
  const begin = (text?: string) => {
    const column = columns[place.column];
    if (here && canEdit(column)) setEditing(text ?? String(here.cells[column.id] ?? ''));
  };
  const fill = () => {
    const from = shown[range.top]?.original;
    if (!from || range.bottom === range.top) return;
    change(
      shown
        .slice(range.top + 1, range.bottom + 1)
        .flatMap(({ original }) =>
          columns
            .slice(range.left, range.right + 1)
            .flatMap((column) => (!canEdit(column) ? [] : [{ n: original.n, column: column.id, text: String(from.cells[column.id] ?? '') }])),
        ),
    );
  };
  const onKeys = (event: KeyboardEvent) => {
    if (editing !== null || (event.target as HTMLElement).closest('thead')) return;
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 0) / ROW) - 2);
    const steps: Record<string, [number, number]> = {
      ArrowDown: [1, 0],
      ArrowUp: [-1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      PageDown: [page, 0],
      PageUp: [-page, 0],
    };
    const step = steps[event.key];
    if (step) go({ row: place.row + step[0], column: place.column + step[1] }, event.shiftKey);
    else if (event.key === 'Home') go({ row: event.ctrlKey ? 0 : place.row, column: 0 }, event.shiftKey);
    else if (event.key === 'End') go({ row: event.ctrlKey ? shown.length - 1 : place.row, column: columns.length - 1 }, event.shiftKey);
    else if (event.key === 'Enter' || event.key === 'F2') begin();
    else if (event.key.toLowerCase() === 'd' && (event.ctrlKey || event.metaKey)) fill();
    else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey)
      begin(columns[place.column].kind === 'choice' ? undefined : event.key);
    else return;
    event.preventDefault();
  };
  const onCopy = (event: ClipboardEvent) => {
    if (editing !== null) return;
    const cells = shown
      .slice(range.top, range.bottom + 1)
      .map(({ original }) => columns.slice(range.left, range.right + 1).map((column) => cellText(column, original.cells[column.id])));
    event.clipboardData.setData('text/plain', writeTabbed(cells));
    event.preventDefault();
  };
  const onPaste = (event: ClipboardEvent) => {
    if (editing !== null) return;
    event.preventDefault();
    const cells = readTabbed(event.clipboardData.getData('text/plain'));
    change(
      cells.flatMap((line, dy) => {
        const row = shown[range.top + dy]?.original;
        return row
          ? line.flatMap((text, dx) =>
              columns[range.left + dx] && canEdit(columns[range.left + dx]) ? [{ n: row.n, column: columns[range.left + dx].id, text }] : [],
            )
          : [];
      }),
    );
  };

  return (
    <div className="records-scroll" ref={scroller}>
      <table className="records" role="grid" aria-label={label} aria-rowcount={shown.length + 1} onKeyDown={onKeys} onCopy={onCopy} onPaste={onPaste}>
        <thead>
          <tr>
            <th className="number">#</th>
            {table.getHeaderGroups()[0].headers.map((header, n) => {
              const sorted = header.column.getIsSorted();
              return (
                <th
                  key={header.id}
                  className={n < frozen ? 'frozen' : ''}
                  aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}
                >
                  <button className="btn-plain" onClick={header.column.getToggleSortingHandler()}>
                    {String(header.column.columnDef.header)} {sorted && <Icon name={sorted === 'asc' ? 'caret-up-fill' : 'caret-down-fill'} />}
                  </button>
                </th>
              );
            })}
          </tr>
        </thead>
        <tbody>
          {before > 0 && <tr style={{ height: before }} aria-hidden="true" />}
          {items.map(({ index }) => {
            const { original } = shown[index];
            return (
              <tr key={original.n} aria-rowindex={index + 2} className={original.n === chosen ? 'chosen' : ''}>
                <th className="number" scope="row">
                  {original.n + 1}
                </th>
                {columns.map((column, c) => {
                  const on = index === place.row && c === place.column;
                  const within = index >= range.top && index <= range.bottom && c >= range.left && c <= range.right;
                  return (
                    <td
                      key={column.id}
                      role="gridcell"
                      tabIndex={on ? 0 : -1}
                      data-at={on ? '' : undefined}
                      data-cell={`${original.n}.${column.id}`}
                      aria-selected={within}
                      className={`${column.kind === 'number' ? 'text-end' : ''} ${canEdit(column) ? '' : 'faint'} ${c < frozen ? 'frozen' : ''} ${wrong?.has(`${original.n}.${column.id}`) ? 'wrong' : ''}`}
                      title={wrong?.get(`${original.n}.${column.id}`)}
                      onClick={(event) => {
                        if (on && editing !== null) return;
                        if (editing !== null) finish(0);
                        go({ row: index, column: c }, event.shiftKey);
                        event.currentTarget.focus();
                      }}
                      onDoubleClick={() => begin()}
                    >
                      {on && editing !== null ? (
                        <Editor column={column} text={editing} change={setEditing} finish={finish} leave={() => setEditing(null)} />
                      ) : (
                        cellText(column, original.cells[column.id])
                      )}
                    </td>
                  );
                })}
              </tr>
            );
          })}
          {after > 0 && <tr style={{ height: after }} aria-hidden="true" />}
        </tbody>
      </table>
      {shown.length === 0 && <p className="p-3 faint mb-0">{rows.length === 0 ? 'There are no rows yet.' : 'No row has these words.'}</p>}
    </div>
  );
}

interface EditorProps {
  column: RecordColumn;
  text: string;
  change(text: string): void;
  finish(step: number): void;
  leave(): void;
}

function Editor({ column, text, change, finish, leave }: EditorProps) {
  const onKeys = (event: KeyboardEvent) => {
    if (event.key === 'Enter') finish(1);
    else if (event.key === 'Escape') leave();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  if (column.choices)
    return (
      <select
        autoFocus
        aria-label={column.title}
        value={text}
        onChange={(event) => change(event.target.value)}
        onBlur={() => finish(0)}
        onKeyDown={onKeys}
      >
        {!Object.hasOwn(column.choices, text) && <option value={text}>{text}</option>}
        {Object.entries(column.choices).map(([value, word]) => (
          <option key={value} value={value}>
            {word}
          </option>
        ))}
      </select>
    );
  return (
    <input
      autoFocus
      aria-label={column.title}
      value={text}
      onChange={(event) => change(event.target.value)}
      onBlur={() => finish(0)}
      onKeyDown={onKeys}
    />
  );
}
