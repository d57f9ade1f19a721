import { useRef, type KeyboardEvent } from 'react';
import {
  columnFilteringFeature,
  columnVisibilityFeature,
  createColumnHelper,
  createFilteredRowModel,
  createSortedRowModel,
  filterFns,
  globalFilteringFeature,
  rowSelectionFeature,
  rowSortingFeature,
  sortFns,
  tableFeatures,
  useTable,
  type RowSelectionState,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Dropdown } from 'react-bootstrap';
import { LINK_KINDS } from '@violet-crate/core/link/thing';
import { bytes } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { OriginStamp } from './OriginStamp.tsx';
import type { LinkRow } from './useLinks.ts';

const features = tableFeatures({
  columnFilteringFeature,
  globalFilteringFeature,
  rowSortingFeature,
  rowSelectionFeature,
  columnVisibilityFeature,
  sortedRowModel: createSortedRowModel(),
  filteredRowModel: createFilteredRowModel(),
  sortFns,
  filterFns,
});
const helper = createColumnHelper<typeof features, LinkRow>();

const NAMED = 3;
const columns = helper.columns([
  helper.accessor('name', { header: 'Name' }),
  helper.accessor((row) => LINK_KINDS[row.kind], { id: 'kind', header: 'Kind' }),
  helper.accessor((row) => (row.unused ? 'unused' : row.origin), { id: 'origin', header: 'From' }),
  helper.accessor('bytes', { header: 'Size', sortDescFirst: true }),
  helper.accessor((row) => row.usedBy.length, { id: 'users', header: 'Needed by', sortDescFirst: true }),
  helper.accessor((row) => row.sha256?.slice(0, 12) ?? '', { id: 'hash', header: 'Hash' }),
]);

interface Props {
  rows: LinkRow[];
  query: string;
  chosen: string | null;
  choose(id: string): void;
  picked: RowSelectionState;
  pick(next: RowSelectionState): void;
}

const ROW = 30;

/** Everything that is linked as a table: sorted, searched, columns shown or not, several rows picked. */
export function LinkTable({ rows, query, chosen, choose, picked, pick }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const table = useTable({
    features,
    columns,
    data: rows,
    getRowId: (row) => row.id,
    initialState: { sorting: [{ id: 'bytes', desc: true }], columnVisibility: { hash: false } },
    state: { globalFilter: query, rowSelection: picked },
    onRowSelectionChange: (change) => pick(typeof change === 'function' ? change(picked) : change),
    globalFilterFn: 'includesString',
    // Things that no order can be given about (maps, functions) are not picked.
    enableRowSelection: (row) =>
      row.original.origin === 'crate' && ['material', 'texture', 'model', 'sound', 'subtitle', 'script'].includes(row.original.kind),
  });
  const shown = table.getRowModel().rows;
  const virtual = useVirtualizer({ count: shown.length, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 12 });
  const items = virtual.getVirtualItems();
  const [before, after] = items.length > 0 ? [items[0].start, virtual.getTotalSize() - items[items.length - 1].end] : [0, 0];
  const onKeys = (event: KeyboardEvent) => {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (step === 0 || (event.target as HTMLElement).tagName === 'SELECT') return;
    event.preventDefault();
    const at = shown.findIndex(({ id }) => id === chosen);
    const next = shown[Math.max(0, Math.min(shown.length - 1, at + step))];
    if (!next) return;
    choose(next.id);
    virtual.scrollToIndex(next.index);
    requestAnimationFrame(() => scroller.current?.querySelector<HTMLElement>(`[data-thing="${CSS.escape(next.id)}"] button`)?.focus());
  };
  return (
    <div className="link-table panel">
      <div className="link-scroller" ref={scroller} onKeyDown={onKeys}>
        <table className="table mb-0 align-middle" aria-rowcount={shown.length}>
          <thead>
            {table.getHeaderGroups().map((group) => (
              <tr key={group.id}>
                <th className="link-pick">
                  <span className="visually-hidden">Picked</span>
                </th>
                {group.headers.map(({ id, column }) => {
                  const sorted = column.getIsSorted();
                  return (
                    <th
                      key={id}
                      aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}
                      className={id === 'bytes' ? 'text-end' : ''}
                    >
                      <button className="btn btn-quiet btn-sm py-0" onClick={column.getToggleSortingHandler()}>
                        {String(column.columnDef.header)} {sorted && <Icon name={sorted === 'asc' ? 'caret-up-fill' : 'caret-down-fill'} />}
                      </button>
                    </th>
                  );
                })}
              </tr>
            ))}
          </thead>
          <tbody>
            {before > 0 && <tr style={{ height: before }} aria-hidden />}
            {items.map(({ index }) => {
              const row = shown[index];
              const link = row.original;
              const cells: Record<string, React.ReactNode> = {
                name: (
                  <button className="link-name mono" onClick={() => choose(link.id)} aria-pressed={chosen === link.id}>
                    {link.name}
                  </button>
                ),
                kind: LINK_KINDS[link.kind],
                origin: <OriginStamp row={link} />,
                bytes: link.bytes > 0 ? bytes(link.bytes) : '–',
                users: (
                  <span className="faint" title={link.usedBy.join(', ')}>
                    {link.unused
                      ? (link.kept ?? 'nothing')
                      : `${link.usedBy.slice(0, NAMED).join(', ')}${link.usedBy.length > NAMED ? ` and ${link.usedBy.length - NAMED} more` : ''}`}
                  </span>
                ),
                hash: <span className="mono faint">{link.sha256?.slice(0, 12) ?? '–'}</span>,
              };
              return (
                <tr
                  key={row.id}
                  data-thing={link.id}
                  data-origin={link.origin}
                  className={chosen === link.id ? 'chosen' : ''}
                  style={{ height: ROW }}
                >
                  <td className="link-pick">
                    {row.getCanSelect() && (
                      <input
                        type="checkbox"
                        className="form-check-input"
                        aria-label={`Pick ${link.name}`}
                        checked={row.getIsSelected()}
                        onClick={row.getToggleSelectedHandler()}
                        readOnly
                      />
                    )}
                  </td>
                  {row.getVisibleCells().map(({ id, column }) => (
                    <td key={id} className={column.id === 'bytes' ? 'text-end text-nowrap' : column.id === 'users' ? 'link-users' : ''}>
                      {cells[column.id]}
                    </td>
                  ))}
                </tr>
              );
            })}
            {after > 0 && <tr style={{ height: after }} aria-hidden />}
          </tbody>
        </table>
        {shown.length === 0 && <div className="p-3 faint">Nothing of this kind.</div>}
      </div>
      <footer className="link-footer">
        <span className="faint">{shown.length === rows.length ? `${rows.length} things` : `${shown.length} of ${rows.length} things`}</span>
        <Dropdown>
          <Dropdown.Toggle variant="quiet" size="sm">
            Columns
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {table
              .getAllLeafColumns()
              .filter(({ id }) => id !== 'name')
              .map((column) => (
                <Dropdown.ItemText key={column.id}>
                  <label className="form-check mb-0">
                    <input
                      type="checkbox"
                      className="form-check-input"
                      checked={column.getIsVisible()}
                      onChange={column.getToggleVisibilityHandler()}
                    />{' '}
                    {String(column.columnDef.header)}
                  </label>
                </Dropdown.ItemText>
              ))}
          </Dropdown.Menu>
        </Dropdown>
      </footer>
    </div>
  );
}
